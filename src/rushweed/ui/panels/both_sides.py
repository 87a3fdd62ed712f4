"""What was changed both here and outside, each with both pictures: one press on a side chooses it."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QScrollArea, QVBoxLayout, QWidget

from rushweed.ui.desk.images import checker, image_of
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import Pressable, button, elided, emptied, label, row
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session
from rushweed.ui.session.outside import BothSides, SideOf

PICTURE = (280, 130)  # px
CAPTION = 36
WIDE, HIGHEST = 640, 560


class Side(Pressable):
    """One side of something: its picture, and what was changed there. The chosen one has its corners."""

    def __init__(self, look: Look, title: str, side: SideOf) -> None:
        super().__init__()
        self.look, self.title, self.facts = look, title, side.facts
        self.chosen = False
        self.image = QImage() if side.picture is None else image_of(side.picture)
        self.setFixedSize(PICTURE[0], PICTURE[1] + CAPTION)
        self.setAccessibleName(f"{title}: {side.facts}")
        self.setToolTip(f"{title}: {side.facts}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return self.size()

    def choose(self, chosen: bool) -> None:
        self.chosen = chosen
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        box = QRectF(4, 4, PICTURE[0] - 8, PICTURE[1] - 8)
        painter.fillRect(box, checker(look, 6))
        image = self.image
        if image.isNull():
            painter.setFont(look.font(12))
            painter.setPen(look.colour("quiet"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "no picture")
        else:
            scale = min(box.width() / image.width(), box.height() / image.height())
            scale = int(scale) if scale >= 1 else scale
            wide, high = image.width() * scale, image.height() * scale
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, scale < 1)
            left, top = box.center().x() - wide / 2, box.center().y() - high / 2
            painter.drawImage(QRectF(round(left), round(top), wide, high), image)
        if not self.chosen:
            painter.setOpacity(0.25)
            painter.fillRect(box, look.colour("paper"))
            painter.setOpacity(1)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(look.font(12, self.chosen))
        painter.setPen(look.colour("rust" if self.chosen else "ink"))
        words = f"{self.title}, taken" if self.chosen else self.title
        painter.drawText(QRectF(6, PICTURE[1] - 2, PICTURE[0] - 12, 18), middle, words)
        painter.setFont(look.font(11))
        painter.setPen(look.colour("quiet"))
        facts = elided(painter, self.facts, PICTURE[0] - 12)
        painter.drawText(QRectF(6, PICTURE[1] + 14, PICTURE[0] - 12, 18), middle, facts)
        if self.chosen or self.hasFocus():
            role = "rust" if self.chosen else "reed"
            paint_corners(painter, box.adjusted(-2, -2, 2, 2), 14, look.colour(role), look.colour("paper"))


class BothSidesBoard(QFrame):
    """Lies over the window until it is answered, or left for later with Escape."""

    def __init__(self, look: Look, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.look, self.session = look, session
        self.setObjectName("finder")
        self.question: BothSides | None = None
        self.sides: dict[str, tuple[Side, Side]] = {}  # here and outside, by the id of what was changed
        self._grid = QGridLayout()
        self._grid.setSpacing(8)
        rows = QWidget()
        rows.setLayout(self._grid)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setWidget(rows)
        self.done = button("Go on with these", fix=True)
        self.done.clicked.connect(self._answer)
        self.later = button("Later")
        self.later.clicked.connect(self._later)
        mine, theirs = button("All from here"), button("All from outside")
        mine.clicked.connect(lambda: self._choose_all(0))
        theirs.clicked.connect(lambda: self._choose_all(1))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 12, 12, 12)
        layout.addWidget(label("Changed both here and outside", "head"))
        words = label("Press the side to keep. Everything else from outside is taken up as well.", "quiet")
        words.setWordWrap(True)
        layout.addWidget(words)
        layout.addWidget(self._scroll, 1)
        layout.addLayout(row(mine, theirs, None, self.later, self.done))
        self.hide()

    def ask(self, question: BothSides) -> None:
        """Show what clashes; what is here is chosen first."""
        self.question = question
        emptied(self._grid)
        self.sides = {}
        for n, part in enumerate(question.parts):
            pair = Side(self.look, "Here", part.here), Side(self.look, "Outside", part.there)
            self.sides[part.id] = pair
            self._grid.addWidget(label(part.name, "value"), n * 2, 0, 1, 2)
            for column, side in enumerate(pair):
                side.pressed.connect(lambda i=part.id, c=column: self._choose(i, c))
                self._grid.addWidget(side, n * 2 + 1, column)
        self._grid.setRowStretch(len(question.parts) * 2, 1)
        self._choose_all(0)
        parent = self.parentWidget()
        assert parent is not None
        high = min(130 + len(question.parts) * (PICTURE[1] + CAPTION + 36), HIGHEST, parent.height() - 24)
        self.resize(WIDE, high)
        self.move(parent.rect().center() - self.rect().center())
        self.look.dress(self)
        self.show()
        self.raise_()
        self.done.setFocus()

    def _choose(self, part_id: str, column: int) -> None:
        for n, side in enumerate(self.sides[part_id]):
            side.choose(n == column)

    def _choose_all(self, column: int) -> None:
        for part_id in self.sides:
            self._choose(part_id, column)

    def _answer(self) -> None:
        question, self.question = self.question, None
        self.hide()
        if question is not None:
            question.answer({i for i, (_here, there) in self.sides.items() if there.chosen})

    def _later(self) -> None:
        question, self.question = self.question, None
        self.hide()
        if question is not None:
            question.later()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, edge = QPainter(self), self.rect()
        painter.fillRect(edge, self.look.colour("ink"))
        painter.fillRect(edge.adjusted(2, 2, -2, -2), self.look.colour("paper"))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self._later()
        else:
            super().keyPressEvent(event)
