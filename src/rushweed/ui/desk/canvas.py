"""The canvas that every stage shows its scene on, with the same zoom, pan and grid everywhere."""

from __future__ import annotations

import time

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtWidgets import QWidget

from rushweed.ui.desk.images import SheetImages
from rushweed.ui.desk.level_paint import LevelPainter
from rushweed.ui.desk.rulers import THICK
from rushweed.ui.desk.scene import Scene
from rushweed.ui.desk.sheet_paint import CellIndex, SheetPainter
from rushweed.ui.desk.view import View
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session, later

SLOW_S = 0.004  # a change that took longer is drawn in the turn of the event loop after it


class Canvas(QWidget):
    """A scene, how it is viewed, and what paints sheets and levels; the Desk adds pointer and keys."""

    zoomed = pyqtSignal(str)
    painted = pyqtSignal()  # for the first time
    asks = pyqtSignal(bool)  # whether a board over its foot asks something
    _scene: Scene | None = None  # also once it has gone, when Qt may still tell it that it lost the focus

    def __init__(self, look: Look, icons: Icons, session: Session) -> None:
        super().__init__()
        self.look, self.icons, self.session = look, icons, session
        self.images = SheetImages(session.stock)
        self.sheet_painter = SheetPainter(look, session.stock, self.images)
        session.prepares += [self.images, self.sheet_painter]
        self.level_painter = LevelPainter(session.stock, self.images)
        self.cell_index = CellIndex()
        self.tells_empty = True  # something else may say it
        self._views: dict[str, View] = {}
        self._parts: list[QRect] = []
        self._next_turn = later(self, 1, lambda: self.setUpdatesEnabled(True))
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(240, 160)
        session.document.changed.connect(self._changed)
        session.selection.focused.connect(self.update)

    @property
    def scene(self) -> Scene:
        assert self._scene is not None
        return self._scene

    @property
    def room(self) -> QRectF:
        """The canvas without its rulers, screen px."""
        return QRectF(THICK, THICK, max(self.width() - THICK, 1), max(self.height() - THICK, 1))

    @property
    def view(self) -> View:
        """The view of what is shown; each sheet and level has its own."""
        key = self.scene.view_key()
        view = self._views.get(key)
        if view is None:
            view = self._views[key] = View(self.devicePixelRatioF())
        if view.ratio != self.devicePixelRatioF():
            view.set_ratio(self.devicePixelRatioF(), self.room.center())
        if not view.fitted and self.isVisible() and key:
            view.fit(self.scene.content(), self.room)
        return view

    def wait_a_turn(self) -> None:
        """Draw nothing before the event loop has come round once, so that no turn is long. What is on
        screen stays there until then."""
        if self.updatesEnabled():
            self.setUpdatesEnabled(False)
            self.session.jobs.desk_draws_on(True)
            self._next_turn.start()

    def _changed(self, old: object, new: object) -> None:
        if self._scene is not None:
            region = self._scene.dirty(old, new)
            if region is None or time.perf_counter() - self.session.document.began > SLOW_S:
                self.wait_a_turn()
            if region is None:
                self.update()
            else:
                self.repaint_part(region.toAlignedRect().adjusted(-2, -2, 2, 2))

    # -- zoom and pan ------------------------------------------------------------------------------

    def zoom_step(self, by: int, at: QPointF | None = None) -> None:
        self.view.step(by, at or self.room.center())
        self.viewed()

    def zoom_to(self, zoom: float) -> None:
        self.view.set_zoom(zoom / self.view.ratio, self.room.center())
        self.viewed()

    def zoom_fit(self) -> None:
        self.view.fit(self.scene.content(), self.room)
        self.viewed()

    def look_at(self, x: float, y: float) -> None:
        """Bring a place of the content into the middle."""
        self.view.centre(QPointF(x, y), self.room)
        self.viewed()

    def viewed(self) -> None:
        self.view.keep_near(self.scene.content(), self.room)
        self.zoomed.emit(self.view.words())
        self.update()

    def repaint_part(self, part: QRect) -> None:
        """Paint a rectangle again. Several in one round are painted each by itself, not what lies between."""
        self._parts.append(part)
        self.update(part)
