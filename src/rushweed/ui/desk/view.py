"""Zoom and pan: screen = content * zoom + offset."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF

STEPS = (0.0625, 0.125, 0.25, 0.5, 1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64)
GROWN = 64  # px of room more, as a panel gives way or a window grows, but not where a notice goes


class View:
    """How one sheet or level is seen. From 1 up every px takes a whole number of the screen's own px, so that
    all stay even, also where the screen draws everything `ratio` times as large."""

    def __init__(self, ratio: float = 1.0) -> None:
        self.ratio = ratio
        self.zoom = 1.0 / ratio
        self.offset = QPointF(0, 0)
        self.fitted = False  # whether it was shown yet
        self.shows_all = False  # whether nobody has moved it since it was fitted

    def to_screen(self, x: float, y: float) -> QPointF:
        return QPointF(x * self.zoom + self.offset.x(), y * self.zoom + self.offset.y())

    def to_content(self, at: QPointF) -> QPointF:
        return QPointF((at.x() - self.offset.x()) / self.zoom, (at.y() - self.offset.y()) / self.zoom)

    def rect(self, x: float, y: float, w: float, h: float) -> QRectF:
        """A rectangle of content, on screen."""
        corner = self.to_screen(x, y)
        return QRectF(corner.x(), corner.y(), w * self.zoom, h * self.zoom)

    def set_zoom(self, zoom: float, at: QPointF) -> None:
        """Zoom so that what is at screen point `at` stays there."""
        fixed, self.shows_all = self.to_content(at), False
        self.zoom = min(max(zoom, STEPS[0] / self.ratio), STEPS[-1] / self.ratio)
        x, y = at.x() - fixed.x() * self.zoom, at.y() - fixed.y() * self.zoom
        self.offset = QPointF(round(x), round(y))

    def set_ratio(self, ratio: float, at: QPointF) -> None:
        """Another screen: about as large as before, and even there."""
        before, self.ratio = self.zoom, ratio
        self.set_zoom(min(self._steps(), key=lambda z: abs(z - before)), at)

    def _steps(self) -> list[float]:
        return [step / self.ratio for step in STEPS]

    def step(self, by: int, at: QPointF) -> None:
        """One zoom step in (1) or out (-1)."""
        steps = self._steps()
        if by > 0:
            wanted = next((z for z in steps if z > self.zoom * 1.001), steps[-1])
        else:
            wanted = next((z for z in reversed(steps) if z < self.zoom * 0.999), steps[0])
        self.set_zoom(wanted, at)

    def fit(self, content: QRectF, room: QRectF, margin: float = 30) -> None:
        """The greatest zoom step at which the content fits in the room, in its middle."""
        wide, high = max(room.width() - 2 * margin, 16), max(room.height() - 2 * margin, 16)
        limit = min(wide / max(content.width(), 1), high / max(content.height(), 1))
        steps = self._steps()
        self.zoom = next((z for z in reversed(steps) if z <= limit * 1.001), steps[0])
        self.centre(content.center(), room)
        self.fitted = self.shows_all = True

    def centre(self, on: QPointF, room: QRectF) -> None:
        self.shows_all = False
        self.offset = QPointF(
            round(room.center().x() - on.x() * self.zoom), round(room.center().y() - on.y() * self.zoom)
        )

    def pan(self, dx: float, dy: float) -> None:
        self.offset += QPointF(dx, dy)
        self.shows_all = False

    def grow(self, dx: float, dy: float, content: QRectF | None, room: QRectF) -> None:
        """Follow a room that has grown so many px, its middle staying; a view that nobody has moved is fitted
        anew where some of its content would be out of sight, or there is room for much more."""
        shows_all = self.shows_all
        self.pan(dx // 2, dy // 2)
        self.shows_all = shows_all
        if shows_all and content is not None:
            out = not room.contains(self.rect(*content.getRect()))
            if out or max(dx, dy) >= GROWN:
                self.fit(content, room)

    def keep_near(self, content: QRectF, room: QRectF) -> None:
        """Pull the view back so that some of the content stays in sight."""
        box = self.rect(content.x(), content.y(), content.width(), content.height())
        keep = 48
        dx = max(room.left() + keep - box.right(), 0) + min(room.right() - keep - box.left(), 0)
        dy = max(room.top() + keep - box.bottom(), 0) + min(room.bottom() - keep - box.top(), 0)
        self.pan(dx, dy)

    def words(self) -> str:
        shown = round(self.zoom * self.ratio, 4)
        return f"×{shown:g}" if shown >= 1 else f"1/{round(1 / shown)}"
