"""Preparation: key colours, true px, turning, recolouring; cells and shapes follow their art."""

import io
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from PIL import Image
from scipy import ndimage

from rushweed.core.cut.edit import cut_sheet
from rushweed.core.cut.transform_cells import set_steps
from rushweed.core.document.edit import put_sheet
from rushweed.core.document.errors import PictureError
from rushweed.core.document.model.cut import GridCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, Polygon
from rushweed.core.document.model.steps import (
    Enlarge,
    Fit,
    KeyColour,
    Mirror,
    Recolour,
    Reduce,
    ReplaceColour,
    Step,
    Turn,
)
from rushweed.core.pixels import fringe as fringes
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.copies import recoloured_copy
from rushweed.core.pixels.gather import Gathering, with_sure_key
from rushweed.core.pixels.key import key_candidates, keyed, propose_key
from rushweed.core.pixels.licence import asks_for_credit, changes_of, credit_lines, licence_fault
from rushweed.core.pixels.prepare import Affine, prepared, recoloured, size_after, way_of
from rushweed.core.pixels.reload import what_moved
from rushweed.core.pixels.series import Batch
from rushweed.core.pixels.true_pixel import reduced, true_pixel
from rushweed.core.shape.edit import set_shapes
from tests.conftest import named, project_with, sheet_of_size

PALETTE = np.array(
    [(24, 28, 40), (60, 72, 90), (120, 92, 60), (188, 150, 84), (236, 220, 170), (70, 120, 80)], np.uint8
)


def sprites(seed: int, width: int = 96, height: int = 64) -> np.ndarray:
    """Blobs of pixel art on a clear ground."""
    rng = np.random.default_rng(seed)
    rgba = np.zeros((height, width, 4), np.uint8)
    for top in range(2, height - 14, 16):
        for left in range(2, width - 14, 16):
            w, h = rng.integers(6, 13, 2)
            body = PALETTE[rng.integers(0, len(PALETTE), (h, w))]
            keep = rng.random((h, w)) < 0.9
            rgba[top : top + h, left : left + w][keep] = np.dstack((body, np.full((h, w), 255, np.uint8)))[
                keep
            ]
    return rgba


def on_ground(rgba: np.ndarray, colour: tuple[int, int, int]) -> np.ndarray:
    """A picture laid on one colour: half clear px mix with it."""
    alpha = rgba[..., 3:] / 255.0
    mixed = np.rint(rgba[..., :3] * alpha + np.array(colour) * (1 - alpha)).astype(np.uint8)
    return np.dstack((mixed, np.full(rgba.shape[:2], 255, np.uint8)))


# -- key colour ----------------------------------------------------------------------------------------


def test_a_sure_key_colour_is_the_first_step_of_what_is_gathered(tmp_path: Path) -> None:
    keyed_art, scene = on_ground(sprites(1), (255, 0, 255)), np.zeros((64, 96, 4), np.uint8)
    scene[..., :3] = np.random.default_rng(2).integers(0, 256, (64, 96, 3))
    scene[..., 3] = 255
    pictures = {"keyed": keyed_art, "scene": scene, "clear": sprites(2)}
    for name, rgba in pictures.items():
        Image.fromarray(rgba).save(tmp_path / f"{name}.png")
    gathering = Gathering(tmp_path / "p", project_with())
    got = {n: with_sure_key(gathering.take(Batch((tmp_path / f"{n}.png",), n))[0]) for n in pictures}
    sheets = {name: one.sheet for name, one in got.items()}
    assert all(sheet is not None for sheet in sheets.values())
    assert sheets["keyed"].source.steps == (KeyColour((255, 0, 255)),)  # type: ignore[union-attr]
    assert got["keyed"].note == "#ff00ff is taken as clear"
    for name in ("scene", "clear"):
        assert sheets[name].source.steps == () and got[name].note == ""  # type: ignore[union-attr]


@pytest.mark.parametrize("colour", [(255, 0, 255), (0, 255, 0), (0, 0, 0), (255, 255, 255), (92, 148, 252)])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_the_key_colour_of_a_sheet_is_proposed(colour: tuple[int, int, int], seed: int) -> None:
    found = key_candidates(on_ground(sprites(seed), colour))[0]
    assert found.colour == colour and "of the border" in found.evidence and found.chance > 0.1


