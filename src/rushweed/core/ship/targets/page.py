"""One file for a browser, in which a colleague walks through the levels: no server, no network."""

from __future__ import annotations

import base64
import html
import re
from functools import cache, partial
from importlib import resources
from typing import Any

import msgspec
import numpy as np

from rushweed.core.document.errors import EditError, RushweedError
from rushweed.core.document.model.level import Level, Run
from rushweed.core.ship.atlas import Plan
from rushweed.core.ship.describe import is_one_frame, level_file_of, manifest_of
from rushweed.core.ship.pages import page_pixels
from rushweed.core.ship.png import packed_png
from rushweed.core.ship.targets.game import shown_whole
from rushweed.core.ship.task import Output, Task, digest, text_output
from rushweed.core.walk import terms as k
from rushweed.core.walk.bodies import Place
from rushweed.core.walk.edges import OUTLINE_UNIT
from rushweed.core.walk.held_keys import keys_of
from rushweed.core.walk.record import Walk
from rushweed.core.walk.runs import begin
from rushweed.core.walk.script import mover_script
from rushweed.core.walk.walkers import body_of, numbers_of, units_of, walker_of
from rushweed.core.walk.world import World

NAME = "page.html"
MOST_CELLS = 1 << 18  # of a level that goes into a page
UNIT = k.SUB // OUTLINE_UNIT


def outputs(task: Task, plan: Plan) -> list[Output]:
    """The page. Raises EditError for a level that is too large for one."""
    project = task.project
    for level in project.levels:
        if level.bounds[2] * level.bounds[3] > MOST_CELLS:
            raise EditError(
                f"{level.name} has {level.bounds[2]} x {level.bounds[3]} cells, too many for a page.",
                f"Choose levels of at most {MOST_CELLS:,} cells for this way to ship.",
            )
    depends = (
        task.way, [task.level_art(v) for v in project.levels],
        [(s.id, task.art(s), s.name, s.cells, s.tune, s.credit) for s in project.sheets],
        [(p.size, p.spots.tobytes()) for p in plan.pages],
        project.name, project.animations, project.groups, project.traits, parts(),
    )  # fmt: skip
    return [text_output(NAME, partial(_page, task, plan), digest(*depends))]


@cache
def parts() -> dict[str, str]:
    """What every page is made of."""
    home = resources.files("rushweed") / "assets"
    read = {
        "html": home / "page" / "page.html",
        "page": home / "page" / "page.js",
        "reader": home / "reader" / "reader.js",
    }
    return {name: file.read_text("utf-8") for name, file in read.items()} | {"mover": mover_script()}


def _page(task: Task, plan: Plan) -> bytes:
    project, names = task.project, task.names
    frames = plan.number_of
    pictures = {names.page(n): packed_png(page_pixels(page, task.stock)) for n, page in enumerate(plan.pages)}
    for sheet in shown_whole(project):
        if not is_one_frame(sheet):
            pictures[names.sheet_picture(sheet)] = packed_png(task.stock.pixels(sheet))
    worlds: dict[str, Any] = {}
    whys: dict[str, str] = {}
    for level in project.levels:
        try:
            worlds[level.id] = _world(task, level)
        except RushweedError as error:
            whys[level.id] = f"{error.problem} Arrows or WASD move the picture."
    data = {
        "manifest": manifest_of(project, plan, task.way, names),
        "levels": {
            names.level(v): level_file_of(project, v, frames, task.way, names) for v in project.levels
        },
        "pictures": {name: base64.b64encode(png).decode() for name, png in pictures.items()},
        "worlds": worlds,
        "whys": whys,
    }
    put = {
        "title": html.escape(project.name),
        "data": msgspec.json.encode(data).decode().replace("<", "\\u003c"),
        **{name: text for name, text in parts().items() if name != "html"},
    }
    return re.sub(r"\{\{(\w+)\}\}", lambda found: put[found[1]], parts()["html"]).encode()


# -- what the walker meets ---------------------------------------------------------------------------------


def _world(task: Task, level: Level) -> dict[str, Any]:
    """The level in whole numbers, 1/256 px. Raises EditError where nobody can walk in it."""
    project = task.project
    walker, ppu = walker_of(level), units_of(project, level)
    body = body_of(project, walker, ppu, level.view != "side")
    world = World.of(project, level, walker.group)
    walk = begin(world)
    return {
        "numbers": numbers_of(walker, body, ppu, level.view != "side").tolist(),
        "edges": _told(world.grid.edges),
        "climbs": world.climbs.tolist(),
        "movers": [
            {"edges": _told(one.edges), "path": _path(one.path) if one.path else None} for one in world.movers
        ],
        "playing": [
            {
                "play": one.play, "ms": [f.ms for f in one.frames],
                "edges": [_told(rows) for rows in world.playing.by_frame(n)],
            }
            for n, one in enumerate(world.playing.animations)
        ],
        "pushed": _pushed(walk) if walk.bodies.count else [],
        "tracks": {run.id: _track(world, run) for run in level.runs} if walk.bodies.count else {},
    }  # fmt: skip


def _path(path: Any) -> dict[str, Any]:
    return {"offset_px": list(path.offset), "ms": path.ms, "easing": path.easing, "play": path.play}


def _told(edges: np.ndarray) -> list[int]:
    """Seven numbers an edge: its ends, its side, friction and bounce."""
    ends = edges[:, :4] // UNIT
    told = np.concatenate((ends, edges[:, [k.EDGE_SIDE, k.EDGE_FRICTION, k.EDGE_BOUNCE]]), axis=1)
    numbers: list[int] = told.ravel().tolist()
    return numbers


def _pushed(walk: Walk) -> list[dict[str, Any]]:
    """The things that are pushed: where they stand, and their rings, px from there."""
    made = []
    for (shown, shapes), convex in zip(walk.bodies.things, walk.bodies.parts, strict=True):
        rings = [
            {
                "points": ring.tolist(), "side": _side(shape), "friction": round(shape.friction * 256),
                "bounce": round(shape.bounce * 256),
            }
            for shape, rings in zip(shapes, convex, strict=True) for ring in rings
        ]  # fmt: skip
        made.append(
            {
                "thing": shown.thing.id,
                "at": list(shown.foot),
                "weight": max(shown.thing.weight, 0.01),
                "rings": rings,
            }
        )
    return made


def _side(shape: Any) -> int:
    sides = ("top", "right", "bottom", "left")
    return sides.index(shape.blocks_from) + 1 if shape.role == "one-way" else k.SOLID


def _track(world: World, run: Run) -> list[tuple[int, int, int, int, int]]:
    """Where pushed things were in a run, each time that changed: step, thing, x, y in 1/256 px, millionths
    of a radian."""
    walk = begin(world, run.start)
    last = [_told_place(place) for place in walk.bodies.at(0)]
    made = []
    for step, keys in enumerate(keys_of(run), 1):
        walk.advance(keys)
        for n, place in enumerate(walk.bodies.at(step)):
            now = _told_place(place)
            if now != last[n]:
                made.append((step, n, *now))
                last[n] = now
    return made


def _told_place(place: Place) -> tuple[int, int, int]:
    return round(place.x * OUTLINE_UNIT), round(place.y * OUTLINE_UNIT), round(place.turn * 1e6)
