"""The layers of a level, from near to far, with a line where the walker is."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from rushweed.core.document.model import BackdropLayer, Layer, ThingLayer, TileLayer
from rushweed.core.level.layers import add_layer, change_layer, move_layer
from rushweed.core.level.render import layer_picture
from rushweed.ui.desk.images import SheetImages, checker, image_of
from rushweed.ui.kit.controls import IconButton, elided, label, row
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session, later

ROW = 32
THUMB = (64, 24)


class _Rows(QWidget):
    def __init__(self, look: Look, icons: Icons, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.look, self.icons, self.session, self.images = look, icons, session, images
        self._thumbs: dict[str, tuple[object, QImage]] = {}

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
        if x > wide - 26:
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
            self.session.selection.choose_layer(layer.id)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(look.font(11))
        painter.setPen(look.colour("quiet"))
        painter.drawText(QRectF(8, 0, 80, 14), middle, "near")
        right = middle | Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(0, 0, self.width() - 8, 14), right, "lock   on")
        for i, layer in enumerate(self.layers()):
            self._row(painter, layer, 14 + i * ROW)
        painter.setFont(look.font(11))
        painter.setPen(look.colour("quiet"))
        painter.drawText(QRectF(8, 14 + len(self.layers()) * ROW, 80, 14), middle, "far")

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
            words = "locked" if layer.locked else "painting here" if now else "tiles"
        else:
            words = _kind_words(layer)
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

    def _thumb(self, layer: Layer) -> QImage:
        level = self.session.selection.level
        assert level is not None
        key: object = layer.tiles if isinstance(layer, TileLayer) else layer
        known = self._thumbs.get(layer.id)
        if known is not None and known[0] is key:
            return known[1]
        thumb = QImage(*THUMB, QImage.Format.Format_ARGB32_Premultiplied)
        painter = QPainter(thumb)
        painter.fillRect(0, 0, *THUMB, checker(self.look, 6))
        if isinstance(layer, TileLayer):
            cw, ch = level.cell
            columns, rows = max(THUMB[0] * 4 // cw, 1), max(THUMB[1] * 4 // ch, 1)
            x, y = int(level.start[0] // cw) - columns // 3, int(level.start[1] // ch) - rows // 2 - 1
            image = image_of(layer_picture(layer.tiles, self.session.tiles(level), (x, y, columns, rows)))
        else:
            wanted = "" if isinstance(layer, ThingLayer) else layer.sheet
            sheet = next((s for s in self.session.project.sheets if s.id == wanted), None)
            image = self.images.image(sheet) if sheet else QImage()
        if not image.isNull():
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(QRectF(0, 0, *THUMB), image)
        painter.end()
        self._thumbs[layer.id] = (key, thumb)
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
        add = IconButton(look, icons, "plus", "Add a layer of tiles", px=15)
        nearer.pressed.connect(lambda: self.move_layer(1))
        farther.pressed.connect(lambda: self.move_layer(-1))
        add.pressed.connect(self.add)
        head = QWidget()
        head.setFixedHeight(32)
        head.setLayout(row(label("Layers", "head"), self._what, None, nearer, farther, add, spacing=4))
        layout = head.layout()
        assert layout is not None
        layout.setContentsMargins(8, 0, 8, 0)
        self.rows = _Rows(look, icons, session, images)
        scroll = QScrollArea()
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

    def show_layer(self, layer_id: str) -> None:
        level = self.session.selection.level
        if level is not None:
            self.session.document.edit(
                "Show a layer", lambda p: change_layer(p, level.id, layer_id, shown=True)
            )

    def add(self) -> None:
        level = self.session.selection.level
        if level is None:
            return
        made = ""

        def change(project):  # type: ignore[no-untyped-def]
            nonlocal made
            project, made = add_layer(project, level.id, "Layer")
            return project

        if self.session.document.edit("Add a layer", change):
            self.session.selection.choose_layer(made)

    def move_layer(self, nearer: int) -> None:
        level, layer_id = self.session.selection.level, self.session.selection.layer_id
        if level is not None and layer_id:
            self.session.document.edit("Move a layer", lambda p: move_layer(p, level.id, layer_id, nearer))