def test_only_a_sure_key_colour_is_taken_without_asking() -> None:
    assert propose_key(on_ground(sprites(1), (255, 0, 255))) is not None
    photo = np.full((64, 96, 4), 255, np.uint8)
    y, x = np.mgrid[0:64, 0:96]
    photo[..., 0], photo[..., 1], photo[..., 2] = 90 + y, 120 + x // 2, 160 - y
    assert propose_key(photo) is None
    dark = photo.copy()
    dark[:20] = (3, 3, 3, 255)
    assert propose_key(dark) is None


def test_no_key_is_proposed_for_clear_sheets_and_for_tiles() -> None:
    rng = np.random.default_rng(5)
    assert propose_key(sprites(1)) is None
    tiles = np.full((64, 64, 4), 255, np.uint8)
    tiles[..., :3] = PALETTE[rng.integers(0, 6, (64, 64))]
    assert propose_key(tiles) is None
    lined = tiles.copy()
    lined[::17], lined[:, ::17] = (40, 40, 40, 255), (40, 40, 40, 255)
    lined[[0, -1]], lined[:, [0, -1]] = (40, 40, 40, 255), (40, 40, 40, 255)
    assert propose_key(lined) is None


def test_a_lossy_ground_is_keyed_with_a_tolerance() -> None:
    rng = np.random.default_rng(4)
    rgba = on_ground(sprites(2), (250, 10, 245))
    ground = (rgba[..., :3] == (250, 10, 245)).all(axis=-1)
    noise = rng.integers(-5, 6, (*rgba.shape[:2], 3))
    rgba[..., :3] = np.where(ground[..., None], np.clip(rgba[..., :3] + noise, 0, 255), rgba[..., :3])
    found = key_candidates(rgba)[0]
    assert found.tolerance > 0
    clear = keyed(rgba, found.colour, found.tolerance)[..., 3] == 0
    assert (clear == ground).mean() > 0.99


def test_keying_gives_back_the_clear_sheet_exactly() -> None:
    rgba = sprites(3)
    out = keyed(on_ground(rgba, (255, 0, 255)), (255, 0, 255), 0, fringe=False)
    assert (out[rgba[..., 3] > 0] == rgba[rgba[..., 3] > 0]).all()
    assert (out[..., 3] == rgba[..., 3]).all()


def disks(softness: float) -> np.ndarray:
    """Painted disks whose alpha falls over so many px: float truth as uint8 (96, 160, 4)."""
    y, x = np.mgrid[:96, :160] + 0.5
    rgba = np.zeros((96, 160, 4), np.uint8)
    colours = ((180, 60, 40), (50, 130, 200), (230, 200, 70))
    for (cx, cy, r), colour in zip(
        ((30.2, 40.7, 20.4), (80.6, 30.1, 14.7), (122.3, 55.4, 26.1)), colours, strict=True
    ):
        alpha = np.clip((r - np.hypot(x - cx, y - cy)) / softness + 0.5, 0, 1)
        shade = np.array(colour) * (0.8 + 0.2 * (y / 96))[..., None]
        part = alpha > 0
        rgba[part, :3], rgba[part, 3] = shade[part], np.rint(255 * alpha[part])
    return rgba


def far_off(found: np.ndarray, truth: np.ndarray) -> float:
    """The share of half clear px that are off by more than 16 of 255, seen on any ground."""

    def seen(rgba: np.ndarray) -> np.ndarray:
        return np.dstack((rgba[..., :3] * (rgba[..., 3:] / 255.0), rgba[..., 3]))

    half = (truth[..., 3] > 0) & (truth[..., 3] < 255)
    return float((np.abs(seen(found) - seen(truth)).max(axis=-1)[half] > 16).mean())


@pytest.mark.parametrize("key", [(255, 0, 255), (0, 255, 0), (32, 156, 90), (128, 128, 128), (0, 0, 0)])
@pytest.mark.parametrize("softness", [1.0, 2.0])
def test_soft_edges_lose_the_key_and_become_half_clear(key: tuple[int, int, int], softness: float) -> None:
    truth = disks(softness)
    ground = on_ground(truth, key)
    assert far_off(keyed(ground, key, 0, fringe=False), truth) > 0.8
    assert far_off(keyed(ground, key, 0, fringe=True), truth) < (0.2 if softness == 1 else 0.4)
    by_itself = keyed(ground, key)
    assert (by_itself == keyed(ground, key, 0, fringe=key != (0, 0, 0))).all()


