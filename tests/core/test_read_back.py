"""What was shipped is read: checked whole, brought back, described by its schemas."""

import json
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path
from typing import Any

import jsonschema
import msgspec
import numpy as np
import pytest
import texture2ddecoder
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from msgspec.structs import replace
from PIL import Image

from rushweed.core.document.errors import StoreError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shipping import Pages, Way
from rushweed.core.level.levels import duplicate_level
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.bring_back import bring_back
from rushweed.core.ship.build import ship, would_ship
from rushweed.core.ship.encode import picture_bytes
from rushweed.core.ship.json_text import json_text
from rushweed.core.ship.level_file import LevelFile
from rushweed.core.ship.manifest import Manifest
from rushweed.core.ship.pages import build
from rushweed.core.ship.png import packed_png
from rushweed.core.ship.read_back import check_shipment
from rushweed.core.ship.schemas import schemas
from rushweed.core.ship.ways import DESKTOP, PHONE, TILES
from rushweed.core.store.folder import Folder
from rushweed.core.tune.codec.compress import decoded
from rushweed.core.tune.edit import tune_sheets
from rushweed.core.tune.ktx2 import read_ktx2
from tests.conftest import named

Demo = tuple[Project, PixelCache]
QUICK = replace(PHONE, texture="bc1")  # its own codec takes long
NODE_HOME = Path(__file__).parents[2] / ".venv" / "node"


def rich(project: Project) -> Project:
    """The demo with pages of many kinds."""
    ids = {name: named(project, name).id for name in ("wren.png", "crate.png", "marsh.png", "heron")}
    project = tune_sheets(project, [ids["crate.png"]], codec="bc7", gutter=3)
    project = tune_sheets(project, [ids["heron"]], mipmaps=True, filter="linear", alpha="premultiplied")
    return tune_sheets(project, [ids["marsh.png"]], group="marsh", limit=512)


@pytest.mark.parametrize("way", [DESKTOP, QUICK, TILES], ids=lambda w: w.id)
def test_what_was_shipped_comes_back_and_ships_the_same(demo: Demo, tmp_path: Path, way: Way) -> None:
    project, stock = rich(demo[0]), demo[1]
    first = ship(project, stock, tmp_path / "out", way)
    checked = check_shipment(tmp_path / "out")
    assert checked.problems == []
    folder, _made = bring_back(checked, tmp_path / "back")
    folder.unlock()
    again = Folder(tmp_path / "back").open()
    assert [s.name for s in again.sheets] == [s.name for s in project.sheets]
    assert again.levels[0].runs == tuple(replace(r, level=r.level) for r in project.levels[0].runs)
    second = ship(again, PixelCache(tmp_path / "back"), tmp_path / "again", way)
    for name in first.listed:
        assert (tmp_path / "out" / name).read_bytes() == (tmp_path / "again" / name).read_bytes(), name
    assert set(first.listed) == set(second.listed)


def break_json(file: str, change: Callable[[Any], None]) -> Callable[[Path], None]:
    def act(out: Path) -> None:
        value = json.loads((out / file).read_text())
        change(value)
        (out / file).write_text(json.dumps(value))

    return act


def frame(field: str, value: Any) -> Callable[[Any], None]:
    return lambda m: m["frames"][5].__setitem__(field, value)


