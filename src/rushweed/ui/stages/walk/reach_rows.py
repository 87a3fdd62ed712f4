"""What can be reached, in numbers: places, those without a way back, those nothing leads to."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.ui.desk.context import Context
from rushweed.ui.desk.walk_marks import REACH_ROLES
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.controls import Chip, button, emptied, label, row
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look
from rushweed.ui.stages.walk.run_work import RunWork

MOST_MISSED = 6


class _Swatch(QWidget):
    """The wash that stands for one of the three."""

    def __init__(self, look: Look, kind: str) -> None:
        super().__init__()
        self.look, self.kind = look, kind
        self.setFixedSize(14, 14)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, colour = QPainter(self), self.look.colour(REACH_ROLES[self.kind])
        painter.setPen(QPen(colour, 1))
        if self.kind == "never":
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for n in (2, 7, 12):
                painter.drawLine(n - 2, 12, n + 2, 2)
        else:
            painter.setBrush(colour)
        painter.drawRect(QRectF(0.5, 0.5, 13, 13))


class ReachRows(Card):
    """Follows the search."""

    def __init__(self, context: Context, runs: RunWork) -> None:
        super().__init__(context.look, "Reach")
        self.rows.setContentsMargins(0, 0, 0, 0)
        self.session, self.reach = context.session, runs.reach
        self.lines = {kind: label("") for kind in REACH_ROLES}
        for kind, text in self.lines.items():
            holder = QWidget()
            holder.setFixedHeight(18)
            holder.setLayout(row(_Swatch(context.look, kind), text, None))
            self.add(holder)
        self._missed = QWidget()
        self._list = QVBoxLayout(self._missed)
        self._list.setContentsMargins(0, 0, 0, 0)
        self._list.setSpacing(4)
        self.add(self._missed)
        self.way = button("Show the way")
        self.way.setToolTip("Walk to the place last pressed with Alt")
        self.way.clicked.connect(runs.show_way)
        holder = QWidget()
        holder.setLayout(row(self.way, None))
        self.add(holder)
        self._shown: object = None

    def refresh(self) -> None:
        found, job = self.reach.found, self.reach.progress
        self.what.setText(job if job else "" if found else self.reach.why)
        self.way.setEnabled(found is not None and self.reach.aimed is not None)
        if found is self._shown:
            return
        self._shown = found
        emptied(self._list)
        if found is None:
            for text in self.lines.values():
                text.setText("–")
            return
        self.lines["reached"].setText(f"{many(len(found.places), 'place')}, the keys there known")
        self.lines["one way"].setText(f"{found.no_way_back} without a way back")
        self.lines["never"].setText(f"{len(found.never)} never reached")
        for missed in found.missed[:MOST_MISSED]:
            spot = f"{missed.spot[0]}, {missed.spot[1]}"
            chip = Chip(self.look, missed.name, f"cannot be touched, {spot}", False, "Look at it")
            chip.pressed.connect(lambda at=missed.spot: self.session.spotted.emit(*at))
            self._list.addWidget(chip)
        if len(found.missed) > MOST_MISSED:
            self._list.addWidget(label(f"and {len(found.missed) - MOST_MISSED} more", "quiet"))