@pytest.mark.parametrize("fringe", [None, True])
def test_a_picture_looked_at_in_bands_is_cleaned_alike(
    fringe: bool | None, monkeypatch: pytest.MonkeyPatch
) -> None:
    ground = on_ground(disks(2.0), (255, 0, 255))
    whole = keyed(ground, (255, 0, 255), 0, fringe)
    assert (whole[..., 3] % 255).any(), "some edges are soft"
    for rows in (1, 3, 7, 40):
        monkeypatch.setattr(fringes, "BAND", rows * ground.shape[1])
        assert (keyed(ground, (255, 0, 255), 0, fringe) == whole).all()


@pytest.mark.parametrize("key", [(255, 0, 255), (0, 255, 255), (32, 156, 90), (128, 128, 128)])
def test_hard_edges_are_not_taken_for_soft_ones(key: tuple[int, int, int], demo) -> None:  # type: ignore[no-untyped-def]
    project, stock = demo
    for name in ("boardwalk.png", "wren.png", "lamps.png"):
        rgba = stock.pixels(named(project, name))
        rgba = np.where(rgba[..., 3:] >= 128, rgba | np.array((0, 0, 0, 255), np.uint8), 0).astype(np.uint8)
        hard = keyed(on_ground(rgba, key), key, 0, fringe=False)
        lost = (keyed(on_ground(rgba, key), key) != hard).any(axis=-1)
        assert lost.sum() <= 0.005 * (hard[..., 3] > 0).sum(), name


def outlined(size: int, seed: int) -> np.ndarray:
    """Blobs with an outline of their own colour, hard: uint8 (size, size, 4)."""
    rng = np.random.default_rng(seed)
    height = ndimage.gaussian_filter(rng.random((size, size)), size / 16, mode="wrap")
    rgba = np.zeros((size, size, 4), np.uint8)
    rgba[height > np.quantile(height, 0.6)] = (34, 26, 60, 255)
    rgba[height > np.quantile(height, 0.72)] = (214, 140, 52, 255)
    rgba[height > np.quantile(height, 0.85)] = (240, 226, 160, 255)
    return rgba


def drawn_small(rgba: np.ndarray, by: int) -> np.ndarray:
    """Means over blocks of by x by px: hard edges become soft."""
    high, wide = rgba.shape[0] // by, rgba.shape[1] // by
    flat = np.dstack((rgba[..., :3] * (rgba[..., 3:] / 255.0), rgba[..., 3]))
    flat = flat.reshape(high, by, wide, by, 4).mean(axis=(1, 3))
    colour = flat[..., :3] / np.maximum(flat[..., 3:] / 255, 1 / 255)
    out = np.dstack((colour, flat[..., 3])).round().astype(np.uint8)
    out[out[..., 3] == 0] = 0
    return out


@pytest.mark.parametrize("key", [(255, 0, 255), (0, 255, 0), (32, 156, 90)])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_soft_edges_with_outlines_are_cleaned_by_themselves(key: tuple[int, int, int], seed: int) -> None:
    truth = drawn_small(outlined(512, seed), 4)
    assert far_off(keyed(on_ground(truth, key), key, 0, fringe=False), truth) > 0.8
    assert far_off(keyed(on_ground(truth, key), key), truth) < 0.2


def shaded(size: int, seed: int, shades: int = 8) -> np.ndarray:
    """Hard blobs of one hue in shades that change slowly: uint8 (size, size, 4)."""
    rng = np.random.default_rng(seed)
    height = ndimage.gaussian_filter(rng.random((size, size)), size / 16, mode="wrap")
    light = ndimage.gaussian_filter(rng.random((size, size)), 6, mode="wrap")
    light = np.floor((light - light.min()) / np.ptp(light) * shades) / shades
    rgba = np.zeros((size, size, 4), np.uint8)
    art = height > np.quantile(height, 0.6)
    rgba[art, :3] = np.array((70, 40, 90)) + light[art][:, None] * np.array((170, 150, 60))
    rgba[art, 3] = 255
    return rgba


