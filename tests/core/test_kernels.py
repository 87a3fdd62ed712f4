"""Compiled loops that serve in place of a plain form: the same result, bit for bit."""

from __future__ import annotations

import io
import sys
import zlib
from collections.abc import Callable

import numpy as np
import pytest
from PIL import Image
from scipy import ndimage

from rushweed.core import compiled, ready
from rushweed.core.cut.grid import ink_sums
from rushweed.core.cut.islands import pieces, propose_join
from rushweed.core.cut.parts import Parts
from rushweed.core.pixels.key import keyed
from rushweed.core.shape.trace import Traced, trace_masks
from rushweed.core.shape.twins import Twin, Twins
from rushweed.core.ship import png
from rushweed.core.tune.sample import Placed, draw, straighten, texture_of

Either = Callable[[Callable[[], object]], tuple[object, object]]


@pytest.fixture
def either(monkeypatch: pytest.MonkeyPatch) -> Either:
    """What some work comes to in plain form, and with all loops loaded."""

    def both(work: Callable[[], object]) -> tuple[object, object]:
        monkeypatch.setattr(ready, "loaded", {})
        plain = work()
        ready.load()
        assert set(ready.loaded) == set(ready.SERVING)
        return plain, work()

    return both


def masks(count: int) -> list[np.ndarray]:
    """Noise, blobs, coarse noise, chequers that touch by corners only, and rings in rings."""
    rng, made = np.random.default_rng(7), []
    for n in range(count):
        h, w = (int(v) for v in rng.integers(1, 26, 2))
        if n % 5 == 0:
            mask = rng.random((h, w)) < rng.random()
        elif n % 5 == 1:
            blob = ndimage.gaussian_filter(rng.random((h, w)), 1 + rng.random() * 2)
            mask = blob > np.quantile(blob, rng.random())
        elif n % 5 == 2:
            mask = np.kron(rng.random((h // 3 + 1, w // 3 + 1)) < 0.6, np.ones((3, 3), bool))
        elif n % 5 == 3:
            mask = np.add.outer(np.arange(h), np.arange(w)) % 2 == 0
        else:
            mask = np.minimum.outer(np.arange(h), np.arange(w)) % 3 < 2
            mask[5:-5, 5:-5] = rng.random(mask[5:-5, 5:-5].shape) < 0.5
        made.append(mask)
    return made


def written(traced: list[Traced]) -> list[object]:
    return [
        (t.error, [(o.outer.tolist(), [hole.tolist() for hole in o.holes]) for o in t.outlines])
        for t in traced
    ]


@pytest.mark.parametrize("tolerance", [0.0, 0.5, 1.0, 4.0])
def test_outlines(either: Either, tolerance: float) -> None:
    plain, fast = either(lambda: written(trace_masks(masks(600), tolerance)))
    assert plain == fast
    assert any(holes for _error, outlines in plain for _outer, holes in outlines)  # type: ignore[attr-defined]


def test_the_connected_parts_of_a_mask(either: Either) -> None:
    def work() -> list[object]:
        found = [Parts(mask) for mask in (*masks(200), np.zeros((3, 4), bool))]
        return [(p.boxes.tolist(), p.area.tolist(), p.labels.tolist()) for p in found]

    plain, fast = either(work)
    assert plain == fast


def test_pieces_and_how_far_small_ones_join(either: Either) -> None:
    speckled = np.zeros((90, 120), bool)
    speckled[10:40, 10:40] = speckled[50:80, 60:100] = True
    speckled[12:15, 42:44] = speckled[48, 70] = speckled[85, 5] = True
    plain, fast = either(lambda: (pieces(speckled, 3), pieces(speckled, 2, 3), propose_join(speckled)))
    assert plain == fast
    assert len(plain[0]) == 3  # type: ignore[index]


def test_twins(either: Either) -> None:
    rng, tiles = np.random.default_rng(3), []
    for n in range(80):
        h = int(rng.integers(2, 9))
        tile = rng.integers(0, 3, (h, h + n % 3 // 2, 4)).astype(np.uint8) * 80
        tiles += [tile, np.rot90(tile, n % 4), tile[:, ::-1], np.where(tile == 80, np.uint8(9), tile)]

    def work() -> list[Twin | None]:
        found = Twins(tiles)
        return [found.twin(n, other) for n in range(len(tiles)) for other in found.of(n)]

    plain, fast = either(work)
    assert plain == fast
    assert len(plain) > 300  # type: ignore[arg-type]


def test_a_cell_drawn_over_a_picture(either: Either) -> None:
    rng, things = np.random.default_rng(4), []
    for n in range(96):
        high, wide = (int(v) for v in rng.integers(1, 40, 2))
        texture = texture_of(
            rng.integers(0, 256, (high, wide, 4), np.uint8), ("nearest", "linear")[n % 2], n % 3 > 0,
            ("clamp", "repeat")[n // 2 % 2], ("premultiplied", "straight")[n // 4 % 2],
        )  # fmt: skip
        x, y = int(rng.integers(0, wide)), int(rng.integers(0, high))
        rect = (x, y, int(rng.integers(1, wide - x + 1)), int(rng.integers(1, high - y + 1)))
        px, py = rng.uniform(-5, 30, 2).tolist()
        at = rng.uniform(0, 60, 2).tolist()
        scale, turn = (1, 2, 0.5, 0.31, 3.7, 0.07)[n % 6], (0.0, 90.0, 20.0, -133.3)[n // 6 % 4]
        things.append(Placed(texture, rect, (px, py), (at[0], at[1]), scale, turn, n // 8 % 2 == 0))

    def work() -> bytes:
        ground = np.random.default_rng(5).uniform(0, 255, (60, 400, 4)).astype(np.float32)
        for thing in things:
            draw(ground, thing)
        return ground.tobytes()

    plain, fast = either(work)
    assert plain == fast


def test_colours_straightened(either: Either) -> None:
    rng = np.random.default_rng(8)
    alpha = np.concatenate((np.zeros(500), rng.uniform(0, 255, 1000), np.full(500, 255))).astype(np.float32)
    colours = (rng.uniform(0, 1.02, (2000, 3)) * alpha[:, None]).astype(np.float32)
    colours[300:400] = rng.uniform(0, 300, (100, 3))
    halves = np.column_stack((np.arange(256) + 0.5, *[np.full(256, 255)] * 3)).astype(np.float32)
    pixels = np.concatenate((np.column_stack((colours, alpha)), halves)).reshape(-1, 8, 4)
    plain, fast = either(lambda: straighten(pixels).tobytes())
    assert plain == fast


def test_a_large_picture_is_drawn_on_all_cores_as_on_one(either: Either) -> None:
    rgba = np.random.default_rng(6).integers(0, 256, (300, 300, 4), np.uint8)
    thing = Placed(texture_of(rgba, "linear", True), (0, 0, 300, 300), (150, 150), (190.2, 190.7), 0.7, 20)

    def work() -> bytes:
        picture = np.zeros((400, 400, 4), np.float32)
        draw(picture, thing)
        return picture.tobytes()

    plain, fast = either(work)
    assert plain == fast


# -- beside a window ---------------------------------------------------------------------------------------


def test_another_process_compiles_what_has_not_been_compiled_here(monkeypatch: pytest.MonkeyPatch) -> None:
    ran: list[str] = []
    monkeypatch.setattr(ready, "loaded", {})
    monkeypatch.setattr(compiled, "all_compiled", lambda: False)
    monkeypatch.setattr(ready, "COMPILE", "import sys; sys.exit(3)")
    ready.load_beside()
    assert not ready.loaded  # it did not work there, so the plain forms go on
    monkeypatch.setattr(ready, "COMPILE", "pass")
    monkeypatch.setattr(ready, "load", lambda: ran.append("loaded"))
    ready.load_beside()
    assert ran == ["loaded"]
    monkeypatch.setattr(sys, "executable", "/nowhere/python")
    ready.load_beside()
    assert ran == ["loaded"]


def test_what_was_compiled_is_signed(monkeypatch: pytest.MonkeyPatch, tmp_path) -> None:  # type: ignore[no-untyped-def]
    monkeypatch.setattr(compiled, "CORE", tmp_path)  # none at all
    monkeypatch.setattr(compiled.numba.config, "CACHE_DIR", str(tmp_path), raising=False)
    assert not compiled.all_compiled()
    compiled.compile_all()
    assert compiled.all_compiled()


# -- pictures packed in stretches ----------------------------------------------------------------------------


def test_a_large_picture_is_packed_in_stretches_hardly_larger_and_read_by_others() -> None:
    noise = np.random.default_rng(1).integers(-2, 3, (900, 1000, 4))
    rgba = (np.cumsum(noise, axis=1) % 256).astype(np.uint8)
    data = png.packed_png(rgba)
    assert np.array_equal(np.asarray(Image.open(io.BytesIO(data))), rgba)
    assert data == png.packed_png(rgba)
    rows = rgba.tobytes()
    assert rgba.nbytes > 3 * png.STRETCH
    packed = png.deflated(rgba, 6)
    assert zlib.decompress(packed) == rows
    assert len(packed) < 1.001 * len(zlib.compress(rows, 6))


def test_how_much_ink_lies_before_each_place(either: Either) -> None:
    plain, fast = either(lambda: [ink_sums(mask).tolist() for mask in (*masks(80), np.zeros((3, 4), bool))])
    assert plain == fast


@pytest.mark.parametrize("key", [(255, 0, 255), (32, 156, 90), (0, 0, 0)])
def test_soft_edges_lose_their_key(either: Either, key: tuple[int, int, int]) -> None:
    rng, pictures = np.random.default_rng(9), []
    for mask in masks(60):
        mask = np.kron(mask, np.ones((2, 2), bool))
        alpha = ndimage.uniform_filter(mask.astype(float), int(rng.integers(1, 4)), mode="constant")[
            ..., None
        ]
        art = rng.integers(0, 256, (*mask.shape, 3)) if rng.random() < 0.5 else rng.integers(0, 256, 3)
        flat = np.rint(art * alpha + np.array(key) * (1 - alpha)).astype(np.uint8)
        pictures.append(np.dstack((flat, np.full(mask.shape, 255, np.uint8))))

    plain, fast = either(lambda: [keyed(rgba, key, 0, fringe=True).tolist() for rgba in pictures])
    assert plain == fast
    assert any(0 < px[3] < 255 for rows in plain for row in rows for px in row)  # type: ignore[attr-defined]
