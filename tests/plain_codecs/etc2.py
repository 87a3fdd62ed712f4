"""ETC2 in NumPy."""

from __future__ import annotations

from itertools import product

import numpy as np

from rushweed.core.tune.codec.blocks import grown
from rushweed.core.tune.codec.etc2 import ALPHA, DISTANCES, DOWN, SECOND, STEPS, X, Y, in_range, plane_between
from tests.plain_codecs.lines import seen_weights


def code_etc2(blocks: np.ndarray) -> np.ndarray:
    """uint8 (n, 16, 4) to uint8 (n, 16)."""
    blocks = blocks[:, DOWN]
    best = _Best(blocks)
    _halves(best)
    _planar(best)
    _paint(best)
    return np.concatenate((_code_alpha(blocks[..., 3]), best.bytes()), axis=1)


class _Best:
    """The best word of 64 bits found so far of each block, highest bit first, and its error."""

    def __init__(self, blocks: np.ndarray) -> None:
        self.px = blocks[..., :3].astype(np.int32)  # (n, 16, 3)
        self.weights = seen_weights(blocks)
        self.error = np.full(len(blocks), np.inf, np.float32)
        self.word = np.zeros(len(blocks), np.uint64)

    def take(self, rows: np.ndarray, error: np.ndarray, word: np.ndarray) -> None:
        better = error < self.error[rows]
        taken = rows[better]
        self.error[taken], self.word[taken] = error[better], word[better]

    def bytes(self) -> np.ndarray:
        return self.word.astype(">u8").view(np.uint8).reshape(-1, 8)


