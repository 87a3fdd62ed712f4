"""The demo: its art is drawn the same everywhere, and its levels are what they should be."""

import numpy as np
import pytest
from PIL import Image

from rushweed.core.document.model.level import BackdropLayer, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.level.chunks import region
from rushweed.core.level.edit import gone_tiles
from rushweed.core.pixels.cache import PixelCache
from rushweed.demo import ART
from rushweed.demo.art import pictures
from rushweed.demo.plate import PALETTE, RGBA, Plate, chance
from tests.conftest import named

DRAWN = pictures()


@pytest.mark.parametrize("name", DRAWN)
def test_the_pictures_in_the_package_are_those_the_generator_draws(name: str) -> None:
    with Image.open(ART / name) as image:
        assert (np.array(image.convert("RGBA" if DRAWN[name].shape[2] == 4 else "RGB")) == DRAWN[name]).all()


def test_the_palette_has_24_to_32_colours_and_the_art_keeps_to_it() -> None:
    assert 24 <= len(PALETTE) - 1 <= 32
    known = {tuple(c) for c in RGBA[1:, :3].tolist()}
    for name, pixels in DRAWN.items():
        if pixels.shape[2] == 4:
            used = {tuple(c) for c in np.unique(pixels[pixels[..., 3] > 0][:, :3], axis=0).tolist()}
            assert used <= known, name


def test_the_sky_repeats_without_a_seam_and_the_enlarged_lamps_are_the_lamps() -> None:
    sky = DRAWN["sky.png"].astype(int)
    seam = np.abs(sky[:, 0] - sky[:, -1]).mean()
    usual = np.abs(np.diff(sky, axis=1)).mean()
    assert seam < 4 * usual
    assert (DRAWN["lamps_4x.png"][::4, ::4] == DRAWN["lamps.png"]).all()


def test_chance_is_even_and_fixed() -> None:
    values = np.array([chance(x, y, 3) for x in range(60) for y in range(60)])
    assert 0.46 < values.mean() < 0.54 and values.min() >= 0 and values.max() < 1
    assert chance(5, 6, 7) == chance(5, 6, 7)


def test_a_plate_cuts_off_what_lies_outside() -> None:
    plate = Plate(4, 3)
    plate.text(2, 1, "hhh\nhhh\nhhh")
    plate.line(-3, -3, 9, 9, "d")
    plate.box(-5, 2, 7, 9, "g")
    assert plate.at(3, 1) == "h" and plate.at(0, 2) == "g" and plate.at(9, 9) == "."
    other = Plate(4, 3)
    other.paste(plate, 0, 0, mirrored=True)
    assert (other.ink == plate.mirrored().ink).all()


def test_wrens_walk_drifts_by_one_or_two_px(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    sheet = named(project, "wren.png")
    art = stock.pixels(sheet)
    lefts = []
    for cell in (c for c in sheet.cells if c.name.startswith("walk")):
        x, y, w, h = cell.rect
        poles = np.argwhere((art[y + 18 : y + 22, x : x + w, :3] == (0x8F, 0x70, 0x58)).all(axis=-1))
        lefts.append(int(poles[:, 1].max()))
    assert 1 <= max(lefts) - min(lefts) <= 3


def test_the_levels_are_large_enough_and_whole(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    pier, saltings = project.levels
    assert pier.view == "side" and pier.bounds[2] >= 60 and pier.bounds[3] >= 20
    filled = [x for x in pier.layers if isinstance(x, TileLayer) and region(x.tiles, *pier.bounds).any()]
    assert len(filled) >= 2 and any(isinstance(x, BackdropLayer) for x in pier.layers)
    assert saltings.view == "top" and not gone_tiles(project, pier) and not gone_tiles(project, saltings)
