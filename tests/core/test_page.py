"""The page for a browser: the mover in JavaScript bit for bit, and the page itself in a real browser."""

import base64
import json
import random
import shutil
import subprocess
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace

from rushweed.core.document.edit import put_level
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.level.levels import add_level
from rushweed.core.level.render import Seen, level_picture
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.build import ship
from rushweed.core.ship.targets.page import MOST_CELLS, _world, parts
from rushweed.core.ship.task import Task
from rushweed.core.ship.ways import PAGE
from rushweed.core.walk.runs import begin, keep_run
from rushweed.core.walk.walkers import HEAVY, walker_of
from rushweed.core.walk.world import World
from tests import browser
from tests.core.test_walk import gates

Demo = tuple[Project, PixelCache]
STEPS = 1500

HARNESS = """
const fs = require("fs"), RushweedReader = require(process.argv[2]);
%s
%s
const told = JSON.parse(fs.readFileSync(process.argv[3], "utf8"));
const walk = new Walk(told.level, told.world, told.start, []);
const states = [];
for (const keys of told.keys) {
  walk.advance(keys);
  states.push([...walk.state].map((value) => value + 0));
}
fs.writeFileSync(process.argv[4], JSON.stringify(states));
"""


def wild_keys(rng: random.Random) -> list[int]:
    """Keys that somebody might press: held for a while, mostly to the right."""
    made: list[int] = []
    while len(made) < STEPS:
        keys = rng.choice((2, 2, 1, 0)) | rng.choice((0, 0, 16)) | rng.choice((0, 0, 0, 4, 8))
        made += [keys] * rng.randint(1, 60)
    return made[:STEPS]


@pytest.mark.skipif(shutil.which("node") is None, reason="needs Node: apt-get install nodejs")
@pytest.mark.parametrize("seed", range(6))
def test_the_mover_in_javascript_walks_bit_for_bit(demo: Demo, tmp_path: Path, seed: int) -> None:
    """In both levels of the demo, light and heavy, with what moves; pushed things stand still."""
    project, stock = demo
    rng = random.Random(seed)
    level = project.levels[seed % 2]
    if seed % 3 == 2:
        project = put_level(project, replace(level, walker=replace(HEAVY, states=walker_of(level).states)))
    walk_both(project, stock, wild_keys(rng), tmp_path, seed % 2)


@pytest.mark.skipif(shutil.which("node") is None, reason="needs Node: apt-get install nodejs")
def test_tiles_that_play_are_met_alike(demo: Demo, tmp_path: Path) -> None:
    """By wild keys, and by standing still now and then, also where the gate closes on him."""
    project = gates(demo[0], 700, 400)
    walk_both(project, demo[1], wild_keys(random.Random(5)), tmp_path)
    rng = random.Random(2)
    keys = [
        key
        for _ in range(60)
        for key in [rng.choice((1, 2, 2))] * rng.randint(4, 40) + [0] * rng.randint(0, 90)
    ]
    walk = begin(World.of(project, project.levels[0]))
    assert any(event.kind == "crushed" for key in keys for event in walk.advance(key))
    walk_both(project, demo[1], keys, tmp_path)


def walk_both(project: Project, stock: PixelCache, keys: list[int], tmp_path: Path, number: int = 0) -> None:
    """Walk by the same keys here and in Node; each state is the same."""
    level = project.levels[number]
    told = _world(Task(project, stock, PAGE), level)
    walk = begin(World.of(project, level, walker_of(level).group), still=True)
    states = []
    for held in keys:
        walk.advance(held)
        states.append(walk.state.tolist())
    page = {
        "view": level.view, "cell_px": level.cell, "bounds_cells": level.bounds,
        "walker": {"px_per_unit": walk.ppu, "strength_units_per_s2": walk.walker.strength},
    }  # fmt: skip
    (tmp_path / "told.json").write_text(
        json.dumps({"level": page, "world": told, "start": level.start, "keys": keys})
    )
    script = parts()
    page_script = script["page"].split("begin().catch")[0]
    (tmp_path / "reader.js").write_text(script["reader"])
    (tmp_path / "walk.js").write_text(HARNESS % (script["mover"], page_script))
    done = subprocess.run(
        ["node", str(tmp_path / "walk.js"), str(tmp_path / "reader.js"), str(tmp_path / "told.json"),
         str(tmp_path / "states.json")], capture_output=True, text=True,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-2000:]
    theirs = json.loads((tmp_path / "states.json").read_text())
    wrong = next((n for n, (a, b) in enumerate(zip(states, theirs, strict=True)) if a != b), None)
    assert wrong is None, (wrong, states[wrong], theirs[wrong])
    assert len({tuple(s[:2]) for s in states}) > 100, "he has hardly moved"


