"""All findings on a page of its own, by stage or by sheet, each with its picture and its cure."""

from __future__ import annotations

from functools import partial
from typing import NamedTuple

from PyQt6.QtCore import QModelIndex, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.text import many
from rushweed.core.findings.edit import cure_all, leave_alone, tell_again
from rushweed.core.findings.finding import Finding
from rushweed.ui.desk.images import checker, image_of
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import button, elided, label, row
from rushweed.ui.kit.fields import TextField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import STAGES, TITLES, Session

SIZE = (720, 560)
ROW, HEAD, THUMB = 44, 30, 36
ROLE = Qt.ItemDataRole.UserRole
WAYS = (("stage", "By stage"), ("part", "By sheet"), ("left", "Left as it is"))


class Entry(NamedTuple):
    """One row: a finding, and why it is left as it is, if it is."""

    finding: Finding
    why: str = ""


class _Rows(QStyledItemDelegate):
    """Draws heads, and findings with the picture of what they are about."""

    def __init__(self, look: Look, icons: Icons, session: Session) -> None:
        super().__init__()
        self.look, self.icons, self.session = look, icons, session

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(200, ROW if isinstance(index.data(ROLE), Entry) else HEAD)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        look, box, entry = self.look, option.rect, index.data(ROLE)
        painter.save()
        left = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        if not isinstance(entry, Entry):
            painter.setFont(look.font(12, bold=True))
            painter.setPen(look.colour("quiet"))
            painter.drawText(QRectF(box).adjusted(8, 6, -8, 0), left, index.data())
            painter.restore()
            return
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, look.colour("straw_wash"))
        finding = entry.finding
        thumb = QRect(box.left() + 12, box.top() + (ROW - THUMB) // 2, THUMB, THUMB)
        self._picture(painter, thumb, finding)
        fault = finding.weight == "fault"
        glyph = "warning-circle-fill" if fault else "info-fill"
        colour = look.colour("fault" if fault else "straw_deep")
        self.icons.paint(painter, QRectF(thumb.right() + 8, box.top(), 18, ROW), glyph, colour, 16)
        words = QRectF(box).adjusted(thumb.right() - box.left() + 32, 0, -8, 0)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("ink"))
        if entry.why:
            words.setHeight(ROW / 2)
            words.translate(0, 3)
        painter.drawText(words, left, elided(painter, finding.text, words.width()))
        if entry.why:
            words.translate(0, ROW / 2 - 6)
            painter.setPen(look.colour("quiet"))
            painter.drawText(words, left, elided(painter, f"stays: {entry.why}", words.width()))
        painter.restore()

    def _picture(self, painter: QPainter, box: QRect, finding: Finding) -> None:
        """The first cell that a finding names, else the sheet; a level has none here."""
        sheet = next((s for s in self.session.project.sheets if s.id == finding.place.sheet), None)
        if sheet is None or not self.session.stock.holds(sheet):
            painter.setPen(self.look.colour("rule"))
            painter.drawRect(box.adjusted(0, 0, -1, -1))
            return
        painter.fillRect(box, checker(self.look, 6))
        named = finding.place.cells[:1]
        cell = next((c for c in sheet.cells if c.id in named), None)
        x, y, w, h = cell.rect if cell else (0, 0, *sheet.source.size)
        step = max(max(w, h) // (4 * THUMB), 1)  # of a large picture some px stand for all
        image = image_of(self.session.stock.pixels_or_blank(sheet)[y : y + h : step, x : x + w : step])
        if image.isNull():
            return
        scale = min(box.width() / w, box.height() / h)
        scale = int(scale) if scale >= 1 else scale
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, scale < 1)
        target = QRectF(0, 0, w * scale, h * scale)
        target.moveCenter(QRectF(box).center())
        painter.drawImage(target, image)


