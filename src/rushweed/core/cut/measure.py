"""What a picture shows along one axis that bears on where its cells begin.

Everything is measured on at most ROWS lines across the axis, so that a large picture costs little more than
a small one.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.cut.parts import Parts

ROWS = 192  # lines read across an axis
MOST_PARTS = 1500  # connected parts looked at, the largest
LABELLED = 2_000_000  # px up to which parts are found at full size
DIRECTIONS = 4096  # told apart when equal colours are counted
MIXED = [  # of each value of a channel, less its last bit
    (np.arange(256, dtype=np.uint64) >> np.uint64(1)) * np.uint64(by)
    for by in (73856093, 19349663, 83492791, 2654435761)
]
ELSEWHERE = 0.12  # of other columns that the colour of drawn lines may cover, as lines across do
MOST_LINE = 8  # px that a drawn line is wide
STRONG = 96  # of 255: a change of colour beyond it counts no more


class AxisMeasure(NamedTuple):
    """Measured along one axis of `length` px; arrays over places have `length` + 1 entries, index b being
    the place between px b - 1 and b; arrays over columns have `length`, and so have those over distances.

    `edge`: change of colour, 0..96; `inner`: the same where art is on both sides; `alpha_edge`: share of
    lines on which art begins or ends; `cross`: share on which art runs across. `separator`: how far each
    column could part cells at all, `clean`: how far it is nothing but one colour and what is clear, `drawn`:
    whether a line is drawn along it, and `signals`: the share of lines that could part cells by being clear,
    for each colour of drawn lines, of any colour. `differ`: how unlike the picture is to itself so many px on
    (0 equal, 1 unrelated), `mask_differ` the same for where art is; `equal`: share of art px equal to the one
    so many px on; `columns`: share of whole columns equal. `parts`: where connected parts begin and end
    and their weight, float (n, 3). `content`: first and last px with art, exclusive. `opaque`: nothing is
    known to be clear.
    """

    length: int
    across: int
    opaque: bool
    edge: np.ndarray
    inner: np.ndarray
    alpha_edge: np.ndarray
    cross: np.ndarray
    separator: np.ndarray
    clean: np.ndarray
    drawn: np.ndarray
    signals: tuple[np.ndarray, ...]
    differ: np.ndarray
    mask_differ: np.ndarray
    equal: np.ndarray
    columns: np.ndarray
    parts: np.ndarray
    content: tuple[int, int]


def connected_parts(mask: np.ndarray) -> np.ndarray:
    """The connected parts of a bool mask: left, top, right, bottom, px count of each, float (n, 5), the
    largest first; found at half size, and so on, where the mask is large."""
    step = 1
    while mask.size > LABELLED:
        h, w = mask.shape[0] // 2 * 2, mask.shape[1] // 2 * 2
        mask = mask[:h:2, :w:2] | mask[1:h:2, :w:2] | mask[:h:2, 1:w:2] | mask[1:h:2, 1:w:2]
        step *= 2
    found = Parts(mask)
    parts = np.column_stack((found.boxes * step, found.area * step * step)).astype(float)
    return parts[np.argsort(-parts[:, 4], kind="stable")[:MOST_PARTS]]


def measure(
    rgba: np.ndarray, mask: np.ndarray, parts: np.ndarray, axis: int, opaque: bool, keyed: bool
) -> AxisMeasure:
    """Measure a picture, uint8 (height, width, 4), along x (axis 0) or y (axis 1).

    mask: bool (height, width), where art is. `opaque`: nothing is known to be clear; `keyed`: what is clear
    is a colour, which then counts as no colour.
    """
    words = np.ascontiguousarray(rgba).view(np.uint32)[..., 0]
    if axis == 1:
        rgba, mask, words = rgba.transpose(1, 0, 2), mask.T, words.T
    across, length = mask.shape
    step = max(across / ROWS, 1)
    rows = np.unique((np.arange(0, across, step) + step / 2).astype(int).clip(0, across - 1))
    part, held = rgba[rows], mask[rows]
    colours = _colours(part, held, keyed)
    edge, inner = np.zeros(length + 1), np.zeros(length + 1)
    alpha_edge, cross = np.zeros(length + 1), np.zeros(length + 1)
    if length > 1:
        change, leap = np.zeros((2, len(rows), length - 1), np.float32)
        for plane in colours:
            np.abs(np.subtract(plane[:, 1:], plane[:, :-1], out=leap), out=leap)
            np.maximum(change, leap, out=change)
        np.minimum(change, STRONG, out=change)
        both = held[:, 1:] & held[:, :-1]
        edge[1:-1] = change.mean(axis=0)
        count = _counts(both)
        inner[1:-1] = np.multiply(change, both, out=leap).sum(axis=0) / np.maximum(count, 1)
        inner[1:-1] *= np.minimum(count / max(len(rows) * 0.1, 1), 1)
        alpha_edge[1:-1] = _counts(held[:, 1:] != held[:, :-1]) / len(rows)
        cross[1:-1] = count / len(rows)
    separator, clean, drawn, signals = _signals(part, held)
    inked = np.asarray(mask.any(axis=0))
    places = np.flatnonzero(inked)
    content = (int(places[0]), int(places[-1]) + 1) if places.size else (0, length)
    differ, mask_differ, equal = _again(colours, part, held, opaque)
    boxes = np.column_stack((parts[:, axis], parts[:, axis + 2], np.sqrt(parts[:, 4])))
    return AxisMeasure(
        length, across, opaque, edge, inner, alpha_edge, cross, separator, clean, drawn, signals,
        differ, mask_differ, equal, _equal_columns(words, mask, rows, inked), boxes, content,
    )  # fmt: skip


def _counts(mask: np.ndarray) -> np.ndarray:
    """How many of each column of a bool mask of at most ROWS rows are set."""
    counted: np.ndarray = np.add.reduce(mask.view(np.uint8), axis=0, dtype=np.uint8)
    return counted.astype(np.int64)


def _colours(part: np.ndarray, held: np.ndarray, keyed: bool) -> np.ndarray:
    """Premultiplied colours and alpha as planes, float32 (4, rows, length); a key colour is one value."""
    planes = part.transpose(2, 0, 1).astype(np.float32, order="C")
    planes[:3] *= planes[3] / 255
    if keyed and not held.all():
        for plane in planes:
            plane[~held] = plane[~held].mean()
    return planes


def _signals(
    part: np.ndarray, held: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray, tuple[np.ndarray, ...]]:
    """How far each column could be a separator at all, how far it is nothing but one line and what is clear,
    whether a line is drawn along it, and the signals one by one."""
    red, green, blue = (part[..., channel].astype(np.uint16) >> 4 for channel in range(3))
    codes = (red << 8 | green << 4 | blue) + np.uint16(1)
    codes *= part[..., 3] >= 8
    best, colour = _commonest(codes)
    line = best / len(codes)
    clear = 1 - _counts(held) / len(held)
    signals = [clear] if clear.max(initial=0) > 0.55 else []
    strong, counts = np.unique(colour[line >= 0.75], return_counts=True)
    shares = [_counts(codes == code) / len(codes) for code in strong[np.argsort(-counts, kind="stable")][:4]]
    signals += [share for share in shares if share.mean() < 0.6]
    if line.max(initial=0) > 0.55 and line.mean() < 0.6:
        signals.append(line)
    inked = _counts((codes == colour) & held) / len(held)
    return np.maximum(line, clear), np.minimum(inked + clear, 1.0), _drawn(line.shape, shares), tuple(signals)


def _drawn(shape: tuple[int, ...], shares: list[np.ndarray]) -> np.ndarray:
    """The columns that narrow lines of one colour run along, bool: of some colours, each told by its share of
    every column, the one whose lines come again most evenly; none if that occurs elsewhere too."""
    found, best = np.zeros(shape, bool), 0.5
    for share in shares:
        lined = _narrow(share >= 0.55)
        apart = np.diff(np.flatnonzero(np.diff(lined, prepend=False) & lined))
        if len(apart) and share[~lined].sum() < ELSEWHERE * (~lined).sum():
            evenly = np.bincount(apart).max() / len(apart) * np.log1p(len(apart))
            if evenly > best:
                found, best = lined, evenly
    return found


def _narrow(columns: np.ndarray) -> np.ndarray:
    """Those of some columns, bool (length,), of which no more than MOST_LINE lie side by side."""
    kept = np.zeros_like(columns)
    for first, end in np.flatnonzero(np.diff(columns, prepend=False, append=False)).reshape(-1, 2).tolist():
        kept[first:end] = end - first <= MOST_LINE
    return kept


def _commonest(codes: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """How often the commonest code above 0 of each column occurs, and that code."""
    ordered = np.sort(codes, axis=0)
    rows, length = ordered.shape
    best, colour = np.zeros(length, int), np.zeros(length, codes.dtype)
    start = np.zeros(length, int)
    for row in range(1, rows + 1):
        ends = ordered[row] != ordered[row - 1] if row < rows else np.ones(length, bool)
        run = row - start
        better = ends & (ordered[row - 1] > 0) & (run > best)
        best, colour = np.where(better, run, best), np.where(better, ordered[row - 1], colour)
        start = np.where(ends, row, start)
    return best, colour


def _again(
    colours: np.ndarray, part: np.ndarray, held: np.ndarray, opaque: bool
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """`differ`, `mask_differ` and `equal` over all distances, by correlation on SciPy's FFT.

    Equal px are counted by giving each colour a direction of its own, at random: the products of equal ones
    add up, all others cancel out.
    """
    from scipy import fft  # late: it takes long to import

    length = held.shape[1]
    size = fft.next_fast_len(2 * length, real=True)
    far = np.arange(length)

    def unlike(planes: list[np.ndarray]) -> np.ndarray:
        energy, common = np.zeros(length), np.zeros(length)
        for plane in planes:
            plane = plane - plane.mean()
            waves = fft.rfft(plane, size, axis=1)
            common += fft.irfft((np.abs(waves) ** 2).sum(axis=0), size)[:length]
            energy += np.einsum("ij,ij->j", plane, plane)
        before = np.concatenate(([0], np.cumsum(energy)))
        total = before[length - far] + before[length] - before[far]
        safe = np.maximum(total, 1e-6)
        return np.where(total > 1e-3, (total - 2 * common) / safe, 1.0)

    differ = unlike(list(colours))
    mask_differ = np.ones(length) if opaque else unlike([held.astype(np.float32)])
    mixed = np.zeros(held.shape, np.uint64)
    for channel, table in enumerate(MIXED):
        mixed ^= table[part[..., channel]]
    mixed *= np.uint64(0x9E3779B97F4A7C15)
    mixed >>= np.uint64(52)
    turned = np.exp(2j * np.pi * np.arange(DIRECTIONS) / DIRECTIONS).astype(np.complex64)[mixed]
    turned *= held
    power = (np.abs(fft.fft(turned, size, axis=1)) ** 2).sum(axis=0)
    found = fft.ifft(power).real[:length]
    inked = np.concatenate(([0], np.cumsum(_counts(held))))
    base = (inked[length - far] + inked[length] - inked[far]) / 2
    equal = np.where(base > 0, found / np.maximum(base, 1), 0).clip(0, 1)
    return differ, mask_differ, np.asarray(equal)


def _equal_columns(words: np.ndarray, mask: np.ndarray, rows: np.ndarray, inked: np.ndarray) -> np.ndarray:
    """Share of columns with art that equal the one so many px on, whole, for distances up to half way. Those
    that are like no other in `rows` are not looked at any further."""
    from scipy import fft  # late: it takes long to import

    length = mask.shape[1]
    columns = np.flatnonzero(inked)
    kind = np.arange(length)  # equal columns are of one kind, one without art is of its own
    for lines in (rows, np.arange(len(mask))):
        digest = _digest(words, mask, lines, columns)
        _values, which, count = np.unique(digest, return_inverse=True, return_counts=True)
        again = count[which] > 1
        columns, which = columns[again], which[again]
    kind[columns] = length + which
    size = fft.next_fast_len(2 * length, real=True)
    both = np.rint(fft.irfft(np.abs(fft.rfft(inked.astype(float), size)) ** 2, size))
    share = np.zeros(length)
    for far in range(1, length // 2 + 1):
        if both[far]:
            share[far] = np.count_nonzero(kind[far:] == kind[:-far]) / both[far]
    return share


def _digest(words: np.ndarray, mask: np.ndarray, lines: np.ndarray, columns: np.ndarray) -> np.ndarray:
    """A number for each of these columns, uint32, by its px with art on these lines. words: uint32 (height,
    width), a px each."""
    weights = np.random.default_rng(5).integers(1, 1 << 32, len(mask), np.uint32) | np.uint32(1)
    digest = np.zeros(len(columns), np.uint32)
    for start in range(0, len(lines), 256):
        some = np.ix_(lines[start : start + 256], columns)
        mixed = words[some]
        mixed += np.uint32(1)
        mixed *= mask[some]
        mixed *= np.uint32(0x9E3779B1)
        mixed ^= mixed >> np.uint32(15)
        mixed *= weights[lines[start : start + 256], None]
        digest += mixed.sum(axis=0, dtype=np.uint32)
    return digest
