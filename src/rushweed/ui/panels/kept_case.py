"""Kept stamps with their names, and those painted with last: a press takes one in hand."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt
from PyQt6.QtGui import QAction, QContextMenuEvent, QImage, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QInputDialog, QMenu, QScrollArea

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import KeptStamp
from rushweed.core.level.kept import as_stamp, brush_stamp, remove_stamp, rename_stamp, size_of, stamp_picture
from rushweed.core.level.stamp import Stamp
from rushweed.ui.desk.images import checker, image_of
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import elided, plain_tip
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session

SIDE, GAP, CAPTION = 64, 10, 16


class KeptCase(QScrollArea):
    """Both rows, scrolling."""

    def __init__(self, look: Look, session: Session) -> None:
        super().__init__()
        self.stamps = _Stamps(look, session)
        self.setWidget(self.stamps)
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)


class _Stamps(Keyed):
    def __init__(self, look: Look, session: Session) -> None:
        super().__init__()
        self.look, self.session = look, session
        self._pictures: dict[int, tuple[object, object, QImage]] = {}
        self._hover = -1
        self.setMouseTracking(True)
        self.set_keyed("Kept stamps")

    def spots(self) -> list[Spot]:
        return [Spot(self.place(n), self._told(n)) for n in range(len(self.listed()))]

    def listed(self) -> list[tuple[KeptStamp | Stamp, str]]:
        """What is shown, with its name: kept ones, then the recent."""
        kept = [(stamp, stamp.name) for stamp in self.session.project.stamps]
        return [*kept, *((stamp, "") for stamp in self.session.selection.recent)]

    def refresh(self) -> None:
        columns = max((self.width() - GAP) // (SIDE + GAP), 1)
        rows = -(-len(self.listed()) // columns)
        self.setMinimumHeight(rows * (SIDE + CAPTION + GAP) + GAP)
        self.update()

    def resizeEvent(self, event: object) -> None:
        self.refresh()

    def place(self, n: int) -> QRectF:
        columns = max((self.width() - GAP) // (SIDE + GAP), 1)
        x, y = n % columns, n // columns
        return QRectF(GAP + x * (SIDE + GAP), 4 + y * (SIDE + CAPTION + GAP), SIDE, SIDE)

    def _at(self, at: QPoint) -> int:
        whole = (self.place(n).adjusted(0, 0, 0, CAPTION) for n in range(len(self.listed())))
        return next((n for n, box in enumerate(whole) if box.contains(at.x(), at.y())), -1)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        n = self._at(event.position().toPoint())
        if n < 0 or event.button() != Qt.MouseButton.LeftButton:
            return
        stamp, selection = self.listed()[n][0], self.session.selection
        plain = as_stamp(stamp) if isinstance(stamp, KeptStamp) else stamp
        if plain is not None:
            selection.choose_stamp(plain)
        elif isinstance(stamp, KeptStamp):
            selection.choose_whole(stamp)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        n = self._at(event.position().toPoint())
        if n != self._hover:
            self._hover = n
            self.setToolTip(plain_tip(self._told(n)) if n >= 0 else "")
            self.update()

    def _told(self, n: int) -> str:
        stamp, name = self.listed()[n]
        if isinstance(stamp, Stamp):
            return "{} × {} cells, painted with".format(*stamp.size)
        columns, rows = size_of(stamp)
        parts = many(len(stamp.parts), "layer")
        things = f", {many(len(stamp.things), 'thing')}" if stamp.things else ""
        return f"{name}\n{columns} × {rows} cells, {parts}{things}"

    def leaveEvent(self, event: object) -> None:
        self._hover = -1
        self.update()

    def menu(self, n: int) -> QMenu:
        """What can be done with a kept stamp."""
        made, stamp = QMenu(self), self.listed()[n][0]
        made.setStyleSheet(self.look.rules())
        if isinstance(stamp, KeptStamp):
            for words, call in (("Rename", self._rename), ("Remove", self._remove)):
                action = QAction(words, made)
                action.triggered.connect(lambda _c=False, call=call: call(stamp))
                made.addAction(action)
        return made

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        n = self._at(event.pos())
        if n >= 0 and isinstance(self.listed()[n][0], KeptStamp):
            self.menu(n).exec(event.globalPos())

    def _rename(self, stamp: KeptStamp) -> None:
        name, held = QInputDialog.getText(self, "Rename the stamp", "Name", text=stamp.name)
        if held:
            self.session.document.edit("Rename a stamp", lambda p: rename_stamp(p, stamp.id, name))

    def _remove(self, stamp: KeptStamp) -> None:
        self.session.document.edit(f"Remove {stamp.name}", lambda p: remove_stamp(p, stamp.id))

    def _picture(self, stamp: KeptStamp | Stamp) -> QImage:
        project = self.session.project
        known = self._pictures.get(id(stamp))
        if known is None or known[0] is not stamp or known[1] is not project.sheets:
            try:
                kept = stamp if isinstance(stamp, KeptStamp) else brush_stamp(project, stamp, "")
                made = image_of(stamp_picture(project, kept, self.session.stock.pixels_or_blank))
            except RushweedError:
                made = QImage()  # a tile of it is gone
            known = self._pictures[id(stamp)] = (stamp, project.sheets, made)
        return known[2]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        listed = self.listed()
        if not listed:
            painter.setFont(look.font(12))
            painter.setPen(look.colour("quiet"))
            words = "No stamp is kept yet. Take some tiles in hand, then Ctrl+K keeps them under a name."
            painter.drawText(QRectF(8, 8, self.width() - 16, 24), words)
            return
        for n, (stamp, name) in enumerate(listed):
            box, image = self.place(n), self._picture(stamp)
            painter.setBrushOrigin(box.topLeft())
            painter.fillRect(box, checker(look))
            if not image.isNull():
                scale = min(SIDE / image.width(), SIDE / image.height(), 4.0)
                scale = int(scale) if scale >= 1 else scale
                wide, high = image.width() * scale, image.height() * scale
                middle = box.center()
                painter.drawImage(
                    QRectF(round(middle.x() - wide / 2), round(middle.y() - high / 2), wide, high), image
                )
            painter.setFont(look.font(11))
            painter.setPen(look.colour("ink" if name else "quiet"))
            words = elided(painter, name or "recent", SIDE)
            painter.drawText(
                QRectF(box.left(), box.bottom(), SIDE, CAPTION), Qt.AlignmentFlag.AlignVCenter, words
            )
            now = self.session.selection.whole_stamp is stamp or self.session.selection.stamp is stamp
            if now or n == self._hover:
                role = "rust" if now else "straw"
                paint_corners(painter, box, 11, look.colour(role), look.colour("paper"))

    def sizeHint(self) -> QSize:
        return QSize(300, SIDE + CAPTION + GAP)
