"""The Proof: the selection as the game will draw it, at true size beside the yardstick. Never off."""

from __future__ import annotations

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from rushweed.core.document.model import Cell, Sheet
from rushweed.core.pixels.read import read_picture
from rushweed.core.tune.sample import Placed, draw, premultiply, straighten
from rushweed.core.tune.scene import Props, Scene, compose
from rushweed.core.tune.units import plain
from rushweed.demo import ART
from rushweed.ui.controls import label, row, tag
from rushweed.ui.desk.images import image_of
from rushweed.ui.fields import ChoiceRow
from rushweed.ui.session import Session, later
from rushweed.ui.theme import Look

PICTURE = (256, 144)


def scene_props() -> Props:
    """The sky, the floor and the figure that every Proof is set with."""
    sky = read_picture(ART / "sky.png").rgba
    floor = read_picture(ART / "boardwalk.png").rgba[1:17, 18:34]
    figure = read_picture(ART / "wren.png").rgba[0:32, 0:24]
    return Props(sky, floor, figure)


class _Picture(QWidget):
    lamp_moved = pyqtSignal(QPointF)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self.image: QImage | None = None
        self.scene: Scene | None = None
        self.words = ""
        self.lamp: QPointF | None = None  # screen px, while the sheet has a normal map
        self.setMinimumSize(*PICTURE)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(*PICTURE)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.look.colour("desk"))
        if self.image is None:
            return
        ratio = self.devicePixelRatioF()
        box = QRectF(0, 0, self.image.width() / ratio, self.image.height() / ratio)
        painter.drawImage(box, self.image)
        if self.scene is not None:
            self._yardstick(painter, self.scene, ratio)
        if self.words:
            tag(painter, self.look, 4, self.height() - 21, self.words)
        if self.lamp is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(self.look.colour("art_ink"), 1.5))
            painter.setBrush(self.look.colour("art_straw"))
            painter.drawEllipse(self.lamp, 6, 6)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(self.lamp, 10, 10)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.lamp is not None:
            self.lamp_moved.emit(event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        self.mousePressEvent(event)

    def _yardstick(self, painter: QPainter, scene: Scene, ratio: float) -> None:
        x, top, bottom = (v / ratio for v in scene.yard)
        x = round(x) + 0.5
        ends = [(top, 5), (bottom - 1, 5), ((top + bottom) / 2, 3)]
        for colour, wide in ((self.look.colour("art_ink"), 4), (self.look.colour("art_paper"), 2)):
            painter.setPen(QPen(colour, wide, cap=Qt.PenCapStyle.SquareCap))
            painter.drawLine(QPointF(x, top), QPointF(x, bottom - 1))
            for y, half in ends:
                painter.drawLine(QPointF(x - half, y), QPointF(x + half, y))
        tag(painter, self.look, x + 8 if x + 44 < self.width() else x - 40, (top + bottom) / 2 - 8, "1 u")


class Proof(QWidget):
    """Draws with the core's sampler, which reads as a graphics card does."""

    def __init__(self, look: Look, session: Session) -> None:
        super().__init__()
        self.look, self.session = look, session
        self._props: Props | None = None
        self._key: object = None
        self.mode = ChoiceRow(look, [("still", "Still"), ("turned", "Turned"), ("half", "Half px")])
        self.mode.setToolTip("As it stands, turned about its pivot, or between two pixels")
        self.mode.edited.connect(lambda _m: self.refresh())
        self.picture = _Picture(look)
        self.picture.lamp_moved.connect(self._move_lamp)
        self._lamp = (0.78, 0.3)  # shares of the picture's width and height
        self._foot = [label("", "mono") for _ in range(4)]
        top, foot = QWidget(), QWidget()
        top.setFixedHeight(32)
        foot.setFixedHeight(32)
        top.setLayout(row(label("Proof", "head"), None, self.mode))
        foot.setLayout(row(self._foot[0], None, self._foot[1], None, self._foot[2], None, self._foot[3]))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 0, 8, 0)
        layout.setSpacing(0)
        layout.addWidget(top)
        layout.addWidget(self.picture, 1)
        layout.addWidget(foot)
        self._soon = later(self, 60, self.refresh)
        session.changed.connect(self._changed)
        session.focused.connect(self.refresh)
        session.played.connect(self.refresh)
        session.staged.connect(lambda _s: self.refresh())

    def resizeEvent(self, event: object) -> None:
        self._soon.start()

    def _changed(self, old: object, new: object) -> None:
        """The scene follows at once; a level that is being painted, after each stroke."""
        if self.session.stage != "paint":
            self.refresh()
        elif not self.session.gesturing:
            self._soon.start()

    def refresh(self) -> None:
        """Draw again if anything that shows has changed."""
        ratio = self.devicePixelRatioF()
        size = (round(self.picture.width() * ratio), round(self.picture.height() * ratio))
        if not self.isVisible() or min(size) < 8:
            return
        self.session.picture_size = size
        paints = self.session.stage == "paint" and self.session.level is not None
        self.mode.setVisible(not paints)
        if paints:
            self._show_level(size)
        else:
            self._show_scene(size, ratio)

    def _show_scene(self, size: tuple[int, int], ratio: float) -> None:
        sheet = self.session.sheet
        cell = self.session.cell or (sheet.cells[0] if sheet and sheet.cells else None)
        if self.session.stage == "animate" and self.session.played_cell:
            found = self.session.cells_by_id.get(self.session.played_cell)
            if found is not None:
                sheet, cell = found
        if cell is not None and cell.shift != (0, 0):
            dx, dy = cell.shift
            cell = msgspec.structs.replace(cell, pivot=(cell.pivot[0] - dx, cell.pivot[1] - dy))
        tune = sheet.tune if sheet else None
        normals = self.session.stock.normals(sheet) if sheet and cell else None
        lamp = self._lamp if normals is not None else None
        key = (tune, cell, sheet.source if sheet else None, size, self.mode.value, lamp)
        if key == self._key:
            return
        self._key = key
        if self._props is None:
            self._props = scene_props()
        rgba = self.session.stock.pixels_or_blank(sheet) if sheet else None
        mode = self.mode.value
        scene = compose(self._props, sheet, cell, rgba, size, mode, ratio)  # type: ignore[arg-type]
        self.picture.lamp = None
        if normals is not None and cell is not None and rgba is not None:
            scene = self._lit(scene, sheet, rgba, normals, cell, size, ratio)
        self.picture.scene, self.picture.words = scene, ""
        self._put(scene.picture)
        words = ["", "", "", ""]
        if sheet:
            words[0] = sheet.tune.filter
            words[2] = f"{plain(sheet.tune.ppu, 3)} PPU"
            words[3] = f"×{plain(scene.enlarged / ratio, 2)}"
            if cell:
                words[1] = f"{cell.rect[2] / sheet.tune.ppu:.2f} × {cell.rect[3] / sheet.tune.ppu:.2f} u"
        self._tell(words)

    def _lit(
        self, scene: Scene, sheet: Sheet | None, rgba: np.ndarray, normals: np.ndarray, cell: Cell,
        size: tuple[int, int], ratio: float,
    ) -> Scene:  # fmt: skip
        """The scene again, with the cell under the lamp of the Proof."""
        from rushweed.core.tune.light import lit

        at = (self._lamp[0] * size[0], self._lamp[1] * size[1])
        self.picture.lamp = QPointF(at[0] / ratio, at[1] / ratio)
        x, y, w, h = cell.rect
        part = (slice(y, y + h), slice(x, x + w))
        lamp = tuple(cell.pivot[i] + (at[i] - scene.pivot[i]) / scene.enlarged for i in (0, 1))
        shown = lit(rgba[part], normals[part], (lamp[0], lamp[1]))
        alone = msgspec.structs.replace(cell, rect=(0, 0, w, h))
        assert self._props is not None
        mode = self.mode.value
        return compose(self._props, sheet, alone, shown, size, mode, ratio)  # type: ignore[arg-type]

    def _move_lamp(self, at: QPointF) -> None:
        box = self.picture.rect()
        across, down = at.x() / max(box.width(), 1), at.y() / max(box.height(), 1)
        self._lamp = (min(max(across, 0.0), 1.0), min(max(down, 0.0), 1.0))
        self.refresh()

    def _show_level(self, size: tuple[int, int]) -> None:
        project, level = self.session.project, self.session.level
        assert level is not None
        key = (project.sheets, level, size)
        if self._key is not None and isinstance(self._key, tuple) and len(self._key) == 3:
            if all(a is b or a == b for a, b in zip(self._key, key, strict=True)):
                return
        self._key = key
        from rushweed.core.level.render import level_picture

        left, top, width, height = area = picture_area(level.start, size)
        picture = level_picture(
            project, level, self.session.stock.pixels_or_blank, area, self.session.tiles(level)
        )
        if self._props is None:
            self._props = scene_props()
        _stand(picture, self._props.figure, level.start[0] - left, level.start[1] - top)
        self.picture.scene, self.picture.words, self.picture.lamp = None, "at the start", None
        self._put(picture)
        ppu = next((s.tune.ppu for s in project.sheets if any(c.id in level.table for c in s.cells)), 16)
        self._tell(["nearest", f"{width} × {height} px", f"{width / ppu:g} × {height / ppu:g} u", "×1"])

    def _put(self, rgba: np.ndarray) -> None:
        self.picture.image = image_of(rgba)
        self.picture.update()

    def _tell(self, words: list[str]) -> None:
        for made, text in zip(self._foot, words, strict=True):
            made.setText(text)


def picture_area(start: tuple[float, float], size: tuple[int, int]) -> tuple[int, int, int, int]:
    """The part of a level that the game's picture shows at the start: the feet a little below the middle."""
    width, height = size
    return round(start[0] - width * 0.4), round(start[1] - height * 0.66), width, height


def _stand(picture: np.ndarray, figure: np.ndarray, x: float, y: float) -> None:
    """Put the figure's feet at (x, y)."""
    high, wide = figure.shape[:2]
    left, top = max(round(x) - wide, 0), max(round(y) - high, 0)
    part = picture[top : round(y) + 1, left : round(x) + wide]
    if part.size:
        canvas = premultiply(part)
        at = (round(x) - left, round(y) - top)
        draw(canvas, Placed(figure, (0, 0, wide, high), (wide / 2, high), at, 1, "nearest"))
        part[:] = straighten(canvas)
