"""BC7 in NumPy."""

from __future__ import annotations

from functools import cache
from itertools import product
from typing import NamedTuple

import numpy as np

from rushweed.core.tune.codec.bc7 import MODES, STEPS, Mode, anchors, partitions
from rushweed.core.tune.codec.blocks import grown
from tests.plain_codecs.lines import Normal, best_ends, main_axis, nearest, normal_form, seen_weights, totals

ROUNDS = 3
RANKED = {2: 3, 3: 2}  # how many partitions of each kind are fitted


# -- one line through the colours of a subset -------------------------------------------------------------


class Line(NamedTuple):
    """`ends` int32 (n, 2, channels) as stored without parity, `parity` (n, 2), `places` uint8 (n, 16), the
    weighted squared `error` (n,)."""

    ends: np.ndarray
    parity: np.ndarray
    places: np.ndarray
    error: np.ndarray

    def only(self, rows: np.ndarray) -> Line:
        return Line(self.ends[rows], self.parity[rows], self.places[rows], self.error[rows])


def _values(ends: np.ndarray, parity: np.ndarray, widths: tuple[int, ...], kind: str) -> np.ndarray:
    """The ends in 8 bits, int32 (channels, n, 2)."""
    out = []
    for channel, bits in enumerate(widths):
        value = ends[..., channel]
        out.append(grown(value, bits) if kind == "none" else grown((value << 1) | parity, bits + 1))
    return np.stack(out)


def _palette(values: np.ndarray, steps: np.ndarray) -> np.ndarray:
    """float32 (channels, n, k) from 8-bit ends (channels, n, 2)."""
    first, last = values[..., :1], values[..., 1:]
    return np.asarray(((64 - steps) * first + steps * last + 32) >> 6).astype(np.float32)


def _parities(kind: str) -> list[tuple[int, int]]:
    return {"none": [(0, 0)], "subset": [(0, 0), (1, 1)], "end": [(0, 0), (0, 1), (1, 0), (1, 1)]}[kind]


def fit_line(px: np.ndarray, weights: np.ndarray, widths: tuple[int, ...], kind: str, bits: int) -> Line:
    """The best line found for px (channels, n, 16); px of no weight do not count.

    widths: bits of each channel's ends; kind: of the parity; bits: of the indices.
    """
    channels, count, _ = px.shape
    steps = STEPS[bits]
    shares = (steps / 64).astype(np.float32)
    mean, axis = main_axis(px, weights)
    along = np.einsum("cni,cn->ni", px - mean[..., None], axis)
    low = np.where(weights > 0, along, np.inf).min(axis=1)
    high = np.where(weights > 0, along, -np.inf).max(axis=1)
    wanted = np.stack((mean + axis * low, mean + axis * high), axis=2)
    best = Line(
        np.zeros((count, 2, channels), np.int32), np.zeros((count, 2), np.int32),
        np.zeros((count, 16), np.uint8), np.full(count, np.inf, np.float32),
    )  # fmt: skip
    place = np.clip(np.rint((along - low[:, None]) / np.maximum(high - low, 1e-6)[:, None] * (len(steps) -
    1)),
                    0, len(steps) - 1).astype(np.uint8)  # fmt: skip
    live = np.arange(count)
    for _ in range(ROUNDS):
        form = normal_form(*totals(px[:, live], weights[live], place, len(steps)), shares)
        wanted = np.clip(best_ends(form), 0, 255)
        ends, parity = _rounded(wanted, form, widths, kind)
        values = _values(ends, parity, widths, kind)
        place, error = nearest(px[:, live], weights[live], _palette(values, steps))
        better = error < best.error[live] - 1e-3
        rows = live[better]
        best.ends[rows], best.parity[rows] = ends[better], parity[better]
        best.places[rows], best.error[rows] = place[better], error[better]
        keep = better & (error > 0)
        live, place = live[keep], place[keep]
        if not len(live):
            break
    return best


