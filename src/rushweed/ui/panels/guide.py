"""The guide in a window of its own: the stage one is in, a list of all heads, words to search for."""

from __future__ import annotations

import re
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import (
    QColor,
    QKeyEvent,
    QKeySequence,
    QShortcut,
    QTextCharFormat,
    QTextCursor,
    QTextDocument,
)
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QTextBrowser, QTextEdit, QVBoxLayout, QWidget

from rushweed.ui.kit.controls import label, row
from rushweed.ui.kit.fields import TextField
from rushweed.ui.kit.theme import Look

PAGE = Path(__file__).parents[2] / "assets" / "guide.html"
SIZE = (860, 640)


class GuideWindow(QWidget):
    """Opened by F1; Escape closes it."""

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.look = look
        self.setWindowTitle("Guide - Rushweed")
        self.places: list[str] = []  # of the heads, in order
        self.heads = QListWidget()
        self.heads.setAccessibleName("Heads of the guide")
        self.heads.setFixedWidth(168)
        self.heads.currentRowChanged.connect(self._go)
        self.search = TextField("words to find")
        self.search.textChanged.connect(self._find_all)
        self.search.returnPressed.connect(self.find_next)
        self.found_words = label("", "quiet")
        self.page = QTextBrowser()
        self.page.setAccessibleName("Guide")
        self.page.setOpenLinks(False)
        self.page.anchorClicked.connect(lambda url: self.page.scrollToAnchor(url.fragment()))
        top = QWidget()
        top.setLayout(row(self.search, self.found_words))
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(top)
        right.addWidget(self.page, 1)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(8, 8, 8, 8)
        whole.setSpacing(8)
        whole.addWidget(self.heads)
        whole.addLayout(right, 1)
        QShortcut(QKeySequence("Ctrl+F"), self, self.search.setFocus)
        look.changed.connect(self._show_page)
        self._show_page()
        self.resize(*SIZE)

    def open(self, stage: str) -> None:
        """Show the part about a stage, by its key."""
        screen = self.screen()
        if screen is not None:
            room = screen.availableGeometry()
            self.resize(min(SIZE[0], room.width()), min(SIZE[1], room.height() - 40))
        self.show()
        self.raise_()
        self.activateWindow()
        self.go(stage)

    def go(self, place: str) -> None:
        if place in self.places:
            self.heads.setCurrentRow(self.places.index(place))
            self._go(self.places.index(place))

    def _show_page(self) -> None:
        html = PAGE.read_text(encoding="utf-8")
        found = re.findall(r'<h[12]><a name="([^"]*)"></a>(.*?)</h[12]>', html)
        now = max(self.heads.currentRow(), 0)
        self.places = [place for place, _words in found]
        self.heads.blockSignals(True)
        self.heads.clear()
        self.heads.addItems([words for _place, words in found])
        self.heads.setCurrentRow(now)
        self.heads.blockSignals(False)
        self.setStyleSheet(self.look.rules())
        document = self.page.document()
        assert document is not None
        document.setDefaultStyleSheet(self._rules())
        self.page.setHtml(html)
        self._go(now)

    def _rules(self) -> str:
        colour = {name: self.look.colour(name).name() for name in ("ink", "quiet", "reed")}
        return f"""
            body {{ color: {colour["ink"]}; }}
            h1, h2 {{ font-weight: 600; color: {colour["reed"]}; margin-top: 20px; margin-bottom: 6px; }}
            h1 {{ font-size: 19px; }} h2 {{ font-size: 17px; }}
            p, li, td, th {{ font-size: 13px; line-height: 135%; }}
            th {{ color: {colour["quiet"]}; font-weight: 400; text-align: left; }}
            td, th {{ padding: 3px 14px 3px 0; }}
            pre {{ white-space: pre-wrap; }}
            code {{ font-family: "{self.look.mono(12).family()}"; font-size: 12px; }}
        """

    def _go(self, number: int) -> None:
        if 0 <= number < len(self.places):
            self.page.scrollToAnchor(self.places[number])

    # -- searching -------------------------------------------------------------------------------------

    def _find_all(self, text: str) -> None:
        """Mark every place where the words stand, and go to the first."""
        document = self.page.document()
        assert document is not None
        marks = []
        cursor = QTextCursor(document)
        while text:
            cursor = document.find(text, cursor)
            if cursor.isNull():
                break
            mark = QTextEdit.ExtraSelection()
            mark.cursor = cursor
            style = QTextCharFormat()
            style.setBackground(QColor(self.look.colour("straw_wash")))
            style.setFontUnderline(True)
            mark.format = style
            marks.append(mark)
        self.page.setExtraSelections(marks)
        self.found_words.setText(f"{len(marks)} found" if text else "")
        if marks:
            self.page.setTextCursor(marks[0].cursor)
            self.page.ensureCursorVisible()

    def find_next(self) -> None:
        """The next place, from the first again after the last."""
        text = self.search.text()
        if text and not self.page.find(text):
            self.page.moveCursor(QTextCursor.MoveOperation.Start)
            self.page.find(text, QTextDocument.FindFlag(0))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.close()
        else:
            super().keyPressEvent(event)
