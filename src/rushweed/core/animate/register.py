"""Registers frames on one another, as a printer registers plates: whole px, the art untouched.

Everything is measured from the pivot: frames whose pivots stand on one point are drawn on that point.
"""

from __future__ import annotations

from collections import Counter, OrderedDict
from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Literal, NamedTuple

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import change_cells
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell

How = Literal["feet", "centre", "outline", "match"]
Moves = Literal["sideways", "ground", "both"]
NEAR = 6  # frames before and after that one is compared with
PALETTE = 40  # colours compared one by one; art with more is compared by light
LARGEST = 256  # px of a side that is compared px by px; larger frames are compared reduced, and then nearer
SAMPLED = 20_000  # px of a large frame by which its place is found to the px
AROUND = [(dx, dy) for dy in (-1, 0, 1) for dx in (-1, 0, 1) if dx or dy]
SOLID = 8  # alpha from which a px counts
JUMP = 0.125  # of a frame's height: feet farther above the ground line are in the air, and stay there
LEAST_JUMP = 4  # px, for small frames


class Drift(NamedTuple):
    """One frame measured from its pivot, px: its foot line (lowest ink), the middle of its ink and of its
    outline, x right, y down. None where the frame is empty."""

    feet: float | None
    centre: float | None
    middle: float | None


def pixels_of_cell(rgba: np.ndarray, cell: Cell) -> np.ndarray:
    """The px of a cell, a view into the sheet's, uint8 (height, width, 4)."""
    x, y, w, h = cell.rect
    return rgba[y : y + h, x : x + w]


def drift_of(pixels: np.ndarray, cell: Cell) -> Drift:
    """Where a frame, uint8 (height, width, 4), stands with the shift it has."""
    return shown_drift(drawn_drift(pixels), cell)


def drawn_drift(pixels: np.ndarray) -> Drift:
    """Where the ink of a frame, uint8 (height, width, 4), stands in its cell."""
    ink = pixels[..., 3] >= SOLID
    rows, columns = np.flatnonzero(ink.any(axis=1)), np.flatnonzero(ink.any(axis=0))
    if not rows.size:
        return Drift(None, None, None)
    weight = pixels[..., 3].sum(axis=0, dtype=np.uint32).astype(float)
    centre = float((weight * (np.arange(len(weight)) + 0.5)).sum() / weight.sum())
    middle = (int(columns[0]) + int(columns[-1]) + 1) / 2
    return Drift(int(rows[-1]) + 1, centre, middle)


def shown_drift(drawn: Drift, cell: Cell) -> Drift:
    """Where a frame stands with the shift it has, seen from its pivot."""
    if drawn.feet is None or drawn.centre is None or drawn.middle is None:
        return drawn
    dx, dy = cell.shift[0] - cell.pivot[0], cell.shift[1] - cell.pivot[1]
    return Drift(drawn.feet + dy, drawn.centre + dx, drawn.middle + dx)


def spread(values: Sequence[float | None]) -> float:
    """The drift over frames in px: the largest less the smallest of what was measured."""
    known = [v for v in values if v is not None]
    return max(known) - min(known) if known else 0.0


def shifts_for(
    frames: Sequence[tuple[Cell, np.ndarray]],
    how: How,
    moves: Moves = "ground",
    progress: Callable[[float], None] = lambda share: None,
) -> dict[str, tuple[int, int]]:
    """The shift of each frame, by cell id, that puts all on one another; the first frame keeps its own place
    sideways.

    frames: cells with their pixels, uint8 (height, width, 4), in order. Feet moves up and down only; centre
    (the ink's centre of mass), outline (its box) and match (where a frame agrees best with those beside it)
    move as `moves` says: "sideways" leaves every frame at its height; "ground" does so too for centre and
    outline, and with match puts the feet that stand near the ground line on it; "both" lets the method
    decide. A cell that comes several times is registered once. `progress` hears the share done, 0..1.
    """
    unique: dict[str, tuple[Cell, np.ndarray]] = {}
    for cell, pixels in frames:
        unique.setdefault(cell.id, (cell, pixels))
    listed = list(unique.values())
    if len(listed) < 2:
        return {}
    if how == "feet":
        return _grounded(listed, every=True)
    if how == "match":
        made = _by_match(listed, progress)
        if moves == "both":
            return made
        level = _grounded(listed) if moves == "ground" else {c.id: c.shift for c, _p in listed}
        return {i: (shift[0], level[i][1]) for i, shift in made.items()}
    return _by_measure(listed, how, moves == "both")


