"""BC1 and BC3 in NumPy."""

from __future__ import annotations

from functools import cache
from itertools import permutations, product

import numpy as np

from rushweed.core.tune.codec.bc import BITS, alpha_steps, single_ends, steps_between
from rushweed.core.tune.codec.blocks import grown
from tests.plain_codecs.lines import Normal, best_ends, main_axis, nearest, normal_form, seen_weights, totals

ROUNDS = 3
# A place along the line to the index that stands for it, by the number of places.
INDEX = {4: np.array([0, 2, 3, 1], np.uint8), 3: np.array([0, 2, 1], np.uint8)}
SOLID = 128  # alpha from which a px of BC1 is drawn


_GROWN = {bits: grown(np.arange(1 << bits), bits).astype(np.float32) for bits in BITS}


def code_bc1(blocks: np.ndarray) -> np.ndarray:
    """uint8 (n, 16, 4) to uint8 (n, 8). A px is clear below half alpha, else it is opaque."""
    clear = np.asarray(blocks[..., 3] < SOLID)
    weights = np.ones(clear.shape, np.float32)
    holes = clear.any(axis=1)
    px = _planes(blocks)
    # The format draws what is clear in black, so its colour is that of the first seen px and costs nothing.
    first = px[:, np.arange(len(px[0])), np.argmax(~clear, axis=1)]
    px = np.where(clear, first[..., None], px)
    ends, places, error = _fit(px, weights, 4)
    ends[holes], places[holes], _error = _fit(px[:, holes], weights[holes], 3)
    three = np.array(holes)
    rest = np.flatnonzero(~holes & (error > 0))
    best = error[rest].copy()
    other_ends, other_places = ends[rest], places[rest]
    kinds, colours = _kinds(px[:, rest])
    _few(px[:, rest], weights[rest], 3, kinds, colours, other_ends, other_places, best)
    better = best < error[rest]
    taken = rest[better]
    ends[taken], places[taken], three[taken] = other_ends[better], other_places[better], True
    index = np.where(three[:, None], INDEX[3][np.minimum(places, 2)], INDEX[4][places])
    index[clear] = 3
    return _packed(ends, index, ~three)


def code_bc3(blocks: np.ndarray) -> np.ndarray:
    """uint8 (n, 16, 4) to uint8 (n, 16): alpha with eight steps, then colour as in BC1 with four."""
    ends, places, _error = _fit(_planes(blocks), seen_weights(blocks), 4)
    colour = _packed(ends, INDEX[4][places], np.ones(len(blocks), bool))
    return np.concatenate((code_alpha(blocks[..., 3]), colour), axis=1)


def _planes(blocks: np.ndarray) -> np.ndarray:
    return np.ascontiguousarray(blocks[..., :3].transpose(2, 0, 1)).astype(np.float32)


def _packed(ends: np.ndarray, index: np.ndarray, four: np.ndarray) -> np.ndarray:
    """The eight bytes of each block. `four`: whether there are four places; the order of the ends says so."""
    word = (ends[..., 0] << 11) | (ends[..., 1] << 5) | ends[..., 2]
    swap = np.where(four, word[:, 0] < word[:, 1], word[:, 0] > word[:, 1])
    word[swap] = word[swap][:, ::-1]
    turned = np.where(four[:, None], index ^ 1, np.where(index < 2, index ^ 1, index))
    index = np.where(swap[:, None], turned, index).astype(np.uint32)
    index[four & (word[:, 0] == word[:, 1])] = 0
    bits = (index << (2 * np.arange(16, dtype=np.uint32))).sum(axis=1, dtype=np.uint32)
    out = np.empty((len(index), 8), np.uint8)
    out[:, :4] = word.astype("<u2").view(np.uint8).reshape(-1, 4)
    out[:, 4:] = bits.astype("<u4").view(np.uint8).reshape(-1, 4)
    return out


# -- finding the ends --------------------------------------------------------------------------------------


