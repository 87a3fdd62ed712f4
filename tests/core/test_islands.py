"""Free-form pieces."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage

from rushweed.core.animate.register import pixels_of_cell
from rushweed.core.cut.edit import cut_sheet, remove_cells
from rushweed.core.cut.islands import (
    equal_cells,
    joined,
    pieces,
    propose_join,
    reading_order,
    with_neighbours,
)
from rushweed.core.cut.propose import ink_of, propose
from rushweed.core.cut.take import choices
from rushweed.core.document.errors import CutError
from rushweed.core.document.model.cut import CountCut, GridCut, PiecesCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet, Source
from rushweed.core.pixels.cache import PixelCache
from tests.conftest import named


def sheet(*boxes: tuple[int, int, int, int], size: tuple[int, int] = (100, 80)) -> np.ndarray:
    mask = np.zeros(size[::-1], bool)
    for x, y, w, h in boxes:
        mask[y : y + h, x : x + w] = True
    return mask


@settings(max_examples=50)
@given(st.integers(0, 100_000), st.floats(0.02, 0.5))
def test_pieces_are_the_connected_parts(seed: int, share: float) -> None:
    mask = np.random.default_rng(seed).random((40, 50)) < share
    found = pieces(mask)
    labels, count = ndimage.label(mask, np.ones((3, 3)))
    expected = {(s[1].start, s[0].start, s[1].stop - s[1].start, s[0].stop - s[0].start)
                for s in ndimage.find_objects(labels)}  # fmt: skip
    assert len(found) == count and set(found) == expected


@settings(max_examples=40)
@given(st.integers(0, 100_000), st.integers(1, 8))
def test_joined_boxes_are_farther_apart_than_the_join_distance(seed: int, join: int) -> None:
    rng = np.random.default_rng(seed)
    left, top = rng.integers(0, 90, (2, 25))
    boxes = np.stack((left, top, left + rng.integers(1, 9, 25), top + rng.integers(1, 9, 25)), axis=1)
    made = joined(boxes, join)
    for i in range(len(made)):
        for j in range(i):
            a, b = made[i], made[j]
            gap = max(a[0] - b[2], b[0] - a[2], a[1] - b[3], b[1] - a[3])
            assert gap > join
    for x0, y0, x1, y1 in boxes:
        assert any(a <= x0 and b <= y0 and c >= x1 and d >= y1 for a, b, c, d in made)


def test_parts_within_the_join_distance_are_one_and_specks_are_dropped() -> None:
    mask = sheet((10, 10, 4, 4), (16, 10, 4, 4), (40, 10, 6, 6), (80, 70, 1, 1))
    assert len(pieces(mask)) == 4
    assert pieces(mask, join=2, least=2, any_size=True) == [(10, 10, 10, 4), (40, 10, 6, 6)]


def test_small_parts_join_what_is_nearest_by_px_and_large_ones_never_join() -> None:
    mask = sheet((10, 10, 12, 12), (24, 10, 12, 12), (11, 24, 2, 2), (60, 60, 12, 12), (75, 62, 2, 2))
    assert len(pieces(mask)) == 5
    assert pieces(mask, join=4) == [(10, 10, 12, 16), (24, 10, 12, 12), (60, 60, 17, 12)]
    corner = np.zeros((40, 40), bool)
    corner[5:30, 5] = corner[29, 5:30] = True  # a hook, whose box holds what is far from it
    corner[8, 25] = True
    assert len(pieces(corner, join=6)) == 2, "boxes that overlap are no reason to join"


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 100_000), st.integers(1, 9))
def test_joining_keeps_every_px_and_never_makes_more_pieces(seed: int, join: int) -> None:
    rng = np.random.default_rng(seed)
    mask = rng.random((60, 60)) < 0.02
    for _ in range(5):
        x, y = rng.integers(0, 50, 2)
        mask[y : y + rng.integers(5, 10), x : x + rng.integers(5, 10)] = True
    one, other = pieces(mask), pieces(mask, join)
    assert len(other) <= len(one)
    covered = np.zeros_like(mask)
    for x, y, w, h in other:
        covered[y : y + h, x : x + w] = True
    assert covered[mask].all()


@pytest.mark.parametrize("seed", range(8))
def test_letters_under_a_row_of_marks_and_packed_things_are_counted(seed: int) -> None:
    from bench.kinds import draw

    for made in ("font", "packed"):
        drawn = draw(made, seed + 100)
        mask = ink_of(drawn.rgba)[0]
        found = len(pieces(mask, propose_join(mask)))
        assert abs(found - drawn.pieces) <= 0.1 * drawn.pieces + 1, (made, found, drawn.pieces)
    assert not ink_of(draw("font", seed).rgba)[0][0].any(), "marks are no art"


def test_reading_order_follows_ragged_rows() -> None:
    rects = [(50, 12, 8, 8), (10, 8, 8, 12), (30, 10, 8, 8), (12, 40, 8, 8), (40, 44, 8, 10)]
    assert reading_order(rects) == [rects[1], rects[2], rects[0], rects[3], rects[4]]


def test_equal_cells_hold_their_pieces_and_stay_on_the_sheet() -> None:
    rects = [(0, 4, 10, 6), (30, 2, 6, 12)]
    feet = equal_cells(rects, (60, 20), "feet")
    assert [cell.rect for cell in feet] == [(0, 0, 10, 12), (28, 2, 10, 12)]
    for (cell, _shift), piece in zip(equal_cells(rects, (60, 20), "centre"), rects, strict=True):
        assert cell[0] <= piece[0] and cell[0] + cell[2] >= piece[0] + piece[2] and min(cell[:2]) >= 0


@pytest.mark.parametrize("fit", ["centre", "feet"])
def test_pieces_at_the_edge_of_the_sheet_align_with_the_others(fit: str) -> None:
    """Pieces of several sizes, some at the very edge: their art stands alike in every cell."""
    rgba = np.zeros((60, 120, 4), np.uint8)
    boxes = [(0, 0, 10, 8), (30, 20, 6, 20), (112, 2, 8, 12), (60, 50, 14, 10), (100, 40, 20, 20)]
    for n, (x, y, w, h) in enumerate(boxes):
        rgba[y : y + h, x : x + w] = (40 * n + 40, 90, 60, 255)
    sheet = Sheet("s", "s.png", Source("art/s.png", "0", (120, 60)))
    cut = PiecesCut(0, fit=fit)  # type: ignore[arg-type]
    cells = cut_sheet(Project("p", "P", (sheet,)), "s", cut, rgba).sheets[0].cells
    assert len({cell.rect[2:] for cell in cells}) == 1
    for cell in cells:
        ink = pixels_of_cell(rgba, cell)[..., 3] > 0
        ys, xs = np.nonzero(ink)
        left, right = xs.min() + cell.shift[0], xs.max() + 1 + cell.shift[0]
        assert abs((left + right) - cell.rect[2]) <= 1
        bottom, top = ys.max() + 1 + cell.shift[1], ys.min() + cell.shift[1]
        assert bottom == cell.rect[3] if fit == "feet" else abs(top + bottom - cell.rect[3]) <= 1
    again = cut_sheet(cut_sheet(Project("p", "P", (sheet,)), "s", cut, rgba), "s", PiecesCut(0), rgba)
    assert all(cell.shift == (0, 0) for cell in again.sheets[0].cells)


def test_cells_that_hold_a_neighbours_art_are_told() -> None:
    mask = np.zeros((40, 60), bool)
    boxes = [(2, 2, 20, 20), (24, 10, 4, 4), (40, 20, 10, 16)]
    for x, y, w, h in boxes:
        mask[y : y + h, x : x + w] = True
    assert with_neighbours(mask, boxes, equal_cells(boxes, (60, 40), "centre")) == [1]


def test_too_many_pieces_are_refused() -> None:
    mask = np.zeros((400, 400), bool)
    mask[::2, ::2] = True
    with pytest.raises(CutError, match="40,000"):
        pieces(mask)


def test_the_lamps_fall_into_their_pieces_and_sparks_hold_together(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    lamps = named(project, "lamps.png")
    mask = ink_of(stock.pixels(lamps))[0]
    assert len(pieces(mask)) == 17
    assert (
        len(pieces(mask, propose_join(mask))) == len(pieces(mask, 8)) == 11
    )  # eight things and three sparks of three blobs each
    made = cut_sheet(project, lamps.id, PiecesCut(8, fit="feet"), stock.pixels(lamps))
    cells = named(made, "lamps.png").cells
    assert len(cells) == 11 and len({c.rect[2:] for c in cells}) == 1
    fewer = remove_cells(made, lamps.id, [cells[0].id])
    assert named(fewer, "lamps.png").cells == cells[1:]
    again = cut_sheet(made, lamps.id, PiecesCut(8), stock.pixels(lamps))
    assert {c.id for c in named(again, "lamps.png").cells} == {c.id for c in cells}


def test_a_keyed_sheet_falls_apart_by_its_background(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    eel = stock.pixels(named(project, "eel.bmp"))
    mask, colour, opaque = ink_of(eel)
    assert colour == (255, 0, 255) and not opaque
    assert len(pieces(mask, propose_join(mask))) == 6


@pytest.mark.parametrize(
    ("name", "kind"),
    [("boardwalk.png", GridCut), ("wren.png", GridCut), ("lamps.png", PiecesCut), ("crate.png", CountCut)],
)
def test_the_best_cut_is_a_grid_pieces_or_one_picture(
    demo: tuple[Project, PixelCache], name: str, kind: type
) -> None:
    project, stock = demo
    assert isinstance(choices(stock.pixels(named(project, name))).best, kind)


def test_proposals_find_the_grid_of_made_up_sheets_of_every_kind() -> None:
    from bench.sheets import KINDS, sheets

    right: dict[str, list[bool]] = {kind: [] for kind in KINDS}
    for made in sheets(72):
        grids = propose(made.rgba).grids
        one_row = made.kind == "strip"
        right[made.kind].append(
            bool(grids) and (grids[0].cell[0] == made.cell[0] if one_row else grids[0].cell == made.cell)
        )
    share = {kind: sum(r) / len(r) for kind, r in right.items()}
    assert sum(sum(r) for r in right.values()) / 72 >= 0.85, share
    assert min(share.values()) >= 0.6, share


def test_one_thing_is_one_picture_however_its_lines_run() -> None:
    """A single figure with straight lines inside is not cut by a grid that happens to fit a few of them."""
    rgba = np.zeros((48, 48, 4), np.uint8)
    rgba[4:44, 6:42] = (200, 200, 190, 255)
    rgba[4:44, 20:24, :3] = (60, 90, 60)
    rgba[14:18, 6:42, :3] = rgba[28:32, 6:42, :3] = (90, 120, 90)
    found = choices(rgba)
    assert found.pieces == 1 and found.single and found.best == CountCut(1, 1)
    figures = np.concatenate([rgba] * 4, axis=1)
    assert isinstance(choices(figures).best, GridCut) and not choices(figures).single