def _nearest(px: np.ndarray, weights: np.ndarray, palette: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """px (n, p, 3), palette (n, k, 3): index (n, p) and weighted error (n, p)."""
    best = np.full(px.shape[:2], np.inf, np.float32)
    index = np.zeros(px.shape[:2], np.uint8)
    for k in range(palette.shape[1]):
        gap = (px - palette[:, k, None]).astype(np.float32)
        far = np.einsum("npc,npc->np", gap, gap)
        closer = far < best
        np.copyto(best, far, where=closer)
        index[closer] = k
    return index, best * weights


def _index_bits(index: np.ndarray) -> np.ndarray:
    """The last 32 bits of a word: the high bit of every px's index, then the low ones."""
    at = np.arange(16, dtype=np.uint64)
    wide = index.astype(np.uint64)
    high, low = (wide >> np.uint64(1)) << (at + np.uint64(16)), (wide & np.uint64(1)) << at
    return (high | low).sum(axis=1, dtype=np.uint64)


# -- two halves --------------------------------------------------------------------------------------------


def _halves(best: _Best) -> None:
    """Each half has a base colour, of 4 bits apart or of 5 bits and a difference of 3, and a table of
    shades."""
    px, weights = best.px, best.weights
    rows = np.arange(len(px))
    for flip in (0, 1):
        sides = [np.flatnonzero(SECOND[flip] == half) for half in (0, 1)]
        means, found = [], []
        for side in sides:
            part, heavy = px[:, side], weights[:, side]
            means.append(np.einsum("npc,np->nc", part, heavy) / heavy.sum(axis=1)[:, None])
        for bits in (4, 5):
            found = [_half(px[:, s], weights[:, s], m, bits) for s, m in zip(sides, means, strict=True)]
            (base0, table0, index0, error0), (base1, table1, index1, error1) = found
            error = error0 + error1
            if bits == 5:
                step = base1 - base0
                held = np.clip(step, -4, 3)
                far = (held != step).any(axis=1)
                if far.any():
                    base1[far] = np.clip(base0[far] + held[far], 0, 31)
                    table1[far], index1[far], error1[far] = _shaded(
                        px[far][:, sides[1]], weights[far][:, sides[1]], grown(base1[far], 5)
                    )
                error = error0 + error1
            index = np.zeros(px.shape[:2], np.uint8)
            index[:, sides[0]], index[:, sides[1]] = index0, index1
            best.take(rows, error, _half_word(bits, base0, base1, table0, table1, flip, index))


def _half(
    px: np.ndarray, weights: np.ndarray, mean: np.ndarray, bits: int
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Base colour of so many bits, table, indices and error of one half: about its mean, one step either way
    in brightness, and at the mean that the shades found would leave."""
    top = (1 << bits) - 1
    out: list[np.ndarray] = []
    wanted = mean
    for attempt in range(4):
        base = np.clip(np.rint(wanted * (top / 255)), 0, top).astype(np.int32)
        table, index, error = _shaded(px, weights, grown(base, bits))
        if not out:
            out = [base, table, index, error]
        better = error < out[3]
        for kept, new in zip(out, (base, table, index, error), strict=True):
            kept[better] = new[better]
        shade = STEPS[out[1][:, None], out[2]]
        left = (px - shade[..., None]) * weights[..., None]
        fitted = left.sum(axis=1) / weights.sum(axis=1)[:, None]
        wanted = fitted if attempt % 2 == 0 else fitted + (-1) ** (attempt // 2) * 128 / top
    return out[0], out[1], out[2], out[3]


def _shaded(
    px: np.ndarray, weights: np.ndarray, base: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The best table, its indices and error for a base colour of 8 bits."""
    table = np.zeros(len(px), np.intp)
    index = np.zeros(px.shape[:2], np.uint8)
    error = np.full(len(px), np.inf, np.float32)
    for number, steps in enumerate(STEPS):
        palette = np.clip(base[:, None] + steps[None, :, None], 0, 255)
        found, off = _nearest(px, weights, palette)
        total = off.sum(axis=1)
        better = total < error
        table[better], index[better], error[better] = number, found[better], total[better]
    return table, index, error


def _half_word(
    bits: int, base0: np.ndarray, base1: np.ndarray, table0: np.ndarray, table1: np.ndarray, flip: int,
    index: np.ndarray,
) -> np.ndarray:  # fmt: skip
    word = np.zeros(len(base0), np.uint64)
    for channel in range(3):
        at = 56 - 8 * channel
        if bits == 4:
            byte = (base0[:, channel] << 4) | base1[:, channel]
        else:
            byte = (base0[:, channel] << 3) | ((base1[:, channel] - base0[:, channel]) & 7)
        word |= byte.astype(np.uint64) << np.uint64(at)
    tail = (table0 << 5) | (table1 << 2) | (int(bits == 5) << 1) | flip
    return word | (tail.astype(np.uint64) << np.uint64(32)) | _index_bits(index)


# -- a plane -----------------------------------------------------------------------------------------------


def _planar(best: _Best) -> None:
    px = best.px
    a = np.stack(((4 - X - Y) / 4, X / 4, Y / 4), axis=1)
    corners = np.einsum("kp,npc->knc", np.linalg.pinv(a), px)
    tops = np.array([63, 127, 63])
    whole = np.clip(np.rint(corners * (tops / 255)), 0, tops).astype(np.int32)

    def eight(parts: np.ndarray) -> np.ndarray:
        return np.stack([grown(parts[..., c], 7 if c == 1 else 6) for c in range(3)], axis=-1)

    def off(parts: np.ndarray) -> np.ndarray:
        gap = (px - plane_between(*eight(parts))).astype(np.float32)
        return np.asarray(np.einsum("npc,np->nc", gap * gap, best.weights))

    error = np.asarray(off(whole), np.float64)
    for corner, step in product(range(3), (-1, 1)):  # channels do not depend on each other
        other = whole.copy()
        other[corner] = np.clip(other[corner] + step, 0, tops)
        tried = off(other)
        better = tried < error
        whole = np.where(better, other, whole)
        error = np.where(better, tried, error)
    best.take(np.arange(len(px)), error.sum(axis=1), _planar_word(*whole))


def _planar_word(o: np.ndarray, h: np.ndarray, v: np.ndarray) -> np.ndarray:
    """The bits of a plane: those in between are set so that blue, as a difference, leaves its range."""
    (ro, go, bo), (rh, gh, bh), (rv, gv, bv) = (p.T.astype(np.int64) for p in (o, h, v))
    word = np.zeros(len(ro), np.int64)
    fields = (
        (ro, 57), (go >> 6, 56), (go & 63, 49), (bo >> 5, 48), ((bo >> 3) & 3, 43), (bo & 7, 39),
        (rh >> 1, 34), (rh & 1, 32), (gh, 25), (bh, 19), (rv, 13), (gv, 6), (bv, 0),
    )  # fmt: skip
    for value, at in fields:
        word |= value << at
    word |= 1 << 33
    word = _out_of_range(word.astype(np.uint64), 2)
    # Red and green must stay in theirs: their free highest bits turn the sign of the base.
    for channel, at in ((0, 63), (1, 55)):
        wrong = ~in_range(word, channel)
        word[wrong] |= np.uint64(1 << at)
    return word


def _out_of_range(word: np.ndarray, channel: int) -> np.ndarray:
    """Set the free bits of a channel's byte (5 to 7 and 2) so that base and difference leave 0..31."""
    byte = (word >> np.uint64(56 - 8 * channel)) & np.uint64(0b00011011)
    low = (byte >> np.uint64(3)) + (byte & np.uint64(3)) >= 4
    free = np.where(low, np.uint64(0b11100000), np.uint64(0b00000100))
    return np.asarray(word | (free << np.uint64(56 - 8 * channel)))


# -- two colours, with shades of one or of both ------------------------------------------------------------


def _paint(best: _Best) -> None:
    """T: one colour alone, and another with a shade on either side. H: two colours, each a shade up and
    down."""
    rows = np.flatnonzero(best.error > 0)
    if not len(rows):
        return
    px, weights = best.px[rows], best.weights[rows]
    for first, second in _pairs(px, weights):
        for a, b in ((first, second), (second, first)):
            _try_t(best, rows, px, weights, a, b)
        _try_h(best, rows, px, weights, first, second)


def _pairs(px: np.ndarray, weights: np.ndarray) -> list[tuple[np.ndarray, np.ndarray]]:
    """Pairs of colours (n, 3) worth trying: the middles of two groups, found from the two ends of the longest
    line and from the brightest and darkest."""
    out = []
    value = px.astype(np.float32)
    mean = np.einsum("npc,np->nc", value, weights) / weights.sum(axis=1)[:, None]
    away = value - mean[:, None]
    far = np.argmax((away * away).sum(axis=2) * weights, axis=1)
    one = np.take_along_axis(value, far[:, None, None], axis=1)[:, 0]
    gap = value - one[:, None]
    other = np.argmax((gap * gap).sum(axis=2) * weights, axis=1)
    two = np.take_along_axis(value, other[:, None, None], axis=1)[:, 0]
    for start in ((one, two), (mean, one)):
        a, b = start
        for _ in range(3):
            da, db = (((value - c[:, None]) ** 2).sum(axis=2) for c in (a, b))
            mine = np.where(da <= db, weights, np.float32(0))
            a, b = _mean(value, mine, a), _mean(value, weights - mine, b)
        out.append((a, b))
    return out


def _mean(value: np.ndarray, weights: np.ndarray, otherwise: np.ndarray) -> np.ndarray:
    """The weighted mean of value (n, 16, 3), or the other (n, 3) where nothing weighs."""
    total = weights.sum(axis=1)[:, None]
    return np.where(total > 0, np.einsum("npc,np->nc", value, weights) / np.maximum(total, 1e-9), otherwise)


def _four_bits(colour: np.ndarray) -> np.ndarray:
    return np.clip(np.rint(colour / 17), 0, 15).astype(np.int32)


def _try_t(
    best: _Best, rows: np.ndarray, px: np.ndarray, weights: np.ndarray, a: np.ndarray, b: np.ndarray
) -> None:
    one, two = _four_bits(a), _four_bits(b)
    for number, distance in enumerate(DISTANCES):
        c1, c2 = one * 17, two * 17
        palette = np.stack((c1, c2 + distance, c2, c2 - distance), axis=1)
        index, off = _nearest(px, weights, np.clip(palette, 0, 255))
        error = off.sum(axis=1)
        better = error < best.error[rows]
        if better.any():
            word = _t_word(one[better], two[better], number, index[better])
            best.take(rows[better], error[better], word)


def _t_word(one: np.ndarray, two: np.ndarray, number: int, index: np.ndarray) -> np.ndarray:
    r1, g1, b1 = one.T.astype(np.int64)
    r2, g2, b2 = two.T.astype(np.int64)
    word = (r1 >> 2) << 59 | (r1 & 3) << 56 | g1 << 52 | b1 << 48 | r2 << 44 | g2 << 40 | b2 << 36
    word |= (number >> 1) << 34 | (number & 1) << 32 | 1 << 33
    return _out_of_range(word.astype(np.uint64), 0) | _index_bits(index)


def _try_h(
    best: _Best, rows: np.ndarray, px: np.ndarray, weights: np.ndarray, a: np.ndarray, b: np.ndarray
) -> None:
    one, two = _four_bits(a), _four_bits(b)
    for number, distance in enumerate(DISTANCES):
        # The lowest bit of the distance is told by the order of the two colours.
        keys = [(c[:, 0] << 8) | (c[:, 1] << 4) | c[:, 2] for c in (one, two)]
        swap = (keys[0] >= keys[1]) != bool(number & 1)
        first, last = np.where(swap[:, None], two, one), np.where(swap[:, None], one, two)
        c1, c2 = first * 17, last * 17
        palette = np.stack((c1 + distance, c1 - distance, c2 + distance, c2 - distance), axis=1)
        index, off = _nearest(px, weights, np.clip(palette, 0, 255))
        error = off.sum(axis=1)
        possible = (keys[0] != keys[1]) | bool(number & 1)
        better = possible & (error < best.error[rows])
        if better.any():
            word = _h_word(first[better], last[better], number, index[better])
            best.take(rows[better], error[better], word)


def _h_word(one: np.ndarray, two: np.ndarray, number: int, index: np.ndarray) -> np.ndarray:
    r1, g1, b1 = one.T.astype(np.int64)
    r2, g2, b2 = two.T.astype(np.int64)
    word = (
        r1 << 59 | (g1 >> 1) << 56 | (g1 & 1) << 52 | (b1 >> 3) << 51 | ((b1 >> 1) & 3) << 48 | (b1 & 1) << 47
    )
    word |= r2 << 43 | g2 << 39 | b2 << 35 | (number >> 2) << 34 | ((number >> 1) & 1) << 32 | 1 << 33
    word = _out_of_range(word.astype(np.uint64), 1)
    wrong = ~in_range(word, 0)
    word[wrong] |= np.uint64(1 << 63)
    return word | _index_bits(index)


# -- alpha -------------------------------------------------------------------------------------------------


def _code_alpha(alpha: np.ndarray) -> np.ndarray:
    """uint8 (n, 16), px down the columns, to uint8 (n, 8)."""
    values = alpha.astype(np.int32)
    base = values[:, 0].copy()
    times, table = np.ones(len(values), np.int32), np.full(len(values), 13, np.int32)
    index = np.full(values.shape, 4, np.uint8)  # a step of nothing in table 13
    mixed = np.flatnonzero((values != values[:, :1]).any(axis=1))
    if len(mixed):
        mine = values[mixed]
        found = _alpha_lines(mine)
        base[mixed], times[mixed], table[mixed], index[mixed] = found
    bits = (index.astype(np.uint64) << (45 - 3 * np.arange(16)).astype(np.uint64)).sum(
        axis=1, dtype=np.uint64
    )
    head = (base.astype(np.uint64) << np.uint64(8)) | ((times << 4) | table).astype(np.uint64)
    return ((head << np.uint64(48)) | bits).astype(">u8").view(np.uint8).reshape(-1, 8)


def _alpha_lines(values: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Base, multiplier, table and indices of the least error, for values int32 (n, 16)."""
    low, high = values.min(axis=1), values.max(axis=1)
    least = np.full(len(values), np.inf, np.float32)
    out = [np.zeros(len(values), np.int32) for _ in range(3)]
    index = np.zeros(values.shape, np.uint8)
    for number, steps in enumerate(ALPHA):
        span = int(steps.max() - steps.min())
        middle = np.rint((high - low) / span).astype(np.int32)
        for d_times, shift in product((-1, 0, 1, 2), (-1, 0, 1)):
            times = np.clip(middle + d_times, 1, 15)
            centre = (low + high - times * int(steps.max() + steps.min())) / 2
            base = np.clip(np.rint(centre).astype(np.int32) + shift * np.maximum(times // 2, 1), 0, 255)
            made = np.clip(base[:, None] + times[:, None] * steps, 0, 255)
            gap = np.abs(values[:, :, None] - made[:, None])
            pick = gap.argmin(axis=2)
            off = np.take_along_axis(gap, pick[..., None], axis=2)[..., 0].astype(np.float32)
            error = (off * off).sum(axis=1)
            better = error < least
            least[better], index[better] = error[better], pick[better]
            for kept, new in zip(out, (base, times, np.full(len(values), number)), strict=True):
                kept[better] = new[better]
    return out[0], out[1], out[2], index
