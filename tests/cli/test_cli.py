"""The command line is the contract for scripts."""

import io
import json
import subprocess
import sys
from collections.abc import Callable
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from typing import NamedTuple

import numpy as np
import pytest
from PIL import Image

from rushweed import __version__
from rushweed.command_line import app
from rushweed.core.store.folder import Folder
from rushweed.core.tune.ktx2 import read_ktx2
from rushweed.demo import ART
from tests.conftest import named
from tests.core.test_prepare import on_ground, sprites


class Done(NamedTuple):
    """What a command gave back."""

    returncode: int
    stdout: str
    stderr: str


def run(*words: object) -> Done:
    """A command in this process, with its words and its exit code."""
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        try:
            app([str(word) for word in words], prog_name="rushweed")
            code: object = 0
        except SystemExit as ended:
            code = ended.code
    return Done(int(code or 0), out.getvalue(), err.getvalue())  # type: ignore[call-overload]


def run_apart(*words: object) -> subprocess.CompletedProcess[str]:
    """A command in a process of its own, as a shell starts it."""
    return subprocess.run(
        [sys.executable, "-m", "rushweed", *map(str, words)], capture_output=True, text=True, timeout=120
    )


@pytest.fixture
def made(tmp_path: Path, picture: Callable[..., Path]) -> Path:
    """A project with one gathered picture of 64 x 40 px, all ink but its rim."""
    path = tmp_path / "game"
    assert run("new", path, "--name", "Game").returncode == 0
    assert run("gather", path, picture("tiles.png", 64, 40)).returncode == 0
    return path


def test_a_command_as_a_shell_starts_it(made: Path, tmp_path: Path) -> None:
    done = run_apart("cut", made, "tiles", "--grid", "16x16")
    assert done.returncode == 0 and "8 cells of 16 x 16" in done.stdout and not done.stderr
    (tmp_path / "file").write_text("x")
    for words in (
        ("cut", tmp_path / ("x" * 5000), "tiles", "--grid", "16"), ("new", ""), ("gather", made, ""),
        ("shots", tmp_path / "file"), ("new", tmp_path / "half", "--name", "a\udcff"),
        ("new", tmp_path / "file" / "deeper"), ("propose", tmp_path / ("y" * 5000)),
    ):  # fmt: skip
        done = run_apart(*words)
        assert done.returncode == 2, (words, done)
        assert len(done.stderr.strip().splitlines()) == 1 and "Traceback" not in done.stderr, done.stderr