def _rounded(
    wanted: np.ndarray, form: Normal, widths: tuple[int, ...], kind: str
) -> tuple[np.ndarray, np.ndarray]:
    """Ends near the wanted ones (channels, n, 2) with the parity that errs least."""
    channels, count, _ = wanted.shape
    best = np.zeros((count, 2, channels), np.int32)
    best_parity = np.zeros((count, 2), np.int32)
    least = np.full(count, np.inf, np.float32)
    around = sorted(product((-1, 0, 1), repeat=2), key=lambda d: abs(d[0]) + abs(d[1]))
    d0, d1 = (np.array(d, np.int32)[:, None] for d in zip(*around, strict=True))
    every = np.arange(count)
    for p0, p1 in _parities(kind):
        ends = np.zeros((count, 2, channels), np.int32)
        off = np.zeros(count, np.float32)
        for channel, bits in enumerate(widths):
            top = (1 << bits) - 1
            table = _grown_table(bits, kind != "none")
            share, low = (top / 255, 0) if kind == "none" else ((top + 0.5) / 255, np.array((p0, p1)) / 2)
            whole = np.rint(wanted[channel] * share - low).astype(np.int32)
            a, b = np.clip(whole[:, 0] + d0, 0, top), np.clip(whole[:, 1] + d1, 0, top)
            made = form.error(channel, table[p0, a], table[p1, b])
            pick = made.argmin(axis=0)
            ends[:, 0, channel], ends[:, 1, channel] = a[pick, every], b[pick, every]
            off += made[pick, every]
        better = off < least
        best[better], least[better] = ends[better], off[better]
        best_parity[better] = (p0, p1)
    return best, best_parity


@cache
def _grown_table(bits: int, parity: bool) -> np.ndarray:
    """8-bit values, float32, by parity and stored value."""
    stored = np.arange(1 << bits)
    if not parity:
        return np.stack([grown(stored, bits)] * 2).astype(np.float32)
    return np.stack([grown((stored << 1) | p, bits + 1) for p in (0, 1)]).astype(np.float32)


# -- coding ------------------------------------------------------------------------------------------------


class _Coded(NamedTuple):
    """Blocks of one mode: `which` partition each has, the line of each subset, and of alpha if on its own."""

    mode: int
    which: np.ndarray
    rotation: int
    choice: int
    lines: list[Line]
    alpha: Line | None

    @property
    def error(self) -> np.ndarray:
        lines = self.lines if self.alpha is None else [*self.lines, self.alpha]
        return np.asarray(np.sum([line.error for line in lines], axis=0))

    def only(self, rows: np.ndarray) -> _Coded:
        lines = [line.only(rows) for line in self.lines]
        alpha = None if self.alpha is None else self.alpha.only(rows)
        return _Coded(self.mode, self.which[rows], self.rotation, self.choice, lines, alpha)


class _Best:
    """The best coding found so far of each block: its error and its bits."""

    def __init__(self, count: int) -> None:
        self.error = np.full(count, np.inf, np.float32)
        self.bits = np.zeros((count, 128), np.uint8)

    def take(self, rows: np.ndarray, made: _Coded) -> None:
        better = made.error < self.error[rows] - 1e-3
        taken = rows[better]
        if len(taken):
            self.error[taken], self.bits[taken] = made.error[better], _written(made.only(better))

    def open(self, among: np.ndarray | None = None) -> np.ndarray:
        """The blocks that are not exact yet."""
        still = self.error > 0.5
        return np.flatnonzero(still if among is None else still & among)


