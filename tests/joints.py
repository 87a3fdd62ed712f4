"""Whether the tiles of an auto-tile set are for what joins them, counted cell by cell."""

from rushweed.core.document.model.level import TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import AutoSet
from rushweed.core.level.chunks import cell_at
from rushweed.core.shape.autotile import STEPS, reduced

# The four cells that meet at the upper left corner of one, by step, and the bit of each for that corner.
MEET = {(0, 0): 128, (-1, 0): 2, (0, -1): 32, (-1, -1): 8}


def wrong_joints(project: Project, level_id: str, layer_id: str, autoset: AutoSet) -> list[tuple[int, int]]:
    """Cells, or by corners the corners at their upper left, where tiles of the set do not agree."""
    level = next(v for v in project.levels if v.id == level_id)
    layer = next(x for x in level.layers if x.id == layer_id)
    assert isinstance(layer, TileLayer)
    joins = {p.cell: p.joins for p in autoset.tiles}
    left, top, columns, rows = level.bounds
    held: dict[tuple[int, int], int] = {}
    for y in range(top - 1, top + rows + 1):
        for x in range(left - 1, left + columns + 1):
            index = cell_at(layer.tiles, x, y) >> 3
            if index and level.table[index - 1] in joins:
                held[x, y] = joins[level.table[index - 1]]
    if autoset.by != "corners":
        table = reduced(autoset.by)
        return [
            (x, y) for (x, y), case in held.items()
            if table[sum(b for b, (dx, dy) in STEPS.items() if (x + dx, y + dy) in held)] != case
        ]  # fmt: skip
    spots = {(x + dx, y + dy) for x, y in held for dx in (0, 1) for dy in (0, 1)}
    return [
        (x, y) for x, y in spots
        if len({bool(held.get((x + dx, y + dy), 0) & bit) for (dx, dy), bit in MEET.items()}) > 1
    ]  # fmt: skip