def test_shades_near_the_edge_are_told_from_mixtures_with_the_key() -> None:
    """A lighter shade explains a mixed px as well as a darker one farther in, but leaves it too full."""
    off = []
    for seed in (1, 2, 3):
        truth = drawn_small(shaded(512, seed), 4)
        off.append(far_off(keyed(on_ground(truth, (255, 0, 255)), (255, 0, 255)), truth))
    assert np.mean(off) < 0.012


def test_grey_art_on_a_grey_key_is_cleaned_only_where_most_of_its_edge_is_mixed() -> None:
    """Greys lie on one line with a grey key, so that the shades of hard edges look like mixtures."""
    key = (128, 128, 128)
    greys = np.random.default_rng(3).choice((24, 30, 88, 100), (64, 64), p=(0.3, 0.3, 0.2, 0.2))
    rgba = np.dstack((greys, greys, greys, np.full_like(greys, 255))).astype(np.uint8)
    rgba[:8] = rgba[-8:] = 0
    ground = on_ground(rgba, key)
    hard = keyed(ground, key, 0, fringe=False)
    assert ((keyed(ground, key, 0, fringe=True) != hard).any(axis=-1)).sum() > 20, "some look like mixtures"
    assert (keyed(ground, key) == hard).all()
    soft = rgba.copy()
    soft[[8, -9]] = (24, 24, 24, 128)
    assert (np.abs(keyed(on_ground(soft, key), key)[8, :, 3].astype(int) - 128) < 24).mean() > 0.9


@pytest.mark.parametrize("key", [(255, 0, 255), (0, 255, 0), (32, 156, 90)])
def test_hard_parts_beside_soft_ones_stay_as_they_are(key: tuple[int, int, int]) -> None:
    hard, soft = outlined(128, 5), drawn_small(outlined(512, 6), 4)
    room = np.zeros((128, 8, 4), np.uint8)
    out = keyed(on_ground(np.hstack((hard, room, soft)), key), key)
    assert (out[:, :128] == hard).all()
    assert (out[:, 136:, 3] < 255).sum() > (soft[..., 3] == 0).sum()


def test_asked_for_soft_edges_are_cleaned_where_few_show_it() -> None:
    rgba = np.zeros((24, 24, 4), np.uint8)
    rgba[4:20, 4:20] = (200, 180, 90, 255)
    rgba[4, 9:12] = (200, 180, 90, 128)
    ground = on_ground(rgba, (0, 0, 0))
    assert (keyed(ground, (0, 0, 0))[4, 9:12, 3] == 255).all()
    assert (np.abs(keyed(ground, (0, 0, 0), 0, fringe=True)[4, 9:12].astype(int) - rgba[4, 9:12]) <= 2).all()


# -- true px -------------------------------------------------------------------------------------------


@pytest.mark.parametrize("factor", [2, 3, 4, 5, 8])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_enlarged_art_is_found_with_its_factor_and_goes_back_exactly(factor: int, seed: int) -> None:
    small = sprites(seed)
    large = small.repeat(factor, 0).repeat(factor, 1)
    found = true_pixel(large)
    assert found is not None and found.factor == factor and found.start == (0, 0)
    assert (reduced(large, factor) == small).all()


@pytest.mark.parametrize("factor", [2, 4, 6])
def test_a_few_px_that_disagree_do_no_harm(factor: int) -> None:
    rng = np.random.default_rng(factor)
    small = sprites(9)
    large = small.repeat(factor, 0).repeat(factor, 1)
    ys, xs = rng.integers(0, large.shape[0], 40), rng.integers(0, large.shape[1], 40)
    large[ys, xs] = (rng.integers(0, 255, (40, 4))).astype(np.uint8)
    found = true_pixel(large)
    assert found is not None and found.factor == factor
    assert (reduced(large, factor) == small).mean() > 0.99


@pytest.mark.parametrize("factor", [2, 3, 4, 6])
def test_enlarged_art_is_found_through_noise_and_losses(factor: int) -> None:
    rng = np.random.default_rng(factor)
    large = on_ground(sprites(9), (90, 120, 90)).repeat(factor, 0).repeat(factor, 1)
    spoiled = large.copy()
    where = rng.random(large.shape[:2]) < 0.03
    spoiled[where, :3] = rng.integers(0, 255, (int(where.sum()), 3))
    lossy = io.BytesIO()
    Image.fromarray(large[..., :3]).save(lossy, "JPEG", quality=85)
    for picture in (spoiled, read_picture_of(lossy)):
        found = true_pixel(picture)
        assert found is not None and (found.factor, found.start) == (factor, (0, 0))