class FindingsPage(QWidget):
    """Opened from the bar and by Ctrl+F8; Escape closes it."""

    def __init__(self, look: Look, icons: Icons, session: Session, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.look, self.session = look, session
        self.setWindowTitle("Findings - Rushweed")
        self.way = ChoiceRow(look, list(WAYS))
        self.way.show_value("stage")
        self.way.edited.connect(lambda _way: self.refresh())
        self.count = label("", "quiet")
        self.list = QListWidget()
        self.list.setAccessibleName("Findings")
        self.list.setItemDelegate(_Rows(look, icons, session))
        self.list.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.list.currentItemChanged.connect(lambda _now, _then: self._chosen())
        self.list.itemActivated.connect(lambda _item: self.show_place())
        self.show_button = button("Show")
        self.fix_button, self.all_button = button("", fix=True), button("")
        self.why = TextField("why it may stay as it is")
        self.leave_button, self.tell_button = button("Leave it"), button("Tell it again")
        self.show_button.clicked.connect(self.show_place)
        self.fix_button.clicked.connect(self.fix)
        self.all_button.clicked.connect(self.fix_all)
        self.leave_button.clicked.connect(self.leave)
        self.why.returnPressed.connect(self.leave)
        self.tell_button.clicked.connect(self.tell_again)
        head, cures, leaving = QWidget(), QWidget(), QWidget()
        head.setLayout(row(self.way, None, self.count))
        cures.setLayout(row(self.show_button, self.fix_button, self.all_button, self.tell_button, None))
        leaving.setLayout(row(self.why, self.leave_button))
        self._leaving = leaving
        whole = QVBoxLayout(self)
        whole.setContentsMargins(12, 12, 12, 12)
        whole.setSpacing(8)
        for part in (head, self.list, cures, leaving):
            whole.addWidget(part, int(part is self.list))
        self.resize(*SIZE)
        session.checker.found.connect(self._found)
        look.dress(self)

    @property
    def entry(self) -> Entry | None:
        """The one that is chosen."""
        item = self.list.currentItem()
        found = item.data(ROLE) if item is not None else None
        return found if isinstance(found, Entry) else None

    def open(self) -> None:
        screen = self.screen()
        if screen is not None:
            room = screen.availableGeometry()
            self.resize(min(SIZE[0], room.width()), min(SIZE[1], room.height() - 40))
        self.refresh()
        self.show()
        self.raise_()
        self.activateWindow()
        self.list.setFocus()

    def _found(self) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """List what there is, with the chosen one kept, or the one that took its place."""
        held, at = self.entry, self.list.currentRow()
        checker = self.session.checker
        if self.way.value == "left":
            entries = [Entry(finding, left.why) for finding, left in checker.left]
        else:
            entries = [Entry(finding) for finding in checker.findings]
        self.list.blockSignals(True)
        self.list.clear()
        chosen = None
        for head, group in self._groups(entries):
            top = QListWidgetItem(f"{head}, {len(group)}")
            top.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(top)
            for entry in group:
                item = QListWidgetItem(entry.finding.text)
                item.setData(ROLE, entry)
                item.setToolTip(entry.finding.text)
                self.list.addItem(item)
                if held is not None and entry.finding.key == held.finding.key:
                    chosen = item
        self.list.setCurrentItem(chosen)
        if chosen is None:
            self._choose_near(max(at, 0))
        self.list.blockSignals(False)
        faults = sum(f.weight == "fault" for f in checker.findings)
        words = f"{many(faults, 'fault')}, {many(len(checker.findings) - faults, 'hint')}"
        self.count.setText(words + (f", {len(checker.left)} left" if checker.left else ""))
        self._chosen()

    def _choose_near(self, at: int) -> None:
        rows = [n for n in range(self.list.count()) if isinstance(self._item(n).data(ROLE), Entry)]
        if rows:
            self.list.setCurrentRow(min(rows, key=lambda n: abs(n - at)))

    def _item(self, number: int) -> QListWidgetItem:
        item = self.list.item(number)
        assert item is not None
        return item

    def _groups(self, entries: list[Entry]) -> list[tuple[str, list[Entry]]]:
        """Entries under their heads: the stages in order, or the sheets, levels and animations."""
        by_part = self.way.value == "part"
        if by_part:
            names = _names(self.session.project)
            order = [*names, ""]
        else:
            names, order = {key: TITLES[key] for key in STAGES}, list(STAGES)
        made: dict[str, list[Entry]] = {}
        for entry in entries:
            place = entry.finding.place
            part = place.animation or place.level or place.sheet or ""
            key = (part if part in names else "") if by_part else place.stage
            made.setdefault(key, []).append(entry)
        return [(names.get(key, "The project"), made[key]) for key in order if key in made]

    # -- what is done with the chosen one ----------------------------------------------------------------

    def like_it(self) -> list[Finding]:
        """All findings of the chosen one's kind that have a cure."""
        entry = self.entry
        if entry is None:
            return []
        rule = entry.finding.rule
        return [f for f in self.session.checker.findings if f.rule == rule and f.fix is not None]

    def _chosen(self) -> None:
        entry = self.entry
        fix = entry.finding.fix if entry else None
        alike = len(self.like_it()) if fix else 0
        left = entry is not None and bool(entry.why)
        self.show_button.setVisible(entry is not None)
        self.fix_button.setVisible(fix is not None and not left)
        self.fix_button.setText(fix.label if fix else "")
        self.all_button.setVisible(alike > 1 and not left)
        self.all_button.setText(f"All {alike} like it")
        self.tell_button.setVisible(left)
        self._leaving.setVisible(entry is not None and not left)

    def show_place(self) -> None:
        if self.entry is not None:
            self.session.show(self.entry.finding.place)

    def fix(self) -> None:
        entry = self.entry
        if entry is not None and entry.finding.fix is not None:
            self.session.document.edit(entry.finding.fix.label, entry.finding.fix.edit)

    def fix_all(self) -> None:
        """The cures of all findings of this kind, as one edit; what could not be done is told."""
        alike = self.like_it()
        told: list[str] = []

        def change(project: Project) -> Project:
            made, not_done = cure_all(project, alike)
            told[:] = not_done
            return made

        if alike and alike[0].fix is not None:
            self.session.document.edit(f"{alike[0].fix.label} ({len(alike)})", change)
        if told:
            more = f" So with {len(told) - 1} more." if len(told) > 1 else ""
            self.session.tell("fault", f"{many(len(told), 'cure')} could not be made: {told[0]}{more}")

    def leave(self) -> None:
        """Leave the chosen one as it is, for the reason in the field."""
        entry = self.entry
        if entry is None:
            return
        finding, why = entry.finding, self.why.text()
        try:
            leave_alone(self.session.project, [finding], why)
        except RushweedError:
            self.why.setFocus()
            self.why.setPlaceholderText("say why, in a few words")
            return
        self.why.clear()
        self.session.document.edit("Leave a finding", partial(leave_alone, findings=[finding], why=why))

    def tell_again(self) -> None:
        entry = self.entry
        if entry is not None:
            keys = [entry.finding.key]
            self.session.document.edit("Tell a finding again", partial(tell_again, keys=keys))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)


def _names(project: Project) -> dict[str, str]:
    """Sheets, levels and animations by id, in order."""
    parts: tuple[Sheet | Level | Animation, ...] = (*project.sheets, *project.levels, *project.animations)
    return {part.id: part.name for part in parts}
