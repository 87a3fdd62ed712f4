"""The bar at the bottom: faults and hints by number, one of them in words with its cure, the pointer."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from rushweed.core.findings.finding import Finding
from rushweed.ui.kit.controls import Pressable, button, elided
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.running import Running
from rushweed.ui.session import Session

STATE, NARROW = 272, 1200  # px of what is said of saving; of a bar in which that takes no more than it needs


class _Counts(Pressable):
    """How many there are; pressed, it opens all of them."""

    def __init__(self, look: Look, icons: Icons) -> None:
        super().__init__()
        self.look, self.icons = look, icons
        self.faults = self.hints = 0
        self.checked = False
        self.setFixedWidth(168)
        self.setToolTip("All findings")
        self.setAccessibleName("All findings")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        painter.setFont(look.font(12))
        left = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        x = 6.0
        if not self.checked:
            painter.setPen(look.colour("quiet"))
            painter.drawText(QRectF(x + 24, 0, 130, 32), left, "Checking ...")
            return
        if not self.faults and not self.hints:
            self.icons.paint(painter, QRectF(x, 0, 20, 32), "check-circle", look.colour("reed"), 16)
            painter.setPen(look.colour("ink"))
            painter.drawText(QRectF(x + 24, 0, 130, 32), left, "Nothing found")
            return
        for number, word, role in ((self.faults, "fault", "fault"), (self.hints, "hint", "straw_deep")):
            glyph = "warning-circle-fill" if word == "fault" else "info-fill"
            self.icons.paint(
                painter, QRectF(x, 0, 18, 32), glyph, look.colour(role if number else "rule_deep"), 16
            )
            painter.setPen(look.colour("ink" if number else "quiet"))
            words = f"{number} {word}" + ("" if number == 1 else "s")
            painter.drawText(QRectF(x + 23, 0, 60, 32), left, words)
            x += 78


class _Line(QWidget):
    """One finding in words, cut short where there is no room."""

    def __init__(self, look: Look, icons: Icons) -> None:
        super().__init__()
        self.look, self.icons = look, icons
        self.finding: Finding | None = None
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)

    def sizeHint(self) -> QSize:
        if self.finding is None:
            return QSize(0, 32)
        return QSize(self.fontMetrics().horizontalAdvance(self.finding.text) + 36, 32)

    def minimumSizeHint(self) -> QSize:
        return QSize(80 if self.finding else 0, 32)

    def show_finding(self, finding: Finding | None) -> None:
        self.finding = finding
        self.setToolTip(finding.text if finding else "")
        self.updateGeometry()
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.finding is None:
            return
        look, painter = self.look, QPainter(self)
        fault = self.finding.weight == "fault"
        self.icons.paint(
            painter, QRectF(4, 0, 18, 32), "warning-circle-fill" if fault else "info-fill",
            look.colour("fault" if fault else "straw_deep"), 16,
        )  # fmt: skip
        painter.setFont(look.font(12))
        painter.setPen(look.colour("ink"))
        left = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        box = QRectF(28, 0, self.width() - 30, 32)
        painter.drawText(box, left, elided(painter, self.finding.text, box.width()))


class _Pointer(QWidget):
    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self.text = ""
        self.setMinimumWidth(250)

    def show_text(self, text: str) -> None:
        if text != self.text:
            self.text = text
            wide = QFontMetrics(self.look.mono(11)).horizontalAdvance(text) + 12
            if wide > self.minimumWidth():
                self.setMinimumWidth(wide)  # it never gets narrower again: nothing jumps about
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setFont(self.look.mono(11))
        painter.setPen(self.look.colour("ink"))
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(0, 0, self.width() - 8, 32), right, self.text)


class _SaveState(QWidget):
    def __init__(self, look: Look, icons: Icons) -> None:
        super().__init__()
        self.look, self.icons = look, icons
        self.safe, self.text, self.narrow = True, "", False

    def show_state(self, safe: bool, text: str) -> None:
        self.safe, self.text = safe, text
        self.setToolTip(text)
        self.fit(self.narrow)

    def fit(self, narrow: bool) -> None:
        """No wider than its words where the window is narrow."""
        self.narrow = narrow
        wide = QFontMetrics(self.look.font(12)).horizontalAdvance(self.text) + 44
        self.setFixedWidth(min(max(wide, 120), STATE) if narrow else STATE)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        painter.fillRect(QRectF(0, 0, 1, 32), look.colour("rule"))
        glyph = "check-circle" if self.safe else "warning-circle-fill"
        self.icons.paint(
            painter, QRectF(6, 0, 20, 32), glyph, look.colour("reed" if self.safe else "fault"), 16
        )
        painter.setFont(look.font(12))
        painter.setPen(look.colour("ink"))
        left = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        room = self.width() - 34
        painter.drawText(QRectF(30, 0, room, 32), left, elided(painter, self.text, room))


class FindingsBar(QWidget):
    """Follows the session: findings, pointer, save state."""

    wants_all = pyqtSignal()

    def __init__(self, look: Look, icons: Icons, session: Session) -> None:
        super().__init__()
        self.look, self.session = look, session
        self.setFixedHeight(32)
        self.counts = _Counts(look, icons)
        self._line = _Line(look, icons)
        self.show_button = button("Show")
        self.fix_button = button("", fix=True)
        self._pointer = _Pointer(look)
        self._state = _SaveState(look, icons)
        self.running = Running(look, session.jobs)
        self._at = 0
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        for part in (self.counts, self._line, self.show_button, self.fix_button):
            layout.addWidget(part)
        layout.addStretch(1)
        layout.addWidget(self._pointer, 1)
        layout.addWidget(self.running)
        layout.addWidget(self._state)
        self.counts.pressed.connect(self.wants_all)
        self.show_button.clicked.connect(self.show_place)
        self.fix_button.clicked.connect(self.fix)
        session.checker.found.connect(self._found)
        session.selection.focused.connect(self._refresh)
        session.staged.connect(self._refresh)
        session.saver.saved.connect(self._state_changed)
        session.pointed.connect(self._pointer.show_text)
        self._refresh()
        self._state_changed()

    @property
    def finding(self) -> Finding | None:
        return self._line.finding

    def _found(self) -> None:
        self.counts.checked = True
        self._refresh()

    def _refresh(self, *_: object) -> None:
        """Show the finding that matters most here: this sheet's or level's first, faults before hints."""
        found = self.session.checker.findings
        self.counts.faults = sum(f.weight == "fault" for f in found)
        self.counts.hints = len(found) - self.counts.faults
        self.counts.update()
        here = {self.session.selection.sheet_id, self.session.selection.level_id}
        ranked = sorted(
            found,
            key=lambda f: (
                f.weight != "fault",
                not ({f.place.sheet, f.place.level} & here),
                f.place.stage != self.session.stage,
            ),
        )  # fmt: skip
        self._show(ranked[0] if ranked else None)

    def _show(self, finding: Finding | None) -> None:
        self._line.show_finding(finding)
        self.show_button.setVisible(finding is not None)
        self.fix_button.setVisible(finding is not None and finding.fix is not None)
        if finding and finding.fix:
            self.fix_button.setText(finding.fix.label)

    def show_place(self) -> None:
        if self.finding:
            self.session.show(self.finding.place)

    def fix(self) -> None:
        finding = self.finding
        if finding and finding.fix:
            self.session.document.edit(finding.fix.label, finding.fix.edit)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        narrow = self.width() < NARROW
        if narrow != self._state.narrow:
            self._state.fit(narrow)

    def _state_changed(self) -> None:
        self._state.show_state(*self.session.saver.save_state())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.look.colour("paper"))
        painter.fillRect(QRectF(0, 0, self.width(), 1), self.look.colour("rule"))
        painter.fillRect(QRectF(167, 0, 1, 32), self.look.colour("rule"))