def read_picture_of(data: io.BytesIO) -> np.ndarray:
    return np.array(Image.open(data).convert("RGBA"))


def test_lossy_and_noisy_art_that_was_never_enlarged_is_no_false_alarm() -> None:
    for seed in range(6):
        art = on_ground(sprites(seed, 128, 128), (90, 120, 90))
        lossy = io.BytesIO()
        Image.fromarray(art[..., :3]).save(lossy, "JPEG", quality=85)
        assert true_pixel(read_picture_of(lossy)) is None
        art[::7, ::5] = 255
        assert true_pixel(art) is None


def test_enlarged_art_that_was_moved_is_found_where_it_starts() -> None:
    small = sprites(4)
    large = small.repeat(4, 0).repeat(4, 1)[3:, 1:]
    found = true_pixel(np.ascontiguousarray(large))
    assert found is not None and (found.factor, found.start) == (4, (3, 1))
    assert (reduced(np.ascontiguousarray(large), 4, found.start) == small).mean() > 0.99


@pytest.mark.parametrize("seed", range(12))
def test_ordinary_art_is_no_false_alarm(seed: int) -> None:
    assert true_pixel(sprites(seed, 128, 128)) is None
    assert true_pixel(on_ground(sprites(seed), (90, 90, 90))) is None


