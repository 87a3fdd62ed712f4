"""Findings about levels: tiles that are gone, sheets of differing pixels per unit."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from functools import partial

from rushweed.core.document.edit import cell_homes, kept_ids
from rushweed.core.document.model.level import Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.findings.tune import is_pixel_art
from rushweed.core.level.chunks import chunk_at
from rushweed.core.level.edit import erase_gone, gone_tiles, sheets_used
from rushweed.core.level.joints import joints
from rushweed.core.level.losses import layer_tiles_by_cell
from rushweed.core.level.many_things import remove_things, whole_scales
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.edit import give_common
from rushweed.core.tune.edit import tune_sheets

INK = 128  # alpha from which a px counts as ground
FULL = 0.9  # of a cell that ground covers
FEW = 0.3  # of a layer's tiles that may lack a shape by mistake: where most do, it is meant


def gone_cells(level: Level, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Tiles of a level whose cell no sheet has any more."""
    gone = gone_tiles(project, level)
    total = sum(gone.values())
    if total:
        many = "1 tile stands" if total == 1 else f"{total} tiles stand"
        yield Finding(
            "gone-cell",
            "fault",
            f"{level.name}: {many} for cells that are gone.",
            Place("paint", level=level.id, spot=_first_spot(project, level.id)),
            Fix("Erase them", partial(erase_gone, level_id=level.id)),
        )


def gone_things(level: Level, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Things that show a cell or an animation that is gone: they are neither seen nor met."""
    known = kept_ids(project) | {a.id for a in project.animations}
    gone = tuple(thing for thing in level.things if thing.shows not in known)
    if gone:
        many = "1 thing shows" if len(gone) == 1 else f"{len(gone)} things show"
        (x, y), (cw, ch) = gone[0].at, level.cell
        yield Finding(
            "gone-thing",
            "fault",
            f"{level.name}: {many} what is gone.",
            Place("paint", level=level.id, spot=(int(x // cw), int(y // ch))),
            Fix(
                "Remove them", partial(remove_things, level_id=level.id, thing_ids=tuple(t.id for t in gone))
            ),
        )


def _first_spot(project: Project, level_id: str) -> tuple[int, int] | None:
    level = next(v for v in project.levels if v.id == level_id)
    known = kept_ids(project)
    gone = {i + 1 for i, c in enumerate(level.table) if c not in known}
    for layer in level.layers:
        if isinstance(layer, TileLayer):
            tiles = layer.tiles
            for cy in range(tiles.top, tiles.top + tiles.rows):
                for cx in range(tiles.left, tiles.left + tiles.columns):
                    chunk = chunk_at(tiles, cx, cy)
                    if chunk is None:
                        continue
                    for y, x in zip(*chunk.cells.nonzero(), strict=True):
                        if int(chunk.cells[y, x]) >> 3 in gone:
                            return cx * 32 + int(x), cy * 32 + int(y)
    return None


def mixed_ppu(level: Level, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Sheets of one level that do not share their pixels per unit."""
    sheets = sheets_used(project, level)
    values = Counter(s.tune.ppu for s in sheets)
    if len(values) > 1:
        names = ", ".join(f"{s.name} {s.tune.ppu:g}" for s in sheets)
        usual = values.most_common(1)[0][0]
        others = [s.id for s in sheets if s.tune.ppu != usual]
        yield Finding(
            "mixed-ppu",
            "hint",
            f"{level.name} mixes pixels per unit: {names}.",
            Place("tune", sheet=others[0]),
            Fix(f"All {usual:g} px a unit", partial(tune_sheets, sheet_ids=others, ppu=usual)),
        )


def do_not_meet(level: Level, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Neighbours whose shapes nearly meet: a step or a slot that is hardly seen."""
    found = joints(project, level) if level.view == "side" else []
    if not found:
        return
    homes = cell_homes(project)
    first, times = found[0], sum(joint.times for joint in found)
    names = f"{homes[first.left][1].name} and {homes[first.right][1].name}"
    where = f"{first.spot[0]}, {first.spot[1]}"
    many = f", and {times - 1} more like it" if times > 1 else ""
    text = f"{level.name}: a {first.what} of {first.px:g} px between {names} at {where}{many}."
    cells = tuple(dict.fromkeys(cell for joint in found for cell in (joint.left, joint.right)))
    yield Finding("do-not-meet", "hint", text, Place("paint", level=level.id, cells=cells, spot=first.spot))


def without_shape(level: Level, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Tiles on a solid layer that fill their cell as ground does, but have no shape: one falls through."""
    if level.view != "side":
        return
    homes = cell_homes(project)
    shaped = {cell: bool(homes[cell][1].shapes) for cell in level.table if cell in homes}
    for layer in level.layers:
        if not (isinstance(layer, TileLayer) and layer.collides):
            continue
        here = layer_tiles_by_cell(level, layer)
        bare = [cell for cell in here if shaped.get(cell) is False and _fills(*homes[cell], stock)]
        lacking = sum(here[cell] for cell in bare)
        if not lacking or lacking > FEW * sum(here.values()):
            continue
        names = ", ".join(homes[cell][1].name for cell in bare[:3]) + (" ..." if len(bare) > 3 else "")
        many = "1 tile has" if lacking == 1 else f"{lacking} tiles have"
        text = f"{level.name}: {many} no shape on {layer.name}, so that one falls through ({names})."
        fix = Fix("Make them full", partial(give_common, cell_ids=tuple(bare), name="full"))
        sheet = homes[bare[0]][0]
        yield Finding(
            "without-shape",
            "hint",
            text,
            Place("shape", sheet=sheet.id, level=level.id, cells=tuple(bare)),
            fix,
        )


def _fills(sheet: Sheet, cell: Cell, stock: PixelCache) -> bool:
    """Whether the ink of a cell leaves next to nothing of it free."""
    x, y, w, h = cell.rect
    alpha = stock.pixels_or_blank(sheet)[y : y + h, x : x + w, 3]
    return bool(alpha.size) and float((alpha >= INK).mean()) >= FULL


def uneven_things(level: Level, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Things of pixel art drawn so many and a half times as large: their px come out uneven."""
    homes = cell_homes(project)
    frames = {a.id: a.frames[0].cell for a in project.animations if a.frames}
    odd = []
    for thing in level.things:
        cell = frames.get(thing.shows, thing.shows)
        whole = all(scale >= 1 and float(scale).is_integer() for scale in thing.scale)
        if whole or cell not in homes:
            continue
        sheet = homes[cell][0]
        if sheet.tune.filter == "nearest" and is_pixel_art(sheet, stock):
            odd.append((thing, sheet))
    if odd:
        thing, sheet = odd[0]
        scale = " × ".join(f"{v:g}" for v in dict.fromkeys(thing.scale))
        more = f", and {len(odd) - 1} more" if len(odd) > 1 else ""
        text = (
            f"{level.name}: a thing of {sheet.name} is drawn {scale} times as large{more}; its px get uneven."
        )
        (x, y), (cw, ch) = thing.at, level.cell
        place = Place("paint", level=level.id, spot=(int(x // cw), int(y // ch)))
        ids = tuple(one.id for one, _sheet in odd)
        fix = Fix("To whole times", partial(whole_scales, level_id=level.id, thing_ids=ids))
        yield Finding("uneven-px", "hint", text, place, fix)
