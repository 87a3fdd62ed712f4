"""The compiled searches of the block codecs: bit for bit the loops as written, as good as those in NumPy."""

from collections.abc import Callable
from types import ModuleType

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Codec
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.tune.codec import (
    bc7_bits_kernels,
    bc7_kernels,
    bc7_line_kernels,
    bc7_rank_kernels,
    bc_alpha_kernels,
    bc_kernels,
    etc2_bits_kernels,
    etc2_half_kernels,
    etc2_kernels,
    etc2_shade_kernels,
    line_kernels,
)
from rushweed.core.tune.codec.bc7 import partitions
from rushweed.core.tune.codec.blocks import to_blocks
from rushweed.core.tune.codec.compress import CODERS
from tests.conftest import named
from tests.plain_codecs import bc, bc7, etc2

PLAIN: dict[Codec, Callable[[np.ndarray], np.ndarray]] = {
    "bc1": bc.code_bc1, "bc3": bc.code_bc3, "bc7": bc7.code_bc7, "etc2": etc2.code_etc2,
}  # fmt: skip
MODULES: tuple[ModuleType, ...] = (
    line_kernels, bc_kernels, bc_alpha_kernels, bc7_kernels, bc7_line_kernels, bc7_rank_kernels,
    bc7_bits_kernels, etc2_kernels, etc2_half_kernels, etc2_bits_kernels, etc2_shade_kernels,
)  # fmt: skip


def smooth(seed: int, count: int, soft: bool) -> np.ndarray:
    noise = gaussian_filter(np.random.default_rng(seed).normal(size=(4 * count, 4, 4)), (2, 2, 0)) * 400 + 128
    rgba = np.clip(noise, 0, 255).astype(np.uint8)
    if not soft:
        rgba[..., 3] = 255
    return to_blocks(rgba)


def of_few_colours(seed: int, count: int, clear: bool) -> np.ndarray:
    """Blocks of one to six colours; with `clear`, some px are so."""
    rng = np.random.default_rng(seed)
    out = np.empty((count, 16, 4), np.uint8)
    for block in out:
        colours = rng.integers(0, 256, (rng.integers(1, 7), 4)).astype(np.uint8)
        colours[:, 3] = 255
        if clear:
            colours[: len(colours) // 2, 3] = rng.choice([0, 0, 120])
        block[:] = colours[rng.integers(0, len(colours), 16)]
    return out


def some_blocks(each: int) -> np.ndarray:
    parts = [smooth(1, each, False), smooth(2, each, True), of_few_colours(3, each, False)]
    noise = np.random.default_rng(9).integers(0, 256, (each, 16, 4)).astype(np.uint8)
    flat = np.repeat(noise[:, :1], 16, axis=1)
    return np.concatenate([*parts, of_few_colours(4, each, True), noise, flat])


def error(blocks: np.ndarray, made: np.ndarray) -> np.ndarray:
    """The squared error of each block as it is seen: premultiplied colours, and alpha."""
    a, b = blocks.astype(np.float64), made.astype(np.float64)
    out = (a[..., 3] - b[..., 3]) ** 2
    for c in range(3):
        out += ((a[..., c] * a[..., 3] - b[..., c] * b[..., 3]) / 255) ** 2
    return np.asarray(out.sum(axis=1))


@pytest.mark.parametrize("codec", PLAIN)
def test_compiled_and_plain_loops_give_the_same_bits(codec: Codec, monkeypatch: pytest.MonkeyPatch) -> None:
    code = CODERS[codec][0]
    blocks = some_blocks(1 if codec == "bc7" else 2)
    fast = code(blocks)
    for module in MODULES:
        for name, function in vars(module).items():
            if hasattr(function, "py_func"):
                monkeypatch.setattr(module, name, function.py_func)
    with np.errstate(over="ignore"):
        assert np.array_equal(code(blocks), fast)


@pytest.mark.parametrize("codec", PLAIN)
def test_the_compiled_search_is_as_good_as_in_numpy(codec: Codec, demo: tuple[Project, PixelCache]) -> None:
    code, decode, _size, _chunk = CODERS[codec]
    project, stock = demo
    art = [
        to_blocks(stock.pixels(named(project, name))) for name in ("marsh.png", "wren.png", "boardwalk.png")
    ]
    drawn = np.unique(np.concatenate(art), axis=0)[::4]
    for blocks in (smooth(5, 300, False), smooth(6, 300, True), of_few_colours(7, 300, False), drawn):
        ours, theirs = error(blocks, decode(code(blocks))), error(blocks, decode(PLAIN[codec](blocks)))
        assert ours.sum() <= (1.05 if codec == "bc7" else 1.02) * theirs.sum()  # BC7 tries fewer subsets
        assert (ours <= 2 * theirs + 200).mean() > 0.9


@pytest.mark.parametrize("codec", PLAIN)
def test_how_blocks_lie_beside_each_other_does_not_matter(codec: Codec) -> None:
    code, blocks = CODERS[codec][0], some_blocks(6)
    order = np.random.default_rng(1).permutation(len(blocks))
    assert np.array_equal(code(blocks)[order], code(blocks[order]))


def test_a_block_of_one_colour_is_held_exactly_by_bc7() -> None:
    code, read, _size, _chunk = CODERS["bc7"]
    rng = np.random.default_rng(12)
    colours = np.concatenate((np.arange(256)[:, None].repeat(4, 1), rng.integers(0, 256, (500, 4))))
    colours[:300, 3] = 255
    flat = colours.astype(np.uint8)[:, None].repeat(16, axis=1)
    assert np.array_equal(read(code(flat)), flat)


def test_two_lines_that_no_channel_shares_are_found_by_bc7() -> None:
    """Magenta and yellow spread in green and blue against each other, and not in red."""
    code, read, _size, _chunk = CODERS["bc7"]
    rng = np.random.default_rng(6)
    colours = np.array(((0, 0, 0, 255), (255, 0, 255, 255), (255, 255, 0, 255)), np.uint8)
    left = partitions(2) == 0
    blocks = colours[np.where(left, rng.integers(1, 3, left.shape), 0)]
    assert np.abs(read(code(blocks)).astype(int) - blocks).max() <= 2


def test_greys_of_two_lights_fall_into_two_subsets_of_bc7() -> None:
    code, read, _size, _chunk = CODERS["bc7"]
    rng = np.random.default_rng(4)
    dark = np.arange(16) // 4 < 2
    worst = 0
    for _ in range(40):
        grey = np.where(dark, rng.integers(0, 24, 16), rng.integers(215, 256, 16))
        block = np.stack((grey, grey, grey, np.full(16, 255)), axis=1).astype(np.uint8)
        made = read(code(block[None]))[0]
        worst = max(worst, int(np.abs(made.astype(int) - block).max()))
    assert worst <= 4
