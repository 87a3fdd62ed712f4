"""Projects whose files hold wild values of the right kind: each is opened, checked, drawn and shipped."""

from __future__ import annotations

import json
import random
import shutil
import tempfile
from pathlib import Path
from typing import Any

import numpy as np

from rushweed.core.animate.export import stills
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.project import Project
from rushweed.core.findings.check import check
from rushweed.core.level.render import level_picture
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.build import ship
from rushweed.core.store.folder import Folder
from rushweed.core.walk.runs import begin, replay
from rushweed.core.walk.walkers import walker_of
from rushweed.core.walk.world import World

NUMBERS = (0, 1, -1, 2, 7, 31, 255, 256, 1000, 65_536, 10**6, -(10**6), 2**31, 2**40, 0.5, -0.25, 1e12, 1e-12)
MOST_STEPS = 1200  # of a run that is walked
TEXTS = ("", " ", "x", "²", "a/b", "../up", "a\nb", "\u202e", "x" * 3000, "<b>", "=1+1", "none", "loop")


def places(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Where every number, text, yes-no, list and nothing of a JSON value stands."""
    found = [path] if path else []
    if isinstance(value, dict):
        for key, inner in value.items():
            found += places(inner, (*path, key))
    elif isinstance(value, list):
        for n, inner in enumerate(value[:12]):
            found += places(inner, (*path, n))
    return found


def wild(value: Any, rng: random.Random) -> Any:
    """Another value of the same kind."""
    if isinstance(value, bool):
        return not value
    if isinstance(value, (int, float)):
        return rng.choice(
            [rng.choice(NUMBERS), value * rng.choice((-1, 2, 1000)), value + rng.choice((-1, 1))]
        )
    if isinstance(value, str):
        return rng.choice(TEXTS)
    if isinstance(value, list):
        return rng.choice([[], value[:1], value * 2, value[::-1]])
    if isinstance(value, dict):
        return {key: inner for key, inner in value.items() if rng.random() < 0.7}
    return value


def spoil(folder: Path, rng: random.Random, most: int = 3) -> list[str]:
    """Change some values of the project's files; returns which, in words."""
    done = []
    files = [p for p in folder.rglob("*.json") if ".rushweed" not in p.parts]
    for _ in range(rng.randint(1, most)):
        file = rng.choice(files)
        data = json.loads(file.read_text())
        where = rng.choice(places(data))
        at = data
        for step in where[:-1]:
            at = at[step]
        old, at[where[-1]] = at[where[-1]], wild(at[where[-1]], rng)
        file.write_text(json.dumps(data))
        done.append(f"{file.name} {where}: {str(old)[:60]} became {str(at[where[-1]])[:60]}")
    return done


def used(folder: Path, out: Path) -> None:
    """Everything a person would do with it; a RushweedError is an answer, all else a fault of ours."""
    try:
        project = Folder(folder).open()
    except RushweedError as error:
        _is_a_sentence(error)
        return
    stock = PixelCache(folder)
    for work in (
        lambda: check(project, stock), lambda: _drawn(project, stock), lambda: _moved(project, stock),
        lambda: ship(project, stock, out), lambda: _walked(project), lambda: _saved(project, folder),
    ):  # fmt: skip
        try:
            work()
        except RushweedError as error:
            _is_a_sentence(error)


def _is_a_sentence(error: RushweedError) -> None:
    text = str(error)
    assert text and text.isprintable() and len(text) < 1200, text


def _drawn(project: Project, stock: PixelCache) -> None:
    for level in project.levels:
        level_picture(project, level, stock.pixels_or_blank, (0, 0, 320, 180))


def _moved(project: Project, stock: PixelCache) -> None:
    for animation in project.animations:
        made = stills(project, animation, stock)
        assert all(isinstance(frame, np.ndarray) for frame in made.frames)


def _walked(project: Project) -> None:
    """A second in each level with keys held, and back; and its runs, if they are not long."""
    for level in project.levels:
        world = World.of(project, level, walker_of(level).group)
        walk = begin(world)
        for n in range(120):
            walk.advance((2, 18, 1, 4, 8)[n // 24])
        walk.back_to(30)
        for run in level.runs:
            if run.steps <= MOST_STEPS:
                replay(world, run)


def _saved(project: Project, folder: Path) -> None:
    again = Folder(folder)
    again.open()
    again.save(project)
    Folder(folder).open()


def attack(master: Path, seed: int) -> list[str]:
    """Spoil a copy of a project and use it; what was spoilt. Whatever it raises is a fault."""
    rng = random.Random(seed)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "game"
        shutil.copytree(master, folder)
        done = spoil(folder, rng)
        try:
            used(folder, Path(name) / "out")
        except Exception as error:
            error.add_note(f"seed {seed}: {'; '.join(done)}")
            raise
    return done