def test_from_a_picture_to_shipped_files(made: Path, tmp_path: Path) -> None:
    done = run("cut", made, "tiles", "--grid", "16x16")
    assert done.returncode == 0 and "8 cells of 16 x 16" in done.stdout and "8 px below" in done.stdout
    assert (
        run("tune", made, "tiles.png", "--ppu", "32", "--pivot", "bottom", "--filter", "linear").returncode
        == 0
    )
    sheet = Folder(made).open().sheets[0]
    assert (sheet.tune.ppu, sheet.tune.filter, sheet.cells[0].pivot) == (32, "linear", (8, 16))
    assert run("tune", made, "tiles", "--pivot", "3,4").returncode == 0
    assert Folder(made).open().sheets[0].cells[5].pivot == (3, 4)
    assert run("cut", made, "tiles", "--count", "4x2", "--margin", "0,4").returncode == 0
    done = run("ship", made, "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    assert len(json.loads((tmp_path / "out" / "manifest.json").read_text())["frames"]) == 8


def test_gather_names_the_bad_file_and_takes_the_rest(
    made: Path, tmp_path: Path, picture: Callable[..., Path]
) -> None:
    (tmp_path / "bad.png").write_bytes(b"no picture")
    done = run(
        "gather", made, tmp_path / "bad.png", picture("more.png"), picture("tiles.png", 64, 40), "--json"
    )
    report = json.loads(done.stdout)
    assert done.returncode == 2
    assert report["gathered"] == ["more.png"] and report["same"][0]["as"] == "tiles.png"
    assert "bad.png" in report["failed"][0]["problem"]
    assert len(Folder(made).open().sheets) == 2


def test_check_prints_findings_and_its_exit_code_tells_faults(demo_folder: Path) -> None:
    done = run("check", demo_folder, "--json")
    assert done.returncode == 0 and {row["weight"] for row in json.loads(done.stdout)} == {"hint"}
    assert run("check", demo_folder, "--strict").returncode == 1
    assert json.loads(run("check", demo_folder, "--sarif").stdout)["version"] == "2.1.0"
    assert run("check", demo_folder, "--junit").stdout.startswith("<?xml")
    assert run("check", demo_folder, "--junit", "--sarif").returncode == 2
    (demo_folder / "art" / "wren.png").unlink()
    done = run("check", demo_folder)
    assert done.returncode == 1 and "fault: art/wren.png is missing" in done.stdout


@pytest.mark.parametrize(
    "words",
    [
        ("cut", "{p}", "tiles", "--grid", "0x4"), ("cut", "{p}", "tiles", "--grid", "99x99"),
        ("cut", "{p}", "tiles", "--grid", "wide"), ("cut", "{p}", "tiles"),
        ("cut", "{p}", "none", "--grid", "8"),
        ("tune", "{p}", "tiles", "--ppu", "0"), ("tune", "{p}", "tiles", "--pivot", "nowhere"),
        ("tune", "{p}", "tiles", "--filter", "blurry"), ("check", "{p}/none"), ("new", "{p}"),
        ("ship", "{p}", "--out", "{p}/rushweed.json"), ("gather", "{p}", "{p}/missing.png"),
    ],
)  # fmt: skip
def test_mistakes_are_one_sentence_on_stderr_and_exit_2(made: Path, words: tuple[str, ...]) -> None:
    before = {p: p.read_bytes() for p in made.rglob("*.json")}
    done = run(*(w.format(p=made) for w in words))
    assert done.returncode == 2
    assert done.stderr.startswith("rushweed: ") and "Traceback" not in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1
    assert {p: p.read_bytes() for p in made.rglob("*.json")} == before


def test_a_project_that_a_window_holds_is_left_alone(made: Path) -> None:
    folder = Folder(made)
    assert folder.lock()
    done = run("cut", made, "tiles", "--grid", "16")
    assert done.returncode == 2 and "open in another Rushweed" in done.stderr
    folder.unlock()
    project = folder.open()
    from rushweed.core.document.edit import rename

    folder.keep(rename(project, project.sheets[0].id, "other.png"), 4)
    done = run("cut", made, "tiles", "--grid", "16")
    assert done.returncode == 2 and "4 unsaved edits" in done.stderr


def test_propose_says_what_a_picture_seems_to_be(demo_folder: Path) -> None:
    report = json.loads(run("propose", demo_folder / "art" / "wren.png", "--json").stdout)
    assert (
        report["best"] == "grid" and report["grids"][0]["cell"] == [24, 32] and report["size"] == [192, 128]
    )
    report = json.loads(run("propose", demo_folder / "art" / "eel.bmp", "--json").stdout)
    assert report["key_colour"] == [255, 0, 255] and len(report["pieces"]["rects"]) == 6
    assert "best: pieces" in run("propose", demo_folder / "art" / "lamps.png").stdout
    done = run("propose", demo_folder / "rushweed.json")
    assert done.returncode == 2 and "not a PNG" in done.stderr


def test_sheets_are_cut_into_pieces_and_by_the_best_proposal(demo_folder: Path) -> None:
    done = run("cut", demo_folder, "lamps", "--pieces", "--join", "8")
    assert done.returncode == 0 and "11 pieces" in done.stdout, done.stderr
    assert "22 cells of 24 x 32" in run("cut", demo_folder, "wren", "--auto").stdout
    assert run("cut", demo_folder, "wren", "--auto", "--pieces").returncode == 2


def test_without_a_screen_the_window_says_so_in_one_sentence(demo_folder: Path) -> None:
    import os

    names = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    bare = {k: v for k, v in os.environ.items() if k not in names}
    words = [sys.executable, "-m", "rushweed", "open", str(demo_folder)]
    done = subprocess.run(words, capture_output=True, text=True, env=bare, timeout=60)
    assert done.returncode == 2 and done.stderr.startswith("rushweed: There is no screen")


def test_a_demo_without_a_screen_is_built_shipped_and_pictured(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from rushweed.ui import shots
    from rushweed.ui.shots import VIEWS

    monkeypatch.setattr(shots, "QUIET_S", 0.03)
    done = run("demo", tmp_path / "tidelamp", "--headless")
    assert done.returncode == 0, done.stderr
    assert "10 sheets cut into" in done.stdout and "pictures of the window" in done.stdout
    assert (tmp_path / "tidelamp-shipped" / "manifest.json").exists()
    made = list((tmp_path / "tidelamp-screenshots").glob("*.png"))
    assert len(made) == len(VIEWS)
    for path in made:
        with Image.open(path) as image:
            assert image.size == (1280, 800) if path.stem != "findings" else image.width >= 600
            assert len(image.convert("RGB").getcolors(1 << 20) or []) > 100


def test_a_project_that_is_broken_is_told_before_any_window(tmp_path: Path) -> None:
    done = run("open", tmp_path / "nowhere")
    assert done.returncode == 2 and "does not exist" in done.stderr and "Traceback" not in done.stderr


def test_trace_tells_the_outline_its_area_and_its_error(tmp_path: Path) -> None:
    rgba = np.zeros((20, 24, 4), np.uint8)
    rgba[4:16, 3:20] = (90, 70, 50, 255)
    rgba[8:11, 8:12, 3] = 0
    rgba[4, 3] = (90, 70, 50, 100)
    Image.fromarray(rgba).save(tmp_path / "a.png")
    solid = int((rgba[..., 3] >= 128).sum())
    exact = json.loads(run("trace", str(tmp_path / "a.png"), "--json").stdout)
    assert exact["area"] == solid and exact["max_error"] == 0 and len(exact["polygons"][0]["holes"]) == 1
    lower = json.loads(run("trace", str(tmp_path / "a.png"), "--threshold", "90", "--json").stdout)
    assert lower["area"] == solid + 1
    part = json.loads(
        run("trace", str(tmp_path / "a.png"), "--rect", "3,4,5,5", "--tolerance", "1", "--json").stdout
    )
    assert part["max_error"] <= 1
    few = json.loads(run("trace", str(tmp_path / "a.png"), "--vertices", "8", "--json").stdout)
    assert sum(len(p["outer"]) + sum(map(len, p["holes"])) for p in few["polygons"]) <= 8
    assert "1 part" in run("trace", str(tmp_path / "a.png")).stdout
    for bad, says in (
        (("--rect", "0,0,99,99"), "reaches beyond"), (("--rect", "1,2"), "not four whole numbers"),
        (("--vertices", "3"), "too few"), (("--rect", "0,0,2,2"), "Nothing in it is solid"),
    ):  # fmt: skip
        result = run("trace", str(tmp_path / "a.png"), *bad)
        assert result.returncode == 2 and says in result.stderr and "Traceback" not in result.stderr


def test_propose_tells_key_colour_and_true_px(tmp_path: Path) -> None:
    rng = np.random.default_rng(3)
    art = np.zeros((24, 40, 4), np.uint8)
    art[...] = (255, 0, 255, 255)
    for x in (2, 16, 28):
        art[4:20, x : x + 10, :3] = rng.integers(0, 200, (16, 10, 3))
    Image.fromarray(art.repeat(4, 0).repeat(4, 1)).save(tmp_path / "big.png")
    told = json.loads(run("propose", str(tmp_path / "big.png"), "--json").stdout)
    assert told["key_colour"] == [255, 0, 255] and told["true_pixel"] == 4 and told["size"] == [160, 96]
    words = run("propose", str(tmp_path / "big.png")).stdout
    assert "key colour: #ff00ff" in words and "enlarged 4 times" in words


def test_gather_takes_sure_key_colours_unless_told_to_keep_them(tmp_path: Path) -> None:
    Image.fromarray(on_ground(sprites(1), (255, 0, 255))).save(tmp_path / "minnow.png")
    for words, keyed in (((), {"minnow.png": [255, 0, 255]}), (("--keep-key",), {})):
        project = tmp_path / f"p{len(words)}"
        assert run("new", project).returncode == 0
        done = run("gather", project, tmp_path / "minnow.png", "--json", *words)
        assert json.loads(done.stdout)["keyed"] == keyed
        sheet = Folder(project).open().sheets[0]
        assert bool(sheet.source.steps) == bool(keyed)


def test_gather_joins_what_belongs_together_and_reports(tmp_path: Path) -> None:
    run("new", str(tmp_path / "p"))
    rng = np.random.default_rng(5)
    source = tmp_path / "in"
    source.mkdir()
    for n in (1, 2, 10):
        rgba = np.zeros((16, 16, 4), np.uint8)
        rgba[4:12, n % 5 : n % 5 + 8] = (*rng.integers(0, 255, 3), 255)
        Image.fromarray(rgba).save(source / f"hop_{n}.png")
    base = rng.integers(0, 255, (8, 8, 4)).astype(np.uint8)
    Image.fromarray(base).save(source / "crate.png")
    Image.fromarray(base.repeat(2, 0).repeat(2, 1)).save(source / "crate@2x.png")
    (source / "bad.gif").write_bytes(b"GIF89a")
    result = run("gather", str(tmp_path / "p"), str(source), "--json")
    report = json.loads(result.stdout)
    assert result.returncode == 2 and len(report["failed"]) == 1
    assert sorted(report["gathered"]) == ["crate.png", "hop"]
    assert report["along"][0]["with"] == "crate.png"
    again = json.loads(run("gather", str(tmp_path / "p"), str(source), "--apart", "--json").stdout)
    assert len(again["gathered"]) == 3


def test_compress_writes_a_texture_and_tells_what_it_costs(tmp_path: Path) -> None:
    image = str(ART / "wren.png")
    out = tmp_path / "wren.ktx2"
    done = run("compress", image, "--codec", "bc7", "--out", str(out), "--mipmaps", "--json")
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    assert told["codec"] == "bc7" and told["size"] == [192, 128] and told["file_bytes"] == out.stat().st_size
    assert 36 < told["psnr"] < 60 and not told["exact"] and "power of two" in told["size_rules"][0]
    again = read_ktx2(out.read_bytes(), out.name)
    assert again.codec == "bc7" and len(again.levels) == 8
    assert sum(len(level) for level in again.levels) == told["memory_bytes"]
    plain = run("compress", image, "--codec", "none", "--out", str(tmp_path / "n.ktx2"))
    assert plain.returncode == 0 and "exact" in plain.stdout
    assert run("compress", image, "--codec", "indexed", "--out", str(tmp_path / "i.png")).returncode == 0
    with Image.open(tmp_path / "i.png") as small, Image.open(image) as art:
        a, b = np.array(small.convert("RGBA")), np.array(art.convert("RGBA"))
    assert (
        small.mode == "P" and (a[..., 3] == b[..., 3]).all() and (a[b[..., 3] > 0] == b[b[..., 3] > 0]).all()
    )


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--codec", "zip", "--out", "a.ktx2"), "no codec 'zip'"),
        (("--codec", "bc1", "--out", "a.png"), "is written as a .ktx2 file"),
        (("--codec", "indexed", "--out", "a.ktx2"), "is written as a .png file"),
        (("--codec", "bc1", "--out", str(ART / "crate.png" / "a.ktx2")), "could not be written"),
    ],
)
def test_compress_refuses_in_one_sentence(tmp_path: Path, options: tuple[str, ...], words: str) -> None:
    done = run("compress", str(ART / "crate.png"), *options)
    assert done.returncode == 2 and words in done.stderr and "Traceback" not in done.stderr


