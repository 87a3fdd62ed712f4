"""Units, pivots and the sampler."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy import ndimage

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Filter, Sheet
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.tune.edit import (
    PLACES,
    differing_stands,
    parse_pivot,
    pivot_drift,
    place_name,
    set_pivot_px,
    set_pivot_share,
    tune_sheets,
)
from rushweed.core.tune.sample import Placed, draw, premultiply, sample, straighten, texture_of
from rushweed.core.tune.scene import Props, Subject, compose, is_floor
from rushweed.core.tune.units import fraction_text, plain, size_units, snap_step
from tests.conftest import named


def test_units_and_the_snap_step() -> None:
    assert size_units((24, 32), 16) == (1.5, 2)
    assert snap_step(16) == 0.0625 and fraction_text(snap_step(16)) == "1/16"
    assert (plain(1.50), plain(-0.001), plain(3.14159, 3)) == ("1.5", "0", "3.142")


@pytest.mark.parametrize("ppu", [0, -1, float("nan"), float("inf"), 5000])
def test_impossible_pixels_per_unit_are_refused(demo: tuple[Project, PixelCache], ppu: float) -> None:
    project, _ = demo
    with pytest.raises(EditError):
        tune_sheets(project, [project.sheets[0].id], ppu=ppu)


def test_many_sheets_are_tuned_at_once_and_the_rest_is_shared(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    ids = [s.id for s in project.sheets[:3]]
    made = tune_sheets(project, ids, ppu=32, filter="linear")
    assert all((s.tune.ppu, s.tune.filter) == (32, "linear") for s in made.sheets[:3])
    assert all(a is b for a, b in zip(made.sheets[3:], project.sheets[3:], strict=True))
    assert made.sheets[0].cells is project.sheets[0].cells
    assert tune_sheets(made, ids, ppu=32) is made


@pytest.mark.parametrize("name", PLACES)
def test_the_nine_places_stand_where_they_say(demo: tuple[Project, PixelCache], name: str) -> None:
    project, _ = demo
    sheet = named(project, "wren.png")
    made = named(tune_sheets(project, [sheet.id], pivot=PLACES[name]), "wren.png")
    assert {c.pivot for c in made.cells} == {(PLACES[name][0] * 24, PLACES[name][1] * 32)}
    assert {place_name(c) for c in made.cells} == {name}


def test_pivots_in_px_for_many_and_their_drift(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    cells = named(project, "wren.png").cells
    made = set_pivot_px(project, [cells[0].id, cells[1].id], x=10)
    made = set_pivot_px(made, [cells[1].id], y=30.5)
    new = named(made, "wren.png").cells
    assert (new[0].pivot, new[1].pivot, new[2]) == ((10, 32), (10, 30.5), cells[2])
    assert pivot_drift(new[:3]) == (2, 1.5) and pivot_drift([]) == (0, 0)
    half = named(set_pivot_share(made, [cells[0].id, cells[1].id], (None, 0.5)), "wren.png").cells
    assert [c.pivot for c in half[:2]] == [(10, 16), (10, 16)]
    with pytest.raises(EditError):
        set_pivot_share(project, [cells[0].id], (float("nan"), 0))


def test_pivots_as_typed() -> None:
    assert parse_pivot("bottom-left") == ((0, 1), True)
    assert parse_pivot("8, 15.5") == ((8, 15.5), False)
    with pytest.raises(EditError):
        parse_pivot("somewhere")


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000))
def test_linear_agrees_with_a_reference_within_one_level(seed: int) -> None:
    rng = np.random.default_rng(seed)
    source = rng.integers(0, 256, (rng.integers(1, 9), rng.integers(1, 9), 1)).astype(np.float32)
    u = rng.uniform(-3, source.shape[1] + 3, 50)
    v = rng.uniform(-3, source.shape[0] + 3, 50)
    ours = sample(source, u, v, "linear")[:, 0]
    reference = ndimage.map_coordinates(source[..., 0], [v - 0.5, u - 0.5], order=1, mode="nearest")
    assert np.abs(ours - reference).max() <= 1


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000))
def test_nearest_takes_the_texel_the_point_lies_in(seed: int) -> None:
    rng = np.random.default_rng(seed)
    source = rng.integers(0, 256, (5, 7, 4)).astype(np.float32)
    u, v = rng.uniform(-2, 9, 40), rng.uniform(-2, 7, 40)
    texels = sample(source, u, v, "nearest")
    for k in range(40):
        x, y = min(max(int(np.floor(u[k])), 0), 6), min(max(int(np.floor(v[k])), 0), 4)
        assert (texels[k] == source[y, x]).all()


def test_whole_enlargement_with_nearest_repeats_every_pixel() -> None:
    rng = np.random.default_rng(2)
    sheet = rng.integers(0, 256, (6, 5, 4)).astype(np.uint8)
    sheet[..., 3] = 255
    picture = np.zeros((18, 15, 4), np.float32)
    draw(picture, Placed(texture_of(sheet), (0, 0, 5, 6), (0, 0), (0, 0), 3))
    assert (straighten(picture) == sheet.repeat(3, 0).repeat(3, 1)).all()


def test_a_quarter_turn_turns_about_the_pivot() -> None:
    sheet = np.zeros((4, 4, 4), np.uint8)
    sheet[0, 0] = (255, 0, 0, 255)
    picture = np.zeros((8, 8, 4), np.float32)
    draw(picture, Placed(texture_of(sheet), (0, 0, 4, 4), (2, 2), (4, 4), 1, turn=90))
    assert np.argwhere(straighten(picture)[..., 3] > 0).tolist() == [[2, 5]]


def test_linear_bleeds_from_the_neighbour_and_nearest_does_not() -> None:
    sheet = np.zeros((4, 8, 4), np.uint8)
    sheet[:, :4] = (0, 0, 0, 255)
    sheet[:, 4:] = (255, 255, 255, 255)

    def edge(filter: Filter) -> int:
        picture = np.zeros((12, 12, 4), np.float32)
        draw(picture, Placed(texture_of(sheet, filter), (0, 0, 4, 4), (0, 0), (0, 0), 3))
        return int(straighten(picture)[6, 11, 0])

    assert edge("nearest") == 0 and edge("linear") > 60


def test_clear_texels_lend_no_colour() -> None:
    sheet = np.zeros((1, 2, 4), np.uint8)
    sheet[0, 0], sheet[0, 1] = (200, 100, 50, 255), (0, 255, 0, 0)
    texel = straighten(sample(premultiply(sheet), np.array([1.0]), np.array([0.5]), "linear"))
    assert texel[0, :3].tolist() == [200, 100, 50] and abs(int(texel[0, 3]) - 128) <= 1


def test_the_scene_stands_the_selection_on_its_pivot_beside_one_unit(
    demo: tuple[Project, PixelCache],
) -> None:
    project, stock = demo
    props = Props(
        np.full((336, 512, 4), 255, np.uint8),
        np.full((16, 16, 4), 255, np.uint8),
        np.full((32, 24, 4), 255, np.uint8),
    )
    sheet = named(project, "wren.png")

    def subject(sheet: Sheet) -> Subject:
        return Subject(sheet, sheet.cells[0], texture_of(stock.pixels(sheet)), sheet.cells[0].rect)

    scene = compose(props, subject(sheet), (256, 144))
    assert scene.picture.shape == (144, 256, 4) and not scene.floor
    assert scene.unit_px == 48 and scene.enlarged == 3
    assert scene.yard[2] - scene.yard[1] == 48
    deck = named(project, "boardwalk.png")
    assert is_floor(deck.cells[1], stock.pixels(deck))
    double = named(tune_sheets(project, [sheet.id], ppu=32), "wren.png")
    assert compose(props, subject(double), (256, 144)).enlarged == 1


def test_of_cells_that_stand_alike_one_is_looked_at() -> None:
    alike = [Cell(f"c{n}", f"c{n}", (n * 8, 0, 8, 8), (4, 8)) for n in range(5)]
    other = [replace(alike[0], pivot=(0, 0)), replace(alike[0], rect=(0, 0, 8, 9))]
    found = differing_stands([*alike, *other])
    assert [(c.pivot, c.rect[2:]) for c in found] == [((4, 8), (8, 8)), ((0, 0), (8, 8)), ((4, 8), (8, 9))]
    assert pivot_drift(found) == pivot_drift([*alike, *other]) and differing_stands([]) == []
