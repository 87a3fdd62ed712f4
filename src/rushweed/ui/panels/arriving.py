"""The pictures of many sheets for one panel: what is at hand is drawn at once, the rest as it comes."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QImage

from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.desk.images import SheetImages
from rushweed.ui.session import Session

ROOM_S = 0.008  # of one drawing for pictures that are shown for the first time


class Reading:
    """Large pictures that are read beside the window; `update` is called when they are there."""

    def __init__(self, session: Session, update: Callable[[], object]) -> None:
        self._session, self._update = session, update
        self._asked: set[str] = set()  # keys of sources, so that nothing is read over and over
        self._reading = False
        self._until = 0.0  # when this drawing has no more room for what is drawn for the first time
        self._made = False  # whether some of that was made ready in it

    def begin(self, sheets: Iterable[Sheet]) -> None:
        """A drawing begins in which these sheets are seen."""
        self._until, self._made = time.perf_counter() + ROOM_S, False
        wanted = [s for s in sheets if not self._at_hand(s) and s.source.key not in self._asked]
        if wanted and not self._reading:
            self._asked |= {s.source.key for s in wanted}
            job = self._session.read(wanted, lambda: None)
            if job is not None:
                self._reading = True
                job.ended.connect(self._arrived)  # also where it was cancelled

    def lacks(self, sheet: Sheet) -> bool:
        """Whether its picture is still to come."""
        return self._reading and not self._at_hand(sheet)

    def has_room(self) -> bool:
        """Whether something more may be made ready in this drawing; if not, another one follows soon."""
        if self._made and time.perf_counter() > self._until:
            QTimer.singleShot(0, self._update)
            return False
        self._made = True
        return True

    def _at_hand(self, sheet: Sheet) -> bool:
        stock = self._session.stock
        return stock.holds(sheet) or stock.is_broken(sheet)

    def _arrived(self) -> None:
        self._reading = False
        self._update()


class Arriving(Reading):
    """The images of large pictures too: no more are made ready to be drawn at a time than there is room for;
    `update` is called when more can be drawn."""

    def __init__(self, session: Session, images: SheetImages, update: Callable[[], object]) -> None:
        super().__init__(session, update)
        self._images = images
        self._spread = False  # whether some may be left for later

    def begin(self, sheets: Iterable[Sheet]) -> None:
        seen = {sheet.id: sheet for sheet in sheets}
        self._spread = self._images.make_room(seen.values())  # else some would be made ready each time
        super().begin(seen.values())

    def image(self, sheet: Sheet) -> QImage | None:
        """Its image; None where it is still to come."""
        if self.lacks(sheet):
            return None
        if self._spread and not self._images.is_made(sheet) and not self.has_room():
            return None
        return self._images.image(sheet)
