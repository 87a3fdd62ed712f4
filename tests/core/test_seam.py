"""Tiles that repeat and tiles that do not."""

import numpy as np

from rushweed.core.cut.seam import repeated, seam
from rushweed.core.document.model.project import Project
from rushweed.core.pixels.cache import PixelCache
from tests.conftest import named


def cell_pixels(demo: tuple[Project, PixelCache], sheet: str, name: str) -> np.ndarray:
    project, stock = demo
    found = named(project, sheet)
    x, y, w, h = next(c for c in found.cells if c.name == name).rect
    return stock.pixels(found)[y : y + h, x : x + w]


def test_an_even_tile_has_no_seam_and_a_ramp_of_grey_has_one() -> None:
    even = np.full((8, 8, 4), 255, np.uint8)
    assert seam(even, 0).seamless and seam(even, 1).seamless
    ramp = even.copy()
    ramp[..., :3] = (np.arange(8) * 30)[None, :, None]
    assert not seam(ramp, 0).seamless and seam(ramp, 0).edge == 210 and seam(ramp, 0).inside == 30
    assert seam(ramp, 1).seamless


def test_a_wave_that_closes_has_no_seam() -> None:
    wave = np.full((4, 16, 4), 255, np.uint8)
    wave[..., :3] = (127 + 100 * np.sin(np.arange(16) / 16 * 2 * np.pi)).astype(np.uint8)[None, :, None]
    assert seam(wave, 0).seamless


def test_edges_that_never_meet_are_not_joined(demo: tuple[Project, PixelCache]) -> None:
    deck = cell_pixels(demo, "boardwalk.png", "deck_mid_a")
    assert seam(deck, 0).seamless and not seam(deck, 1).joined and not seam(deck, 1).seamless
    left = cell_pixels(demo, "boardwalk.png", "deck_left")
    assert not seam(left, 0).joined


def test_water_repeats_both_ways(demo: tuple[Project, PixelCache]) -> None:
    water = cell_pixels(demo, "marsh.png", "water_0")
    assert seam(water, 0).seamless and seam(water, 1).seamless


def test_the_picture_of_repeats_is_the_tile_nine_times() -> None:
    tile = np.random.default_rng(1).integers(0, 255, (4, 6, 4)).astype(np.uint8)
    picture = repeated(tile)
    assert picture.shape == (12, 18, 4) and (picture[4:8, 6:12] == tile).all()


def test_one_pixel_has_no_inside() -> None:
    assert seam(np.full((1, 1, 4), 255, np.uint8), 0).seamless