def test_the_page_is_the_same_each_time_and_asks_for_nothing(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    for name in ("a", "b"):
        ship(project, stock, tmp_path / name, PAGE)
    text = (tmp_path / "a" / "page.html").read_text()
    assert text == (tmp_path / "b" / "page.html").read_text()
    assert "</script" not in text.split('id="data">')[1].split("</script>", 1)[0]
    assert "{{" not in text and "Tidelamp" in text


def test_names_cannot_break_out_of_the_page(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    evil = "</script><script>throw 1</script><b>{{data}}"
    project = replace(project, name=evil)
    project = put_level(project, replace(project.levels[0], name=evil))
    ship(project, stock, tmp_path / "out", PAGE)
    text = (tmp_path / "out" / "page.html").read_text()
    assert "throw 1</script>" not in text and text.count("<script") == 3


def test_a_level_too_large_for_a_page_is_named(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    project, level_id = add_level(project, "plain", (16, 16), "side", (1024, MOST_CELLS // 1024 + 1))
    with pytest.raises(EditError, match="plain has 1024 x 257 cells"):
        ship(project, stock, tmp_path / "out", PAGE)
    others = tuple(v.id for v in project.levels if v.id != level_id)
    ship(project, stock, tmp_path / "out", replace(PAGE, levels=others))


needs_browser = pytest.mark.skipif(browser.FOUND is None, reason="needs Chromium: apt-get install chromium")


@needs_browser
def test_one_walks_in_the_page(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    pier = project.levels[0]
    project, _id = keep_run(project, pier.id, pushing(project))
    pier = project.levels[0]
    ship(project, stock, tmp_path / "out", PAGE)
    page = browser.Browser(tmp_path / "profile")
    try:
        page.open(tmp_path / "out" / "page.html")
        page.wait("rushweed.walk.step > 60")
        x, y = page.value("rushweed.walk.feet")
        assert abs(x - pier.start[0]) < 1 and y == pytest.approx(192, abs=16)
        page.key("ArrowRight", True)
        page.wait(f"rushweed.walk.feet[0] > {x + 40}")
        page.key("ArrowRight", False)
        page.key("Space", True)
        page.wait("rushweed.walk.state[3] < 0 && rushweed.walk.state[4] === 0")  # he rises
        page.key("Space", False)
        page.key("KeyR", True)
        page.key("KeyR", False)
        page.wait("rushweed.walk.step < 30")
        for number, run in enumerate(pier.runs):
            page.value(f"document.querySelectorAll('#runs button')[{number}].click()")
            page.wait("document.getElementById('told').textContent.includes('arrived')")
            feet = page.value("rushweed.walk.feet")
            assert run.end is not None and np.allclose(feet, run.end, atol=1), (run.name, feet, run.end)
        page.value("document.querySelector('#levels button').click()")
        x = page.value("rushweed.walk.feet[0]")
        touch = "document.querySelector('[data-key=l]').dispatchEvent(new PointerEvent('pointer{}'))"
        page.value(touch.format("down"))
        page.wait(f"rushweed.walk.feet[0] < {x - 8}")
        page.value(touch.format("up"))
        page.wait("rushweed.walk.state[2] === 0")
        page.value(
            "[...document.querySelectorAll('#levels button')].find(b => b.textContent === 'saltings').click()"
        )
        page.key("ArrowDown", True)
        page.wait("rushweed.walk.step > 30")
        page.key("ArrowDown", False)
        assert page.value("rushweed.level.name") == "saltings"
        assert "Channel eel" in page.value("document.getElementById('credits').textContent")
        assert page.value("document.querySelectorAll('#animations canvas').length") == len(project.animations)
        assert page.errors == []
        assert [a for a in page.asked if not a.startswith(("file:", "data:"))] == []
    finally:
        page.close()


def pushing(project: Project):  # type: ignore[no-untyped-def]
    """A walk that pushes the crate of the pier."""
    level = project.levels[0]
    walk = begin(World.of(project, level, walker_of(level).group), (420.0, 192.0))
    for _ in range(300):
        walk.advance(2)
    assert walk.bodies.at(300) != walk.bodies.at(0), "the crate was not pushed"
    return walk.run("crate")


@needs_browser
@pytest.mark.parametrize("number", [0, 1])
def test_the_page_draws_the_level_as_the_core_does(demo: Demo, tmp_path: Path, number: int) -> None:
    """All px of the game's picture, without the walker, at some places and moments."""
    project, stock = demo
    tiles = tuple(replace(a, tile=False) for a in project.animations)
    project = replace(project, animations=tiles)  # the core's picture stands still
    level = project.levels[number]
    ship(project, stock, tmp_path / "out", PAGE)
    page = browser.Browser(tmp_path / "profile")
    try:
        page.open(tmp_path / "out" / "page.html")
        page.value("rushweed.paused = true")
        for left, top, ms in ((0, 0, 0), (37, 21, 900), (300, 100, 4321)):
            text = page.value(
                f"""(() => {{
                  const level = rushweed.shipment.levels.get({json.dumps(level.name)});
                  rushweed.screen.clear();
                  rushweed.shipment.drawLevel(rushweed.screen, level, {left}, {top}, {ms});
                  let text = "";
                  for (const byte of rushweed.screen.data) text += String.fromCharCode(byte);
                  return btoa(text);
                }})()"""
            )
            seen = np.frombuffer(base64.b64decode(text), np.uint8).reshape(180, 320, 4)
            wanted = level_picture(
                project, level, stock.pixels, (left, top, 320, 180), seen=Seen(ms=ms, picture=(320, 180))
            )
            differs = (seen != wanted).any(axis=2) & ((seen[..., 3] > 0) | (wanted[..., 3] > 0))
            assert not differs.any(), (left, top, ms, int(differs.sum()))
        assert page.errors == []
    finally:
        page.close()
