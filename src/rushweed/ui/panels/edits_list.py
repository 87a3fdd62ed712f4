"""Every edit since the project was opened, newest first; one press goes to the state after it."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from rushweed.ui.kit.controls import label
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session

WIDE, HIGH, ROW = 320, 420, 24


class EditsList(QFrame):
    """A list over the window that goes as soon as something else is pressed."""

    def __init__(self, look: Look, session: Session, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.look, self.session = look, session
        self.setObjectName("finder")
        self.head = label("", "quiet")
        self.list = QListWidget()
        self.list.setAccessibleName("Edits")
        self.list.itemClicked.connect(self._chosen)
        self.list.itemActivated.connect(self._chosen)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 8)
        layout.addWidget(self.head)
        layout.addWidget(self.list)

    def open(self, under: QWidget) -> None:
        """Show the edits below a control, the present one chosen."""
        history = self.session.document.history
        labels, place = history.labels, history.place
        undone = len(labels) - place
        self.head.setText(f"{place} made, {undone} undone" if undone else f"{place} made")
        first = "As it was opened" if history.whole else "As far back as is kept"
        self.list.clear()
        for number in range(len(labels), -1, -1):
            item = QListWidgetItem(labels[number - 1] if number else first)
            item.setData(Qt.ItemDataRole.UserRole, number)
            if number > place:  # undone: it can be gone to, and looks so
                item.setForeground(self.look.colour("quiet"))
                font = item.font()
                font.setItalic(True)
                item.setFont(font)
            self.list.addItem(item)
        self.list.setCurrentRow(undone)
        self.resize(WIDE, min(56 + ROW * (len(labels) + 1), HIGH))
        corner = under.mapToGlobal(QPoint(under.width() - WIDE, under.height() + 2))
        screen = self.screen()
        if screen is not None:
            room = screen.availableGeometry()
            corner.setX(max(min(corner.x(), room.right() - WIDE), room.left()))
        self.move(corner)
        self.show()
        self.list.setFocus()
        self.list.scrollToItem(self.list.currentItem())

    def _chosen(self, item: QListWidgetItem) -> None:
        self.hide()
        self.session.document.go_to(int(item.data(Qt.ItemDataRole.UserRole)))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)
