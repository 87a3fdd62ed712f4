"""The Strip: the cells of the sheet in order, like a contact strip; select and rename in place."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.cut.grid import even_cut, grid_of
from rushweed.core.cut.names import TOKENS, name_cells, name_rows, replace_in_names
from rushweed.core.document.edit import rename_cell
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell
from rushweed.ui.desk.images import SheetImages, checker
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.desk.view import View
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import elided, label, row
from rushweed.ui.kit.fields import TextField
from rushweed.ui.kit.keyed import Spot
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.panel import Panel
from rushweed.ui.session import Session
from rushweed.ui.session.beside import worked_out
from rushweed.ui.session.jobs import Job

PITCH, FRAME, TOP = 80, 48, 14
ROOM_FOR_HOW = 600  # px of the Strip, from which it says how names are changed
AT_ONCE = 1000  # cells that are named without leaving the window's thread


class Film(QWidget):
    """The frames themselves; only those in sight are drawn."""

    renamed = pyqtSignal(str, str)

    def __init__(self, look: Look, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.look, self.session, self.images = look, session, images
        self.cells: list[Cell] = []
        self.numbers: dict[str, int] = {}
        self.shows_shapes = False
        self.scroll_px = 0.0
        self._drag: float | None = None
        self._checker = checker(look)
        self._marks = ShapeMarks(look)
        self.editor = TextField("name", mono=True)
        self.editor.setParent(self)
        self.editor.hide()
        self.editor.edited.connect(self._rename)
        self.editor.editingFinished.connect(self.editor.hide)
        self._edited: str | None = None
        self.setMinimumHeight(FRAME + TOP + 28)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Cells")
        look.changed.connect(self._renew)

    def _renew(self) -> None:
        self._checker = checker(self.look)
        self.update()

    def show_cells(self, cells: list[Cell], numbers: dict[str, int]) -> None:
        self.cells, self.numbers = cells, numbers
        self._clamp()
        self.update()

    def reveal(self, cell_id: str) -> None:
        """Scroll so that a cell is in sight."""
        index = next((i for i, c in enumerate(self.cells) if c.id == cell_id), None)
        if index is None:
            return
        left = index * PITCH
        if left < self.scroll_px:
            self.scroll_px = left
        elif left + PITCH > self.scroll_px + self.width() - 8:
            self.scroll_px = left + PITCH - self.width() + 8
        self._clamp()
        self.update()

    def _clamp(self) -> None:
        most = max(len(self.cells) * PITCH - self.width() + 8, 0)
        self.scroll_px = min(max(self.scroll_px, 0), most)

    def _index(self, x: float) -> int:
        return int((x - 8 + self.scroll_px) // PITCH)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        turn = event.angleDelta()
        self.scroll_px -= turn.y() or turn.x()
        self._clamp()
        self.editor.hide()
        self.update()

    def resizeEvent(self, event: object) -> None:
        self._clamp()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.position().y() > self.height() - 8:
            self._drag = event.position().x()
            self._jump(event.position().x())
            return
        index = self._index(event.position().x())
        if not 0 <= index < len(self.cells):
            return
        cell, keys = self.cells[index], event.modifiers()
        ids = self.session.selection.cell_ids
        if keys & Qt.KeyboardModifier.ShiftModifier and ids:
            order = [c.id for c in self.cells]
            start = order.index(ids[-1]) if ids[-1] in order else index
            span = order[min(start, index) : max(start, index) + 1]
            self.session.selection.choose_cells(tuple(span))
        elif keys & Qt.KeyboardModifier.ControlModifier:
            rest = tuple(i for i in ids if i != cell.id)
            self.session.selection.choose_cells(rest if cell.id in ids else (*rest, cell.id))
        else:
            self.session.selection.choose_cells((cell.id,))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._drag is not None:
            self._jump(event.position().x())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._drag = None

    def _jump(self, x: float) -> None:
        total = max(len(self.cells) * PITCH, 1)
        self.scroll_px = (x - 8) / max(self.width() - 16, 1) * total - self.width() / 2
        self._clamp()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index = self._index(event.position().x())
        if 0 <= index < len(self.cells):
            self.edit_name(self.cells[index])

    def spots(self) -> list[Spot]:
        """The cells in sight, for who cannot see them."""
        first, last = max(self._index(8), 0), min(self._index(self.width()), len(self.cells) - 1)
        left = 8 - self.scroll_px
        return [
            Spot(QRectF(left + n * PITCH, TOP, FRAME, FRAME), self.cells[n].name)
            for n in range(first, last + 1)
        ]

    def first_spot(self) -> int:
        now, first = self.session.selection.cell, max(self._index(8), 0)
        return next((n for n, c in enumerate(self.cells[first:]) if now is not None and c.id == now.id), -1)

    def press_spot(self, number: int) -> None:
        cell = self.cells[max(self._index(8), 0) + number]
        self.session.selection.choose_cells((cell.id,))

    def edit_name(self, cell: Cell) -> bool:
        """Let a name be typed in its place; returns whether the Strip shows the cell."""
        index = next((i for i, c in enumerate(self.cells) if c.id == cell.id), None)
        if index is None:
            return False
        self.reveal(cell.id)
        self._edited = cell.id
        self.editor.show_value(cell.name)
        self.editor.setGeometry(round(8 + index * PITCH - self.scroll_px) - 2, TOP + FRAME + 1, PITCH - 2, 22)
        self.editor.show()
        self.editor.setFocus()
        self.editor.selectAll()
        return True

    def _rename(self, text: str) -> None:
        self.editor.hide()
        if self._edited is not None:
            self.renamed.emit(self._edited, text)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        now = self.session.selection.cell
        order = [c.id for c in self.cells]
        if step is not None and now is not None and now.id in order:
            index = min(max(order.index(now.id) + step, 0), len(order) - 1)
            self.session.selection.choose_cells((order[index],))
            self.reveal(order[index])
        elif event.key() == Qt.Key.Key_F2 and now is not None:
            self.edit_name(now)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look, sheet = QPainter(self), self.look, self.session.selection.sheet
        if sheet is None or not self.cells:
            painter.setFont(look.font(12))
            painter.setPen(look.colour("quiet"))
            words = "Cut the sheet to see its cells here." if sheet else "Nothing on the Shelf yet."
            if sheet and sheet.cells:
                words = "No cell of that kind."
            painter.drawText(
                QRectF(8, 0, self.width(), self.height() - 16), Qt.AlignmentFlag.AlignVCenter, words
            )
            return
        image, chosen = self.images.image(sheet), set(self.session.selection.cell_ids)
        first = max(int(self.scroll_px // PITCH) - 1, 0)
        last = min(int((self.scroll_px + self.width()) // PITCH) + 1, len(self.cells))
        for i in range(first, last):
            cell = self.cells[i]
            x = round(8 + i * PITCH - self.scroll_px)
            frame = QRectF(x, TOP, FRAME, FRAME)
            mine = cell.id in chosen
            painter.setBrushOrigin(frame.topLeft())
            w, h = cell.rect[2], cell.rect[3]
            scale = min(FRAME / w, FRAME / h)
            scale = int(scale) if scale >= 1 else scale
            art = QRectF(x + (FRAME - w * scale) // 2, TOP + (FRAME - h * scale) // 2, w * scale, h * scale)
            painter.fillRect(frame, self._checker)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, scale < 1)
            painter.drawImage(art, image, QRectF(*cell.rect))
            if self.shows_shapes and cell.shapes:
                view = View()
                view.zoom, view.offset = scale, art.topLeft()
                painter.save()
                painter.setClipRect(frame.adjusted(-1, -1, 1, 1))
                self._marks.paint(painter, view, [(s, 0, 0) for s in cell.shapes])
                painter.restore()
            painter.setFont(look.mono(10))
            painter.setPen(look.colour("rust" if mine else "quiet"))
            painter.drawText(
                QRectF(x, 0, PITCH, TOP), Qt.AlignmentFlag.AlignVCenter, f"{self.numbers[cell.id]:02d}"
            )
            painter.setFont(look.font(11, mine))
            painter.setPen(look.colour("ink"))
            name = QRectF(x, TOP + FRAME + 2, PITCH - 4, 18)
            painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, elided(painter, cell.name, PITCH - 6, True))
            if mine:
                paint_corners(
                    painter, frame.adjusted(-2, -2, 2, 2), 12, look.colour("rust"), look.colour("paper")
                )
        self._scroll_mark(painter)

    def _scroll_mark(self, painter: QPainter) -> None:
        total = len(self.cells) * PITCH
        room = self.width() - 16
        if total <= room:
            return
        start, wide = self.scroll_px / total * room, max(room * self.width() / total, 24)
        painter.fillRect(QRectF(8, self.height() - 5, room, 1), self.look.colour("rule"))
        painter.fillRect(QRectF(8 + start, self.height() - 6, wide, 3), self.look.colour("reed"))


class Strip(Panel):
    """A head with counts, then the film."""

    topics = frozenset({"sheets", "selection", "stage"})

    def __init__(self, look: Look, session: Session, images: SheetImages) -> None:
        super().__init__(session)
        self.look = look
        self._what = label("", "quiet")
        self.which = ChoiceRow(look, [("all", "All"), ("with", "Shaped"), ("without", "Without")])
        self.which.edited.connect(lambda _v: self.refresh())
        self.chosen_words = label("", "quiet")
        self.pattern = TextField("names: walk_{n}", mono=True)
        self.pattern.setFixedWidth(210)
        tokens = "\n".join(f"{{{token}}}  {words}" for token, words in TOKENS.items())
        about = "Names the selected cells; the Strip shows them while you type."
        self.pattern.setToolTip(
            f"{about}\n{tokens}\nold -> new  replaces a part of the names\nidle, walk  names row after row"
        )
        self.pattern.textEdited.connect(self._try_pattern)
        self.pattern.edited.connect(self._name_by_pattern)
        self.pattern.editingFinished.connect(self._pattern_left)
        self._trying: Job | None = None  # a pattern, while it is worked out what it does to very many cells
        head = QWidget()
        head.setFixedHeight(28)
        head.setLayout(
            row(label("Strip", "head"), self._what, 8, self.which, None, self.chosen_words, self.pattern)
        )
        layout = head.layout()
        assert layout is not None
        layout.setContentsMargins(8, 2, 8, 2)
        self.film = Film(look, session, images)
        self.film.renamed.connect(self._rename)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(head)
        box.addWidget(self.film, 1)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if event is not None and (event.oldSize().width() < ROOM_FOR_HOW) != (self.width() < ROOM_FOR_HOW):
            self.refresh()

    def follow(self, topics: frozenset[str]) -> None:
        self.refresh()
        chosen = self.session.selection.cell_ids
        if "selection" in topics and 0 < len(chosen) < max(len(self.film.cells), 2):  # of all none is the one
            self.film.reveal(chosen[-1])

    def come_into_sight(self) -> None:
        self.follow(frozenset({"selection"}))

    def refresh(self) -> None:
        sheet = self.session.selection.sheet
        cells = list(sheet.cells) if sheet else []
        shaping = self.session.stage == "shape"
        self.which.setVisible(shaping)
        self.film.shows_shapes = shaping
        shown = cells
        if shaping and self.which.value != "all":
            shown = [c for c in cells if bool(c.shapes) == (self.which.value == "with")]
        grid = even_cut(sheet) if sheet else None
        empty = ""
        if sheet is not None and grid is not None and cells:
            lines = grid_of(grid, sheet.source.size)
            left = lines.columns * lines.rows - len(cells)
            empty = f", {left} left out" if left else ""
        self._what.setText(f"{many(len(cells), 'cell')}{empty}" if cells else "")
        number = len(self.session.selection.cells)
        self.pattern.setVisible(self.session.stage == "cut" and number > 0)
        how = "double-click a name to change it" if cells and self.width() >= ROOM_FOR_HOW else ""
        self.chosen_words.setText(f"{number} selected" if number > 1 else how)
        self.film.show_cells(shown, {c.id: i for i, c in enumerate(cells)})

    def _renaming(self, text: str) -> Callable[[Project], Project] | None:
        """The edit that a pattern, a list of rows or "old -> new" stands for; None while it is not whole."""
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        if sheet is None or not ids or not text.strip() or text.count("{") != text.count("}"):
            return None
        if " -> " in text:
            find, put = text.split(" -> ", 1)
            return partial(replace_in_names, sheet_id=sheet.id, cell_ids=ids, find=find, put=put)
        if "," in text and "{" not in text:
            return partial(name_rows, sheet_id=sheet.id, cell_ids=ids, rows=text.split(","))
        return partial(name_cells, sheet_id=sheet.id, cell_ids=ids, pattern=text)

    def _try_pattern(self, text: str) -> None:
        change, ids = self._renaming(text), self.session.selection.cell_ids
        self._drop_trial()
        if change is None:
            self.session.document.preview(None)
            return
        show = self.session.document.preview
        self._trying = worked_out(self.session, "Naming", change, show, len(ids) > AT_ONCE)

    def _name_by_pattern(self, text: str) -> None:
        change, ids = self._renaming(text), self.session.selection.cell_ids
        self._drop_trial()
        if change is not None:
            words = f"Name {many(len(ids), 'cell')}"
            worked_out(
                self.session, words, change, partial(self.session.document.edit, words), len(ids) > AT_ONCE
            )
        self.pattern.show_value("")

    def _drop_trial(self) -> None:
        """What a pattern would do is not shown any more."""
        if self._trying is not None:
            self._trying.cancel()
            self._trying = None

    def _pattern_left(self) -> None:
        self._drop_trial()
        self.session.document.preview(None)

    def _rename(self, cell_id: str, text: str) -> None:
        self.session.document.edit("Rename a cell", lambda p: rename_cell(p, cell_id, text))
