"""The rulers: px and cell numbers on a sheet with its ink profile, units and px on a level."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath

from rushweed.core.cut.grid import Grid
from rushweed.core.tune.units import plain
from rushweed.ui.desk.paths import points_path
from rushweed.ui.desk.view import View
from rushweed.ui.kit.theme import Look

THICK = 24
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop
MIDDLE = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop


_RINGS: dict[int, tuple[np.ndarray, object, QPainterPath]] = {}  # the ink profile last drawn, by axis


class Scale(NamedTuple):
    """What a ruler counts: the px of `unit` and its name, e.g. 16 px to 1 u."""

    unit_px: float
    name: str


class Band:
    """One ruler, top (axis 0) or left (axis 1); turns content positions into places along itself."""

    def __init__(
        self, painter: QPainter, view: View, look: Look, axis: int, span: tuple[float, float]
    ) -> None:
        """`span` is the stretch to draw, screen px along the ruler."""
        self.painter, self.view, self.look, self.axis, self.drawn = painter, view, look, axis, span

    def at(self, value: float) -> float:
        offset = self.view.offset.x() if self.axis == 0 else self.view.offset.y()
        return value * self.view.zoom + offset

    def box(self, start: float, along: float, depth: float = THICK, across: float = 0) -> QRectF:
        """A part of the band: `start` and `along` run with it, `across` and `depth` through it."""
        if self.axis == 0:
            return QRectF(start, across, along, depth)
        return QRectF(across, start, depth, along)

    def seen(self) -> tuple[float, float]:
        """The first and last content position in sight."""
        offset = self.view.offset.x() if self.axis == 0 else self.view.offset.y()
        return (self.drawn[0] - offset) / self.view.zoom, (self.drawn[1] - offset) / self.view.zoom

    def ground(self) -> None:
        self.painter.fillRect(
            self.box(self.drawn[0], self.drawn[1] - self.drawn[0]), self.look.colour("paper")
        )

    def span(self, start: float, end: float) -> None:
        """Mark a chosen stretch."""
        a, b = self.at(start), self.at(end)
        self.painter.fillRect(self.box(a, b - a), self.look.colour("rust_wash"))

    def tick(self, value: float, long: int, colour: QColor) -> None:
        self.ticks([value], long, colour)

    def ticks(self, values: Iterable[float], long: int, colour: QColor) -> None:
        boxes = [self.box(int(self.at(value)), 1, long, THICK - long) for value in values]
        if boxes:
            self.painter.setPen(Qt.PenStyle.NoPen)
            self.painter.setBrush(colour)
            self.painter.drawRects(boxes)  # type: ignore[call-overload]

    def profile(self, share: np.ndarray) -> None:
        """The ink profile: share of opaque px in each column or row, up to 11 px high."""
        first, last = self.seen()
        a, b = max(int(first), 0), min(int(last) + 1, len(share))
        if b <= a:
            return
        offset = self.view.offset.x() if self.axis == 0 else self.view.offset.y()
        key = (self.axis, self.view.zoom, offset, a, b)
        known = _RINGS.get(self.axis)
        if known is None or known[0] is not share or known[1] != key:
            known = _RINGS[self.axis] = (share, key, self._ring(share, a, b))
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(self.look.colour("rule_deep"))
        self.painter.drawPath(known[2])

    def _ring(self, share: np.ndarray, a: int, b: int) -> QPainterPath:
        """The outline of a stretch of the ink profile."""
        base = THICK - 1
        every = max(int(1 / self.view.zoom), 1)  # px that fall on one screen px
        starts = np.arange(a, b, every)
        high = base - np.round(np.maximum.reduceat(share[a:b], starts - a) * 11)
        along = np.concatenate(([a], np.stack((starts, np.minimum(starts + every, b)), 1).ravel(), [b]))
        away = np.concatenate(([base], high.repeat(2), [base]))
        points = along * self.view.zoom + self.at(0), away
        return points_path(np.stack(points if self.axis == 0 else points[::-1], 1), np.array([len(along)]))

    def words(
        self, value: float, text: str, colour: QColor, bold: bool = False, middle: bool = False
    ) -> None:
        px = self.at(value)
        narrow = max(len(text) - 3, 0) if self.axis == 1 else 0  # the left ruler has room for three digits
        self.painter.setFont(self.look.mono(max(10 - 2 * narrow, 7), bold))
        self.painter.setPen(colour)
        if self.axis == 0:
            box = QRectF(px - 24, 3, 48, 14) if middle else QRectF(px + 2, 3, 60, 14)
            self.painter.drawText(box, MIDDLE if middle else LEFT, text)
        else:
            box = QRectF(0, px - 6, THICK - 4, 14) if middle else QRectF(0, px + 1, THICK - 2, 14)
            self.painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, text)


def cells(band: Band, grid: Grid, chosen: np.ndarray, profile: np.ndarray | None) -> None:
    """A ruler over a grid: px at each cell's start, the cell's number in its middle. `chosen` is where the
    selected cells lie, int (n, 4)."""
    axis, look = band.axis, band.look
    size = grid.cell[axis]
    starts = grid.starts(axis)
    codes = np.unique((chosen[:, axis] << 32) + chosen[:, axis + 2]).tolist()
    spans = {(start, start + length) for start, length in (divmod(code, 1 << 32) for code in codes)}
    if len(spans) <= 64:
        for a, b in spans:
            band.span(a, b)
    if profile is not None:
        band.profile(profile)
    wide = (size + grid.spacing[axis]) * band.view.zoom
    every = max(1, math.ceil((40 if axis == 0 else 24) / max(wide, 0.01)))
    digits = len(str(int(starts[-1]))) if len(starts) else 1
    # the px stand at the cell's start, its number in its middle: both need their room in one cell
    with_px = size * band.view.zoom >= (2 * (digits * 6.3 + 11) if axis == 0 else 38)
    first, last = band.seen()
    for i in range(0, len(starts), every):
        start = float(starts[i])
        if start + size < first or start > last:
            continue
        rust = (int(start), int(start) + size) in spans
        band.tick(start, 5, look.colour("rust" if rust else "quiet"))
        if with_px:
            band.words(start, str(int(start)), look.colour("rust" if rust else "quiet"))
        band.words(start + size / 2, str(i), look.colour("rust" if rust else "ink"), True, True)


def inside_cell(band: Band, rect: tuple[int, int, int, int]) -> None:
    """Within the chosen cell the ruler counts from the cell's own corner."""
    start, size = rect[band.axis], rect[band.axis + 2]
    band.span(start, start + size)
    step = next((s for s in (1, 2, 4, 8, 16, 32, 64) if s * band.view.zoom >= 22), 64)
    rust = band.look.colour("rust")
    for value in range(0, size + 1, step):
        band.tick(start + value, 5, rust)
        band.words(start + value, str(value), rust, middle=True)
    if band.view.zoom >= 5:
        band.ticks((start + value for value in range(size + 1)), 2, rust)


