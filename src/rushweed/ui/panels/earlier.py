"""The last saves, each with its time, what changed and a picture of it; one press goes back to it."""

from __future__ import annotations

import time
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QIcon, QKeyEvent, QPixmap
from PyQt6.QtWidgets import QFrame, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.level.compare import compare, difference_pictures
from rushweed.core.level.render import level_picture
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.store.saves import Save, saves_of, what_changed
from rushweed.ui.desk.images import image_of
from rushweed.ui.kit.controls import label
from rushweed.ui.session import Session
from rushweed.ui.session.jobs import Job

PICTURE = (128, 72)  # px
WIDE, HIGH = 420, 460


class Shown(NamedTuple):
    """A save as the list shows it; the picture is of the first thing that changed."""

    save: Save
    text: str
    picture: np.ndarray


class EarlierSaves(QFrame):
    """A list over the window that goes as soon as something else is pressed."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.session = session
        self.setObjectName("finder")
        self.list = QListWidget()
        self.list.setIconSize(QSize(*PICTURE))
        self.list.setAccessibleName("Earlier saves")
        self.list.itemActivated.connect(self._chosen)
        self.list.itemClicked.connect(self._chosen)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 8)
        self._head = label("Press a save to go back to it. It is one edit: undo brings the present back.")
        self._head.setWordWrap(True)
        layout.addWidget(self._head)
        layout.addWidget(self.list)
        self.resize(WIDE, HIGH)

    def open(self) -> None:
        """Read what is kept in the background, and show it."""
        folder, stock = self.session.folder, self.session.stock

        def work(job: Job) -> list[Shown]:
            kept = saves_of(folder)
            found = []
            for n, save in enumerate(kept):
                job.tell(n / len(kept), "Reading the earlier saves")
                earlier = kept[n + 1] if n + 1 < len(kept) else None
                words = f"{_when(save.when)}\n{what_changed(save, earlier)}"
                found.append(Shown(save, words, _picture(save, earlier, stock)))
            return found

        self.session.working.emit(self.session.jobs.start("Earlier saves", work, self._show))

    def _show(self, found: list[Shown]) -> None:
        if not found:
            self.session.tell("told", "Nothing has been saved yet that could be gone back to.")
            return
        self.list.clear()
        for shown in found:
            item = QListWidgetItem(QIcon(QPixmap.fromImage(image_of(shown.picture))), shown.text)
            item.setData(Qt.ItemDataRole.UserRole, shown.save)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self.resize(WIDE, min(70 + (PICTURE[1] + 6) * len(found), HIGH))
        parent = self.parentWidget()
        if parent is not None:
            self.move(parent.mapToGlobal(parent.rect().center()) - self.rect().center())
        self.show()
        self.list.setFocus()

    def _chosen(self, item: QListWidgetItem) -> None:
        save: Save = item.data(Qt.ItemDataRole.UserRole)
        self.hide()
        try:
            project = save.project()
        except RushweedError as error:
            self.session.tell("fault", error.problem, error.cure)
            return
        if self.session.document.edit(f"Back to the save of {_when(save.when)}", lambda _now: project):
            self.session.tell(
                "told", f"This is the save of {_when(save.when)}.", "Undo brings the present back."
            )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)


def _when(when: float) -> str:
    today = time.strftime("%Y-%m-%d") == time.strftime("%Y-%m-%d", time.localtime(when))
    return time.strftime("%H:%M:%S" if today else "%d %b %H:%M", time.localtime(when))


def _picture(save: Save, earlier: Save | None, stock: PixelCache) -> np.ndarray:
    """What changed in a save, uint8 (height, width, 4): the first level or sheet that differs; clear where it
    cannot be drawn."""
    blank = np.zeros((PICTURE[1], PICTURE[0], 4), np.uint8)
    try:
        now = save.project()
        before = earlier.project() if earlier is not None else None
    except RushweedError:
        return blank
    if before is None:
        return _fitted(_middle_of(now, now.levels[0], stock)) if now.levels else blank
    for difference in compare(before, now):
        pixels_of = stock.pixels_or_blank
        _old, new = difference_pictures(before, now, difference, pixels_of, pixels_of)
        if new is not None:
            return _fitted(new)
    return blank


def _middle_of(project: Project, level: Level, stock: PixelCache) -> np.ndarray:
    """The part of a level around its start."""
    x, y = (round(v) for v in level.start)
    wide, high = PICTURE[0] * 3, PICTURE[1] * 3
    return level_picture(
        project, level, stock.pixels_or_blank, (x - wide // 3, y - high * 2 // 3, wide, high)
    )


def _fitted(rgba: np.ndarray) -> np.ndarray:
    """A picture brought down to the list's size by whole steps, in the middle of it."""
    out = np.zeros((PICTURE[1], PICTURE[0], 4), np.uint8)
    step = max(-(-rgba.shape[1] // PICTURE[0]), -(-rgba.shape[0] // PICTURE[1]), 1)
    small = rgba[::step, ::step]
    top, left = (PICTURE[1] - small.shape[0]) // 2, (PICTURE[0] - small.shape[1]) // 2
    out[top : top + small.shape[0], left : left + small.shape[1]] = small
    return out