def _fit(px: np.ndarray, weights: np.ndarray, count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Ends int32 (n, 2, 3) of 5, 6, 5 bits, places uint8 (n, 16) along the line, weighted error (n,)."""
    ends = np.zeros((px.shape[1], 2, 3), np.int32)
    places = np.zeros(weights.shape, np.uint8)
    error = np.full(len(weights), np.inf, np.float32)
    kinds, colours = _kinds(px)
    _along(px, weights, count, np.flatnonzero(colours > 2), ends, places, error)
    _few(px, weights, count, kinds, colours, ends, places, error)
    return ends, places, error


def _kinds(px: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Of px (3, n, 16): which of its block's colours each is, uint8 (n, 16), and how many there are."""
    code = (px[0] * 65536 + px[1] * 256 + px[2]).astype(np.int32)
    order = np.argsort(code, axis=1)
    ranked = np.take_along_axis(code, order, axis=1)
    rank = np.zeros(code.shape, np.uint8)
    rank[:, 1:] = np.cumsum(ranked[:, 1:] != ranked[:, :-1], axis=1)
    kinds = np.empty_like(rank)
    np.put_along_axis(kinds, order, rank, axis=1)
    return kinds, rank[:, -1] + 1


def _along(
    px: np.ndarray, weights: np.ndarray, count: int, rows: np.ndarray,
    ends: np.ndarray, places: np.ndarray, error: np.ndarray,
) -> None:  # fmt: skip
    """Fill in `rows`: a line along the greatest spread, then ends and places in turn."""
    if not len(rows):
        return
    px, weights = px[:, rows], weights[rows]
    shares = np.arange(count, dtype=np.float32) / (count - 1)
    mean, axis = main_axis(px, weights)
    along = np.einsum("cni,cn->ni", px - mean[..., None], axis)
    low, high = along.min(axis=1), along.max(axis=1)
    span = np.maximum(high - low, 1e-6)
    place = np.clip(np.rint((along - low[:, None]) / span[:, None] * (count - 1)), 0, count - 1)
    place = place.astype(np.uint8)
    live = np.arange(len(rows))
    for _ in range(ROUNDS):
        mine, heavy = px[:, live], weights[live]
        form = normal_form(*totals(mine, heavy, place, count), shares)
        made = _near(np.clip(best_ends(form), 0, 255), form)
        place, off = nearest(mine, heavy, _palette(made, count))
        better = off < error[rows[live]] - 1e-3
        taken = rows[live[better]]
        ends[taken], places[taken], error[taken] = made[better], place[better], off[better]
        keep = better & (off > 0)
        live, place = live[keep], place[keep]
        if not len(live):
            break


def _palette(ends: np.ndarray, count: int) -> np.ndarray:
    """float32 (3, n, count) of the colours at the places."""
    planes = []
    for channel, bits in enumerate(BITS):
        value = grown(ends[..., channel], bits)
        planes.append(np.stack(steps_between(value[:, 0], value[:, 1], count), axis=1))
    return np.stack(planes).astype(np.float32)


def _around(reach: int) -> tuple[np.ndarray, np.ndarray]:
    """Steps of both ends, nearest first, each (m, 1)."""
    tries = sorted((abs(a) + abs(b), a, b) for a, b in product(range(-2, 3), repeat=2))
    steps = np.array([(a, b) for _far, a, b in tries if max(abs(a), abs(b)) < 2 or _far <= reach], np.int32)
    return steps[:, :1], steps[:, 1:]


def _near(wanted: np.ndarray, form: Normal) -> np.ndarray:
    """The ends of 5, 6, 5 bits that err least, within one step of the wanted ones, int32 (n, 2, 3).

    wanted: (3, n, 2) of 0..255. Channels do not depend on each other.
    """
    out = np.empty((wanted.shape[1], 2, 3), np.int32)
    d0, d1 = _around(1)
    every = np.arange(wanted.shape[1])
    for channel, bits in enumerate(BITS):
        top = (1 << bits) - 1
        start = np.rint(wanted[channel] * (top / 255)).astype(np.int32)
        a, b = np.clip(start[:, 0] + d0, 0, top), np.clip(start[:, 1] + d1, 0, top)
        best = form.error(channel, _GROWN[bits][a], _GROWN[bits][b]).argmin(axis=0)
        out[:, 0, channel], out[:, 1, channel] = a[best, every], b[best, every]
    return out


def _nearest_few(wanted: np.ndarray, weight: np.ndarray, summed: np.ndarray) -> np.ndarray:
    """Like `_near` within two steps, but counted with the very colours a decoder makes."""
    count = weight.shape[1]
    out = np.empty((wanted.shape[1], 2, 3), np.int32)
    d0, d1 = _around(2)
    every, used = np.arange(wanted.shape[1]), np.asarray(weight.any(axis=0), bool).tolist()
    for channel, bits in enumerate(BITS):
        top = (1 << bits) - 1
        start = np.rint(wanted[channel] * (top / 255)).astype(np.int32)
        a, b = np.clip(start[:, 0] + d0, 0, top), np.clip(start[:, 1] + d1, 0, top)
        pair = (a << bits) | b
        off = np.zeros(a.shape, np.float32)
        for k, table in enumerate(_pairs(bits, count)):
            if used[k]:
                v = table[pair]
                off += v * (v * weight[:, k] - 2 * summed[channel, :, k])
        best = off.argmin(axis=0)
        out[:, 0, channel], out[:, 1, channel] = a[best, every], b[best, every]
    return out


@cache
def _pairs(bits: int, count: int) -> list[np.ndarray]:
    """For each place the value it has between two ends, float32, by first end << bits | last end."""
    pair = np.arange(1 << 2 * bits)
    first, last = grown(pair >> bits, bits), grown(pair & ((1 << bits) - 1), bits)
    return [values.astype(np.float32) for values in steps_between(first, last, count)]


def _few(
    px: np.ndarray, weights: np.ndarray, count: int, kinds: np.ndarray, colours: np.ndarray,
    ends: np.ndarray, places: np.ndarray, error: np.ndarray,
) -> None:  # fmt: skip
    """Improve, in place, blocks of no more colours than there are places: every arrangement is tried."""
    for k in range(1, count + 1):
        rows = np.flatnonzero((colours == k) & (error > 0))
        if not len(rows):
            continue
        weight, summed = totals(px[:, rows], weights[rows], kinds[rows], k)
        # One from its other end is the same line; those that use all of it are mostly the best.
        ways = [(1,)] if k == 1 else [way for way in permutations(range(count), k) if way[0] < way[-1]]
        ways.sort(key=lambda way: way[0] - way[-1])
        best, made = error[rows], ends[rows]
        chosen = np.full(len(rows), -1)
        for number, way in enumerate(ways):
            _try_arranged(weight, summed, count, way, number, best, made, chosen)
        better = chosen >= 0
        taken = rows[better]
        table = np.array(ways, np.uint8)[chosen[better]]
        places[taken] = np.take_along_axis(table, kinds[taken].astype(np.intp), axis=1)
        ends[taken], error[taken] = made[better], best[better]


def _try_arranged(
    weight: np.ndarray, summed: np.ndarray, count: int, way: tuple[int, ...], number: int,
    best: np.ndarray, made: np.ndarray, chosen: np.ndarray,
) -> None:  # fmt: skip
    """Put the ends of an arrangement of the colours, given as from `totals`, into made (n, 2, 3) where they
    err less than best (n,), with its number into chosen (n,). `way`: the place of each colour."""
    at = list(way)
    if len(way) == 1:
        hope = np.ones(len(best), bool)
        value = np.rint(summed[..., 0] / weight[:, 0]).astype(np.intp)
        tried = np.stack(
            [single_ends(bits, count)[value[channel]] for channel, bits in enumerate(BITS)], axis=2
        )
    else:
        form = normal_form(weight, summed, np.array(at, np.float32) / (count - 1))
        wanted = best_ends(form)
        # No ends are better than the best without limits: where those are worse, nothing is to be won.
        whole = (summed * summed / weight).sum(axis=(0, 2))
        floor = whole - (wanted[..., 0] * form.ax + wanted[..., 1] * form.bx).sum(axis=0)
        hope = floor < 0.98 * best - 0.5
        if not hope.any():
            return
        full = np.zeros((int(hope.sum()), count), np.float32)
        sums = np.zeros((3, len(full), count), np.float32)
        full[:, at], sums[:, :, at] = weight[hope], summed[:, hope]
        tried = _nearest_few(np.clip(wanted[:, hope], 0, 255), full, sums)
    gap = summed[:, hope] / weight[hope] - _palette(tried, count)[..., at]
    off = ((gap * gap).sum(axis=0) * weight[hope]).sum(axis=1)
    better = off < best[hope]
    taken = np.flatnonzero(hope)[better]
    best[taken], made[taken], chosen[taken] = off[better], tried[better], number


# -- alpha -------------------------------------------------------------------------------------------------


def code_alpha(alpha: np.ndarray) -> np.ndarray:
    """uint8 (n, 16) to uint8 (n, 8): the better of eight steps, and six steps with 0 and 255."""
    values = alpha.astype(np.float32)[None]
    ones = np.ones(alpha.shape, np.float32)
    best, index, error = _alpha_ends(values, ones, 8)
    rows = np.flatnonzero(error > 0)
    if len(rows):
        other, other_index, other_error = _alpha_ends(values[:, rows], ones[rows], 6)
        better = other_error < error[rows]
        taken = rows[better]
        best[taken], index[taken] = other[better], other_index[better]
    out = np.empty((len(alpha), 8), np.uint8)
    out[:, 0], out[:, 1] = best[:, 0], best[:, 1]
    bits = (index.astype(np.uint64) << (3 * np.arange(16, dtype=np.uint64))).sum(axis=1, dtype=np.uint64)
    out[:, 2:] = bits.astype("<u8").view(np.uint8).reshape(-1, 8)[:, :6]
    return out


def _alpha_ends(
    values: np.ndarray, ones: np.ndarray, count: int
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The best ends int32 (n, 2) found for `count` steps, the index of each px and the error (n,)."""
    inner = ones if count == 8 else ((values[0] > 0) & (values[0] < 255)).astype(np.float32)
    none = ~inner.any(axis=1)
    low = np.where(inner > 0, values[0], 255).min(axis=1)
    high = np.where(inner > 0, values[0], 0).max(axis=1)
    low[none], high[none] = 0, 0
    shares = np.array([0, 1, *(i / (count - 1) for i in range(1, count - 1))], np.float32)
    best = np.zeros((len(low), 2), np.int32)
    index = np.zeros(ones.shape, np.uint8)
    error = np.full(len(low), np.inf, np.float32)
    live = np.arange(len(low))
    ends = np.stack((high, low) if count == 8 else (low, high), axis=1)
    for _ in range(ROUNDS):
        whole = _ordered(np.rint(ends).astype(np.int32), count)
        found, off = nearest(
            values[:, live], ones[live], alpha_steps(whole[:, 0], whole[:, 1]).astype(np.float32)[None]
        )
        better = off < error[live]
        rows = live[better]
        best[rows], index[rows], error[rows] = whole[better], found[better], off[better]
        keep = better & (off > 0)
        live, found = live[keep], found[keep]
        if not len(live):
            break
        weight, summed = totals(values[:, live], ones[live], found, count)
        ends = np.clip(best_ends(normal_form(weight, summed, shares))[0], 0, 255)
    return best, index, error


def _ordered(ends: np.ndarray, count: int) -> np.ndarray:
    """The ends in the order that says how many steps there are; equal ones only mean six."""
    ends = np.sort(ends, axis=1)
    if count == 6:
        return ends
    ends = ends[:, ::-1].copy()
    same = ends[:, 0] == ends[:, 1]
    ends[same & (ends[:, 0] < 255), 0] += 1
    ends[same & (ends[:, 1] == 255), 1] -= 1
    return ends