def test_tune_sets_codec_recipe_and_the_rest(demo_folder: Path) -> None:
    done = run(
        "tune", str(demo_folder), "wren.png", "lamps.png", "--codec", "bc3", "--mipmaps", "--gutter", "4"
    )
    assert done.returncode == 0 and "Tuned 2 sheets" in done.stdout
    tune = named(Folder(demo_folder).open(), "lamps.png").tune
    assert (tune.codec, tune.mipmaps, tune.gutter, tune.recipe) == ("bc3", True, 4, "")
    done = run("tune", str(demo_folder), "wren.png", "--recipe", "fit")
    assert done.returncode == 0 and "Crisp pixel art" in done.stdout
    tune = named(Folder(demo_folder).open(), "wren.png").tune
    assert (tune.codec, tune.mipmaps, tune.recipe) == ("none", False, "crisp")
    assert run("tune", str(demo_folder), "wren.png", "--recipe", "Smooth art").returncode == 0
    assert named(Folder(demo_folder).open(), "wren.png").tune.filter == "linear"
    for bad in (("--recipe", "Stew"), ("--codec", "zip"), ("--gutter", "99")):
        done = run("tune", str(demo_folder), "wren.png", *bad)
        assert done.returncode == 2 and done.stderr.count("\n") == 1


