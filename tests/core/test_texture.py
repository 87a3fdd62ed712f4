"""Sampling of whole textures: mipmaps, rotation, repeat, bleeding and gutters."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy import ndimage

from rushweed.core.document.model.sheet import Cell, Sheet, Source, Tune
from rushweed.core.tune.sample import Placed, draw, halved, sample, sample_texture, straighten, texture_of
from rushweed.core.tune.scene import Props, Staging, Subject, compose
from rushweed.core.tune.texture import bleeds, gutter_needed, laid_out, px_between, texture_size


def sheet_of_two(spacing: int = 0, **tune: object) -> tuple[Sheet, np.ndarray]:
    """A black tile and a white one of 8 x 8 px, side by side."""
    rgba = np.zeros((8, 16 + spacing, 4), np.uint8)
    rgba[:, :8], rgba[:, 8 + spacing :] = (0, 0, 0, 255), (255, 255, 255, 255)
    cells = (Cell("a", "a", (0, 0, 8, 8), (0, 0)), Cell("b", "b", (8 + spacing, 0, 8, 8), (0, 0)))
    source = Source("art/two.png", "0", (16 + spacing, 8))
    return Sheet("s", "two.png", source, tune=Tune(**tune), cells=cells), rgba  # type: ignore[arg-type]


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.floats(0.2, 6), st.floats(-180, 180), st.booleans())
def test_any_turn_scale_and_offset_agrees_with_a_reference(
    seed: int, scale: float, turn: float, repeat: bool
) -> None:
    rng = np.random.default_rng(seed)
    source = rng.integers(0, 256, (7, 9, 4)).astype(np.uint8)
    source[..., 3] = 255
    texture = texture_of(source, "linear", wrap="repeat" if repeat else "clamp")
    cos, sin = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    y, x = np.mgrid[:20, :20] + 0.5
    ox, oy = rng.uniform(-5, 5, 2)
    u, v = (x * cos + y * sin) / scale + ox, (y * cos - x * sin) / scale + oy
    ours = sample_texture(texture, u, v, 1.0)
    mode = "grid-wrap" if repeat else "nearest"
    for channel in range(3):
        plane = source[..., channel].astype(float)
        wanted = ndimage.map_coordinates(plane, [v - 0.5, u - 0.5], order=1, mode=mode)
        assert np.abs(ours[..., channel] - wanted).max() <= 1


def test_a_mipmap_is_the_mean_of_what_it_covers() -> None:
    level = np.random.default_rng(0).uniform(0, 255, (6, 8, 4)).astype(np.float32)
    half = halved(level)
    assert half.shape == (3, 4, 4)
    assert np.allclose(half[1, 2], level[2:4, 4:6].mean(axis=(0, 1)), atol=1e-3)
    for size in ((1, 1), (5, 3), (7, 1), (9, 4)):
        odd = np.random.default_rng(1).uniform(0, 255, (*size, 4)).astype(np.float32)
        small = halved(odd)
        assert small.shape[:2] == (max(size[0] // 2, 1), max(size[1] // 2, 1))
        assert np.allclose(small.mean(axis=(0, 1)), odd.mean(axis=(0, 1)), atol=1e-2)  # all px weigh alike


def test_mipmaps_are_read_by_how_small_the_art_is_drawn() -> None:
    board = np.zeros((64, 64, 4), np.uint8)
    board[..., :3] = ((np.indices((64, 64)).sum(axis=0) % 2) * 255)[..., None]
    board[..., 3] = 255
    u = v = np.array([20.3])
    plain = sample_texture(texture_of(board, "nearest"), u, v, 8)
    fine = sample_texture(texture_of(board, "linear", mipmaps=True), u, v, 8)
    assert plain[0, 0] in (0, 255) and abs(fine[0, 0] - 127.5) < 1
    between = sample_texture(texture_of(board, "linear", mipmaps=True), u, v, math.sqrt(2))
    first = sample_texture(texture_of(board, "linear", mipmaps=True), u, v, 1)
    assert abs(between[0, 0] - (first[0, 0] + 127.5) / 2) < 1  # half of either level


def test_straight_alpha_lets_hidden_colours_fringe_and_premultiplied_does_not() -> None:
    rgba = np.zeros((1, 2, 4), np.uint8)
    rgba[0, 0], rgba[0, 1] = (200, 200, 200, 255), (0, 0, 0, 0)
    u, v = np.array([1.0]), np.array([0.5])
    straight = straighten(sample_texture(texture_of(rgba, "linear", alpha="straight"), u, v, 1))
    seen = straighten(sample_texture(texture_of(rgba, "linear", alpha="premultiplied"), u, v, 1))
    assert straight[0, 0] == 100 and seen[0, 0] == 200 and straight[0, 3] == seen[0, 3] == 128


def test_repeat_reads_the_other_side() -> None:
    line = np.arange(4, dtype=np.float32).reshape(1, 4, 1)
    u, v = np.array([-0.5, 4.5, 9.5]), np.zeros(3)
    assert sample(line, u, v, "nearest", "repeat")[:, 0].tolist() == [3, 0, 1]
    assert sample(line, u, v, "nearest", "clamp")[:, 0].tolist() == [0, 3, 3]


def drawn(sheet: Sheet, rgba: np.ndarray, scale: float = 1.37, soft: bool = False) -> np.ndarray:
    """The black tile as its texture is drawn, uint8 RGBA."""
    laid = laid_out(sheet, rgba)
    tune = sheet.tune
    texture = texture_of(laid.rgba, tune.filter, tune.mipmaps, tune.wrap, tune.alpha)
    picture = np.zeros((40, 40, 4), np.float32)
    draw(picture, Placed(texture, laid.rects["a"], (0, 0), (3.6, 4.6), scale, soft=soft))
    return straighten(picture)


def test_a_neighbour_bleeds_in_until_a_gutter_is_set() -> None:
    sheet, rgba = sheet_of_two(filter="linear")
    assert drawn(sheet, rgba)[..., 0].max() > 40 and bleeds(sheet)
    cured = replace(sheet, tune=replace(sheet.tune, gutter=gutter_needed(sheet)))
    assert drawn(cured, rgba)[..., 0].max() == 0 and not bleeds(cured)
    assert drawn(replace(sheet, tune=Tune()), rgba)[..., 0].max() == 0  # nearest never


def test_mipmaps_bleed_further_and_need_more() -> None:
    sheet, rgba = sheet_of_two(filter="linear", mipmaps=True)
    assert gutter_needed(sheet) == 4
    one = replace(sheet, tune=replace(sheet.tune, gutter=1))
    assert bleeds(one) and drawn(one, rgba, 0.3)[..., 0].max() > 10
    four = replace(sheet, tune=replace(sheet.tune, gutter=4))
    assert not bleeds(four) and drawn(four, rgba, 0.3)[..., 0].max() < 3


def test_clear_room_between_cells_is_seen() -> None:
    assert px_between(sheet_of_two()[0]) == 0 and px_between(sheet_of_two(3)[0]) == 3
    assert px_between(replace(sheet_of_two()[0], cells=())) is None
    assert bleeds(sheet_of_two(1, filter="linear")[0]) and not bleeds(sheet_of_two(2, filter="linear")[0])
    assert not bleeds(sheet_of_two(filter="linear", wrap="repeat")[0])


def test_soft_edges_cover_parts_of_px() -> None:
    sheet, rgba = sheet_of_two()
    hard, soft = drawn(sheet, rgba)[..., 3], drawn(sheet, rgba, soft=True)[..., 3]
    assert set(np.unique(hard)) == {0, 255} and len(np.unique(soft)) > 2
    assert abs(soft.sum() / 255 - (8 * 1.37) ** 2) < 1  # the very area


@pytest.mark.parametrize("gutter", [0, 1, 4])
@pytest.mark.parametrize("pad", ["none", "four", "power"])
def test_the_layout_holds_every_cell_and_its_padding(gutter: int, pad: str) -> None:
    sheet, rgba = sheet_of_two(3, gutter=gutter, pad=pad)
    laid = laid_out(sheet, rgba)
    for cell in sheet.cells:
        x, y, w, h = laid.rects[cell.id]
        ox, oy, _w, _h = cell.rect
        assert (laid.rgba[y : y + h, x : x + w] == rgba[oy : oy + h, ox : ox + w]).all()
        if gutter:
            assert (laid.rgba[y - gutter : y, x] == rgba[oy, ox]).all()
    sides = laid.rgba.shape[:2]
    if pad == "four":
        assert not any(side % 4 for side in sides)
    elif pad == "power":
        assert not any(side & (side - 1) for side in sides)
    elif not gutter:
        assert laid.rgba is rgba or (laid.rgba == rgba).all()
    assert texture_size(sheet) == (sides[1], sides[0])


# -- the scene ---------------------------------------------------------------------------------------------

PROPS = Props(
    np.full((336, 512, 4), 90, np.uint8),
    np.full((16, 16, 4), 60, np.uint8),
    np.full((32, 24, 4), 255, np.uint8),
)


def standing(rgba: np.ndarray | None = None) -> Subject:
    art = np.zeros((32, 24, 4), np.uint8) if rgba is None else rgba
    art[4:, 8:16] = (255, 0, 0, 255)
    cell = Cell("c", "c", (0, 0, 24, 32), (12, 32))
    sheet = Sheet("s", "s.png", Source("art/s.png", "0", (24, 32)), cells=(cell,))
    return Subject(sheet, cell, texture_of(art), cell.rect)


def red_of(picture: np.ndarray) -> np.ndarray:
    return (picture[..., 0] == 255) & (picture[..., 1] == 0)


def test_art_px_is_the_low_picture_enlarged_whole() -> None:
    scene = compose(PROPS, standing(), (256, 144), Staging(zoom=3, picture="low", turn=20))
    blocks = scene.picture[:144, :255].reshape(48, 3, 85, 3, 4)
    assert (blocks == blocks[:, :1, :, :1]).all() and scene.enlarged == 3
    fine = compose(PROPS, standing(), (256, 144), Staging(zoom=3, turn=20)).picture[:144, :255]
    assert not (fine.reshape(48, 3, 85, 3, 4) == fine.reshape(48, 3, 85, 3, 4)[:, :1, :, :1]).all()


def test_snapping_holds_art_to_whole_px_while_it_drifts() -> None:
    def at(drift: float, snap: bool) -> np.ndarray:
        staging = Staging(zoom=3, drift=(drift, 0), snap=snap, backdrop="dark")
        return red_of(compose(PROPS, standing(), (256, 144), staging).picture)

    assert (at(0.3, True) == at(0, True)).all() and not (at(0.6, True) == at(0, True)).all()
    assert not (at(0.4, False) == at(0, False)).all()


def test_zoom_turn_backdrop_and_figure_are_as_set() -> None:
    plain = compose(PROPS, standing(), (256, 144), Staging(backdrop="light", zoom=1.5))
    assert plain.enlarged == 1.5 and plain.unit_px == 24
    assert tuple(plain.picture[2, 2, :3]) == (243, 238, 226)
    tall = compose(PROPS, standing(), (256, 144), Staging(backdrop="dark", zoom=1.5, figure_units=3))

    def height(picture: np.ndarray) -> int:
        return int((picture[:, :100, 2] == 255).any(axis=1).sum())

    assert (height(plain.picture), height(tall.picture)) == (48, 72)
    turned = compose(PROPS, standing(), (256, 144), Staging(turn=90, backdrop="dark", zoom=1))
    rows = np.flatnonzero(red_of(turned.picture).any(axis=1))
    assert len(rows) == 8  # it lies on its side


def test_what_stands_behind_is_kept_from_frame_to_frame() -> None:
    kept: dict[object, np.ndarray] = {}
    first = compose(PROPS, standing(), (256, 144), Staging(zoom=2, drift=(0.5, 0), snap=False), kept=kept)
    behind = next(iter(kept.values()))
    again = compose(PROPS, standing(), (256, 144), Staging(zoom=2, drift=(1.5, 0), snap=False), kept=kept)
    assert next(iter(kept.values())) is behind and not (first.picture == again.picture).all()
    fresh = compose(PROPS, standing(), (256, 144), Staging(zoom=2, drift=(1.5, 0), snap=False))
    assert (fresh.picture == again.picture).all()
    compose(PROPS, standing(), (256, 144), Staging(zoom=2, backdrop="dark"), kept=kept)
    assert next(iter(kept.values())) is not behind
