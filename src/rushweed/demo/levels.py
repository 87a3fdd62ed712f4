"""The levels of Tidelamp: the pier and the saltings."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import level_of, put_level
from rushweed.core.document.ids import new_id
from rushweed.core.document.model.animation import Path as MovePath
from rushweed.core.document.model.level import Run
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.level.brush import rectangle
from rushweed.core.level.edit import paint, paint_pattern
from rushweed.core.level.kept import area_stamp, keep
from rushweed.core.level.layers import add_backdrop, add_layer, change_layer, move_layer
from rushweed.core.level.levels import add_level, change_level, set_start
from rushweed.core.level.many_things import change_things
from rushweed.core.level.rooms import add_room
from rushweed.core.level.stamp import from_grid
from rushweed.core.level.things import place_thing


def sheet_named(project: Project, name: str) -> Sheet:
    return next(s for s in project.sheets if s.name == name)


class _Painter:
    """Paints one layer of one level by tile names."""

    def __init__(self, project: Project, level: str, layer: str, sheet: str) -> None:
        self.project, self.level, self.layer = project, level, layer
        self.cells = {cell.name: cell.id for cell in sheet_named(project, sheet).cells}

    def put(self, x: int, y: int, *names: str) -> None:
        """Tiles side by side from (x, y); "-" leaves a gap."""
        stamp = from_grid([[self.cells.get(name) for name in names]])
        self.project = paint(self.project, self.level, self.layer, stamp, (np.array([x]), np.array([y])))

    def column(self, x: int, y: int, *names: str) -> None:
        for i, name in enumerate(names):
            self.put(x, y + i, name)

    def area(self, x0: int, y0: int, x1: int, y1: int, *names: str, seed: int = 1) -> None:
        """A rectangle of tiles drawn by chance from `names`."""
        stamp = from_grid([[self.cells[name] for name in names]])
        self.project = paint_pattern(
            self.project, self.level, self.layer, stamp, rectangle(x0, y0, x1, y1), scatter=seed
        )


def paint_pier(project: Project) -> Project:
    """The side view: from the bank along the boardwalk to the far shore, 64 x 20 cells."""
    project, level = add_level(project, "pier", (16, 16), "side", (64, 20))
    first = next(v for v in project.levels if v.id == level).layers[0].id
    project = change_layer(project, level, first, name="Piles")
    project, bank = add_layer(project, level, "Bank")
    project, walk = add_layer(project, level, "Boardwalk")
    project, rails = add_layer(project, level, "Rails and lamps")
    project = add_backdrop(project, level, sheet_named(project, "sky.png").id, 0.1, 0)

    def on(layer: str, work: Callable[[_Painter], None]) -> None:
        nonlocal project
        painter = _Painter(project, level, layer, "boardwalk.png")
        work(painter)
        project = painter.project

    on(first, _piles)
    on(bank, _bank)
    on(walk, _walk)
    on(rails, _rails)
    heron = next(a.id for a in project.animations if a.name == "heron")
    wade = MovePath((56, 0), 3600, "both")
    project, _thing = place_thing(project, level, heron, (31 * 16, 18 * 16 + 4), bank, wade)
    project = _crate_and_raft(project, level, walk, rails)
    project = _haze(project, level)
    project, _room = add_room(project, level, (0, 0, 31, 20), "shore")
    project, _room = add_room(project, level, (31, 0, 33, 20), "stilts")
    painted = tuple(x.id for x in next(v for v in project.levels if v.id == level).layers)
    for name, area in (("stilt house", (35, 8, 10, 10)), ("ladder", (24, 7, 1, 5))):
        project, _kept = keep(project, area_stamp(project, level, area, painted), name)
    return _way_up(set_start(project, level, 13 * 16, 12 * 16), level)


def _way_up(project: Project, level_id: str) -> Project:
    """A walk along the boardwalk and up the ladder that must arrive: the first thing the level has to keep."""
    level = level_of(project, level_id)
    keys = ((20, "r"), (246, ""), (276, "u"), (486, ""))
    run = Run(new_id(), "to the ledge", level_id, level.start, 510, keys, (388.8006896972656, 112.0), True)
    return put_level(project, replace(level, runs=(run,)))


def _crate_and_raft(project: Project, level: str, walk: str, rails: str) -> Project:
    """A crate to be pushed along the boardwalk, and a piece of deck that goes to and fro over the water."""
    cells = {cell.name: cell for cell in sheet_named(project, "boardwalk.png").cells}

    def put(name: str, column: int, row: int, over: str, path: MovePath | None = None) -> str:
        nonlocal project
        x, y = cells[name].pivot
        at = (column * 16 + x, row * 16 + y)
        project, made = place_thing(project, level, cells[name].id, at, over, path)
        return made

    raft = put("deck_short", 46, 14, walk, MovePath((48, 0), 3000, "both"))
    project = change_things(project, level, (raft,), motion="moving")
    crate = put("crate", 26, 11, rails)
    return change_things(project, level, (crate,), motion="pushed", weight=2.0, turns=True)


def _haze(project: Project, level: str) -> Project:
    """The sky once more before itself, faint and warm, which drifts as mist does."""
    before = {x.id for v in project.levels for x in v.layers}
    project = add_backdrop(project, level, sheet_named(project, "sky.png").id, 0.2, 8)
    haze = next(x.id for v in project.levels for x in v.layers if x.id not in before)
    project = change_layer(
        project, level, haze, name="Haze", opacity_percent=16, tint=(255, 214, 180), drift=(4.0, 0.0)
    )
    return move_layer(project, level, haze, 1)


def _piles(p: _Painter) -> None:
    for x in (12, 18, 23, 28):
        rope = "post_rope" if x % 2 == 0 else "post"
        p.column(x, 12, "post", "post", rope, "post_weed", "post_weed", "post_foot")
    for x in (37, 43):
        p.column(x, 10, "post", "post", "post", "post_rope", "post", "post_weed", "post_weed", "post_foot")
    p.column(21, 13, "ladder", "ladder", "ladder", "ladder_weed", "ladder_weed")
    p.column(24, 7, "ladder_top", "ladder", "ladder", "ladder", "ladder")
    for x, y in ((14, 14), (38, 13)):
        p.put(x, y, "brace_down")
        p.put(x + 1, y + 1, "brace_down")
    for x, y in ((27, 13), (42, 13)):
        p.put(x, y, "brace_up")
        p.put(x - 1, y + 1, "brace_up")


def _bank(p: _Painter) -> None:
    mud = ("mud_a", "mud_b", "mud_c", "mud_d", "mud_a", "mud_roots")
    p.area(0, 13, 8, 17, *mud, seed=4)
    p.area(0, 18, 63, 19, "mud_deep")
    p.area(10, 18, 50, 18, "mud_water")
    p.put(0, 13, "bank_top_a", "bank_top_b")
    p.put(2, 12, "ramp_up_a", "ramp_up_b")
    p.put(4, 12, "bank_top_b", "bank_top_c", "bank_top_a", "bank_top_b", "bank_top_a", "bank_right")
    p.column(9, 13, *["mud_right"] * 5)
    p.area(55, 13, 63, 17, *mud, seed=9)
    for i, x in enumerate((51, 52, 53, 54)):
        p.put(x, 17 - i, "slope_up")
        for y in range(18 - i, 18):
            p.put(x, y, ("mud_c", "mud_a", "mud_d")[(x + y) % 3])
    p.put(55, 13, "slope_up")
    p.put(56, 12, "ramp_up_a", "ramp_up_b")
    p.area(56, 13, 63, 13, "mud_a", "mud_b", "mud_d", seed=3)
    p.put(58, 12, "bank_top_a", "bank_top_c", "bank_top_b", "ramp_down_a", "ramp_down_b")
    p.put(63, 13, "bank_top_a")


def _walk(p: _Painter) -> None:
    p.put(10, 12, "deck_left", "deck_mid_a", "deck_mid_b", "deck_mid_a", "deck_mid_c", "deck_mid_a")
    p.put(16, 12, "deck_mid_b", "deck_mid_a", "deck_gap", "deck_mid_a", "deck_mid_b", "deck_mid_a")
    p.put(22, 12, "deck_mid_c", "deck_mid_a", "deck_mid_b", "deck_mid_a", "deck_mid_a", "deck_mid_b")
    p.put(28, 12, "deck_mid_a", "deck_right")
    p.put(31, 11, "step_left", "step_mid", "step_right")
    p.put(35, 10, "deck_left", "deck_mid_b", "deck_mid_a", "deck_mid_c", "deck_gap", "deck_mid_a")
    p.put(41, 10, "deck_mid_b", "deck_mid_a", "deck_mid_a", "deck_right")
    p.put(46, 12, "deck_short")
    p.put(49, 13, "deck_short")
    p.put(20, 7, "ledge_left", "ledge_mid", "ledge_mid", "ledge_mid", "ledge_mid", "ledge_right")
    p.put(29, 5, "ledge_left", "ledge_mid", "ledge_right")


def _rails(p: _Painter) -> None:
    p.put(11, 11, "rail_left", "rail_mid", "rail_mid", "rail_right")
    p.put(36, 9, "rail_left", "rail_mid", "rail_right")
    p.put(5, 11, "sign")
    p.put(7, 11, "rope_coil")
    p.put(40, 9, "crate", "barrel")
    p.put(22, 6, "lamp_lit")
    p.put(30, 4, "lamp_dark")
    p.put(44, 9, "lamp_lit")
    p.put(59, 11, "lamp_dark")
    p.put(6, 11, "reed_low")
    p.put(10, 16, "reed_tall", "reed_thin")
    p.column(10, 17, "reed_low")
    p.put(47, 16, "reed_thin", "reed_tall", "reed_thin")
    p.put(61, 11, "reed_tall")


def paint_saltings(project: Project) -> Project:
    """The top view: islands of mud and grass in the water, joined by a walk, 40 x 26 cells."""
    project, level = add_level(project, "saltings", (16, 16), "top", (40, 26))
    ground = next(v for v in project.levels if v.id == level).layers[0].id
    project, grown = add_layer(project, level, "Growth")
    project = change_layer(project, level, ground, name="Ground")
    base = _Painter(project, level, ground, "marsh.png")
    base.area(0, 0, 39, 25, "water_0", "water_0", "water_0", "water_1", seed=2)
    _island(base, "mud", 3, 3, 19, 14)
    _island(base, "mud", 23, 10, 37, 22)
    base.area(18, 8, 24, 8, "plank_10")
    base.area(18, 9, 24, 10, "plank_11")
    base.area(18, 11, 24, 11, "plank_12")
    base.project, base.layer = base.project, grown
    _island(base, "grass", 5, 5, 15, 12)
    _island(base, "grass", 27, 13, 35, 20)
    base.put(7, 8, "grass_stump")
    base.put(11, 7, "grass_bloom", "grass_tuft")
    base.put(30, 16, "grass_stone", "grass_tuft")
    for x, y, name in ((22, 4, "lily_pad"), (24, 5, "lily_bloom"), (6, 18, "lily_pad"), (9, 20, "stone")):
        base.put(x, y, name)
    for i, (x, y) in enumerate(((28, 3), (29, 3), (30, 4), (14, 19), (15, 20), (2, 22), (36, 5))):
        base.put(x, y, f"reeds_{i % 4}")
    base.put(17, 12, "mud_stone")
    base.put(25, 20, "mud_shells")
    project = change_level(base.project, level, order="foot")
    project = change_layer(project, level, grown, tint=(244, 250, 238))
    for x, y, name in ((9, 10, "grass_stump"), (12, 10, "grass_stone"), (31, 17, "grass_stump")):
        cell = next(c.id for c in sheet_named(project, "marsh.png").cells if c.name == name)
        project, _thing = place_thing(project, level, cell, (x * 16.0, y * 16.0), grown)
    project, _room = add_room(project, level, (0, 0, 21, 26), "west isle")
    project, _room = add_room(project, level, (21, 0, 19, 26), "east isle")
    return set_start(project, level, 10 * 16, 10 * 16)


def _island(p: _Painter, ground: str, x0: int, y0: int, x1: int, y1: int) -> None:
    """A rectangle of one ground with its corners and sides from the sheet's block of 4 x 4."""
    p.area(x0 + 1, y0 + 1, x1 - 1, y1 - 1, f"{ground}_11")
    for x in range(x0 + 1, x1):
        p.put(x, y0, f"{ground}_{1}0")
        p.put(x, y1, f"{ground}_{1}2")
    for y in range(y0 + 1, y1):
        p.put(x0, y, f"{ground}_01")
        p.put(x1, y, f"{ground}_21")
    for x, y, name in ((x0, y0, "00"), (x1, y0, "20"), (x0, y1, "02"), (x1, y1, "22")):
        p.put(x, y, f"{ground}_{name}")