def code_bc7(blocks: np.ndarray) -> np.ndarray:
    """uint8 (n, 16, 4) to uint8 (n, 16)."""
    px = np.ascontiguousarray(blocks.transpose(2, 0, 1)).astype(np.float32)
    weights = seen_weights(blocks)
    opaque = (blocks[..., 3] == 255).all(axis=1)
    best = _Best(len(blocks))
    rows = np.arange(len(blocks))
    for mode, among in ((6, None), (5, None), (4, ~opaque)):
        rows = best.open(among) if mode != 6 else rows
        for rotation in range(4 if MODES[mode].rotation else 1):
            for choice in range(2 if MODES[mode].choice else 1):
                if len(rows):
                    best.take(rows, _one_subset(px[:, rows], weights[rows], mode, rotation, choice))
    for subsets, among, modes in ((2, opaque, (1, 3)), (2, ~opaque, (7,)), (3, opaque, (2, 0))):
        rows = best.open(among)
        if not len(rows):
            continue
        ranked = ranked_partitions(px[:, rows], subsets, 4 if modes == (7,) else 3)
        for place in range(RANKED[subsets]):
            for mode in modes:
                allowed = ranked[:, place] < (1 << MODES[mode].partition)
                still = allowed & (best.error[rows] > 0.5)
                if still.any():
                    mine = rows[still]
                    best.take(mine, _subsets(px[:, mine], mode, ranked[still, place]))
    return np.packbits(best.bits, axis=1, bitorder="little")


def _one_subset(px: np.ndarray, weights: np.ndarray, mode: int, rotation: int, choice: int) -> _Coded:
    spec = MODES[mode]
    ones, which = np.ones_like(weights), np.zeros(len(weights), np.intp)
    if not spec.second:
        line = fit_line(px, ones, (spec.colour,) * 3 + (spec.alpha,), spec.parity, spec.places)
        return _Coded(mode, which, 0, 0, [line], None)
    turned = px.copy()
    if rotation:
        turned[[rotation - 1, 3]] = turned[[3, rotation - 1]]
    colour_bits, alpha_bits = (spec.second, spec.places) if choice else (spec.places, spec.second)
    colour = fit_line(turned[:3], weights if not rotation else ones, (spec.colour,) * 3, "none", colour_bits)
    alpha = fit_line(turned[3:], ones, (spec.alpha,), "none", alpha_bits)
    return _Coded(mode, which, rotation, choice, [colour], alpha)


def _subsets(px: np.ndarray, mode: int, which: np.ndarray) -> _Coded:
    spec = MODES[mode]
    channels = 4 if spec.alpha else 3
    widths = (spec.colour,) * 3 + ((spec.alpha,) if spec.alpha else ())
    of = partitions(spec.subsets)[which]
    lines = []
    for subset in range(spec.subsets):
        mine = np.where(of == subset, np.float32(1), np.float32(0))
        lines.append(fit_line(px[:channels], mine, widths, spec.parity, spec.places))
    return _Coded(mode, which, 0, 0, lines, None)


def ranked_partitions(px: np.ndarray, subsets: int, channels: int) -> np.ndarray:
    """For each block the partitions, best first, by the spread that a line for each subset would leave.

    intp (n, RANKED[subsets]).
    """
    middle = px[:channels] - np.float32(128)
    pairs = [(i, j) for i in range(channels) for j in range(i, channels)]
    stack = np.stack([*middle, *(middle[i] * middle[j] for i, j in pairs)], axis=2)  # (n, 16, features)
    table = partitions(subsets)
    left = np.zeros((px.shape[1], 64), np.float32)
    for subset in range(subsets):
        mask = (table == subset).astype(np.float32)
        count = np.maximum(mask.sum(axis=1), 1)
        sums = np.ascontiguousarray(np.matmul(mask, stack).transpose(2, 0, 1))  # (features, n, 64)
        spread = {(i, j): sums[channels + k] - sums[i] * sums[j] / count for k, (i, j) in enumerate(pairs)}
        left += _across(spread, channels)
    return np.argsort(left, axis=1, kind="stable")[:, : RANKED[subsets]]


