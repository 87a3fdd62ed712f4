"""The merged outline of a level beside Shapely's union of the same shapes."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from shapely import Polygon as Area
from shapely import affinity, union_all
from shapely.geometry.base import BaseGeometry

from rushweed.core.document.edit import change_cells, level_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.level import Level, TileLayer, Tiles
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, Circle, Polygon, Shape
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.chunks import put, put_region, region
from rushweed.core.level.levels import add_level
from rushweed.core.level.outline import Outline, outline
from rushweed.core.level.outline_edges import Ring
from rushweed.core.level.outline_faults import Fault, mend, outline_faults
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.primitives import COMMON, common, corners
from rushweed.core.shape.twins import oriented_shape
from tests.conftest import project_with, sheet_of_size

Demo = tuple[Project, PixelCache]
SIZE = (16, 16)
NAMES = list(COMMON)
OWN: list[Shape] = [
    Circle(8, 8, 5),
    Polygon(((2, 3), (13, 1), (9, 14))),
    Box(-3, 4, 22, 5),  # reaches into the cells on both sides
    Polygon(((8, -6), (20, 8), (8, 22), (-4, 8))),  # reaches into all around
    Box(0.5, 0.25, 7.25, 15.5),
]
SHAPES = [common(name, SIZE) for name in NAMES] + OWN
CELLS = tuple(Cell(f"c{n}", f"c{n}", (0, 0, 16, 16), (0, 0), (s,)) for n, s in enumerate(SHAPES))
TWO = Cell("two", "two", (0, 0, 16, 16), (0, 0), (Box(0, 0, 16, 5), Box(4, 2, 6, 14)))
ALL = (*CELLS, TWO)


def level_with(*planes: np.ndarray, cells: tuple[Cell, ...] = ALL, **fields: object) -> tuple[Project, Level]:
    """A level whose layers hold values (table index * 8 + orientation)."""
    project, level_id = add_level(project_with(sheet_of_size(16, 16, cells=cells)), "quay", SIZE, size=(8, 8))
    layers = tuple(
        TileLayer(f"l{n}", f"l{n}", put_region(Tiles(), -2, -2, plane.astype(np.uint32)), **fields)  # type: ignore[arg-type]
        for n, plane in enumerate(planes)
    )
    level = replace(level_of(project, level_id), table=tuple(c.id for c in cells), layers=layers)
    return replace(project, levels=(level,)), level


def shapely_union(project: Project, level: Level, role: str = "solid") -> BaseGeometry:
    cells = {c.id: c for c in project.sheets[0].cells}
    placed = []
    for layer in level.layers:
        assert isinstance(layer, TileLayer)
        if not layer.collides:
            continue
        held = region(layer.tiles, -40, -40, 140, 140)
        for row, column in np.argwhere(held):
            value = int(held[row, column])
            for shape in cells[level.table[(value >> 3) - 1]].shapes:
                if shape.role == role:
                    ring = corners(oriented_shape(shape, value & 7, SIZE) if value & 7 else shape)
                    ox, oy = layer.offset
                    placed.append(
                        affinity.translate(Area(ring), (column - 40) * 16 + ox, (row - 40) * 16 + oy)
                    )
    return union_all(placed, grid_size=1e-6)  # without a grid it has dropped a whole tile


def area_of(rings: list[Ring]) -> BaseGeometry:
    """Even-odd of all rings: outer borders and holes."""
    made: BaseGeometry = Area()
    for ring in sorted(rings, key=lambda r: -abs(r.area)):
        part = Area(ring.points)
        made = made.union(part.buffer(0)) if ring.area > 0 else made.difference(part.buffer(0))
    return made


planes = st.lists(st.integers(0, len(ALL) * 8 + 7), min_size=30, max_size=30)


@settings(max_examples=30, deadline=None)
@given(st.lists(planes, min_size=1, max_size=2))
def test_it_covers_what_the_union_covers(drawn: list[list[int]]) -> None:
    grids = [np.array([v if v >= 8 else 0 for v in plane]).reshape(5, 6) for plane in drawn]
    project, level = level_with(*grids)
    rings = outline(project, level)
    wanted = shapely_union(project, level)
    assert sum(r.area for r in rings) == pytest.approx(wanted.area, abs=0.05 + 0.002 * wanted.length)
    assert area_of(rings).symmetric_difference(wanted).area <= 0.05 + 0.005 * wanted.length
    assert all(r.closed and len(r.points) >= 3 for r in rings)
    length = sum(float(np.hypot(*(np.roll(r.points, -1, 0) - r.points).T).sum()) for r in rings)
    assert length == pytest.approx(wanted.length, rel=0.01, abs=2)  # no seam is left inside


@settings(max_examples=20, deadline=None)
@given(st.lists(st.booleans(), min_size=80, max_size=80))
def test_full_tiles_give_the_fewest_corners(drawn: list[bool]) -> None:
    full = NAMES.index("full")
    grid = np.where(np.array(drawn).reshape(8, 10), (full + 1) * 8, 0)
    project, level = level_with(grid)
    rings = outline(project, level)
    filled = np.pad(grid > 0, 1).astype(int)
    corner = filled[1:, 1:] + filled[:-1, 1:] + filled[1:, :-1] + filled[:-1, :-1]
    touching = (corner == 2) & (filled[1:, 1:] == filled[:-1, :-1])
    assert sum(len(r.points) for r in rings) == int(
        ((corner == 1) | (corner == 3)).sum() + 2 * touching.sum()
    )
    assert sum(r.area for r in rings) == (grid > 0).sum() * 256


def test_one_way_edges_merge_with_the_same_side_and_material_only() -> None:
    deck = Box(0, 0, 16, 4, "one-way", "top")
    cells = tuple(
        Cell(name, name, (0, 0, 16, 16), (0, 0), (shape,))
        for name, shape in (
            ("deck", deck), ("ice", replace(deck, friction=0.1)), ("wall", replace(deck, blocks_from="left")),
            ("mine", replace(deck, group="boats")),
        )
    )  # fmt: skip
    project, level = level_with(np.array([[8, 8, 8, 16, 16, 24, 32]]), cells=cells)
    lines = {(r.kind.blocks_from, r.kind.group): r for r in outline(project, level)}
    top = lines["top", ""]
    assert not top.closed and top.points.tolist() == [[-32, -32], [16, -32], [48, -32]]
    assert [m.friction for m in top.materials] == [0.8, 0.1]
    assert lines["left", ""].points.tolist() == [[48, -28], [48, -32]]
    assert lines["top", "boats"].points.tolist() == [[64, -32], [80, -32]]


def test_solids_of_two_materials_are_one_outline_cut_where_they_change() -> None:
    cells = tuple(
        Cell(name, name, (0, 0, 16, 16), (0, 0), (Box(0, 0, 16, 16, friction=f),))
        for name, f in (("a", 0.8), ("b", 0.1))
    )
    project, level = level_with(np.array([[8, 8, 16]]), cells=cells)
    (ring,) = outline(project, level)
    assert ring.area == 3 * 256 and len(ring.points) == 6
    start = ring.points.tolist().index([-32, -32])
    assert [m.friction for m in ring.materials[start : start + 2]] == [0.8, 0.1]


def test_layers_that_are_only_a_picture_or_do_not_move_along_never_count() -> None:
    full = np.full((3, 3), (NAMES.index("full") + 1) * 8)
    for fields in ({"solid": False}, {"parallax": 0.5}):
        project, level = level_with(full, **fields)
        assert outline(project, level) == []
    project, level = level_with(full, offset=(3.0, -2.0))
    (ring,) = outline(project, level)
    assert ring.points.min(0).tolist() == [-29, -34] and ring.area == 9 * 256


def test_a_stroke_costs_only_the_blocks_it_touched_and_gives_the_same() -> None:
    rng = np.random.default_rng(1)
    grid = np.where(rng.random((160, 200)) < 0.5, rng.integers(8, 48, (160, 200)), 0)
    project, level = level_with(grid)
    kept = Outline()
    everything = kept.update(project, level)
    layer = level.layers[0]
    assert isinstance(layer, TileLayer)
    tiles = put(layer.tiles, np.array([100]), np.array([75]), np.array([8], np.uint32))
    painted = replace(level, layers=(replace(layer, tiles=tiles),))
    worked = kept.update(replace(project, levels=(painted,)), painted)
    assert 0 < worked <= 4 < everything
    fresh = outline(project, painted)

    def told(rings: list[Ring]) -> list[tuple[float, ...]]:
        return sorted((r.area, len(r.points), *r.points.min(0).tolist()) for r in rings)

    assert told(kept.rings()) == told(fresh) != told(outline(project, level))
    assert kept.update(project, painted) == 0


def test_a_changed_shape_changes_the_outline() -> None:
    grid = np.full((2, 2), (NAMES.index("full") + 1) * 8)
    project, level = level_with(grid)
    kept = Outline()
    kept.update(project, level)
    cell = CELLS[NAMES.index("full")].id
    lower = change_cells(project, [cell], lambda c: replace(c, shapes=(Box(0, 8, 16, 8),)))
    kept.update(lower, level)
    assert sum(r.area for r in kept.rings()) == 4 * 128


def test_corners_before_and_after_are_told(demo: Demo) -> None:
    project = demo[0]
    kept = Outline()
    kept.update(project, project.levels[0])
    rings = kept.rings()
    after = sum(len(r.points) for r in rings)
    assert 0 < after < kept.corners_before() / 3
    assert outline_faults(rings) == []


def test_steps_gaps_and_spikes_are_found() -> None:
    cells = tuple(
        Cell(f"c{n}", f"c{n}", (0, 0, 16, 16), (0, 0), (shape,))
        for n, shape in enumerate(
            (
                Box(0, 0, 16, 16),
                Box(0, 0.5, 16, 15.5),
                Box(0.5, 0, 15.5, 16),
                Polygon(((0, 8), (16, 7), (16, 9))),
            )
        )
    )
    for value, what in ((16, "step"), (24, "gap"), (32, "spike")):
        project, level = level_with(
            np.array([[8, value, 8]]) if value != 32 else np.array([[0, value, 8]]), cells=cells
        )
        found = outline_faults(outline(project, level))
        assert what in {f.what for f in found} and all(isinstance(f, Fault) for f in found), (what, found)
    project, level = level_with(np.array([[8, 8, 8]]), cells=cells)
    assert outline_faults(outline(project, level)) == []


def test_steps_and_gaps_are_mended_by_whole_px() -> None:
    cells = tuple(
        Cell(f"c{n}", f"c{n}", (0, 0, 16, 16), (0, 0), (shape,))
        for n, shape in enumerate((Box(0, 0, 16, 16), Box(0, 0.25, 16, 15.75)))
    )
    project, level = level_with(np.array([[8, 16, 8]]), cells=cells)
    made = mend(project, level, outline_faults(outline(project, level)))
    assert outline_faults(outline(made, level)) == [] and made.sheets[0].cells[0] is cells[0]
    with pytest.raises(EditError, match="between px"):
        mend(made, level, [Fault("step", (16.0, 0.0))])


@pytest.mark.parametrize("turn", range(8))
def test_spikes_are_mended_by_cutting_their_tip_off(turn: int) -> None:
    """A needle, and a polygon with a needle at one corner whose other side is short."""
    needle = Polygon(((0, 8), (16, 7), (16, 9)))
    ragged = Polygon(((2, 2), (12, 2), (12, 12), (6, 12), (11.6, 2.5)))
    cells = tuple(
        Cell(f"c{n}", f"c{n}", (0, 0, 16, 16), (0, 0), (Box(0, 14, 16, 2), shape))
        for n, shape in enumerate((needle, ragged))
    )
    for value, most in ((8, 4.0), (16, 3.0)):  # px of area that the tips have
        project, level = level_with(np.array([[0, 0, 0], [0, value + turn, 0]]), cells=cells)
        before = outline(project, level)
        faults = outline_faults(before)
        assert "spike" in {f.what for f in faults}
        made = mend(project, level, faults)
        after = outline(made, level)
        assert "spike" not in {f.what for f in outline_faults(after)}
        assert 0 < sum(r.area for r in before) - sum(r.area for r in after) <= most + 1e-6
