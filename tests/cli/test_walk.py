"""Walking a level from a script."""

from __future__ import annotations

import json
from pathlib import Path

import msgspec

from rushweed.core.document.model.level import Run
from rushweed.core.store.folder import Folder
from rushweed.core.store.saves import save_and_remember
from rushweed.core.walk.runs import begin, keep_run
from rushweed.core.walk.terms import RIGHT
from rushweed.core.walk.world import World
from tests.cli.test_cli import run


def recorded(folder: Path, must: bool = True) -> Run:
    """A walk to the right in the demo's side view, kept with it."""
    place = Folder(folder)
    project = place.open()
    level = project.levels[0]
    walk = begin(World.of(project, level))
    for keys in [RIGHT] * 60 + [0] * 60:
        walk.advance(keys)
    made = walk.run("to the right", must)
    project, _id = keep_run(project, level.id, made)
    save_and_remember(place, project)
    return made


def test_a_run_is_walked_and_a_level_tested_by_it(demo_folder: Path, tmp_path: Path) -> None:
    made = recorded(demo_folder)
    done = run("walk", demo_folder, "pier")
    assert done.returncode == 0 and "to the right: ends at" in done.stdout and "arrives" in done.stdout
    rows = json.loads(run("walk", demo_folder, "pier", "--run", "to the right", "--json").stdout)
    assert rows[0]["arrives"] and tuple(rows[0]["end"]) == made.end
    file = tmp_path / "way.json"
    file.write_bytes(msgspec.json.encode(made))
    again = json.loads(run("walk", demo_folder, "pier", "--run", file, "--json").stdout)
    assert again[0]["end"] == rows[0]["end"] and again[0]["events"] == rows[0]["events"]
    run("level", "start", demo_folder, "pier", "--at", "208,192")
    file.write_bytes(msgspec.json.encode(msgspec.structs.replace(made, end=(4.0, 4.0))))
    lost = run("walk", demo_folder, "pier", "--run", file)
    assert lost.returncode == 1 and "does not arrive, and must" in lost.stdout


def test_reach_is_told(demo_folder: Path) -> None:
    done = run("walk", demo_folder, "saltings", "--reach", "--json")
    told = json.loads(done.stdout)
    assert done.returncode == 0 and len(told["places"]) > 500 and not told["catches"]
    words = run("walk", demo_folder, "saltings", "--reach").stdout
    assert "places reached" in words


def test_what_cannot_be_walked_is_a_sentence(demo_folder: Path, tmp_path: Path) -> None:
    for words, said in (
        (("walk", demo_folder, "saltings"), "has no runs"),
        (("walk", demo_folder, "nowhere"), "nowhere"),
        (("walk", demo_folder, "pier", "--run", "gone.json"), "no such file"),
    ):
        done = run(*words)
        assert done.returncode == 2 and said in done.stderr and "Traceback" not in done.stderr
    wrong = tmp_path / "wrong.json"
    wrong.write_text("[1, 2")
    assert "is no run" in run("walk", demo_folder, "pier", "--run", wrong).stderr
    made = recorded(demo_folder)
    wrong.write_bytes(msgspec.json.encode(made))
    other = run("walk", demo_folder, "saltings", "--run", wrong)
    assert other.returncode == 2 and "another level" in other.stderr
    wrong.write_bytes(msgspec.json.encode(msgspec.structs.replace(made, steps=10**9)))
    assert run("walk", demo_folder, "pier", "--run", wrong).returncode == 2