def _across(spread: dict[tuple[int, int], np.ndarray], channels: int) -> np.ndarray:
    """What of a spread, the upper half of a covariance by channels, is not along its main axis."""
    whole = np.stack(
        [np.stack([spread[min(i, j), max(i, j)] for j in range(channels)]) for i in range(channels)]
    )

    def turned(axis: np.ndarray) -> np.ndarray:
        out = whole[:, 0] * axis[0]
        for j in range(1, channels):
            out += whole[:, j] * axis[j]
        return np.asarray(out)

    own = np.stack([whole[i, i] for i in range(channels)])
    axis = np.sqrt(np.maximum(own, 0)) * np.sign(whole[0] + np.float32(1e-3))
    for _ in range(3):
        axis = turned(axis)
        axis /= np.maximum(np.abs(axis).max(axis=0), np.float32(1e-12))
    along = (axis * turned(axis)).sum(axis=0)
    return np.asarray(own.sum(axis=0) - along / np.maximum((axis * axis).sum(axis=0), np.float32(1e-12)))


# -- bits --------------------------------------------------------------------------------------------------


class _Writer:
    """128 bits of many blocks, filled from the lowest."""

    def __init__(self, count: int) -> None:
        self.bits = np.zeros((count, 128), np.uint8)
        self.at = np.zeros(count, np.intp)

    def put(self, value: np.ndarray | int, width: int | np.ndarray) -> None:
        """Write `value`; the width may differ from block to block."""
        value = np.broadcast_to(np.asarray(value), self.at.shape)
        widths = np.broadcast_to(np.asarray(width), self.at.shape)
        rows = np.arange(len(self.at))
        for i in range(int(widths.max(initial=0))):
            here = widths > i
            self.bits[rows[here], self.at[here] + i] = (value[here] >> i) & 1
        self.at += widths


def _written(coded: _Coded) -> np.ndarray:
    """The bits, uint8 (n, 128)."""
    mode, which, rotation, choice, lines, alpha = coded
    spec = MODES[mode]
    count = len(which)
    of, fixed = partitions(spec.subsets)[which], anchors(spec.subsets)[which]
    lines = [_turned_to_anchor(line, fixed[:, s], _colour_bits(spec, choice)) for s, line in enumerate(lines)]
    index = np.zeros((count, 16), np.int32)
    for s, line in enumerate(lines):
        index = np.where(of == s, line.places, index)
    out = _Writer(count)
    out.put(1 << mode, mode + 1)
    out.put(which, spec.partition)
    out.put(rotation, spec.rotation)
    out.put(choice, spec.choice)
    for channel in range(3):
        for line in lines:
            for end in (0, 1):
                out.put(line.ends[:, end, channel], spec.colour)
    if spec.alpha:
        if alpha is not None:
            alpha = _turned_to_anchor(alpha, np.zeros(count, np.intp), _alpha_bits(spec, choice))
        for line in lines if alpha is None else [alpha]:
            for end in (0, 1):
                out.put(line.ends[:, end, 3 if alpha is None else 0], spec.alpha)
    for line in lines:
        if spec.parity == "end":
            out.put(line.parity[:, 0], 1)
            out.put(line.parity[:, 1], 1)
        elif spec.parity == "subset":
            out.put(line.parity[:, 0], 1)
    sets = [(index, spec.places)] if alpha is None else [(index, spec.places), (alpha.places, spec.second)]
    if choice and alpha is not None:
        sets = [(alpha.places, spec.places), (index, spec.second)]
    for values, width in sets:
        for i in range(16):
            out.put(values[:, i], width - (fixed == i).any(axis=1).astype(np.intp))
    return out.bits


def _colour_bits(spec: Mode, choice: int) -> int:
    return spec.second if choice else spec.places


def _alpha_bits(spec: Mode, choice: int) -> int:
    return spec.places if choice else spec.second


def _turned_to_anchor(line: Line, anchor: np.ndarray, bits: int) -> Line:
    """The same line with its ends exchanged where the anchor's index would need its highest bit."""
    top = (1 << bits) - 1
    swap = line.places[np.arange(len(anchor)), anchor] > top // 2
    ends, parity, index = line.ends.copy(), line.parity.copy(), line.places.copy()
    ends[swap], parity[swap] = ends[swap][:, ::-1], parity[swap][:, ::-1]
    index[swap] = top - index[swap]
    return Line(ends, parity, index, line.error)
