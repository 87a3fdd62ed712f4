"""What differs between two versions of a project: in words, by place, and as two pictures of one part."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, NamedTuple

import numpy as np

from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import CHUNK, Level, TileLayer, Tiles
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.text import many
from rushweed.core.level.chunks import region
from rushweed.core.level.merge import one_table, same
from rushweed.core.level.render import PixelsOf, Seen, level_picture

Box = tuple[int, int, int, int]
AROUND = 4  # cells shown around what differs
WIDEST = 2048  # px of a picture of what differs
DIMMED = 0.35  # of what is the same, in a picture of what differs

CELL_FIELDS = {
    "rect": "moved", "name": "renamed", "pivot": "with another pivot", "shapes": "with other shapes",
    "traits": "with other traits", "shift": "registered anew", "stretch": "with another nine-slice",
}  # fmt: skip
TUNE_FIELDS = {"ppu": "px per unit", "alpha": "alpha kept", "pad": "size rule", "limit": "page limit"}
PARTS = {
    "recipes": "recipe", "groups": "group", "traits": "trait", "autosets": "auto-tile set",
    "ways": "way to ship",
}  # fmt: skip


class Difference(NamedTuple):
    """A sheet, level or animation that differs, or the project itself (with an empty id): what differs in
    words. `area` is left, top, columns, rows of the cells of a level in which tiles or things differ."""

    kind: str
    id: str
    name: str
    facts: tuple[str, ...]
    area: Box | None = None

    def text(self) -> str:
        """In one line."""
        return f"{self.name}: {', '.join(self.facts)}"


def compare(before: Project, after: Project) -> list[Difference]:
    """All that differs, levels first, each part in the order of `after`, then what is gone."""
    found = []
    for kind, differs in (("level", _level), ("sheet", _sheet), ("animation", _animation)):
        old = {part.id: part for part in getattr(before, f"{kind}s")}
        new = {part.id: part for part in getattr(after, f"{kind}s")}
        for part_id, part in {**new, **old}.items():
            if part_id not in old:
                found.append(Difference(kind, part_id, part.name, (f"new {kind}",)))
            elif part_id not in new:
                found.append(Difference(kind, part_id, part.name, ("removed",)))
            elif not same(old[part_id], new[part_id]):
                found.append(differs(old[part_id], new[part_id]))
    own = [] if before.name == after.name else [f"was {before.name}"]
    for field, word in PARTS.items():
        own += _parts(getattr(before, field), getattr(after, field), word)
    return [*found, Difference("project", "", after.name, tuple(own))] if own else found


def changed_cells(before: Tiles, after: Tiles) -> tuple[int, int, np.ndarray]:
    """Where two versions of a layer differ: the column and row of the first cell, bool (rows, columns)."""
    spans = [t for t in (before, after) if t.columns and t.rows]
    if before is after or not spans:
        return 0, 0, np.zeros((0, 0), bool)
    left, top = min(t.left for t in spans) * CHUNK, min(t.top for t in spans) * CHUNK
    wide = max(t.left + t.columns for t in spans) * CHUNK - left
    high = max(t.top + t.rows for t in spans) * CHUNK - top
    return left, top, region(before, left, top, wide, high) != region(after, left, top, wide, high)


def level_changes(before: Level, after: Level) -> tuple[int, int, np.ndarray]:
    """Where the tiles of two versions of a level differ on any layer, as `changed_cells` says it."""
    before, after = one_table(before, after)
    old = {x.id: x.tiles for x in before.layers if isinstance(x, TileLayer)}
    new = {x.id: x.tiles for x in after.layers if isinstance(x, TileLayer)}
    marks = [changed_cells(old.get(i, Tiles()), new.get(i, Tiles())) for i in {**old, **new}]
    marks = [(x, y, mask) for x, y, mask in marks if mask.any()]
    if not marks:
        return 0, 0, np.zeros((0, 0), bool)
    left, top = min(x for x, _y, _m in marks), min(y for _x, y, _m in marks)
    right = max(x + mask.shape[1] for x, _y, mask in marks)
    bottom = max(y + mask.shape[0] for _x, y, mask in marks)
    out = np.zeros((bottom - top, right - left), bool)
    for x, y, mask in marks:
        out[y - top : y - top + mask.shape[0], x - left : x - left + mask.shape[1]] |= mask
    return left, top, out


def changed_in(before: Level, after: Level, area: Box) -> np.ndarray:
    """Which cells of an area (left, top, columns, rows) differ between two versions of a level on any layer,
    bool (rows, columns). Costs no more than the area, however large the level is."""
    number = {cell: n + 1 for n, cell in enumerate(dict.fromkeys((*before.table, *after.table)))}
    sides = []
    for level in (before, after):
        same_numbers = np.array([0, *(number[cell] for cell in level.table)], np.int64)
        held = {}
        for layer in level.layers:
            if isinstance(layer, TileLayer):
                cells = region(layer.tiles, *area)
                held[layer.id] = same_numbers[np.minimum(cells >> 3, len(level.table))] * 8 + (cells & 7)
        sides.append(held)
    old, new = sides
    empty = np.zeros((area[3], area[2]), np.int64)
    out = np.zeros(empty.shape, bool)
    for layer_id in {**old, **new}:
        out |= old.get(layer_id, empty) != new.get(layer_id, empty)
    return out


def difference_pictures(
    before: Project, after: Project, difference: Difference, pixels_before: PixelsOf, pixels_after: PixelsOf
) -> tuple[np.ndarray | None, np.ndarray | None]:
    """The part of a level in which it differs, or a whole sheet, uint8 RGBA as it was and as it is; what is
    the same is dimmed. None for a side that lacks it, and for what has no picture."""
    sides = []
    for project, pixels_of in ((before, pixels_before), (after, pixels_after)):
        if difference.kind == "level":
            level = next((v for v in project.levels if v.id == difference.id), None)
            area = difference.area or (level.bounds if level is not None else None)
            sides.append(None if level is None or area is None else _part(project, level, area, pixels_of))
        elif difference.kind == "sheet":
            sheet = next((s for s in project.sheets if s.id == difference.id), None)
            sides.append(None if sheet is None else np.array(pixels_of(sheet)[:WIDEST, :WIDEST]))
        else:
            sides.append(None)
    old, new = sides
    if old is not None and new is not None and old.shape == new.shape:
        alike = (old == new).all(-1)
        if not alike.all():
            for picture in (old, new):
                picture[alike, 3] = (picture[alike, 3] * DIMMED).astype(np.uint8)
    return old, new


def side_by_side(old: np.ndarray | None, new: np.ndarray | None) -> np.ndarray | None:
    """Both pictures beside each other with a gap of a few px; None where neither is there."""
    shown = [p for p in (old, new) if p is not None]
    if not shown:
        return None
    high, wide = max(p.shape[0] for p in shown), max(p.shape[1] for p in shown)
    gap = 8
    out = np.zeros((high, wide * 2 + gap, 4), np.uint8)
    for picture, x in ((old, 0), (new, wide + gap)):
        if picture is not None:
            out[: picture.shape[0], x : x + picture.shape[1]] = picture
    return out


def _part(project: Project, level: Level, area: Box, pixels_of: PixelsOf) -> np.ndarray:
    cw, ch = level.cell
    columns, rows = min(area[2], max(WIDEST // cw, 1)), min(area[3], max(WIDEST // ch, 1))
    box = (area[0] * cw, area[1] * ch, columns * cw, rows * ch)
    return level_picture(project, level, pixels_of, box, seen=Seen(with_backdrops=False))


def _level(before: Level, after: Level) -> Difference:
    old, new = one_table(before, after)
    facts = [] if before.name == after.name else [f"was {before.name}"]
    mine = {x.id: x for x in old.layers}
    for layer in new.layers:
        was = mine.pop(layer.id, None)
        if was is None:
            facts.append(f"new layer {layer.name}")
        if isinstance(layer, TileLayer):
            tiles = was.tiles if isinstance(was, TileLayer) else Tiles()
            facts += [f"{fact} on {layer.name}" for fact in _tile_facts(tiles, layer.tiles)]
        if was is not None and any(
            not same(getattr(was, f), getattr(layer, f)) for f in layer.__struct_fields__ if f != "tiles"
        ):
            facts.append(f"layer {layer.name} set anew")
    facts += [f"layer {layer.name} removed" for layer in mine.values()]
    both = {x.id for x in old.layers} & {x.id for x in new.layers}
    if [x.id for x in old.layers if x.id in both] != [x.id for x in new.layers if x.id in both]:
        facts.append("layers in another order")
    facts += _parts(before.things, after.things, "thing") + _parts(before.runs, after.runs, "run")
    if before.bounds != after.bounds:
        facts.append(
            f"{after.bounds[2]} x {after.bounds[3]} cells, was {before.bounds[2]} x {before.bounds[3]}"
        )
    if before.start != after.start:
        facts.append("another start")
    if before.walker != after.walker:
        facts.append("another walker")
    told = {"id", "name", "table", "layers", "things", "bounds", "start", "runs", "walker"}
    if any(not same(getattr(before, f), getattr(after, f)) for f in after.__struct_fields__ if f not in told):
        facts.append("set anew")
    return Difference("level", after.id, after.name, tuple(facts) or ("stored anew",), _area(before, after))


def _tile_facts(before: Tiles, after: Tiles) -> list[str]:
    left, top, mask = changed_cells(before, after)
    if not mask.any():
        return []
    high, wide = mask.shape
    old, new = region(before, left, top, wide, high)[mask], region(after, left, top, wide, high)[mask]
    counts = (("painted", old == 0), ("erased", new == 0), ("replaced", (old > 0) & (new > 0)))
    return [f"{many(int(n.sum()), 'tile')} {word}" for word, n in counts if n.any()]


def _area(before: Level, after: Level) -> Box | None:
    """The cells in which tiles or things of two levels differ, with a few around."""
    left, top, mask = level_changes(before, after)
    xs, ys = [], []
    if mask.any():
        columns, rows = np.flatnonzero(mask.any(0)), np.flatnonzero(mask.any(1))
        xs += [left + int(columns[0]), left + int(columns[-1])]
        ys += [top + int(rows[0]), top + int(rows[-1])]
    old, new = {t.id: t for t in before.things}, {t.id: t for t in after.things}
    for i in {**old, **new}:
        if old.get(i) != new.get(i):
            for thing in (old.get(i), new.get(i)):
                if thing is not None:
                    xs.append(int(thing.at[0] // after.cell[0]))
                    ys.append(int(thing.at[1] // after.cell[1]))
    if not xs:
        return None
    x, y = min(xs) - AROUND, min(ys) - AROUND
    return x, y, max(xs) + AROUND + 1 - x, max(ys) + AROUND + 1 - y


def _sheet(before: Sheet, after: Sheet) -> Difference:
    facts = [] if before.name == after.name else [f"was {before.name}"]
    if before.source.key != after.source.key:
        facts.append("another picture")
    old, new = {c.id: c for c in before.cells}, {c.id: c for c in after.cells}
    added, gone = len(new.keys() - old.keys()), len(old.keys() - new.keys())
    facts += [f"{many(n, 'cell')} {word}" for n, word in ((added, "more"), (gone, "gone")) if n]
    both = [(old[i], new[i]) for i in old if i in new]
    for field, word in CELL_FIELDS.items():
        number = sum(getattr(a, field) != getattr(b, field) for a, b in both)
        if number:
            facts.append(f"{many(number, 'cell')} {word}")
    for field in before.tune.__struct_fields__:
        was, now = getattr(before.tune, field), getattr(after.tune, field)
        if was != now:
            facts.append(f"{TUNE_FIELDS.get(field, field)} {_value(was)} to {_value(now)}")
    if before.credit != after.credit:
        facts.append("another credit")
    return Difference("sheet", after.id, after.name, tuple(facts) or ("set anew",))


def _value(value: Any) -> str:
    if isinstance(value, tuple):
        return ", ".join(f"{part:g}" for part in value)
    return f"{value:g}" if isinstance(value, (int, float)) else str(value or "none")


def _animation(before: Animation, after: Animation) -> Difference:
    facts = [] if before.name == after.name else [f"was {before.name}"]
    if len(before.frames) != len(after.frames):
        facts.append(f"{many(len(after.frames), 'frame')}, was {len(before.frames)}")
    elif before.frames != after.frames:
        facts.append("other frames or times")
    return Difference("animation", after.id, after.name, tuple(facts) or ("set anew",))


def _parts(before: Iterable[Any], after: Iterable[Any], word: str) -> list[str]:
    """How many parts with an id came, went or changed."""
    old, new = {p.id: p for p in before}, {p.id: p for p in after}
    counts = (
        (len(new.keys() - old.keys()), "more"),
        (len(old.keys() - new.keys()), "gone"),
        (sum(not same(old[i], new[i]) for i in old if i in new), "changed"),
    )
    return [f"{many(n, word)} {how}" for n, how in counts if n]
