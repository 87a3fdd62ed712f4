"""Under the Desk in Animate: the frames of the animation in order, and the cells to take more from."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QStackedWidget, QVBoxLayout, QWidget

from rushweed.core.animate import timeline
from rushweed.core.animate.play import round_ms
from rushweed.core.document.model.animation import Animation
from rushweed.ui.desk.images import SheetImages, checker
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import button, elided, label, row
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.panel import Panel
from rushweed.ui.panels.strip import FRAME, PITCH, TOP, Film
from rushweed.ui.session import Session


class Frames(Keyed):
    """The frames themselves: press to select, drag to another place."""

    def __init__(self, look: Look, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.look, self.session, self.images = look, session, images
        self.playing = -1  # place of the frame shown
        self._scroll = 0.0
        self._pressed: tuple[int, QPointF] | None = None
        self._to: int | None = None  # before which frame the dragged ones would stand
        self.setMinimumHeight(FRAME + TOP + 28)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self._checker = checker(look)
        look.changed.connect(self._renew)
        session.played.connect(self._show_played)
        self.set_keyed("Frames")

    def spots(self) -> list[Spot]:
        animation = self.session.selection.animation
        count = len(animation.frames) if animation else 0
        left = 8 - self._scroll
        return [
            Spot(QRectF(left + n * PITCH, TOP, FRAME, FRAME), f"frame {n} of {count}") for n in range(count)
        ]

    def first_spot(self) -> int:
        return self.session.selection.frames[-1] if self.session.selection.frames else 0

    def bring_spot(self, box: QRectF) -> None:
        self._scroll += min(box.left() - 8, 0) + max(box.right() + 8 - self.width(), 0)
        self._clamp()
        self.update()

    def _renew(self) -> None:
        self._checker = checker(self.look)
        self.update()

    def _show_played(self) -> None:
        if self.session.played_place != self.playing:
            self.playing = self.session.played_place
            self.update()

    def _clamp(self) -> None:
        animation = self.session.selection.animation
        count = len(animation.frames) if animation else 0
        self._scroll = min(max(self._scroll, 0), max(count * PITCH - self.width() + 8, 0))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self._scroll -= event.angleDelta().y() or event.angleDelta().x()
        self._clamp()
        self.update()

    def _index(self, x: float) -> int:
        return int((x - 8 + self._scroll) // PITCH)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        animation, session = self.session.selection.animation, self.session
        index = self._index(event.position().x())
        if animation is None or not 0 <= index < len(animation.frames):
            return
        keys, frames = event.modifiers(), session.selection.frames
        if keys & Qt.KeyboardModifier.ShiftModifier and frames:
            low, high = sorted((frames[-1], index))
            frames = tuple(range(low, high + 1))
        elif keys & Qt.KeyboardModifier.ControlModifier:
            rest = tuple(n for n in frames if n != index)
            frames = rest if index in frames else (*rest, index)
        elif index not in frames:
            frames = (index,)
        self._pressed = (index, event.position())
        session.selection.choose_animation(animation.id, frames)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        animation = self.session.selection.animation
        if self._pressed is None or animation is None:
            return
        if abs(event.position().x() - self._pressed[1].x()) > 6 or self._to is not None:
            place = (event.position().x() - 8 + self._scroll) / PITCH + 0.4
            self._to = min(max(int(place), 0), len(animation.frames))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        animation, frames, to = self.session.selection.animation, self.session.selection.frames, self._to
        pressed, self._pressed, self._to = self._pressed, None, None
        if animation is None or pressed is None:
            return
        if to is not None and frames:
            words = f"Move {many(len(frames), 'frame')}"
            self.session.document.edit(words, lambda p: timeline.move_frames(p, animation.id, frames, to))
            start = to - sum(1 for n in frames if n < to)
            self.session.selection.choose_animation(animation.id, tuple(range(start, start + len(frames))))
        elif len(frames) > 1 and event is not None and not event.modifiers():
            self.session.selection.choose_animation(animation.id, (pressed[0],))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        animation = self.session.selection.animation
        if animation is None or not animation.frames:
            painter.setFont(look.font(12))
            painter.setPen(look.colour("quiet"))
            words = "No animation yet: make one of cells, rows or names on the card."
            if animation is not None:
                words = "No frames yet: choose Cells, select some and press Add."
            box = QRectF(8, 0, self.width(), self.height() - 16)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)
            return
        first = max(int(self._scroll // PITCH), 0)
        last = min(int((self._scroll + self.width()) // PITCH) + 1, len(animation.frames))
        for n in range(first, last):
            self._frame(painter, animation, n)
        if self._to is not None:
            x = 4 + self._to * PITCH - self._scroll
            painter.fillRect(QRectF(x - 1, 2, 3, self.height() - 10), look.colour("rust"))

    def _frame(self, painter: QPainter, animation: Animation, n: int) -> None:
        look, frame = self.look, animation.frames[n]
        x = round(8 + n * PITCH - self._scroll)
        box = QRectF(x, TOP, FRAME, FRAME)
        painter.setBrushOrigin(box.topLeft())
        painter.fillRect(box, self._checker)
        found = self.session.cells_by_id.get(frame.cell)
        mine = n in self.session.selection.frames
        if found is not None:
            sheet, cell = found
            w, h = cell.rect[2:]
            scale = min(FRAME / w, FRAME / h)
            scale = int(scale) if scale >= 1 else scale
            left = x + (FRAME - w * scale) // 2 + cell.shift[0] * scale
            top = TOP + (FRAME - h * scale) // 2 + cell.shift[1] * scale
            painter.save()
            painter.setClipRect(box)
            painter.drawImage(
                QRectF(left, top, w * scale, h * scale), self.images.image(sheet), QRectF(*cell.rect)
            )
            painter.restore()
        painter.setFont(look.mono(10))
        painter.setPen(look.colour("rust" if mine else "quiet"))
        painter.drawText(QRectF(x, 0, 30, TOP), Qt.AlignmentFlag.AlignVCenter, f"{n:02d}")
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(x, 0, PITCH - 14, TOP), right, f"{frame.ms} ms")
        name = found[1].name if found else "gone"
        painter.setFont(look.font(11, mine))
        painter.setPen(look.colour("ink" if found else "fault"))
        text = QRectF(x, TOP + FRAME + 2, PITCH - 4, 18)
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, elided(painter, name, PITCH - 6, True))
        if n == self.playing:
            painter.fillRect(QRectF(x, TOP + FRAME + 1, FRAME, 2), look.colour("reed"))
        if mine:
            paint_corners(painter, box.adjusted(-2, -2, 2, 2), 12, look.colour("rust"), look.colour("paper"))
        elif found is None:
            painter.setPen(QPen(look.colour("fault"), 1))
            painter.drawRect(box)


class Timeline(Panel):
    """A head with what is shown, then the frames or the cells of the sheet."""

    topics = frozenset({"animations", "sheets", "selection", "stage"})

    def __init__(self, look: Look, session: Session, images: SheetImages) -> None:
        super().__init__(session)
        self.look = look
        self.which = ChoiceRow(look, [("frames", "Frames"), ("cells", "Cells")])
        self.which.edited.connect(self._turn)
        self.words = label("", "quiet")
        self.add = button("Add to the animation")
        self.add.clicked.connect(self.add_selected)
        head = QWidget()
        head.setFixedHeight(28)
        head.setLayout(row(label("Strip", "head"), self.which, 8, self.words, None, self.add))
        layout = head.layout()
        assert layout is not None
        layout.setContentsMargins(8, 2, 8, 2)
        self.frames = Frames(look, session, images)
        self.film = Film(look, session, images)
        self._pages = QStackedWidget()
        self._pages.addWidget(self.frames)
        self._pages.addWidget(self.film)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(head)
        box.addWidget(self._pages, 1)

    def _turn(self, key: str) -> None:
        self._pages.setCurrentIndex(0 if key == "frames" else 1)
        self.refresh()

    def show_page(self, key: str) -> None:
        self.which.show_value(key)
        self._turn(key)

    def refresh(self) -> None:
        animation, sheet = self.session.selection.animation, self.session.selection.sheet
        cells = list(sheet.cells) if sheet else []
        self.film.show_cells(cells, {c.id: i for i, c in enumerate(cells)})
        chosen = len(self.session.selection.cells)
        self.add.setVisible(self.which.value == "cells")
        self.add.setEnabled(chosen > 0 and animation is not None)
        if self.which.value == "cells":
            text = f"{sheet.name}, {many(chosen, 'cell')} selected" if sheet else ""
        elif animation is not None:
            text = f"{animation.name}: {many(len(animation.frames), 'frame')}"
            text += f", {round_ms(animation)} ms a round" if animation.frames else ""
        else:
            text = ""
        self.words.setText(text)
        self.frames.update()

    def add_selected(self) -> None:
        """Put the selected cells after the selected frame, or at the end."""
        animation, session = self.session.selection.animation, self.session
        if animation is None or not session.selection.cells:
            return
        at = max(session.selection.frames) + 1 if session.selection.frames else len(animation.frames)
        ids = [c.id for c in session.selection.cells]
        words = f"Add {many(len(ids), 'frame')} to {animation.name}"
        session.document.edit(
            words, partial(timeline.insert_frames, animation_id=animation.id, at=at, cell_ids=ids)
        )
        self.show_page("frames")
        session.selection.choose_animation(animation.id, tuple(range(at, at + len(ids))))