def test_the_demo_art_is_true_but_for_the_sheet_enlarged_on_purpose(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    found = {s.name: true_pixel(stock.pixels(s)) for s in project.sheets}
    large = found.pop("lamps_4x.png")
    assert large is not None and large.factor == 4 and "4 px apart" in large.evidence
    assert all(f is None for f in found.values()), found
    assert (
        reduced(stock.pixels(named(project, "lamps_4x.png")), 4) == stock.pixels(named(project, "lamps.png"))
    ).all()
    keys = {s.name: propose_key(stock.pixels(s)) for s in project.sheets}
    eel = keys.pop("eel.bmp")
    assert eel is not None and eel.colour == (255, 0, 255)
    assert all(k is None for k in keys.values()), keys


# -- steps ---------------------------------------------------------------------------------------------

steps = st.lists(
    st.one_of(
        st.builds(Turn, st.integers(1, 3)), st.builds(Mirror, st.sampled_from(["across", "down"])),
        st.builds(Enlarge, st.integers(1, 3)), st.builds(Recolour, st.floats(-180, 180)),
        st.builds(Mirror, st.just("down"), st.just(False)),
    ),
    max_size=5,
)  # fmt: skip


@settings(max_examples=80)
@given(steps, st.integers(2, 9), st.integers(2, 9), st.data())
def test_places_go_where_the_picture_goes(chain: list[Step], w: int, h: int, data: st.DataObject) -> None:
    rgba = np.zeros((h, w, 4), np.uint8)
    x, y = data.draw(st.integers(0, w - 1)), data.draw(st.integers(0, h - 1))
    rgba[y, x] = (200, 30, 40, 255)
    out = prepared(rgba, tuple(chain))
    assert (out.shape[1], out.shape[0]) == size_after((w, h), tuple(chain))
    way = way_of((w, h), tuple(chain))
    px, py = way.point(x + 0.5, y + 0.5)
    assert out[int(py), int(px), 3] == 255
    back = way.back().point(px, py)
    assert abs(back[0] - x - 0.5) < 1e-6 and abs(back[1] - y - 0.5) < 1e-6


def test_fit_and_reduce_change_the_size() -> None:
    rgba = sprites(1, 96, 64)
    assert prepared(rgba, (Fit((30, 50)),)).shape == (50, 30, 4)
    assert size_after((97, 65), (Reduce(4, (3, 1)),)) == (25, 17)
    assert prepared(np.zeros((65, 97, 4), np.uint8), (Reduce(4, (3, 1)),)).shape == (17, 25, 4)
    with pytest.raises(PictureError, match="more than"):
        prepared(rgba, (Enlarge(64), Enlarge(64)))


def project_of(rgba: np.ndarray, tmp_path, cut: GridCut) -> tuple[Project, PixelCache]:  # type: ignore[no-untyped-def]
    (tmp_path / "art").mkdir(exist_ok=True)
    Image.fromarray(rgba).save(tmp_path / "art" / "sheet.png")
    stock = PixelCache(tmp_path)
    project = project_with(sheet_of_size(rgba.shape[1], rgba.shape[0]))
    return cut_sheet(project, "sheet1", cut, rgba), stock


@pytest.mark.parametrize(
    "step", [Turn(1), Turn(2), Turn(3), Mirror("across"), Mirror("down"), Enlarge(2), Fit((192, 128))]
)
def test_cells_pivots_and_shapes_follow_every_step_and_come_back(step: Step, tmp_path) -> None:  # type: ignore[no-untyped-def]
    rgba = sprites(6)
    project, stock = project_of(rgba, tmp_path, GridCut((16, 16)))
    first = project.sheets[0].cells[0]
    shapes = (Box(2, 3, 5, 6, "one-way", "top"), Polygon(((0, 0), (8, 0), (8, 4))))
    project = set_shapes(project, [first.id], shapes)
    before = project.sheets[0]
    after = set_steps(project, "sheet1", (step,), stock)
    sheet = after.sheets[0]
    pixels = stock.pixels(sheet)
    assert (pixels.shape[1], pixels.shape[0]) == sheet.source.size
    for old, new in zip(before.cells, sheet.cells, strict=True):
        x, y, w, h = old.rect
        nx, ny, nw, nh = new.rect
        assert (
            pixels[ny : ny + nh, nx : nx + nw] == prepared(rgba[y : y + h, x : x + w], _local(step))
        ).all()
        assert old.id == new.id
    assert isinstance(sheet.cut, GridCut)
    back = set_steps(after, "sheet1", (), stock).sheets[0]
    assert back.source == before.source
    assert [c.rect for c in back.cells] == [c.rect for c in before.cells]
    assert back.cells[0].pivot == before.cells[0].pivot
    assert back.cells[0].shapes[0] == shapes[0]
    assert set(back.cells[0].shapes[1].points) == set(shapes[1].points)  # type: ignore[union-attr]


def _local(step: Step) -> tuple[Step, ...]:
    return (Enlarge(2),) if isinstance(step, Fit) else (step,)


def test_art_cut_while_large_is_reduced_with_its_cells(tmp_path) -> None:  # type: ignore[no-untyped-def]
    small = sprites(8)
    project, stock = project_of(small.repeat(4, 0).repeat(4, 1), tmp_path, GridCut((64, 64)))
    after = set_steps(project, "sheet1", (Reduce(4),), stock)
    assert after.sheets[0].cut == GridCut((16, 16))
    assert {c.rect[2:] for c in after.sheets[0].cells} == {(16, 16)}
    assert (stock.pixels(after.sheets[0]) == small).all()


def test_a_step_that_is_off_does_nothing_and_is_kept() -> None:
    rgba = sprites(2)
    chain = (Turn(1, on=False), KeyColour((1, 2, 3), on=False))
    assert prepared(rgba, chain) is rgba
    assert way_of((9, 9), chain) == Affine()


@given(st.floats(-180, 180), st.floats(-100, 100), st.floats(-100, 100))
def test_recolouring_keeps_alpha_and_greys_have_no_hue(
    hue: float, saturation: float, lightness: float
) -> None:
    rgba = sprites(2, 48, 32)
    out = recoloured(rgba, hue, saturation, lightness)
    assert (out[..., 3] == rgba[..., 3]).all()
    grey = np.full((2, 2, 4), 128, np.uint8)
    assert len({tuple(p) for p in recoloured(grey, hue, saturation, 0)[..., :3].reshape(-1, 3)}) == 1
    assert (recoloured(grey, hue, saturation, 0) == grey).all()


def test_recolouring_by_nothing_changes_nothing_and_hue_turns_full_circle() -> None:
    rgba = sprites(2)
    assert (recoloured(rgba, 0, 0, 0) == rgba).all()
    red = np.array([[[255, 0, 0, 255]]], np.uint8)
    assert recoloured(red, 120, 0, 0)[0, 0].tolist() == [0, 255, 0, 255]
    assert recoloured(red, -120, 0, 0)[0, 0].tolist() == [0, 0, 255, 255]
    assert recoloured(red, 0, -100, 0)[0, 0].tolist() == [128, 128, 128, 255]
    assert recoloured(red, 0, 0, 100)[0, 0].tolist() == [255, 255, 255, 255]


# -- copies, licences, changes outside ---------------------------------------------------------------------


def test_a_recoloured_copy_has_the_shapes_of_its_original_until_they_are_changed(demo) -> None:  # type: ignore[no-untyped-def]
    project, stock = demo
    deck = named(project, "boardwalk.png")
    swap = ReplaceColour((((1, 2, 3), (4, 5, 6)),))
    project, made = recoloured_copy(project, deck.id, (), swap)
    copy = next(s for s in project.sheets if s.id == made)
    assert copy.source.path == deck.source.path and copy.name == "boardwalk_recoloured.png"
    assert [c.copy_of for c in copy.cells] == [c.id for c in deck.cells]
    assert stock.pixels(copy).shape == stock.pixels(deck).shape
    first, second = deck.cells[0], deck.cells[1]
    project = set_shapes(project, [copy.cells[1].id], ())
    project = set_shapes(project, [first.id, second.id], (Box(1, 1, 3, 3),))
    copy = next(s for s in project.sheets if s.id == made)
    assert copy.cells[0].shapes == (Box(1, 1, 3, 3),)
    assert copy.cells[1].shapes == ()


def test_a_copy_of_some_cells_holds_those_alone(demo) -> None:  # type: ignore[no-untyped-def]
    project, _stock = demo
    deck = named(project, "boardwalk.png")
    project, made = recoloured_copy(project, deck.id, {deck.cells[3].id}, Recolour(90), "night.png")
    copy = next(s for s in project.sheets if s.id == made)
    assert [c.rect for c in copy.cells] == [deck.cells[3].rect] and copy.name == "night.png"


@pytest.mark.parametrize("right", ["", "CC0-1.0", "CC-BY-4.0 OR MIT", "LicenseRef-mine", "GPL-3.0-or-later"])
def test_licences_that_are_right(right: str) -> None:
    assert licence_fault(right) == ""


@pytest.mark.parametrize("wrong", ["cc by 4", "MIT AND", "freeware", "CC-BY 4.0", "(MIT"])
def test_licences_that_are_wrong_are_named(wrong: str) -> None:
    assert licence_fault(wrong)


def test_which_licences_ask_for_a_name() -> None:
    assert (
        asks_for_credit("CC-BY-4.0")
        and asks_for_credit("MIT AND CC0-1.0")
        and asks_for_credit("LicenseRef-x")
    )
    assert (
        not asks_for_credit("CC0-1.0")
        and not asks_for_credit("CC-BY-4.0 OR CC0-1.0")
        and not asks_for_credit("")
    )


def test_the_credits_tell_what_was_changed() -> None:
    sheet = sheet_of_size(64, 64)
    source = replace(sheet.source, steps=(Reduce(4), KeyColour((255, 0, 255)), Turn(1, on=False)))
    credit = replace(
        sheet.credit, author="Ina Reed", licence="CC-BY-4.0", attribution="Art by Ina", changes="cut up"
    )
    sheet = replace(sheet, source=source, credit=credit)
    assert changes_of(sheet) == "reduced to 1/4, colour #ff00ff made clear; cut up"
    assert credit_lines(sheet) == [
        "sheet.png by Ina Reed (CC-BY-4.0)", "  Art by Ina",
        "  Changes: reduced to 1/4, colour #ff00ff made clear; cut up",
    ]  # fmt: skip
    assert put_sheet(project_with(sheet), sheet).sheets[0] == sheet


def test_where_art_went_when_its_picture_grew_shrank_or_was_scaled() -> None:
    old = sprites(3)
    grown = np.zeros((96, 128, 4), np.uint8)
    grown[:64, :96] = old
    assert what_moved(old, grown)[0].way == Affine()
    assert what_moved(old, np.roll(grown, (20, 9), (0, 1)))[0].way == Affine(dx=9, dy=20)
    assert what_moved(old, old[16:, 32:])[0].way == Affine(dx=-32, dy=-16)
    assert what_moved(old, old.repeat(3, 0).repeat(3, 1))[0].way == Affine(3, 0, 0, 3)
    assert what_moved(old.repeat(2, 0).repeat(2, 1), old)[0].way == Affine(0.5, 0, 0, 0.5)
    assert what_moved(old, np.zeros((9, 9, 4), np.uint8))
