"""Outlines from the pixels: exact, within their tolerance, in convex parts; twins and proposals."""

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as arrays
from msgspec.structs import replace
from scipy import ndimage

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, Polygon
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.stamp import orient
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.budget import trace_vertices
from rushweed.core.shape.convex import convex_parts
from rushweed.core.shape.primitives import area, signed_area
from rushweed.core.shape.propose import propose_shapes, shapes_of
from rushweed.core.shape.trace import Traced, trace_masks, trace_outline
from rushweed.core.shape.twins import Twin, Twins, oriented, oriented_shape
from tests.conftest import named

masks = arrays.arrays(bool, st.tuples(st.integers(1, 14), st.integers(1, 14)))


def polygons(traced: Traced) -> list[shapely.Polygon]:
    return [shapely.Polygon(o.outer, o.holes) for o in traced.outlines]


def border(found: list[shapely.Polygon]) -> shapely.Geometry:
    return shapely.union_all([p.boundary for p in found])


@settings(max_examples=100)
@given(st.lists(masks, min_size=1, max_size=5))
def test_the_exact_outline_has_the_area_of_the_pixels_and_is_valid(tiles: list[np.ndarray]) -> None:
    for mask, traced in zip(tiles, trace_masks(tiles), strict=True):
        found = polygons(traced)
        assert all(p.is_valid for p in found)
        assert sum(p.area for p in found) == mask.sum() == shapely.union_all(found).area
        assert traced.error == 0
        for outline in traced.outlines:
            assert signed_area(tuple(map(tuple, outline.outer.tolist()))) > 0  # clockwise on screen
            assert all(signed_area(tuple(map(tuple, hole.tolist()))) < 0 for hole in outline.holes)
            assert outline.outer.dtype.kind == "i"


@settings(max_examples=100)
@given(st.lists(masks, min_size=1, max_size=4), st.sampled_from([0.5, 1.0, 1.5, 3.0]))
def test_the_distance_never_passes_the_tolerance(tiles: list[np.ndarray], tolerance: float) -> None:
    exact = trace_masks(tiles)
    for one, traced in zip(exact, trace_masks(tiles, tolerance), strict=True):
        if not one.outlines:
            assert traced.outlines == ()
            continue
        found = polygons(traced)
        assert all(p.is_valid for p in found)
        there, drawn = border(polygons(one)), border(found)
        corners = shapely.points(shapely.get_coordinates(there))
        assert max(shapely.distance(corners, drawn)) <= traced.error + 1e-9 <= tolerance + 1e-6
        back = shapely.points(shapely.get_coordinates(shapely.segmentize(drawn, 0.5)))
        assert max(shapely.distance(back, there)) <= tolerance + 1e-6
        assert traced.vertices <= one.vertices


@settings(max_examples=100)
@given(masks, st.sampled_from([0.0, 1.0]))
def test_convex_parts_are_convex_apart_and_the_whole(mask: np.ndarray, tolerance: float) -> None:
    for outline in trace_masks([mask], tolerance)[0].outlines:
        whole = shapely.Polygon(outline.outer, outline.holes)
        parts = [
            shapely.Polygon(p)
            for p in convex_parts(outline.outer.tolist(), [h.tolist() for h in outline.holes])
        ]
        assert all(abs(p.convex_hull.area - p.area) < 1e-9 for p in parts)
        assert sum(p.area for p in parts) == pytest.approx(whole.area, abs=1e-6)
        assert shapely.union_all(parts).symmetric_difference(whole).area < 1e-6


def test_holes_and_islands_are_told_apart() -> None:
    mask = np.ones((9, 9), bool)
    mask[2:7, 2:7] = False
    mask[4, 4] = True
    traced = trace_masks([mask])[0]
    assert sorted(len(o.holes) for o in traced.outlines) == [0, 1]
    assert sum(p.area for p in polygons(traced)) == 81 - 25 + 1


def test_px_that_touch_at_a_corner_are_parts_of_their_own_and_holes_may_touch() -> None:
    apart = trace_masks([np.eye(2, dtype=bool)])[0]
    assert len(apart.outlines) == 2
    ring = np.ones((4, 4), bool)
    ring[1, 1] = ring[2, 2] = False
    touching = trace_masks([ring])[0]
    assert [len(o.holes) for o in touching.outlines] == [2]
    open_corner = np.ones((3, 3), bool)
    open_corner[0, 0] = open_corner[1, 1] = False
    assert [len(o.holes) for o in trace_masks([open_corner])[0].outlines] == [1]


