"""What is drawn on the Desk and seldom changes, as one picture: pans move it, edits draw a part anew."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from itertools import pairwise
from typing import NamedTuple

from PyQt6.QtCore import QObject, QPoint, QPointF, QRect, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QColor, QImage, QPainter

AROUND = 256  # px kept beyond the room, of what was in sight or is drawn ahead
AHEAD = 48  # px drawn ahead at a time, while the window has nothing else to do,
TURN_S = 0.006  # for so long before it is looked whether it has
STRIPS_S, MORE_S = 0.004, 0.012  # for which strips are drawn in the turn of a change, and in one after it


class Place(NamedTuple):
    """Where a picture is drawn: the room of it, screen px, device px to one of those, how large the content
    is drawn, and where its upper left is, screen px."""

    room: QRect
    ratio: float
    zoom: float
    offset: QPointF


class Turns(QObject):
    """Lets pictures draw ahead one after another, while the window has nothing else to do: more than one at a
    time only where that is soon done."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._waiting: list[Callable[[], None]] = []
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.timeout.connect(self.next_turn)

    def want(self, draw: Callable[[], None]) -> None:
        if draw not in self._waiting:
            self._waiting.append(draw)
        self._idle.start(0)

    def drop(self, draw: Callable[[], None]) -> None:
        self._waiting = [one for one in self._waiting if one != draw]

    def next_turn(self) -> None:
        end = time.perf_counter() + TURN_S
        for draw in list(self._waiting):
            if draw in self._waiting and time.perf_counter() < end:
                self._waiting.remove(draw)
                draw()
        if self._waiting:
            self._idle.start(0)