@pytest.mark.parametrize("json_too", [False, True])
def test_gathering_a_folder_without_pictures_says_so(made: Path, tmp_path: Path, json_too: bool) -> None:
    (tmp_path / "empty" / "inside").mkdir(parents=True)
    (tmp_path / "empty" / "notes.txt").write_text("nothing to see")
    done = run("gather", made, tmp_path / "empty", *(["--json"] if json_too else []))
    assert done.returncode == 2 and "The folder empty holds no pictures." in done.stderr
    if json_too:
        assert "holds no pictures" in json.loads(done.stdout)["failed"][0]["problem"]


def test_a_picture_resized_while_closed_is_found_and_taken_up_from_a_script(
    made: Path, tmp_path: Path
) -> None:
    assert run("cut", made, "tiles", "--grid", "16x16").returncode == 0
    assert "No picture has changed." in run("refresh", made).stdout
    path = made / "art" / "tiles.png"
    with Image.open(path) as image:
        image.resize((128, 80), Image.Resampling.NEAREST).save(path)
    done = run("check", made)
    assert done.returncode == 1 and "2 times as large" in done.stdout
    done = run("ship", made, "--out", tmp_path / "out")
    assert done.returncode == 2 and "rushweed refresh" in done.stderr
    report = json.loads(run("refresh", made, "--json").stdout)
    assert report["changed"][0]["to"] == [128, 80] and report["changed"][0]["aside"] == ""
    assert Folder(made).open().sheets[0].cells[1].rect == (32, 0, 32, 32)
    assert run("ship", made, "--out", tmp_path / "out").returncode == 0


def test_the_version_is_told() -> None:
    done = run("--version")
    assert done.returncode == 0 and done.stdout == f"rushweed {__version__}\n"


def test_check_walks_the_levels_and_passes_over_what_is_left_as_it_is(demo_folder: Path) -> None:
    from rushweed.core.findings.check import check
    from rushweed.core.findings.edit import leave_alone
    from rushweed.core.pixels.cache import PixelCache
    from rushweed.core.store.folder import Folder

    folder = Folder(demo_folder)
    folder.lock()
    project = folder.open()
    found = check(project, PixelCache(demo_folder))
    folder.save(leave_alone(project, found, "it is only a demo"))
    folder.unlock()
    done = run("check", demo_folder, "--strict")
    assert done.returncode == 0, done.stdout
    assert done.stdout.count("left as it is (it is only a demo): ") == len(found)
    walked = json.loads(run("check", demo_folder, "--walk", "--json").stdout)
    assert {row["left_alone"] for row in walked if row["stage"] != "walk"} == {"it is only a demo"}
    assert len(walked) >= len(found)
