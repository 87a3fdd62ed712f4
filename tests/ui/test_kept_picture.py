"""What is kept of the Desk: panned, changed and drawn ahead, it is what would be drawn anew."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, QRect, QRectF
from PyQt6.QtGui import QColor, QImage, QPainter
from pytestqt.qtbot import QtBot

from rushweed.ui.desk.images import array_of
from rushweed.ui.desk.kept_picture import AHEAD, AROUND, KeptPicture, Place, Turns

ROOM = QRect(24, 24, 300, 200)


class Drawn:
    """Squares of 10 px in colours that depend on where they lie, at the offset of a place."""

    def __init__(self, ground: QColor | None = None, ratio: float = 1.0) -> None:
        self.place = Place(ROOM, ratio, 1.0, QPointF(0, 0))
        self.parts: list[QRectF] = []
        self.turned: set[tuple[int, int]] = set()
        self.current, self.tired, self.strips = True, False, 1
        self.kept = KeptPicture(
            self._draw, lambda place: self.current and place == self.place, ground,
            strips=lambda part: self.strips if part.height() > 40 else 1,
        )  # fmt: skip

    def _draw(self, painter: QPainter, part: QRectF) -> bool:
        self.parts.append(QRectF(part))
        if self.tired:
            return False
        left, top = self.place.offset.x(), self.place.offset.y()
        for row in range(int((part.top() - top) // 10), int((part.bottom() - top) // 10) + 1):
            for column in range(int((part.left() - left) // 10), int((part.right() - left) // 10) + 1):
                if (row + column) % 3:
                    colour = QColor.fromHsv((column * 17 + row * 31) % 360, 200, 200)
                    if (column, row) in self.turned:
                        colour = QColor("black")
                    painter.fillRect(QRectF(left + column * 10, top + row * 10, 10, 10), colour)
        return True

    def seen(self, kept: KeptPicture | None = None) -> list[int]:
        values: list[int] = self.pixels(kept).ravel().tolist()
        return values

    def pixels(self, kept: KeptPicture | None = None) -> np.ndarray:
        ratio = self.place.ratio
        image = QImage(int(340 * ratio), int(240 * ratio), QImage.Format.Format_ARGB32_Premultiplied)
        image.setDevicePixelRatio(ratio)
        image.fill(QColor("white"))
        painter = QPainter(image)
        painter.setClipRect(ROOM)
        (kept or self.kept).paint(painter, QRectF(ROOM))
        painter.end()
        return array_of(image).copy()

    def anew(self) -> list[int]:
        fresh = KeptPicture(self._draw, lambda _place: False, self.kept.ground)
        fresh.bring(self.place, None)
        return self.seen(fresh)

    def pan(self, x: float, y: float, stale: QRectF | None = None) -> None:
        self.place = self.place._replace(offset=self.place.offset + QPointF(x, y))
        self.kept.bring(self.place, stale if stale is not None else QRectF())


@pytest.mark.parametrize(("ground", "ratio"), [(None, 1.0), (QColor("teal"), 1.0), (None, 2.0)])
def test_however_it_is_panned_it_is_what_would_be_drawn(ground: QColor | None, ratio: float) -> None:
    drawn = Drawn(ground, ratio)
    drawn.kept.bring(drawn.place, None)
    steps = [(-9, 0), (4, -7), (-150, 20), (33, 180), (-299, 0), (0, 150), (-20, -20), (900, 3), (0, 0)]
    for n, (x, y) in enumerate(steps * 6):
        drawn.pan(x, y)
        assert drawn.seen() == drawn.anew(), n
        if n % 4 == 1:
            for _ in range(n % 7):
                drawn.kept.draw_ahead()
            assert drawn.seen() == drawn.anew(), n


def test_a_slow_pan_draws_seldom_and_ahead_while_there_is_time() -> None:
    drawn = Drawn()
    drawn.kept.bring(drawn.place, None)
    drawn.parts.clear()
    for _ in range(40):
        drawn.pan(-5, 0)
    assert len(drawn.parts) <= 2 * (200 // AROUND + 2)
    for _ in range(AROUND // AHEAD + 1):
        drawn.kept.draw_ahead()
    drawn.parts.clear()
    drawn.kept.draw_ahead()
    for _ in range((AROUND - AHEAD) // 5):
        drawn.pan(-5, 0)
    assert not drawn.parts and drawn.seen() == drawn.anew()


def test_what_is_not_the_same_any_more_is_not_drawn_ahead() -> None:
    drawn = Drawn()
    drawn.kept.bring(drawn.place, None)
    drawn.pan(-5, 0)
    drawn.parts.clear()
    drawn.current = False
    drawn.kept.draw_ahead()
    assert not drawn.parts


def test_a_part_that_changed_is_drawn_anew_also_out_of_sight() -> None:
    drawn = Drawn()
    drawn.kept.bring(drawn.place, None)
    drawn.pan(-100, 0)
    drawn.turned = {(20, 5), (9, 10)}  # one in sight, one that has gone out of it
    for column, row in drawn.turned:
        at = drawn.place.offset
        drawn.kept.bring(drawn.place, QRectF(at.x() + column * 10, at.y() + row * 10, 10, 10))
    assert drawn.seen() == drawn.anew()
    drawn.pan(100, 0)
    assert drawn.seen() == drawn.anew()


def test_half_px_another_zoom_room_or_screen_are_drawn_anew() -> None:
    drawn = Drawn()
    drawn.kept.bring(drawn.place, None)
    for place in (
        drawn.place._replace(offset=QPointF(0.5, 0)), drawn.place._replace(zoom=2.0),
        drawn.place._replace(room=QRect(24, 24, 200, 150)), drawn.place._replace(ratio=2.0),
    ):  # fmt: skip
        drawn.kept.bring(drawn.place, None)
        drawn.parts.clear()
        drawn.kept.bring(place, QRectF())
        assert drawn.parts and drawn.parts[0] == QRectF(place.room)
    drawn.kept.bring(drawn.place, None)
    drawn.parts.clear()
    drawn.kept.bring(drawn.place._replace(offset=QPointF(-3, 0)), QRectF(), slides=False)
    assert drawn.parts == [QRectF(ROOM)]
    drawn.parts.clear()
    drawn.kept.forget()
    drawn.kept.bring(drawn.place, QRectF())
    assert drawn.parts == [QRectF(ROOM)]


def test_what_was_left_is_drawn_when_it_is_in_sight_or_there_is_time(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("rushweed.ui.desk.kept_picture.STRIPS_S", 60.0)
    monkeypatch.setattr("rushweed.ui.desk.kept_picture.MORE_S", 60.0)
    drawn = Drawn()
    drawn.tired = True
    drawn.kept.bring(drawn.place, None)
    assert not drawn.kept.lacking(ROOM).isEmpty()
    drawn.pan(-40, 30)
    assert not drawn.kept.lacking(ROOM).isEmpty()
    drawn.tired = False
    drawn.pan(-1, 0)
    assert drawn.kept.lacking(ROOM).isEmpty() and drawn.seen() == drawn.anew()
    drawn.tired = True
    drawn.kept.draw_ahead()  # what comes into sight next is left
    assert drawn.kept.lacking(ROOM).isEmpty()
    drawn.tired = False
    for _ in range(8):
        drawn.kept.draw_ahead()
    drawn.parts.clear()
    drawn.pan(-AHEAD, 0)
    assert not drawn.parts and drawn.seen() == drawn.anew()


def test_what_takes_long_is_drawn_in_strips_turn_by_turn(monkeypatch: pytest.MonkeyPatch) -> None:
    now = 0.0

    def a_second_later() -> float:
        nonlocal now
        now += 1.0
        return now

    monkeypatch.setattr("rushweed.ui.desk.kept_picture.time.perf_counter", a_second_later)
    drawn = Drawn(QColor("teal"))
    drawn.strips = 5
    drawn.kept.bring(drawn.place, None)
    assert drawn.parts == [QRectF(24, 24, 300, 40)] and not drawn.kept.lacking(ROOM).isEmpty()
    shown = drawn.pixels()
    assert (shown[70:220, 30:320, :3] == QColor("teal").getRgb()[:3]).all(), "the rest shows the ground"
    for n in range(1, 5):
        assert not drawn.kept.lacking(ROOM).isEmpty()
        drawn.kept.bring(drawn.place, QRectF())
        assert len(drawn.parts) == n + 1
    assert drawn.kept.lacking(ROOM).isEmpty() and drawn.seen() == drawn.anew()

    drawn.turned = {(5, 4), (5, 20)}  # in the first strip and in the last
    drawn.parts.clear()
    drawn.kept.bring(drawn.place, None)
    first, old = drawn.pixels(), drawn.parts[0]
    assert len(drawn.parts) == 1 and (first[204:214, 54:64, :3] != 0).any(), "it shows what it did before"
    drawn.kept.bring(drawn.place, None)  # one change after another: what waited comes first
    assert drawn.parts[1] != old
    for _ in range(4):
        drawn.kept.bring(drawn.place, QRectF())
    assert drawn.kept.lacking(ROOM).isEmpty() and drawn.seen() == drawn.anew()


def test_what_waits_leaves_its_strips_and_draws_the_rest() -> None:
    drawn = Drawn(QColor("teal"))
    drawn.strips = 5
    drawn.kept.bring(drawn.place, None, waits=True)
    assert not drawn.parts and not drawn.kept.lacking(ROOM).isEmpty()
    while not drawn.kept.lacking(ROOM).isEmpty():
        drawn.kept.bring(drawn.place, QRectF())
    assert drawn.seen() == drawn.anew()
    drawn.parts.clear()
    drawn.turned = {(5, 5)}
    drawn.kept.bring(drawn.place, QRectF(50, 50, 10, 10), waits=True)  # so small that it is drawn at once
    assert len(drawn.parts) == 1 and drawn.seen() == drawn.anew()


def test_pictures_take_turns_in_drawing_ahead(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    turns, said, now = Turns(), [], 0.0
    monkeypatch.setattr("rushweed.ui.desk.kept_picture.time.perf_counter", lambda: now)

    def slow() -> None:
        nonlocal now
        now += 1.0
        said.append("slow")

    def quick() -> None:
        said.append("quick")

    for draw in (quick, slow, quick):
        turns.want(draw)
    assert said == []
    qtbot.waitUntil(lambda: said == ["quick", "slow"])
    turns.want(slow)
    turns.want(quick)
    turns.next_turn()
    assert said[2:] == ["slow"], "what takes long is done alone"
    turns.drop(quick)
    qtbot.wait(20)
    assert len(said) == 3
