"""The Card of Tune for the texture: what each codec costs and spoils, gutter, edges, padding, pages."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from rushweed.core.document.model.sheet import Codec, Sheet
from rushweed.core.tune.codec.compress import (
    ABOUT,
    CODECS,
    EXACT,
    WORDS,
    Costs,
    error_map,
    pad_needed,
    recommended,
    size_rules,
)
from rushweed.core.tune.texture import bleeds, gutter_needed, texture_size
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.images import image_of
from rushweed.ui.desk.view import View
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Rule, button, label
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.text import many, shared
from rushweed.ui.kit.theme import Look
from rushweed.ui.stages.tune.tuning import Tuning

LINE, HEAD = 24, 18
NAMES = 60  # px that the names of the codecs take
COLUMNS = (("GPU", 114), ("file", 162), ("dB", 206), ("worst", 250))  # right edges


def size_text(count: int) -> str:
    """Bytes as a person reads them."""
    if count < 1024:
        return f"{count} B"
    return f"{count / 1024:.1f} K" if count < 1024 * 1024 else f"{count / 1048576:.2f} M"


class CodecTable(QWidget):
    """One line a codec: bytes in the GPU and in a file, PSNR of all and of the worst block. A press chooses
    it, the pointer over it shows what it spoils."""

    edited = pyqtSignal(str)
    hovered = pyqtSignal(object)  # codec or None

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self.costs: dict[Codec, Costs | None] = {}
        self.chosen: Codec | None = None
        self.advised: Codec | None = None
        self.over: Codec | None = None
        self.setFixedHeight(HEAD + LINE * len(CODECS))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(254, HEAD + LINE * len(CODECS))

    def show_value(
        self, costs: dict[Codec, Costs | None], chosen: Codec | None, advised: Codec | None
    ) -> None:
        self.costs = costs
        self.chosen, self.advised = chosen, advised
        self.update()

    def _at(self, y: float) -> Codec | None:
        line = int((y - HEAD) // LINE)
        return CODECS[line] if 0 <= line < len(CODECS) and y >= HEAD else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        codec = self._at(event.position().y())
        if codec is not None:
            self.edited.emit(codec)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        over = self._at(event.position().y())
        if over != self.over:
            self.over = over
            self.setToolTip(ABOUT[over] if over else "")
            self.hovered.emit(over)
            self.update()

    def leaveEvent(self, event: object) -> None:
        self.over = None
        self.hovered.emit(None)
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        now = CODECS.index(self.chosen) if self.chosen else 0
        self.edited.emit(CODECS[min(max(now + step, 0), len(CODECS) - 1)])

    def _columns(self) -> list[tuple[str, float]]:
        """The columns and their right edges, closer together where the card is narrow."""
        share = min((self.width() - NAMES - 4) / (COLUMNS[-1][1] - NAMES), 1.0)
        return [(words, NAMES + (edge - NAMES) * share) for words, edge in COLUMNS]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.setFont(look.font(11))
        painter.setPen(look.colour("quiet"))
        columns = self._columns()
        for words, edge in columns:
            painter.drawText(QRectF(edge - 90, 0, 90, HEAD), right, words)
        for n, codec in enumerate(CODECS):
            box = QRectF(0, HEAD + n * LINE, self.width(), LINE)
            if codec == self.chosen or codec == self.over:
                painter.fillRect(box, look.colour("raised"))
            if codec == self.advised:
                painter.fillRect(QRectF(0, box.top() + 3, 3, LINE - 6), look.colour("straw"))
            painter.setFont(look.font(12, codec == self.chosen))
            painter.setPen(look.colour("reed" if codec == self.chosen else "ink"))
            painter.drawText(box.adjusted(8, 0, 0, 0), left, WORDS[codec])
            cost = self.costs.get(codec)
            painter.setFont(look.mono(11))
            painter.setPen(look.colour("ink" if cost else "quiet"))
            texts = ("…", "…", "…", "…")
            if cost is not None:
                lost, worst = cost.spoiled.psnr, cost.spoiled.worst_psnr
                quality = ("exact", "") if lost >= EXACT else (f"{lost:.1f}", f"{worst:.1f}")
                texts = (size_text(cost.memory), size_text(cost.file), *quality)
            for text, (_words, edge) in zip(texts, columns, strict=True):
                painter.drawText(QRectF(edge - 70, box.top(), 70, LINE), right, text)
        if self.hasFocus():
            painter.setPen(look.colour("reed"))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))


class TextureCard(Card):
    """Worked out in the background while the tool is in use."""

    def __init__(self, context: Context, tuning: Tuning) -> None:
        super().__init__(context.look, "Texture")
        self.session, self.tuning = context.session, tuning
        self.table = CodecTable(self.look)
        self.table.edited.connect(lambda codec: tuning.tune(f"Compression {WORDS[codec]}:", codec=codec))
        self.table.hovered.connect(lambda _c: context.desk.update())
        self.add(self.table)
        self.reason = label("", "quiet")
        self.worst = label("", "quiet")
        for words in (self.reason, self.worst):
            words.setWordWrap(True)
            self.add(words)
        self.add(Rule(self.look))
        self.gutter = NumbersField(1, "px", Numbers(0, 32), self.look)
        self.gutter.setToolTip("Px of its own edge repeated around each cell")
        self.cure = button("", fix=True)
        self.cure.clicked.connect(self._cure)
        self.field("Gutter", self.gutter, self.cure)
        self.pad = ChoiceRow(self.look, [("none", "None"), ("four", "4 px"), ("power", "2ⁿ")])
        self.pad.setToolTip("Bring the size to a multiple of 4, or to a power of two")
        self._size = label("", "mono")
        self.field("Padding", self.pad, self._size)
        self.rule = label("", "quiet")
        self.rule.setWordWrap(True)
        self.add(self.rule)
        self.wrap = ChoiceRow(self.look, [("clamp", "Clamp"), ("repeat", "Repeat")])
        self.wrap.setToolTip("What is read beyond the texture's edge: its last px, or its other side")
        self.field("At its edge", self.wrap)
        self.alpha = ChoiceRow(self.look, [("straight", "Straight"), ("premultiplied", "Premultiplied")])
        self.alpha.setToolTip("How colours stand beside alpha; straight ones may fringe")
        self.field("Alpha", self.alpha)
        self.transfer = ChoiceRow(self.look, [("srgb", "sRGB"), ("linear", "Linear")])
        self.transfer.setToolTip(
            "How a game should read the values: as sRGB colours, or as plain numbers, such as those of masks"
        )
        self.field("Values", self.transfer)
        self.group = TextField("with the others")
        self.group.setToolTip("Sheets of one group share atlas pages")
        self.field("Atlas", self.group)
        self.limit = NumbersField(1, "px", Numbers(0, 16384, step=256), self.look)
        self.limit.setToolTip("Largest side of its atlas pages; 0 leaves it to shipping")
        self.field("Page up to", self.limit)
        self.end()
        for field, name in ((self.gutter, "gutter"), (self.limit, "limit")):
            field.edited.connect(lambda v, name=name: tuning.tune(f"Set {name}", **{name: int(v[0])}))
            self.session.document.follow(field)
        for choice, name in self._choices():
            choice.edited.connect(lambda v, name=name: tuning.tune(f"Set {name}", **{name: v}))
        self.group.edited.connect(lambda text: tuning.tune("Set atlas group", group=text.strip()))
        self._map: tuple[object, QImage] | None = None

    def _choices(self) -> tuple[tuple[ChoiceRow, str], ...]:
        """The choices, each with the field of Tune it sets."""
        return ((self.pad, "pad"), (self.wrap, "wrap"), (self.alpha, "alpha"), (self.transfer, "transfer"))

    def refresh(self) -> None:
        sheet, sheets = self.session.selection.sheet, self.session.selection.sheets
        self.setEnabled(sheet is not None)
        if sheet is None:
            return
        self.what.setText(sheet.name if len(sheets) == 1 else many(len(sheets), "sheet"))
        tunes = [s.tune for s in sheets]

        def one(name: str) -> Any:
            values = {getattr(t, name) for t in tunes}
            return values.pop() if len(values) == 1 else None

        self.gutter.show_value(shared([t.gutter for t in tunes]))
        self.limit.show_value(shared([t.limit for t in tunes]))
        for choice, name in self._choices():
            choice.show_value(one(name))
        group = one("group")
        self.group.show_value(group or "")
        self.group.setPlaceholderText("mixed" if group is None else "with the others")
        self._show_costs(sheet, one("codec"))
        size = texture_size(sheet)
        self._size.setText(f"{size[0]} × {size[1]}")
        broken = size_rules(size, sheet.tune.codec, sheet.tune.mipmaps)
        self.rule.setText(broken[0] if broken else "")
        self.rule.setVisible(bool(broken))
        self.cure.setVisible(bleeds(sheet))
        self.cure.setText(f"{gutter_needed(sheet)} px stops bleeding")

    def _show_costs(self, sheet: Sheet, chosen: Codec | None) -> None:
        textures = self.session.textures
        if not self.isVisible():
            return
        textures.forget_others(sheet)
        costs = {codec: textures.cost(sheet, codec) for codec in CODECS}
        self.advised, reason = None, "working it out …"
        done = [cost for cost in costs.values() if cost is not None]
        if len(done) == len(CODECS):
            self.advised, why = recommended(textures.laid(sheet).rgba, done)
            reason = f"{WORDS[self.advised]} fits: {why}."
        self.reason.setText(reason)
        self.table.show_value(costs, chosen, self.advised)
        now = costs.get(self.shown())
        lost = now.spoiled if now else None
        words = ""
        if lost is not None and lost.psnr < EXACT:
            where = f"{lost.worst[0]}, {lost.worst[1]}"
            words = (
                f"Worst block at {where} px: {lost.worst_psnr:.1f} dB; {lost.changed:.0%} of the px differ."
            )
        self.worst.setText(words)
        self.worst.setVisible(bool(words))

    advised: Codec | None = None

    def shown(self) -> Codec:
        """The codec whose faults the Desk shows: the one pointed at, else the one in use."""
        sheet = self.session.selection.sheet
        return self.table.over or (sheet.tune.codec if sheet else "none")

    def _cure(self) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None:
            self.tuning.tune("Gutter", gutter=gutter_needed(sheet))
            self.session.document.seal()

    def pad_to_fit(self) -> None:
        """Pad so that no rule of the codec or of mipmaps is broken."""
        sheet = self.session.selection.sheet
        if sheet is not None:
            self.tuning.tune(
                "Padding", pad=pad_needed(texture_size(sheet), sheet.tune.codec, sheet.tune.mipmaps)
            )

    # -- the error map on the Desk ---------------------------------------------------------------------

    def paint_errors(self, painter: QPainter, view: View, sheet: Sheet) -> str:
        """Draw how far each px is off over the art; returns what a tag should say."""
        codec = self.shown()
        cost = self.session.textures.cost(sheet, codec)
        width, height = sheet.source.size
        painter.fillRect(view.rect(0, 0, width, height), self.look.colour("desk", 0.72))
        if cost is None:
            return f"{WORDS[codec]}: working it out"
        if self._map is None or self._map[0] is not cost:
            self._map = cost, image_of(self._heat(sheet, cost))
        painter.drawImage(view.rect(0, 0, width, height), self._map[1])
        if cost.spoiled.psnr >= EXACT:
            return f"{WORDS[codec]}: every px as drawn"
        return f"{WORDS[codec]}: {cost.spoiled.psnr:.1f} dB, bright where px are off"

    def _heat(self, sheet: Sheet, cost: Costs) -> np.ndarray:
        """Errors as colours, where the px stand in the sheet: dark straw for a trace, white for 32 levels."""
        laid = self.session.textures.laid(sheet)
        off = np.zeros((sheet.source.size[1], sheet.source.size[0]), np.float32)
        errors = error_map(laid.rgba, cost.rgba)
        if sheet.tune.gutter and sheet.cells:
            for cell in sheet.cells:
                x, y, w, h = cell.rect
                lx, ly, _w, _h = laid.rects[cell.id]
                off[y : y + h, x : x + w] = errors[ly : ly + h, lx : lx + w]
        else:
            off[:] = errors[: off.shape[0], : off.shape[1]]
        share = np.clip(off / 32, 0, 1)[..., None]
        straw = self.look.colour("art_straw")
        low = np.array([straw.red(), straw.green(), straw.blue()], np.float32)
        colour = low + (255 - low) * share
        alpha = np.where(off > 0, 90 + 165 * share[..., 0], 0)
        return np.concatenate((colour, alpha[..., None]), axis=-1).astype(np.uint8)