def even(band: Band, scale: Scale, chosen: tuple[float, float] | None = None) -> None:
    """A ruler of even steps: the unit in bold, the same in px beside it."""
    look = band.look
    if chosen is not None:
        band.span(*chosen)
    room = 104 if band.axis == 0 else 28
    unit = scale.unit_px
    steps = [unit * f for f in (0.0625, 0.125, 0.25, 0.5, 1, 2, 4, 8, 16, 32, 64, 128, 256, 512)]
    step = next((s for s in steps if s * band.view.zoom >= room), steps[-1])
    first, last = band.seen()
    values = [n * step for n in range(math.floor(first / step - 1), math.floor((last + 1) / step) + 1)]
    if step * band.view.zoom / 4 >= 6:
        quarters = (value + step * n / 4 for value in values for n in (1, 2, 3))
        band.ticks(quarters, 3, look.colour("rule_deep"))
    band.ticks(values, 6, look.colour("quiet"))
    for value in values:
        words = plain(value / unit, 3)
        if band.axis == 0:
            text = f"{words} {scale.name}" if scale.name != "px" else words
            band.words(value, text, look.colour("ink"), True)
            if scale.name != "px":
                shift = (len(text) * 6.3 + 8) / band.view.zoom
                band.words(value + shift, f"{plain(value, 1)} px", look.colour("quiet"))
        else:
            band.words(value, words, look.colour("ink"), True, True)
