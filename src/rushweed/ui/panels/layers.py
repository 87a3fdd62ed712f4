"""The layers of a level, from near to far, with a line where the walker is."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPoint, QRect, QRectF, Qt
from PyQt6.QtGui import QAction, QImage, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QMenu, QScrollArea, QVBoxLayout, QWidget

from rushweed.core.document.model.level import BackdropLayer, Layer, Level, ThingLayer, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.level.layers import (
    add_backdrop,
    add_layer,
    add_picture,
    add_thing_layer,
    change_layer,
    move_layer,
    place_layer,
    show_alone,
)
from rushweed.core.level.render import layer_picture, tinted
from rushweed.ui.desk.images import SheetImages, checker, image_of
from rushweed.ui.kit.controls import IconButton, elided, label, row
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session, later

HEAD, ROW = 32, 32
THUMB = (64, 24)
THUMBS_S = 0.003  # for which thumbnails are drawn in one turn, at least one


class _Rows(Keyed):
    def __init__(self, look: Look, icons: Icons, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.look, self.icons, self.session, self.images = look, icons, session, images
        self._thumbs: dict[str, tuple[tuple[object, ...], QImage]] = {}
        self._blank = QImage(*THUMB, QImage.Format.Format_ARGB32_Premultiplied)
        self._blank.fill(Qt.GlobalColor.transparent)
        self._wanted: list[Layer] = []  # whose thumbnail is missing or out of date
        self._thumbs_soon = later(self, 0, self._draw_thumbs)
        self._dragged: tuple[str, float] | None = None  # a layer that is dragged, and where it was pressed
        self._target: int | None = None  # the row before which it would be put
        self.setToolTip("Drag a layer to move it; Ctrl on an eye shows that layer alone")
        self.set_keyed("Layers")

    def spots(self) -> list[Spot]:
        made, wide = [], self.width()
        for i, layer in enumerate(self.layers()):
            y = 14 + i * ROW
            made += [
                Spot(QRectF(0, y, wide - 52, ROW), layer.name),
                Spot(QRectF(wide - 50, y, 24, ROW), f"{'unlock' if layer.locked else 'lock'} {layer.name}"),
                Spot(QRectF(wide - 26, y, 24, ROW), f"{'hide' if layer.shown else 'show'} {layer.name}"),
            ]
        return made

    def first_spot(self) -> int:
        ids = [layer.id for layer in self.layers()]
        now = self.session.selection.layer_id
        return 3 * ids.index(now) if now in ids else 0

    def layers(self) -> list[Layer]:
        level = self.session.selection.level
        return list(reversed(level.layers)) if level else []

    def relayout(self) -> None:
        self.setMinimumHeight(len(self.layers()) * ROW + 30)
        self.update()

    def _at(self, y: float) -> Layer | None:
        index = int((y - 14) // ROW)
        layers = self.layers()
        return layers[index] if 0 <= index < len(layers) else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        layer, level, x = self._at(event.position().y()), self.session.selection.level, event.position().x()
        if layer is None or level is None:
            return
        wide = self.width()
        if x > wide - 26 and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.session.document.edit("Show a layer alone", lambda p: show_alone(p, level.id, layer.id))
        elif x > wide - 26:
            words = "Hide" if layer.shown else "Show"
            self.session.document.edit(
                f"{words} layer {layer.name}",
                lambda p: change_layer(p, level.id, layer.id, shown=not layer.shown),
            )
        elif x > wide - 50:
            words = "Unlock" if layer.locked else "Lock"
            self.session.document.edit(
                f"{words} layer {layer.name}",
                lambda p: change_layer(p, level.id, layer.id, locked=not layer.locked),
            )
        else:
            self._dragged = (layer.id, event.position().y())
            self.session.selection.choose_layer(layer.id)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._dragged is not None and abs(event.position().y() - self._dragged[1]) > ROW / 3:
            gap = round((event.position().y() - 14) / ROW)
            self._target = min(max(gap, 0), len(self.layers()))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        dragged, target, level = self._dragged, self._target, self.session.selection.level
        self._dragged = self._target = None
        self.update()
        if dragged is None or target is None or level is None:
            return
        rows = [layer.id for layer in self.layers()]
        if dragged[0] not in rows:
            return
        row = rows.index(dragged[0])
        place = len(rows) - 1 - (target - 1 if target > row else target)
        self.session.document.edit("Move a layer", lambda p: place_layer(p, level.id, dragged[0], place))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(look.font(11))
        painter.setPen(look.colour("quiet"))
        painter.drawText(QRectF(8, 0, 80, 14), middle, "near")
        right = middle | Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(0, 0, self.width() - 8, 14), right, "lock   on")
        self._wanted.clear()
        seen = event.rect() if event is not None else self.rect()
        for i, layer in enumerate(self.layers()):
            if seen.intersects(QRect(0, 14 + i * ROW, self.width(), ROW)):
                self._row(painter, layer, 14 + i * ROW)
        painter.setFont(look.font(11))
        painter.setPen(look.colour("quiet"))
        painter.drawText(QRectF(8, 14 + len(self.layers()) * ROW, 80, 14), middle, "far")
        if self._target is not None:
            painter.fillRect(QRectF(4, 13 + self._target * ROW, self.width() - 8, 3), look.colour("rust"))
        if self._wanted:
            self._thumbs_soon.start()

    def _row(self, painter: QPainter, layer: Layer, y: int) -> None:
        look, now = self.look, layer.id == self.session.selection.layer_id
        box = QRectF(0, y, self.width(), ROW)
        if now:
            painter.fillRect(box, look.colour("raised"))
            painter.fillRect(QRectF(0, y, 3, ROW), look.colour("rust"))
        painter.drawImage(QRectF(8, y + 4, *THUMB), self._thumb(layer))
        painter.setFont(look.font(12, now))
        painter.setPen(look.colour("ink" if layer.shown else "quiet"))
        name = elided(painter, layer.name, self.width() - 138)
        painter.drawText(QRectF(80, y + 1, self.width() - 136, 17), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(look.font(11))
        painter.setPen(look.colour("rust" if now else "quiet"))
        if isinstance(layer, TileLayer):
            kind = "tiles" if layer.collides else "only a picture"
            words = "locked" if layer.locked else "painting here" if now else kind
        else:
            words = _kind_words(layer)
        words += ", in front" if layer.front else ""
        words = elided(painter, words, self.width() - 132)
        painter.drawText(QRectF(80, y + 15, self.width() - 132, 15), Qt.AlignmentFlag.AlignVCenter, words)
        lock = "lock-simple" if layer.locked else "lock-simple-open"
        self.icons.paint(
            painter, QRectF(self.width() - 50, y, 24, ROW), lock,
            look.colour("ink" if layer.locked else "rule_deep"), 15,
        )  # fmt: skip
        eye = "eye" if layer.shown else "eye-slash"
        self.icons.paint(
            painter,
            QRectF(self.width() - 26, y, 20, ROW),
            eye,
            look.colour("ink" if layer.shown else "quiet"),
            16,
        )
        painter.fillRect(QRectF(8, y + ROW - 1, self.width() - 16, 1), look.colour("rule"))

    def _draw_thumbs(self) -> None:
        """Some of those that are wanted; what is left is asked for by the next painting."""
        until, there = time.perf_counter() + THUMBS_S, self.layers()
        for layer in (one for one in self._wanted if one in there):
            self._thumbs[layer.id] = self._key(layer), self._draw_thumb(layer)
            if time.perf_counter() > until:
                break
        self.update()

    def _key(self, layer: Layer) -> tuple[object, ...]:
        """What a thumbnail is made of, by identity."""
        level = self.session.selection.level
        drawn = layer.tiles if isinstance(layer, TileLayer) else layer
        return drawn, self.session.project.sheets, level and level.table, layer.tint

    def _thumb(self, layer: Layer) -> QImage:
        """The thumbnail as it is known so far."""
        known = self._thumbs.get(layer.id)
        if known is None or any(a is not b for a, b in zip(known[0], self._key(layer), strict=True)):
            self._wanted.append(layer)
        return self._blank if known is None else known[1]

    def _draw_thumb(self, layer: Layer) -> QImage:
        level = self.session.selection.level
        assert level is not None
        thumb = QImage(*THUMB, QImage.Format.Format_ARGB32_Premultiplied)
        painter = QPainter(thumb)
        painter.fillRect(0, 0, *THUMB, checker(self.look, 6))
        if isinstance(layer, TileLayer):
            cw, ch = level.cell
            columns, rows = max(THUMB[0] * 4 // cw, 1), max(THUMB[1] * 4 // ch, 1)
            x, y = int(level.start[0] // cw) - columns // 3, int(level.start[1] // ch) - rows // 2 - 1
            picture = layer_picture(layer.tiles, self.session.tiles(level), (x, y, columns, rows))
            image = image_of(np.ascontiguousarray(tinted(picture, layer.tint)))
        else:
            wanted = "" if isinstance(layer, ThingLayer) else layer.sheet
            sheet = next((s for s in self.session.project.sheets if s.id == wanted), None)
            image = self.images.image(sheet) if sheet else QImage()
        if not image.isNull():
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(QRectF(0, 0, *THUMB), image)
        painter.end()
        return thumb


def _kind_words(layer: Layer) -> str:
    if isinstance(layer, BackdropLayer):
        return f"backdrop, parallax {layer.parallax:.2f}"
    return "things" if isinstance(layer, ThingLayer) else "picture"


class LayerList(QWidget):
    """Head with buttons, then the rows."""

    def __init__(self, look: Look, icons: Icons, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.session = session
        self._soon = later(self, 80, self._refresh)
        self._what = label("", "quiet")
        nearer = IconButton(look, icons, "arrow-up", "Move the layer nearer  (Page Up)", px=15)
        farther = IconButton(look, icons, "arrow-down", "Move the layer farther  (Page Down)", px=15)
        add = IconButton(look, icons, "plus", "Add a layer", px=15)
        nearer.pressed.connect(lambda: self.move_layer(1))
        farther.pressed.connect(lambda: self.move_layer(-1))
        self._add, self._look = add, look
        add.pressed.connect(self.choose_kind)
        head = QWidget()
        head.setFixedHeight(HEAD)
        head.setLayout(row(label("Layers", "head"), self._what, None, nearer, farther, add, spacing=4))
        layout = head.layout()
        assert layout is not None
        layout.setContentsMargins(8, 0, 8, 0)
        self.rows = _Rows(look, icons, session, images)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.rows)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(head)
        box.addWidget(scroll, 1)

    def refresh(self) -> None:
        """After each stroke, which is not held up by its own thumbnail."""
        if not self.session.document.gesturing:
            self._soon.start()

    def _refresh(self) -> None:
        self._what.setText(str(len(self.rows.layers())))
        self.rows.relayout()
        self.setMaximumHeight(HEAD + self.rows.minimumHeight())  # the room it does not need goes to the card

    def show_layer(self, layer_id: str) -> None:
        level = self.session.selection.level
        if level is not None:
            self.session.document.edit(
                "Show a layer", lambda p: change_layer(p, level.id, layer_id, shown=True)
            )

    def kinds(self) -> QMenu:
        """What can be added; backdrops and pictures are made of the sheet that is shown."""
        made = QMenu(self)
        made.setStyleSheet(self._look.rules())
        sheet = self.session.selection.sheet
        name = sheet.name if sheet is not None else "a sheet"
        for words, call, possible in (
            ("Tiles", self.add, True),
            ("Things", self.add_things, True),
            (f"Backdrop of {name}", self.add_backdrop, sheet is not None),
            (f"Picture of {name}", self.add_picture, sheet is not None),
        ):
            action = QAction(words, made)
            action.setEnabled(possible)
            action.triggered.connect(lambda _c=False, call=call: call())
            made.addAction(action)
        return made

    def choose_kind(self) -> None:
        self.kinds().exec(self._add.mapToGlobal(QPoint(0, self._add.height())))

    def add_things(self) -> None:
        self._add_by(lambda p, level: add_thing_layer(p, level.id, "Things"))

    def add_backdrop(self) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None:
            self._add_by(
                lambda p, v: (add_backdrop(p, v.id, sheet.id, 0.1, float(v.bounds[1] * v.cell[1])), "")
            )

    def add_picture(self) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None:
            self._add_by(lambda p, level: (add_picture(p, level.id, sheet.id, level.start), ""))

    def _add_by(self, add: Callable[[Project, Level], tuple[Project, str]]) -> None:
        """Add a layer, and choose it."""
        level = self.session.selection.level
        if level is None:
            return
        before = {layer.id for layer in level.layers}
        if self.session.document.edit("Add a layer", lambda p: add(p, level)[0]):
            now = self.session.selection.level
            new = [layer.id for layer in now.layers if layer.id not in before] if now is not None else []
            if new:
                self.session.selection.choose_layer(new[0])

    def add(self) -> None:
        self._add_by(lambda p, level: add_layer(p, level.id, "Layer"))

    def move_layer(self, nearer: int) -> None:
        level, layer_id = self.session.selection.level, self.session.selection.layer_id
        if level is not None and layer_id:
            self.session.document.edit("Move a layer", lambda p: move_layer(p, level.id, layer_id, nearer))