def ground_line(feet: Sequence[float | None]) -> float | None:
    """Where most frames stand, px down from the pivot: the commonest foot line if half of them or more share
    it, else the middle one; None if all are empty."""
    known = sorted(v for v in feet if v is not None)
    if not known:
        return None
    line, times = Counter(known).most_common(1)[0]
    return line if 2 * times >= len(known) else known[len(known) // 2]


def _grounded(frames: list[tuple[Cell, np.ndarray]], every: bool = False) -> dict[str, tuple[int, int]]:
    """Shifts that put feet on the ground line; of those plainly above it only if `every` is asked."""
    drifts = {cell.id: drift_of(pixels, cell) for cell, pixels in frames}
    ground = ground_line([d.feet for d in drifts.values()])
    made = {}
    for cell, pixels in frames:
        feet, dy = drifts[cell.id].feet, 0
        if feet is not None and ground is not None:
            in_the_air = ground - feet > max(LEAST_JUMP, JUMP * pixels.shape[0])
            dy = 0 if in_the_air and not every else round(ground - feet)
        made[cell.id] = (cell.shift[0], cell.shift[1] + dy)
    return made


def _by_measure(
    frames: list[tuple[Cell, np.ndarray]], how: How, up_and_down: bool
) -> dict[str, tuple[int, int]]:
    drifts = {cell.id: drift_of(pixels, cell) for cell, pixels in frames}
    first = drifts[frames[0][0].id]
    made = {}
    for frame in frames:
        cell, d, dx, dy = frame[0], drifts[frame[0].id], 0, 0
        if how == "centre" and d.centre is not None and first.centre is not None:
            dx, dy = _half_down(first.centre - d.centre), _half_down(_middle_y(frames[0]) - _middle_y(frame))
        elif how == "outline" and d.middle is not None and first.middle is not None:
            dx = _half_down(first.middle - d.middle)
            dy = round(first.feet - d.feet) if d.feet is not None and first.feet is not None else 0
        made[cell.id] = (cell.shift[0] + dx, cell.shift[1] + dy * up_and_down)
    return made


def _half_down(value: float) -> int:
    return int(np.floor(value + 0.5))


def _middle_y(frame: tuple[Cell, np.ndarray]) -> float:
    cell, pixels = frame
    weight = pixels[..., 3].astype(float)
    if not weight.any():
        return 0.0
    rows = weight.sum(axis=1)
    return float((rows * (np.arange(len(rows)) + 0.5)).sum() / rows.sum()) + cell.shift[1] - cell.pivot[1]


# -- best match ------------------------------------------------------------------------------------------


def _by_match(
    frames: list[tuple[Cell, np.ndarray]], progress: Callable[[float], None]
) -> dict[str, tuple[int, int]]:
    """Each frame against all that stand already, nearer ones counting more, then once more against all.

    Of places that agree equally well the one nearest to where the outlines agree is taken, which does not
    depend on how the frames stood before.
    """
    spectra = _Spectra([pixels for _cell, pixels in frames])
    outlines = _by_measure(frames, "outline", up_and_down=True)
    starts = [
        (outlines[cell.id][0] - cell.pivot[0], outlines[cell.id][1] - cell.pivot[1]) for cell, _p in frames
    ]
    places: list[tuple[int, int]] = [_whole(starts[0])]
    for n in range(1, len(frames)):
        progress(n / len(frames) / 2)
        near = {m: 1.0 / (n - m) for m in range(max(0, n - NEAR), n)}
        places.append(_best(n, near, spectra, places, _whole(starts[n])))
    if len(frames) > 2:
        for n in range(1, len(frames)):
            progress(0.5 + n / len(frames) / 2)
            near = {m: 1.0 / abs(n - m) for m in range(len(frames)) if m != n and abs(n - m) <= NEAR}
            places[n] = _best(n, near, spectra, places, places[n])
    made = {}
    for (cell, _pixels), place in zip(frames, places, strict=True):
        made[cell.id] = (round(place[0] + cell.pivot[0]), round(place[1] + cell.pivot[1]))
    first = frames[0][0]
    off = (first.shift[0] - made[first.id][0], first.shift[1] - made[first.id][1])
    return {i: (x + off[0], y + off[1]) for i, (x, y) in made.items()}


def _whole(place: tuple[float, float]) -> tuple[int, int]:
    return int(np.floor(place[0] + 0.5)), int(np.floor(place[1] + 0.5))


class _Spectra:
    """The spectra of frames, complex64 (planes, height, width // 2 + 1); of many frames only those last asked
    for are held, as each may take some MiB.

    What is compared: one plane for each common colour of pixel art, else light and alpha. Rare colours tell
    more of a place than common ones. Of frames that are large, `step` px each way are one.
    """

    def __init__(self, pictures: list[np.ndarray]) -> None:
        from scipy import fft  # late: it takes long to import

        self._pictures = pictures
        self._held: OrderedDict[int, np.ndarray] = OrderedDict()
        inked = [_words(p)[p[..., 3] >= SOLID] for p in pictures]
        colours, counts = np.unique(np.concatenate(inked), return_counts=True)
        top = np.argsort(-counts, kind="stable")[:PALETTE]
        total = int(counts.sum())
        self._colours = colours[top] if total and counts[top].sum() >= 0.8 * total else None
        self._weights = 1 / np.sqrt(counts[top] / len(pictures))
        height, width = max(p.shape[0] for p in pictures), max(p.shape[1] for p in pictures)
        self.step = -(-max(height, width) // LARGEST)
        height, width = -(-height // self.step), -(-width // self.step)
        self.size = (fft.next_fast_len(2 * height, real=True), fft.next_fast_len(2 * width, real=True))

    def __getitem__(self, n: int) -> np.ndarray:
        from scipy import fft

        if n not in self._held:
            self._held[n] = np.asarray(fft.rfft2(self._planes(self._pictures[n]), self.size))
            while len(self._held) > 2 * NEAR + 1:
                self._held.popitem(last=False)
        self._held.move_to_end(n)
        return self._held[n]

    def _planes(self, picture: np.ndarray) -> np.ndarray:
        """float32 (planes, height, width)."""
        if self.step == 1:
            return self._whole_planes(picture)
        high = 64 * self.step  # a band at a time, as all planes of a large frame would take GiB
        bands = (picture[top : top + high] for top in range(0, len(picture), high))
        return np.concatenate([_reduced(self._whole_planes(band), self.step) for band in bands], axis=1)

    def _whole_planes(self, picture: np.ndarray) -> np.ndarray:
        if self._colours is not None:
            words = _words(picture)
            each = zip(self._colours, self._weights, strict=True)
            return np.stack([(words == colour) * weight for colour, weight in each]).astype(np.float32)
        alpha = picture[..., 3].astype(np.float32) / 255
        colour = picture[..., :3].astype(np.float32) / 255 * alpha[..., None]
        return np.concatenate((colour.transpose(2, 0, 1), alpha[None]))

    def agreement(self, n: int, m: int, at: np.ndarray, shift: tuple[int, int]) -> float:
        """How well some px of frame `n`, int (count, 2) of x and y, agree with those of frame `m` that they
        lie on when they are shifted: the sum of the product of their planes."""
        mine, other = self._pictures[n], self._pictures[m]
        x, y = at[:, 0] + shift[0], at[:, 1] + shift[1]
        inside = (x >= 0) & (y >= 0) & (x < other.shape[1]) & (y < other.shape[0])
        one, two = mine[at[inside, 1], at[inside, 0]], other[y[inside], x[inside]]
        if self._colours is None:
            light = (p[:, :3].astype(np.float32) * (p[:, 3:].astype(np.float32) / 255**2) for p in (one, two))
            alpha = one[:, 3].astype(np.float32) * two[:, 3] / 255**2
            return float(np.prod(list(light), axis=0).sum() + alpha.sum())
        words = _words(one)[_words(one) == _words(two)]
        order = np.argsort(self._colours)
        place = order[np.searchsorted(self._colours[order], words).clip(0, len(order) - 1)]
        return float((self._weights[place] ** 2)[self._colours[place] == words].sum())

    def some_px(self, n: int) -> np.ndarray:
        """Px of a frame that has ink there, evenly taken: int (count, 2) of x and y."""
        ys, xs = np.nonzero(self._pictures[n][..., 3] >= SOLID)
        every = -(-len(ys) // SAMPLED) or 1
        return np.stack((xs[::every], ys[::every]), axis=1)


def _reduced(planes: np.ndarray, step: int) -> np.ndarray:
    """The mean of `step` px each way; beyond the edge is nothing."""
    count, high, wide = planes.shape
    whole = np.pad(planes, ((0, 0), (0, -high % step), (0, -wide % step)))
    parts = whole.reshape(count, -(-high // step), step, -(-wide // step), step)
    return np.asarray(parts.mean(axis=(2, 4)))


def _words(picture: np.ndarray) -> np.ndarray:
    return np.ascontiguousarray(picture).view(np.uint32)[..., 0]


def _best(
    n: int,
    near: Mapping[int, float],
    spectra: _Spectra,
    places: list[tuple[int, int]],
    start: tuple[int, int],
) -> tuple[int, int]:
    """Where frame `n` agrees best with others at their places; of equal ones the nearest to `start`.

    The sum over all px of the product of two frames at every shift at once is the inverse transform of the
    product of one spectrum with the other's conjugate (the correlation theorem).
    """
    from scipy import fft

    step, (height, width) = spectra.step, spectra.size
    score = np.zeros(spectra.size)
    for m, weight in near.items():
        product = (spectra[m] * np.conj(spectra[n])).sum(axis=0)
        agree = fft.irfft2(product, spectra.size)
        score += weight * np.roll(agree, [round(v / step) for v in reversed(places[m])], axis=(0, 1))
    x, y = (round(v / step) for v in start)
    best = score.max()
    ys, xs = np.nonzero(score >= best - 1e-5 * max(abs(best), 1e-9))
    ys = (ys - y + height // 2) % height - height // 2 + y
    xs = (xs - x + width // 2) % width - width // 2 + x
    nearest = int(np.argmin((xs - x) ** 2 + (ys - y) ** 2))
    found = (int(xs[nearest]) * step, int(ys[nearest]) * step)
    return found if step == 1 else _nearer(n, near, spectra, places, found)


def _nearer(
    n: int,
    near: Mapping[int, float],
    spectra: _Spectra,
    places: list[tuple[int, int]],
    found: tuple[int, int],
) -> tuple[int, int]:
    """From a place found in reduced frames to the best one around it, in ever smaller steps down to a px."""
    px, step = spectra.some_px(n), spectra.step

    def score(place: tuple[int, int]) -> float:
        shifts = {m: (place[0] - places[m][0], place[1] - places[m][1]) for m in near}
        return sum(weight * spectra.agreement(n, m, px, shifts[m]) for m, weight in near.items())

    most = score(found)
    while True:
        around = [(found[0] + dx * step, found[1] + dy * step) for dx, dy in AROUND]
        scores = [score(place) for place in around]
        better = int(np.argmax(scores))
        if scores[better] > most:
            found, most = around[better], scores[better]
        elif step == 1:
            return found
        else:
            step //= 2


# -- edits -----------------------------------------------------------------------------------------------


def set_shifts(project: Project, shifts: Mapping[str, tuple[int, int]]) -> Project:
    """Give cells their shift, by id. Raises EditError for one beyond 4096 px."""
    if any(abs(v) > 4096 for shift in shifts.values() for v in shift):
        raise EditError("A frame cannot be shifted by more than 4096 px.", "Use less.")

    def change(cell: Cell) -> Cell:
        return cell if shifts[cell.id] == cell.shift else replace(cell, shift=shifts[cell.id])

    return change_cells(project, shifts, change)


def nudge_cells(project: Project, cell_ids: Collection[str], dx: int, dy: int) -> Project:
    """Shift the art of cells by whole px."""
    chosen = {
        c.id: (c.shift[0] + dx, c.shift[1] + dy) for s in project.sheets for c in s.cells if c.id in cell_ids
    }
    return set_shifts(project, chosen)


def as_drawn(project: Project, cell_ids: Collection[str]) -> Project:
    """Take every shift of some cells away."""
    return set_shifts(project, dict.fromkeys(cell_ids, (0, 0)))