def cut(path: Path) -> None:
    data = path.read_bytes()
    path.write_bytes(data[: len(data) // 2])


BREAKS = {
    "page gone": (lambda out: (out / "atlas_0.png").unlink(), "atlas_0.png"),
    "page cut": (lambda out: cut(out / "atlas_0.png"), "atlas_0"),
    "page of another size": (
        lambda out: (out / "atlas_0.png").write_bytes(packed_png(np.zeros((8, 8, 4), np.uint8))),
        "8 x 8 px",
    ),
    "rect outside": (break_json("manifest.json", frame("rect_px", [2000, 0, 90, 9])), "outside its page"),
    "no such page": (break_json("manifest.json", frame("page", 77)), "page 77"),
    "no size": (break_json("manifest.json", frame("size_px", [0, 9])), "0 x 9 px"),
    "no picture": (
        break_json("manifest.json", lambda m: m["sheets"][0].__setitem__("size_px", [64, -1])), "64 x -1 px",
    ),
    "turned": (break_json("manifest.json", frame("orientation", 9)), "orientation 9"),
    "no such frame": (
        break_json("manifest.json", lambda m: m["animations"][0]["frames"].__setitem__(0, ["none", 10])),
        "shows a frame that there is not",
    ),
    "no such tile": (
        break_json("levels/pier.json", lambda v: v["layers"][2]["rows"].__setitem__(0, [[64, 9999, 0]])),
        "names a frame that there is not",
    ),
    "row too short": (
        break_json("levels/pier.json", lambda v: v["layers"][2]["rows"][0].__setitem__(0, [3, 0, 0])),
        "has not 64",
    ),
    "thing of nothing": (
        break_json("levels/pier.json", lambda v: v["things"][0].__setitem__("shows", "none")), "shows 'none'",
    ),
    "level gone": (lambda out: (out / "levels" / "pier.json").unlink(), "levels/pier.json"),
    "level that is none": (lambda out: (out / "levels" / "pier.json").write_text("{]"), "levels/pier.json"),
    "texture cut": (lambda out: cut(next(out.glob("*.ktx2"))), ".ktx2"),
    "list gone": (lambda out: (out / "files.json").unlink(), "files.json"),
    "one byte": (
        lambda out: (out / "CREDITS.txt").write_bytes((out / "CREDITS.txt").read_bytes()[:-2] + b"!\n"),
        "not as it was shipped",
    ),
    "leads out": (
        break_json("manifest.json", lambda m: m["pages"][0].__setitem__("file", "../x.png")), "leads out",
    ),
}  # fmt: skip


def test_every_break_is_found_and_nothing_is_brought_back(demo: Demo, tmp_path: Path) -> None:
    project, stock = rich(demo[0]), demo[1]
    ship(project, stock, tmp_path / "out")
    for name, (act, says) in BREAKS.items():
        broken = tmp_path / "broken"
        shutil.rmtree(broken, ignore_errors=True)
        shutil.copytree(tmp_path / "out", broken)
        act(broken)
        checked = check_shipment(broken)
        assert any(says in str(problem) for problem in checked.problems), (name, checked.problems)
        with pytest.raises(StoreError, match="is not whole"):
            bring_back(checked, tmp_path / "back")
        assert not (tmp_path / "back").exists()


@pytest.mark.parametrize(
    ("text", "says"),
    [("{}", "format"), ("[1]", "manifest.json"), ('{"format": 1', "manifest.json"), (None, "holds no")],
)
def test_what_is_no_shipment_is_told(tmp_path: Path, text: str | None, says: str) -> None:
    if text is not None:
        (tmp_path / "manifest.json").write_text(text)
    with pytest.raises(StoreError, match=says):
        check_shipment(tmp_path)


# -- the text and its schemas ------------------------------------------------------------------------------


def test_the_schemas_describe_every_field_and_hold(demo: Demo, tmp_path: Path) -> None:
    project, stock = rich(demo[0]), demo[1]
    ship(project, stock, tmp_path / "runs")
    ship(project, stock, tmp_path / "cells", replace(TILES, name="cells"))
    for name, schema in schemas().items():
        jsonschema.Draft202012Validator.check_schema(schema)
        for part in schema["$defs"].values():
            assert part["description"] and all(told["description"] for told in part["properties"].values())
        validator = jsonschema.Draft202012Validator(schema)
        for out in (tmp_path / "runs", tmp_path / "cells"):
            files = (
                [out / "manifest.json"] if name.startswith("manifest") else list(out.glob("levels/*.json"))
            )
            for file in files:
                validator.validate(json.loads(file.read_text()))
    validator = jsonschema.Draft202012Validator(schemas()["level.schema.json"])
    assert not validator.is_valid({"format": 2, "id": "x"})


def test_the_text_is_compact_and_says_all(demo: Demo, tmp_path: Path) -> None:
    ship(*demo, tmp_path)
    level = (tmp_path / "levels" / "pier.json").read_bytes()
    manifest = (tmp_path / "manifest.json").read_bytes()
    assert len(level) < 9000 and len(manifest) < 50_000
    assert level.count(b"\n") < 250 and max(map(len, level.splitlines())) < 2500
    made = msgspec.json.decode(manifest, type=Manifest)
    assert json_text(made) == manifest and made.auto_sets and made.sheets and made.groups and made.states
    read = msgspec.json.decode(level, type=LevelFile)
    assert json_text(read) == level
    walker = read.walker
    assert walker is not None and walker.gravity_units_per_s2 > 0 and walker.shown["running"]
    assert [r.name for r in read.runs] == [r.name for r in demo[0].levels[0].runs]
    assert {line.role for line in read.outline} == {"solid", "one-way"}


# -- the same bytes ----------------------------------------------------------------------------------------


def test_the_same_bytes_from_another_folder_and_any_number_of_jobs(
    demo: Demo, demo_folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    project, stock = rich(demo[0]), demo[1]
    monkeypatch.setattr("rushweed.core.ship.build.WORTH_PROCESSES", 1)
    one = ship(project, stock, tmp_path / "one", QUICK, jobs=1)
    shutil.copytree(demo_folder, tmp_path / "elsewhere", copy_function=shutil.copy)  # other times
    two = ship(project, PixelCache(tmp_path / "elsewhere"), tmp_path / "two", QUICK, jobs=3)
    assert one.listed == two.listed
    assert (tmp_path / "one" / "files.json").read_bytes() == (tmp_path / "two" / "files.json").read_bytes()


def test_only_what_changed_is_made_again(demo: Demo, tmp_path: Path) -> None:
    project, stock = rich(demo[0]), demo[1]
    ship(project, stock, tmp_path / "out")
    times = {p: p.stat().st_mtime_ns for p in (tmp_path / "out").rglob("*") if p.is_file()}
    path = stock.folder / named(project, "crate.png").source.path
    px = np.array(Image.open(path).convert("RGBA"))
    px[4:6, 4:6, :3] = 255 - px[4:6, 4:6, :3]
    Image.fromarray(px).save(path)
    fresh = PixelCache(stock.folder)
    done = ship(project, fresh, tmp_path / "out")
    assert any(name.endswith(".ktx2") for name in done.made) and "levels/saltings.json" not in done.made
    assert not any("heron" in name for name in done.made)
    kept = [p for p, t in times.items() if p.exists() and p.stat().st_mtime_ns == t]
    assert len(kept) >= len(times) - len(done.made) - 1
    assert ship(project, fresh, tmp_path / "out").made == ()
    project, _id = duplicate_level(project, project.levels[1].id)
    more = ship(project, fresh, tmp_path / "out")
    assert {name.split("/")[0] for name in more.made} == {"levels", "manifest.json"}


def test_what_would_be_written_is_told_and_nothing_is(demo: Demo, tmp_path: Path) -> None:
    done = would_ship(*demo, tmp_path / "out")
    assert "manifest.json" in done.made and not (tmp_path / "out").exists()


# -- pictures ----------------------------------------------------------------------------------------------


@settings(max_examples=120, deadline=None)
@given(
    arrays(np.uint8, st.tuples(st.integers(1, 23), st.integers(1, 23), st.just(4)),
           elements=st.sampled_from([0, 1, 7, 128, 200, 254, 255])),
    st.sampled_from([1, 2, 4, 5, 16, 17, 300]), st.booleans(),
)  # fmt: skip
def test_packed_pngs_hold_every_px(rgba: np.ndarray, colours: int, opaque: bool) -> None:
    rgba = rgba.copy()
    flat = rgba.reshape(-1, 4)
    rgba = flat[np.arange(len(flat)) % min(colours, len(flat))].reshape(rgba.shape).copy()
    if opaque:
        rgba[..., 3] = 255
    import io

    data = packed_png(rgba)
    with Image.open(io.BytesIO(data)) as image:
        assert (np.array(image.convert("RGBA")) == rgba).all()
    assert packed_png(rgba.copy()) == data


def test_pictures_are_small_and_lossless(demo: Demo) -> None:
    import io

    project, stock = demo
    rng = np.random.default_rng(2)
    smooth = np.cumsum(rng.integers(0, 3, (64, 96, 4)), axis=0).astype(np.uint8)
    for rgba in (stock.pixels(project.sheets[0]), smooth, build(project, stock).pages[0]):
        plain = io.BytesIO()
        Image.fromarray(rgba).save(plain, "PNG")
        assert len(picture_bytes(rgba, "png")) < len(plain.getvalue())
        with Image.open(io.BytesIO(picture_bytes(rgba, "webp"))) as image:
            assert image.format == "WEBP" and (np.array(image.convert("RGBA")) == rgba).all()


# -- textures in a reader that is not ours -----------------------------------------------------------------

PARSE = """
import { read } from "ktx-parse";
import fs from "node:fs";
const told = {};
for (const file of process.argv.slice(2)) {
  const k = read(new Uint8Array(fs.readFileSync(file)));
  told[file] = {
    vkFormat: k.vkFormat, width: k.pixelWidth, height: k.pixelHeight, levels: k.levels.length,
    scheme: k.supercompressionScheme,
    sizes: k.levels.map((l) => [l.levelData.length, l.uncompressedByteLength]),
    model: k.dataFormatDescriptor[0].colorModel, transfer: k.dataFormatDescriptor[0].transferFunction,
    flags: k.dataFormatDescriptor[0].flags, notes: Object.keys(k.keyValue),
  };
}
console.log(JSON.stringify(told));
"""


DECODERS = {
    "bc1": texture2ddecoder.decode_bc1, "bc3": texture2ddecoder.decode_bc3,
    "bc7": texture2ddecoder.decode_bc7, "etc2": texture2ddecoder.decode_etc2a8,
}  # fmt: skip
ROUNDED = {"bc1": 8, "bc3": 8, "bc7": 0, "etc2": 0}  # decoders may mix the ends of these blocks by fewer bits


@pytest.mark.skipif(
    shutil.which("node") is None or not (NODE_HOME / "node_modules" / "ktx-parse").exists(),
    reason="needs Node and ktx-parse: ./run tools",
)
def test_textures_open_in_another_reader(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    names = ["wren.png", "crate.png", "heron", "panel.png", "marsh.png"]
    for name, codec in zip(names, ("bc1", "bc3", "bc7", "etc2", "none"), strict=True):
        project = tune_sheets(
            project, [named(project, name).id], codec=codec, mipmaps=codec in ("bc7", "none")
        )
    project = tune_sheets(project, [named(project, "crate.png").id], transfer="linear", alpha="premultiplied")
    ship(project, stock, tmp_path / "out", replace(DESKTOP, pages=Pages(clean=1)))
    files = sorted(map(str, (tmp_path / "out").glob("*.ktx2")))
    script = NODE_HOME / "parse.mjs"
    script.write_text(PARSE)
    done = subprocess.run(["node", str(script), *files], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr[-2000:]
    told = json.loads(done.stdout)
    manifest = msgspec.json.decode((tmp_path / "out" / "manifest.json").read_bytes(), type=Manifest)
    vk = {"none": (37, 43), "bc1": (133, 134), "bc3": (137, 138), "bc7": (145, 146), "etc2": (151, 152)}
    seen = set()
    for page in manifest.pages:
        if page.texture is None:
            continue
        texture = told[str(tmp_path / "out" / page.texture)]
        assert texture["vkFormat"] == vk[page.codec][page.transfer == "srgb"]
        assert (texture["width"], texture["height"]) == page.size_px and texture["scheme"] == 2
        assert texture["transfer"] == (2 if page.transfer == "srgb" else 1)
        assert texture["flags"] == (1 if page.alpha == "premultiplied" else 0)
        assert (texture["levels"] > 1) == page.mipmaps
        assert all(packed > 0 and whole > 0 for packed, whole in texture["sizes"])
        mine = read_ktx2((tmp_path / "out" / page.texture).read_bytes(), page.texture)
        assert [whole for _packed, whole in texture["sizes"]] == [len(level) for level in mine.levels]
        for n, level in enumerate(mine.levels if page.codec != "none" else ()):
            size = (max(mine.size[0] >> n, 1), max(mine.size[1] >> n, 1))
            bgra = DECODERS[page.codec](level, *size)
            theirs = np.frombuffer(bgra, np.uint8).reshape(size[1], size[0], 4)[..., [2, 1, 0, 3]]
            ours = decoded(level, mine.codec, size)
            apart = np.abs(theirs.astype(int) - ours)[ours[..., 3] > 0]
            assert apart.size == 0 or apart.max() <= ROUNDED[page.codec], page.codec
        seen.add(page.codec)
    assert seen == set(vk)