def test_a_budget_of_vertices_is_kept_and_its_error_told() -> None:
    ys, xs = np.mgrid[:32, :32]
    disc = (((xs - 15.5) ** 2 + (ys - 15.5) ** 2) < 180).astype(np.uint8) * 255
    exact = trace_outline(disc)
    for vertices in (4, 8, 12, 20):
        found = trace_vertices(disc, vertices)
        assert found.vertices <= vertices < exact.vertices and found.error > 0
    errors = [trace_vertices(disc, v).error for v in (6, 10, 16, 30)]
    assert errors == sorted(errors, reverse=True)
    with pytest.raises(EditError, match="too few"):
        trace_vertices(disc, 2)
    with pytest.raises(EditError, match="Nothing in it is solid"):
        trace_outline(np.zeros((4, 4), np.uint8))
    assert trace_outline(disc // 4, 200 // 4).vertices == exact.vertices


@pytest.mark.parametrize("seed", range(8))
def test_a_budget_refuses_only_what_is_impossible(seed: int) -> None:
    """Torn shapes with parts and holes: three vertices a ring are always enough."""
    rng = np.random.default_rng(seed)
    rough = ndimage.gaussian_filter(rng.random((24, 24)), 1.6)
    alpha = ((rough > 0.5) * 255).astype(np.uint8)
    exact = trace_outline(alpha)
    counts = [3 * (1 + len(o.holes)) for o in exact.outlines]
    for each, least in ((False, sum(counts)), (True, max(counts))):
        for budget in (least, least + 2, least + 7):
            if any(o.holes for o in exact.outlines) and budget < least + 7:
                continue  # what lies around holes may need a few more
            found = trace_vertices(alpha, budget, 128, each)
            used = [sum(map(len, (o.outer, *o.holes))) for o in found.outlines]
            assert (max(used) if each else sum(used)) <= budget and len(used) == len(counts)
            parts = polygons(found)
            assert all(p.is_valid and p.area > 0 for p in parts)
            assert all(a.intersection(b).area == 0 for a, b in itertools.combinations(parts, 2))
        with pytest.raises(EditError, match=f"at least {least}"):
            trace_vertices(alpha, least - 1, 128, each)


def test_many_tiles_of_several_sizes_are_traced_at_once() -> None:
    rng = np.random.default_rng(2)
    tiles = [rng.random((h, w)) < 0.6 for h, w in ((4, 9), (16, 16), (1, 1), (16, 3), (7, 7))]
    together = trace_masks(tiles, 1.0)
    for tile, traced in zip(tiles, together, strict=True):
        alone = trace_masks([tile], 1.0)[0]
        assert sorted(p.wkt for p in polygons(alone)) == sorted(p.wkt for p in polygons(traced))
    assert trace_masks([]) == []


# -- twins ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize("way", range(8))
def test_twins_are_found_in_every_orientation_and_colour(way: int) -> None:
    rng = np.random.default_rng(way)
    tile = np.zeros((8, 8, 4), np.uint8)
    tile[2:, :5] = rng.integers(1, 255, (6, 5, 4))
    tile[2:, :5, 3] = 255
    other = np.stack([oriented(tile[..., c], way) for c in range(4)], axis=-1)
    other = np.ascontiguousarray(other)
    assert (other == orient(tile, way)).all()
    swapped = other.copy()
    swapped[other[..., 3] > 0, :3] = 255 - other[other[..., 3] > 0, :3]
    twins = Twins([tile, other, swapped])
    assert twins.of(1) == [0, 2] and sorted(twins.of(2)) == [0, 1]
    assert twins.twin(1, 0) == Twin(0, way, "same" if way == 0 else "mirrored or turned")
    recoloured = twins.twin(2, 0)
    assert recoloured is not None and recoloured.kind == "recoloured"


def test_clear_and_lonely_tiles_have_no_twins() -> None:
    blank = np.zeros((8, 8, 4), np.uint8)
    dot = blank.copy()
    dot[1, 2] = 255
    twins = Twins([blank, blank, dot])
    assert [twins.of(n) for n in range(3)] == [[], [], []]
    assert twins.twin(2, 0) is None


@given(st.integers(0, 7))
def test_a_shape_is_turned_as_its_tile_is(way: int) -> None:
    mask = np.zeros((8, 8), bool)
    mask[3:, :4] = True
    shape = shapes_of(trace_masks([mask])[0])[0]
    turned = shapes_of(trace_masks([oriented(mask, way)])[0])[0]
    assert replace(oriented_shape(shape, way, (8, 8)), blocks_from="top") == turned


# -- proposals -----------------------------------------------------------------------------------------


def test_the_rest_of_a_sheet_gets_shapes_from_twins_and_pixels(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    sheet = named(project, "marsh.png")
    made = propose_shapes(sheet.cells, stock.pixels(sheet))
    bare = [c for c in sheet.cells if not c.shapes]
    assert len(made) == len(bare)
    pixels = stock.pixels(sheet)
    for proposed in made:
        cell = next(c for c in bare if c.id == proposed.cell)
        x, y, w, h = cell.rect
        solid = int((pixels[y : y + h, x : x + w, 3] >= 128).sum())
        if not proposed.from_twin:
            assert abs(sum(area(s) for s in proposed.shapes) - solid) <= max(0.35 * solid, 20)


def test_a_twin_with_shapes_counts_more_than_the_pixels() -> None:
    rgba = np.zeros((8, 24, 4), np.uint8)
    ramp = np.tri(8, dtype=bool)
    rgba[:, :8][ramp] = (90, 70, 50, 255)
    rgba[:, 8:16] = rgba[:, :8][:, ::-1]
    rgba[:, 16:] = (90, 70, 50, 255)
    cells = [Cell(f"c{n}", f"tile_{n}", (n * 8, 0, 8, 8), (0, 0)) for n in range(3)]
    cells[0] = Cell(
        "c0", "tile_0", (0, 0, 8, 8), (0, 0), (Polygon(((0, 0), (8, 8), (0, 8)), "one-way", "left"),)
    )
    made = propose_shapes(cells, rgba)
    assert [p.cell for p in made] == ["c1", "c2"]
    assert made[0].from_twin and made[0].why == "twin of tile_0, mirrored or turned"
    assert made[0].shapes[0].role == "one-way" and made[0].shapes[0].blocks_from == "right"
    assert made[1].shapes == (Box(0, 0, 8, 8),) and made[1].why == "full"
    assert propose_shapes(cells, rgba, only={"c2"})[0].cell == "c2"


def test_art_with_a_hole_comes_in_convex_parts() -> None:
    mask = np.ones((9, 9), bool)
    mask[3:6, 3:6] = False
    shapes = shapes_of(trace_masks([mask])[0])
    assert len(shapes) > 1 and sum(area(s) for s in shapes) == 72
