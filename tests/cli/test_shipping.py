"""Shipping from a script: ways, dry runs, reports, reading back, watching."""

import json
import subprocess
import sys
import time
from pathlib import Path

import pytest

from rushweed.core.document.edit import rename
from rushweed.core.store.folder import Folder
from tests.cli.test_cli import run


def ran(*words: object) -> tuple[int, str, str]:
    return run(*words)


def lines(out: str) -> dict:  # type: ignore[type-arg]
    return json.loads(out)  # type: ignore[no-any-return]


def test_a_way_is_made_listed_changed_and_shipped(demo_folder: Path, tmp_path: Path) -> None:
    code, out, _ = ran("way", str(demo_folder), "--json")
    names = [w["name"] for w in lines(out)["ways"]]
    assert code == 0 and names == [
        "Desktop game",
        "Phone game",
        "Even grids",
        "Plain files",
        "Page to walk in",
    ]
    code, out, _ = ran(
        "way", str(demo_folder), "steamer", "--like", "Phone game", "--folder", str(tmp_path / "s"),
        "--levels", "pier", "--gutter", "3", "--sides", "any", "--picture", "png", "--no-trim", "--json",
    )  # fmt: skip
    made = lines(out)["ways"][0]
    assert code == 0 and made["pages"]["gutter"] == 3 and made["pages"]["trim"] is False
    assert len(made["levels"]) == 1 and Folder(demo_folder).open().ways[0].name == "steamer"
    code, out, _ = ran("ship", str(demo_folder), "--json")
    shipped = lines(out)["shipped"]
    assert code == 0 and [one["way"] for one in shipped] == ["steamer"]
    assert (tmp_path / "s" / "atlas_0.png").exists() and not (
        tmp_path / "s" / "levels" / "saltings.json"
    ).exists()
    assert set(shipped[0]["files"]) == set(shipped[0]["made"])
    assert len(shipped[0]["files"]["manifest.json"]["sha256"]) == 64
    code, out, _ = ran("ship", str(demo_folder), "--json")
    assert lines(out)["shipped"][0]["made"] == []
    assert ran("way", str(demo_folder), "steamer", "--remove")[0] == 0
    code, _out, err = ran("ship", str(demo_folder))
    assert code == 2 and "No way to ship has a folder. Name one with --out." in err


def test_several_ways_go_beside_each_other(demo_folder: Path, tmp_path: Path) -> None:
    code, out, _ = ran(
        "ship", str(demo_folder), "--out", str(tmp_path / "o"), "--way", "plain", "--way", "page to walk in"
    )
    assert code == 0 and out.count("Shipped 173 frames") == 2
    assert (tmp_path / "o" / "Page_to_walk_in" / "page.html").exists() or list(
        (tmp_path / "o").glob("*/page.html")
    )


@pytest.mark.parametrize(
    ("words", "says"),
    [(("--way", "none"), "no way to ship called 'none'"), (("--way", "desktop"), "has no folder to ship to")],
)
def test_what_cannot_be_shipped_is_told(demo_folder: Path, words: tuple[str, str], says: str) -> None:
    code, _out, err = ran("ship", str(demo_folder), *words)
    assert code == 2 and says in err and "Traceback" not in err


def test_a_dry_run_writes_nothing(demo_folder: Path, tmp_path: Path) -> None:
    code, out, _ = ran("ship", str(demo_folder), "--out", str(tmp_path / "o"), "--dry-run")
    assert code == 0 and "would write" in out and not (tmp_path / "o").exists()


def test_what_was_shipped_is_read_and_brought_back(demo_folder: Path, tmp_path: Path) -> None:
    out_dir, back = str(tmp_path / "o"), str(tmp_path / "back")
    assert ran("ship", str(demo_folder), "--out", out_dir)[0] == 0
    code, out, _ = ran("read", out_dir, "--into", back, "--json")
    told = lines(out)
    assert code == 0 and told["frames"] == 173 and told["problems"] == [] and told["way"] == "Desktop game"
    assert [v.name for v in Folder(tmp_path / "back").open().levels] == ["pier", "saltings"]
    assert ran("check", back)[0] in (0, 1)
    (tmp_path / "o" / "CREDITS.txt").write_text("")
    code, out, _ = ran("read", out_dir)
    assert code == 1 and "CREDITS.txt: it is not as it was shipped" in out
    code, _out, err = ran("read", str(tmp_path))
    assert code == 2 and "holds no manifest.json" in err
    code, _out, err = ran("read", out_dir, "--into", back)
    assert code == 2


def test_a_watched_project_ships_again_after_each_save(demo_folder: Path, tmp_path: Path) -> None:
    command = [
        sys.executable,
        "-m",
        "rushweed",
        "ship",
        str(demo_folder),
        "--out",
        str(tmp_path / "o"),
        "--watch",
    ]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    try:
        assert process.stdout is not None and "Shipped" in process.stdout.readline()
        folder = Folder(demo_folder)
        project = folder.open()
        time.sleep(0.1)
        folder.save(rename(project, project.levels[1].id, "islands"))
        assert "Shipped" in process.stdout.readline()
        assert (tmp_path / "o" / "levels" / "islands.json").exists()
        assert not (tmp_path / "o" / "levels" / "saltings.json").exists()
    finally:
        process.kill()
        process.wait()
        if process.stdout is not None:
            process.stdout.close()
