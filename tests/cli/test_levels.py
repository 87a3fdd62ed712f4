"""A whole level and its parts from a script, as the shell would run it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from rushweed.core.document.edit import rename_cell
from rushweed.core.level.chunks import cell_at
from rushweed.core.pixels.read import read_picture
from rushweed.core.store.folder import Folder
from rushweed.core.store.saves import saves_of
from tests.cli.test_cli import run
from tests.conftest import named


def ok(*words: object) -> str:
    done = run(*words)
    assert done.returncode == 0, done.stderr
    return done.stdout


@pytest.fixture
def game(tmp_path: Path) -> Path:
    """A project with a sheet of 4 x 4 tiles of 8 px, cut, and a walk of three frames."""
    rng = np.random.default_rng(5)
    tiles = np.full((32, 32, 4), 255, np.uint8)
    tiles[..., :3] = rng.integers(0, 255, (4, 4, 3)).astype(np.uint8).repeat(8, 0).repeat(8, 1)
    walk = np.zeros((16, 48, 4), np.uint8)
    for n, dx in enumerate((0, 2, 1)):
        walk[4:16, 16 * n + 4 + dx : 16 * n + 10 + dx] = (200, 120, 60, 255)
    for name, rgba in (("tiles.png", tiles), ("walk.png", walk)):
        Image.fromarray(rgba).save(tmp_path / name)
    path = tmp_path / "game"
    ok("new", path, "--name", "Game")
    ok("gather", path, tmp_path / "tiles.png", tmp_path / "walk.png", "--apart")
    ok("cut", path, "tiles", "--grid", "8")
    ok("cut", path, "walk", "--grid", "16")
    return path


def test_a_level_is_made_painted_and_pictured(game: Path, tmp_path: Path) -> None:
    names = [c.name for c in named(Folder(game).open(), "tiles.png").cells]
    ok("level", "new", game, "Yard", "--cell", "8x8", "--size", "6x4")
    ok("level", "paint", game, "Yard", "--tile", names[0], "--box", "0,3,6,1")
    ok("level", "paint", game, "Yard", "--tile", f"tiles.png:{names[1]}", "--line", "0,0,2,2", "--turn", "1")
    ok("level", "paint", game, "Yard", "--erase", "--at", "1,1")
    ok("level", "layer", game, "Yard", "Front", "--opacity", "50")
    table = tmp_path / "front.csv"
    table.write_text(f"{names[2]},,{names[3]}\n.,{names[2]}\n")
    ok("level", "rows", game, "Yard", table, "--layer", "Front", "--at", "1,0")
    ok("level", "layer", game, "Yard", "Far", "--backdrop", "walk.png", "--parallax", "0.5")
    ok("level", "thing", game, "Yard", "walk_0", "--at", "20,24")
    ok("level", "start", game, "Yard", "--at", "12,24")
    level = Folder(game).open().levels[0]
    assert level.start == (12, 24) and level.things[0].at == (20, 24)
    ground, front = (next(x for x in level.layers if x.name == name) for name in ("Ground", "Front"))
    places = [cell_at(ground.tiles, x, y) & 7 for x, y in ((0, 0), (1, 1), (2, 2))]  # type: ignore[union-attr]
    assert places == [1, 0, 1] and front.opacity_percent == 50
    shown = ok("level", "show", game, "Yard", "--layer", "Front").splitlines()
    assert shown[:2] == [f".,{names[2]},.,{names[3]},.,.", f".,.,{names[2]},.,.,."]
    ok("level", "picture", game, "Yard", "--out", tmp_path / "yard.png")
    assert read_picture(tmp_path / "yard.png").rgba.shape == (32, 48, 4)
    ok("ship", game, "--out", tmp_path / "out")
    assert (tmp_path / "out" / "levels" / "Yard.json").exists()


def test_names_that_would_spoil_a_table_come_back_from_it(game: Path, tmp_path: Path) -> None:
    project = Folder(game).open()
    cells = named(project, "tiles.png").cells
    for cell, name in zip(cells, ("=1+1", "a,b", 'say "so"', "'quoted", "@x"), strict=False):
        project = rename_cell(project, cell.id, name)
    folder = Folder(game)
    folder.open()
    folder.save(project)
    ok("level", "new", game, "Yard", "--cell", "8x8", "--size", "5x1")
    for n, cell in enumerate(cells[:5]):
        ok("level", "paint", game, "Yard", "--tile", cell.id, "--at", f"{n},0")
    shown = ok("level", "show", game, "Yard")
    assert not any(field.startswith(("=", "@")) for field in shown.split(","))
    ok("level", "new", game, "Copy", "--cell", "8x8", "--size", "5x1")
    (tmp_path / "table.csv").write_text(shown)
    ok("level", "rows", game, "Copy", tmp_path / "table.csv")
    one, two = Folder(game).open().levels
    assert ok("level", "show", game, "Copy") == shown and one.table == two.table


def test_auto_tiles_are_laid_and_painted(game: Path) -> None:
    assert "16 tiles, 0 cases" in ok("autotile", game, "earth", "tiles.png", "--by", "edges")
    done = run("autotile", game, "shore", "tiles.png", "--by", "both", "--size", "4x4")
    assert done.returncode == 1 and "cases without one" in done.stdout
    ok("level", "new", game, "Yard", "--cell", "8x8")
    ok("level", "paint", game, "Yard", "--auto", "earth", "--box", "2,2,3,1")
    row = ok("level", "show", game, "Yard").splitlines()[2].split(",")[2:5]
    parts = {p.cell: p.joins for p in Folder(game).open().autosets[0].tiles}
    by_name = {c.name: parts[c.id] for c in named(Folder(game).open(), "tiles.png").cells}
    assert [by_name[name] for name in row] == [4, 68, 64], "right, both, left"


def test_frames_are_animated_registered_and_exported(game: Path, tmp_path: Path) -> None:
    told = ok("animate", game, "walk", "--cells", "walk_*", "--name", "walk", "--fps", "8", "--state", "go")
    assert "walk: 3 frames" in told
    assert "middle by 0 px" in ok("register", game, "walk", "--by", "match")
    project = Folder(game).open()
    assert [c.shift for c in named(project, "walk.png").cells] == [(0, 0), (-2, 0), (-1, 0)]
    assert named(project, "walk.png").states[0].name == "go" and project.animations[0].frames[0].ms == 125
    assert "middle by 2 px" in ok("register", game, "walk", "--by", "none")
    for name in ("walk.gif", "walk.png", "walk.webp"):
        ok("export", game, "walk", "--out", tmp_path / f"out_{name}", "--scale", "2")
        with Image.open(tmp_path / f"out_{name}") as image:
            assert image.n_frames == 3 and image.height == 32  # type: ignore[attr-defined]
    ok("export", game, "walk", "--out", tmp_path / "row.png", "--row")
    assert read_picture(tmp_path / "row.png").rgba.shape[:2] == (16, 48)


def test_shapes_are_given_traced_and_taken_away(game: Path) -> None:
    assert "16 cells have shapes, 0 have none" in ok(
        "shape", game, "tiles", "--give", "full", "--role", "one-way"
    )
    assert "3 cells have shapes" in ok("shape", game, "walk", "--outline", "--vertices", "8")
    assert named(Folder(game).open(), "walk.png").cells[0].shapes[0].role == "solid"
    assert "0 cells have shapes" in ok("shape", game, "walk", "--clear")
    assert "3 cells have shapes" in ok("shape", game, "walk", "--fill")
    ok("shape", game, "walk", "--cells", "walk_1", "--box", "1,2,3,4", "--role", "sensor")
    shapes = {c.name: c.shapes for c in named(Folder(game).open(), "walk.png").cells}
    assert shapes["walk_1"][0].role == "sensor" and shapes["walk_0"][0].role == "solid"


@pytest.mark.parametrize("words", [
    ("animate", "walk"), ("animate", "walk", "--cells", "none_*"), ("register", "none", "--by", "feet"),
    ("shape", "tiles", "--give", "heart"), ("shape", "tiles"), ("autotile", "a", "tiles", "--by", "luck"),
    ("level", "paint", "none", "--tile", "x", "--at", "0,0"), ("level", "start", "none", "--at", "1,1"),
    ("level", "new", "big", "--cell", "0x0"), ("level", "show", "none"),
])  # fmt: skip
def test_mistakes_are_one_sentence(game: Path, words: tuple[str, ...]) -> None:
    at = 2 if words[0] == "level" else 1
    before = {p: p.read_bytes() for p in game.rglob("*.json")}
    done = run(*words[:at], game, *words[at:])
    assert done.returncode == 2 and len(done.stderr.strip().splitlines()) == 1, done
    assert {p: p.read_bytes() for p in game.rglob("*.json")} == before


def test_a_script_s_saves_can_be_gone_back_to(game: Path) -> None:
    folder = Folder(game)
    before = saves_of(folder)
    assert len(before) >= 3, "gathered, and cut twice"
    ok("cut", game, "tiles", "--grid", "16")
    newest = saves_of(folder)[0]
    assert newest.path not in [save.path for save in before]
    assert len(named(Folder(newest.path).open(), "tiles.png").cells) == 4
    assert len(named(Folder(before[0].path).open(), "tiles.png").cells) == 16


def test_layers_rooms_and_settings_of_a_level_are_set_and_a_room_is_pictured(
    game: Path, tmp_path: Path
) -> None:
    names = [c.name for c in named(Folder(game).open(), "tiles.png").cells]
    ok("level", "new", game, "Yard", "--cell", "8x8", "--size", "6x4")
    ok("level", "paint", game, "Yard", "--tile", names[0], "--box", "0,0,6,4")
    ok("level", "layer", game, "Yard", "Ground", "--tint", "ff8000", "--offset", "2,1", "--only-picture")
    ok("level", "layer", game, "Yard", "Birds", "--things", "--front", "--parallax", "0.5,1")
    ok("level", "layer", game, "Yard", "Sign", "--picture", "walk.png")
    ok(
        "level",
        "set",
        game,
        "Yard",
        "--view",
        "top",
        "--order",
        "foot",
        "--group",
        "home",
        "--board",
        "16,-8",
    )
    told = run("level", "room", game, "Yard", "shed", "--box", "0,0,2,2", "--camera", "still")
    assert told.returncode == 0 and not told.stderr
    told = run("level", "room", game, "Yard", "yard", "--box", "3,0,3,4")
    assert "shed and yard: gap at 2, 0" in told.stderr
    level = Folder(game).open().levels[0]
    ground = next(x for x in level.layers if x.name == "Ground")
    assert ground.tint == (255, 128, 0) and ground.offset == (2, 1) and not ground.collides  # type: ignore[union-attr]
    birds = next(x for x in level.layers if x.name == "Birds")
    assert birds.front and birds.keeps_up == (0.5, 1)
    assert (level.view, level.order, level.group, level.board) == ("top", "foot", "home", (16, -8))
    assert [(r.name, r.area, r.camera) for r in level.rooms] == [
        ("shed", (0, 0, 2, 2), "still"), ("yard", (3, 0, 3, 4), "follows"),
    ]  # fmt: skip
    ok("level", "picture", game, "Yard", "--out", tmp_path / "shed.png", "--room", "shed", "--scale", "3")
    assert read_picture(tmp_path / "shed.png").rgba.shape == (48, 48, 4)
    ok("level", "room", game, "Yard", "shed", "--remove")
    assert [r.name for r in Folder(game).open().levels[0].rooms] == ["yard"]
    for words, problem in (
        (("layer", game, "Yard", "Ground", "--tint", "red"), "no colour"),
        (("layer", game, "Yard", "Birds", "--solid"), "has no solid"),
        (("layer", game, "Yard", "Ground", "--parallax", "far"), "no number"),
        (("room", game, "Yard", "loft"), "no room loft"),
        (("room", game, "Yard", "loft", "--box", "4,1,2,2"), "lie over"),
        (("set", game, "Yard", "--view", "below"), "cannot have the view"),
        (("picture", game, "Yard", "--out", tmp_path / "x.png", "--room", "loft"), "no room loft"),
    ):
        done = run("level", *words)
        assert done.returncode == 2 and problem in done.stderr and done.stderr.count("\n") == 1, done.stderr