class KeptPicture(QObject):
    """`draw` gets a painter and the part that it is to draw, screen px, and says whether it drew all of it:
    what it left is drawn the next time. `begin` is called before the first part of a turn. `is_current` says
    whether what it draws now is what it drew at a place before. With a `ground` it is opaque. `strips` says
    into how many strips a part is cut because it takes long: they are drawn turn by turn.

    The image goes round: what leaves it on one side makes room for what comes on the other, so that nothing
    is moved. Within, places are told in px of the content, as it lay on the screen when all was drawn last.
    """

    def __init__(
        self, draw: Callable[[QPainter, QRectF], bool], is_current: Callable[[Place], bool],
        ground: QColor | None = None, turns: Turns | None = None, begin: Callable[[], None] = lambda: None,
        strips: Callable[[QRectF], int] = lambda _part: 1,
    ) -> None:  # fmt: skip
        self._turns = turns or Turns()
        super().__init__(self._turns)
        self._draw, self._is_current, self.ground = draw, is_current, ground
        self._begin_turn, self._strips = begin, strips
        self._has_drawn, self._until = False, 0.0  # in this turn; when no more strips are
        self._image = QImage()
        self._place: Place | None = None
        self._moved = QPoint()  # of the content since all was drawn
        self._drawn = QRect()  # what is in the image,
        self._left: list[QRect] = []  # and what of it was not drawn whole
        self._heading = QPoint()  # where the last pan went
        self._hurry = AHEAD  # px drawn ahead at once where something is missing

    def forget(self) -> None:
        """Draw all of it the next time."""
        self._place = None
        self._turns.drop(self.draw_ahead)

    def bring(self, place: Place, stale: QRectF | None, slides: bool = True, waits: bool = False) -> None:
        """Let it show what is at a place now; `stale` is the part that has changed, None where all has. What
        `slides` stays the same wherever it is moved to. One that `waits` leaves strips for another turn."""
        before, moved = self._place, QPoint()
        same = before is not None and stale is not None and before[:3] == place[:3]
        if same and before is not None and before.offset != place.offset:
            by = place.offset - before.offset
            moved = by.toPoint()
            same = slides and by == QPointF(moved) and place.ratio == round(place.ratio)
        self._place = place
        goes_on = bool(self._left) and same and stale is not None and stale.isEmpty()
        self._begin(MORE_S if goes_on else STRIPS_S, waits)
        if not same or stale is None:
            self._all_anew(place, before == place)
            return
        self._moved += moved
        if not moved.isNull():
            self._heading = moved
        seen = place.room.translated(-self._moved)
        if not self._drawn.intersects(seen):
            self._all_anew(place)
            return
        self._drop_stale(stale)
        if not self._drawn.contains(seen):
            self._reach(self._wanted(seen))
        self._go_on(seen)
        ahead = bool(self._left) or slides and not self._heading.isNull()
        if ahead and self.lacking(place.room).isEmpty():  # what is in sight is drawn with it
            self._turns.want(self.draw_ahead)

    def lacking(self, room: QRect) -> QRect:
        """Around what in sight, screen px, was not drawn whole; empty where all was."""
        seen, around = room.translated(-self._moved), QRect()
        for part in self._left:
            around = around.united(part.intersected(seen))
        return around.translated(self._moved)

    def _wanted(self, seen: QRect) -> QRect:
        """What is in sight and some of what comes into it; more each time, where there never was time to draw
        it ahead."""
        held, wanted, ahead = self._drawn, QRect(seen), self._ahead_of(seen, self._hurry)
        self._hurry = min(2 * self._hurry, AROUND)
        if seen.left() < held.left() or seen.right() > held.right():
            wanted.setLeft(ahead.left())
            wanted.setRight(ahead.right())
        if seen.top() < held.top() or seen.bottom() > held.bottom():
            wanted.setTop(ahead.top())
            wanted.setBottom(ahead.bottom())
        return wanted

    def paint(self, painter: QPainter, part: QRectF) -> None:
        """Draw a part of it, screen px."""
        ratio = self._image.devicePixelRatio()
        for tile, piece in self._pieces(part.toAlignedRect().translated(-self._moved)):
            at = piece.translated(-tile)
            source = QRectF(at.x() * ratio, at.y() * ratio, at.width() * ratio, at.height() * ratio)
            painter.drawImage(QRectF(piece.translated(self._moved)), self._image, source)

    # -- what is in the image --------------------------------------------------------------------------

    def _go_on(self, within: QRect) -> None:
        """Draw what was left and lies in a rectangle, if only in part."""
        due = [part for part in self._left if part.intersects(within)]
        self._left = [part for part in self._left if part not in due]
        for part in due:
            if self._is_late():
                self._left.append(part)
            else:
                self._anew(part.intersected(self._drawn), False)

    def _begin(self, seconds: float, waits: bool = False) -> None:
        """A turn, and for how long strips are drawn in it, at least one; none where it `waits`."""
        self._has_drawn, self._until = waits, 0.0 if waits else time.perf_counter() + seconds
        self._begin_turn()

    def _all_anew(self, place: Place, is_there: bool = False) -> None:
        """`is_there` says that it was drawn at the same place before: what has no time stays until it has,
        and what had none the last time comes first."""
        size = place.room.size() + QSize(AROUND, AROUND)
        wanted = QSize(round(size.width() * place.ratio), round(size.height() * place.ratio))
        formats = QImage.Format
        form = formats.Format_RGB32 if self.ground is not None else formats.Format_ARGB32_Premultiplied
        if self._image.size() != wanted or self._image.devicePixelRatio() != place.ratio:
            self._image = QImage(wanted, form)
            self._image.setDevicePixelRatio(place.ratio)
            is_there = False
        waiting = self._left if is_there else []
        self._moved, self._heading, self._drawn = QPoint(), QPoint(), QRect(place.room)
        self._left = []
        self._anew(self._drawn, not is_there, waiting)

    def _drop_stale(self, stale: QRectF) -> None:
        """Draw what has changed anew."""
        if not stale.isEmpty():
            part = stale.toAlignedRect().translated(-self._moved).intersected(self._drawn)
            self._anew(part, False, self._left)

    def _reach(self, wanted: QRect) -> None:
        """Draw what of a rectangle is not there yet, and give up as much on the other side as the image has
        no room for."""
        old, most = self._drawn, self._size()
        left, right = _stretch((old.left(), old.right()), (wanted.left(), wanted.right()), most.width())
        top, bottom = _stretch((old.top(), old.bottom()), (wanted.top(), wanted.bottom()), most.height())
        for first, last in ((left, old.left() - 1), (old.right() + 1, right)):
            self._anew(QRect(QPoint(first, old.top()), QPoint(last, old.bottom())))
        for first, last in ((top, old.top() - 1), (old.bottom() + 1, bottom)):
            self._anew(QRect(QPoint(left, first), QPoint(right, last)))
        self._drawn = QRect(QPoint(left, top), QPoint(right, bottom))

    def draw_ahead(self) -> None:
        """Some of what comes into sight if the pan goes on."""
        place = self._place
        if place is None or not self._is_current(place):
            return
        self._begin(STRIPS_S)
        if self._left:
            self._go_on(self._left[0])
            self._turns.want(self.draw_ahead)
            return
        seen = place.room.translated(-self._moved)
        most, wanted, next_ = (
            self._ahead_of(seen, AROUND),
            QRect(self._drawn),
            self._ahead_of(self._drawn, AHEAD),
        )
        x, y = self._heading.x(), self._heading.y()
        across = x > 0 and most.left() <= next_.left() or x < 0 and next_.right() <= most.right()
        down = y > 0 and most.top() <= next_.top() or y < 0 and next_.bottom() <= most.bottom()
        if across and down:  # one strip at a time: where less of it is there
            drawn = self._drawn
            wide = seen.left() - drawn.left() if x > 0 else drawn.right() - seen.right()
            high = seen.top() - drawn.top() if y > 0 else drawn.bottom() - seen.bottom()
            across = wide <= high
        if across:  # so many px, not one
            wanted.setLeft(next_.left())
            wanted.setRight(next_.right())
        elif down:
            wanted.setTop(next_.top())
            wanted.setBottom(next_.bottom())
        if across or down:
            self._reach(wanted)
            self._turns.want(self.draw_ahead)
        self._hurry = AHEAD

    def _ahead_of(self, part: QRect, px: int) -> QRect:
        """A rectangle and so many px of what comes into sight if the pan goes on."""
        x, y = self._heading.x(), self._heading.y()
        return part.adjusted(-px * (x > 0), -px * (y > 0), px * (x < 0), px * (y < 0))

    def _size(self) -> QSize:
        """Of the image, screen px."""
        ratio = self._image.devicePixelRatio()
        return QSize(int(self._image.width() / ratio), int(self._image.height() / ratio))

    def _pieces(self, part: QRect) -> Iterator[tuple[QPoint, QRect]]:
        """A rectangle cut where the image goes round: of each piece the place that the image's upper left
        stands for."""
        size = self._size()
        if part.isEmpty() or size.isEmpty():
            return
        wide, high = size.width(), size.height()
        for row in range(part.top() // high, part.bottom() // high + 1):
            for column in range(part.left() // wide, part.right() // wide + 1):
                tile = QPoint(column * wide, row * high)
                yield tile, part.intersected(QRect(tile, size))

    def _anew(self, part: QRect, blank: bool = True, first: Sequence[QRect] = ()) -> None:
        """Draw a part; where it is cut into strips as many as there is time for, those first that touch what
        waited for it longest. What is left shows the ground if nothing of it was drawn before (`blank`)."""
        strips = [(tile, strip) for tile, piece in self._pieces(part) for strip in self._cut(piece)]
        strips.sort(key=lambda one: not any(one[1].intersects(other) for other in first))
        is_cut = len(strips) > sum(1 for _piece in self._pieces(part))
        for tile, strip in strips:
            late = is_cut and self._is_late()
            painter = QPainter(self._image)
            painter.translate(QPointF(-tile - self._moved))
            shown = QRectF(strip.translated(self._moved))
            painter.setClipRect(shown)
            if blank or not late:
                painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Source)
                painter.fillRect(shown, self.ground or Qt.GlobalColor.transparent)
                painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceOver)
            self._left = [other for other in self._left if not strip.contains(other)]
            if late or not self._draw(painter, shown):
                self._left.append(strip)
            self._has_drawn = True
            painter.end()

    def _is_late(self) -> bool:
        """Whether something was drawn in this turn and no more should be."""
        return self._has_drawn and time.perf_counter() > self._until

    def _cut(self, piece: QRect) -> list[QRect]:
        """Strips of a piece, from top to bottom."""
        many = max(self._strips(QRectF(piece.translated(self._moved))), 1)
        edges = [piece.top() + piece.height() * n // many for n in range(many + 1)]
        return [
            QRect(piece.left(), top, piece.width(), end - top) for top, end in pairwise(edges) if end > top
        ]


def _stretch(held: tuple[int, int], wanted: tuple[int, int], most: int) -> tuple[int, int]:
    """The first and last px of what holds two stretches; where that is more than `most`, some of what was
    held is given up, on the side where nothing is wanted."""
    first, last = min(held[0], wanted[0]), max(held[1], wanted[1])
    if last - first + 1 > most:
        if wanted[0] < held[0]:
            last = first + most - 1
        else:
            first = last - most + 1
    return first, last
