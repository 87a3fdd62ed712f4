"""How a sheet could be cut: drawn on it before it is taken, as chips, and as small pictures where unsure."""

from __future__ import annotations

from collections import Counter
from functools import partial
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLayout, QWidget

from rushweed.core.cut.edit import cut_as, rects_of
from rushweed.core.cut.grid import grid_of, ink, ink_sums
from rushweed.core.cut.match_cells import Rect
from rushweed.core.cut.take import Choices, Ranked, choices
from rushweed.core.document.errors import CutError
from rushweed.core.document.model.cut import CountCut, Cut, GridCut, HandCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.marks import crossings, paint_corners, paint_crosses
from rushweed.ui.kit.controls import Chip, IconButton, elided, emptied, label
from rushweed.ui.kit.text import many
from rushweed.ui.session.jobs import Job
from rushweed.ui.session.patience import Patience
from rushweed.ui.session.shown_work import SOON_MS, ShownWork
from rushweed.ui.stages.cut.making import CutMaking

CHIPS = 3
PASSED_MS = 300  # that a sheet has to be shown which is cut already: most are only passed by
THUMB = (168, 112)
REGION = 320  # sheet px that a small picture shows at the most, so that single px can be told


class Found(NamedTuple):
    """What was worked out for one sheet: the ways to cut it, best first, with the cells of each."""

    choices: Choices
    ways: list[Ranked]
    rects: list[list[Rect]]


class CutProposals:
    """Works them out once a sheet, shows them, and takes the one that is shown."""

    def __init__(self, context: Context, making: CutMaking) -> None:
        self.context, self.session, self.look = context, context.session, context.look
        self.desk, self.making = context.desk, making
        self.looked_at = False
        self._found: dict[str, Found] = {}
        self._work = ShownWork(self.session.jobs, "Proposing a cut")
        self._at: dict[str, int] = {}  # which way is shown on a sheet, once a person has stepped
        self.hovered: int | None = None
        self._closed: set[str] = set()
        self.line = QWidget()
        self.chips = QHBoxLayout(self.line)
        self.chips.setContentsMargins(8, 0, 8, 8)
        self.chips.setSpacing(8)
        self.chips.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        self._chip_key: object = None
        self.which = WhichCut(self)

    # -- finding -----------------------------------------------------------------------------------

    def ask(self) -> None:
        """Work out proposals for the sheet shown, once."""
        sheet, project = self.session.selection.sheet, self.session.project
        if sheet is None:
            return

        def work(job: Job) -> tuple[Found, np.ndarray]:
            pixels, patience = self.session.stock.pixels(sheet), Patience(self.session.document, job)

            def told(share: float) -> None:
                patience()
                job.tell(share, "Proposing a cut")

            found = choices(pixels, told)
            ways = _with_alike(found.ranked(), _cuts_of_alike(project, sheet))
            return Found(found, ways, [_rects(sheet, way, pixels) for way in ways]), ink_sums(ink(pixels))

        soon_ms = SOON_MS if sheet.cut is None else PASSED_MS
        self._work.want(sheet.source.key, work, lambda made: self._take_in(sheet, *made), soon_ms)

    def leave(self) -> None:
        """Another stage is shown."""
        self._work.leave()

    def _take_in(self, sheet: Sheet, found: Found, sums: np.ndarray) -> None:
        self._found[sheet.source.key] = found
        self.desk.sheet_painter.take_sums(sheet, sums)
        self.refresh()
        self.desk.update()

    def of(self, sheet: Sheet | None) -> Found | None:
        return self._found.get(sheet.source.key) if sheet else None

    # -- the one shown -----------------------------------------------------------------------------

    def shown(self) -> tuple[Ranked, list[Rect]] | None:
        """The way that is drawn on the sheet: under the pointer, stepped to, or the best of a sheet that is
        not cut yet."""
        sheet = self.session.selection.sheet
        found = self.of(sheet)
        if sheet is None or found is None:
            return None
        at = self.hovered
        if at is None:
            at = self._at.get(sheet.source.key, 0 if sheet.cut is None else -1)
        return (found.ways[at], found.rects[at]) if 0 <= at < len(found.ways) else None

    def step(self, by: int = 1) -> None:
        """Show the next way to cut the sheet, or the one before."""
        sheet = self.session.selection.sheet
        found = self.of(sheet)
        if sheet is None or found is None:
            return
        now = self._at.get(sheet.source.key, 0 if sheet.cut is None else -1)
        self._at[sheet.source.key] = (now + by) % len(found.ways)
        self.refresh()
        self.desk.update()

    def take_shown(self) -> bool:
        """Cut the sheet as shown; returns whether anything was."""
        now = self.shown()
        if now is None:
            return False
        self.take(now[0])
        return True

    def take_or_best(self) -> None:
        """Take what is shown, or the best way for a sheet that is cut already."""
        found = self.of(self.session.selection.sheet)
        if not self.take_shown() and found is not None:
            self.take(found.ways[0])

    def take(self, way: Ranked) -> None:
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        self._at.pop(sheet.source.key, None)
        self.hovered = None
        if way.rects:
            words = f"Cut {sheet.name} into {way.words}"
            self.making.attempt(words, lambda p: cut_as(p, sheet.id, way.rects))
        else:
            self.making.take(way.cut)

    def best(self) -> Cut | None:
        found = self.of(self.session.selection.sheet)
        return found.ways[0].cut if found else None

    # -- showing -----------------------------------------------------------------------------------

    def refresh(self) -> None:
        sheet = self.session.selection.sheet
        if self.session.stage == "cut" and self.looked_at:
            self.ask()
        found = self.of(sheet)
        at = self._at.get(sheet.source.key) if sheet else None
        self.which.follow(sheet, found)
        key = (sheet.source.key if sheet else "", sheet.cut if sheet else None, found, at)
        if key == self._chip_key:
            return
        self._chip_key, self.hovered = key, None
        emptied(self.chips)
        if sheet is not None and found is None:
            self.chips.addWidget(label("Looking for a cut ...", "quiet"))
        elif sheet is not None and found is not None:
            waits = sheet.cut is None or at is not None
            self.chips.addWidget(label("Enter takes" if waits else "Proposed", "quiet"))
            for n, way in enumerate(found.ways[:CHIPS]):
                self.chips.addWidget(self._chip(sheet, n, way, waits and n == (at or 0)))
        self.chips.addStretch(1)

    def _chip(self, sheet: Sheet, n: int, way: Ranked, waits: bool) -> Chip:
        tip = f"{way.words}: {way.evidence}, {way.chance:.0%} likely. Press to take it; . shows the next."
        chip = Chip(self.look, way.words, way.evidence, _same(sheet, way.cut), tip, waits)
        chip.pressed.connect(partial(self.take, way))
        chip.hovered.connect(lambda on: self.hover(n if on else None))
        return chip

    def hover(self, n: int | None) -> None:
        """Show the marks of a way while the pointer is on its chip or picture."""
        self.hovered = n
        self.desk.update()

    def paint(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        now = self.shown()
        if now is None:
            return
        way, rects = now
        view, straw = self.desk.view, self.look.colour("art_straw")
        if isinstance(way.cut, (GridCut, CountCut)):
            grid = grid_of(way.cut, sheet.source.size)
            paint_crosses(
                painter, view, room, crossings(grid, np.ones((grid.rows, grid.columns), bool)), straw
            )
            return
        for rect in rects:
            box = view.rect(*rect)
            if box.intersects(room):
                paint_corners(painter, box, 8, straw, self.look.colour("art_casing", 0.55), (1.5, 3))

    def close_pictures(self) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None:
            self._closed.add(sheet.source.key)
        self.which.ask(False)

    def asks_which(self, sheet: Sheet | None, found: Found | None) -> bool:
        """Whether small pictures are to ask how the sheet is cut."""
        if sheet is None or found is None or sheet.cut is not None or sheet.source.key in self._closed:
            return False
        return self.session.stage == "cut" and found.choices.doubtful and len(found.ways) > 1


class WhichCut(QWidget):
    """Three small pictures of the sheet, each cut in another way, over the foot of the Desk."""

    def __init__(self, proposals: CutProposals) -> None:
        super().__init__(proposals.desk)
        self.proposals, self.look = proposals, proposals.look
        self._found: Found | None = None
        self.images: list[QImage] = []
        self._hover: int | None = None
        self.setMouseTracking(True)
        self.setFixedSize(3 * (THUMB[0] + 8) + 8, THUMB[1] + 64)
        self.close_button = IconButton(
            self.look, proposals.context.icons, "x", "Close; the chips stay", px=14
        )
        self.close_button.setParent(self)
        self.close_button.move(self.width() - 28, 3)
        self.close_button.pressed.connect(proposals.close_pictures)
        self.hide()

    def follow(self, sheet: Sheet | None, found: Found | None) -> None:
        """Show the ways of a sheet, or nothing where no one needs to choose."""
        wanted = self.proposals.asks_which(sheet, found)
        if wanted and found is not self._found and sheet is not None and found is not None:
            self._found = found
            pixels = self.proposals.session.stock.pixels_or_blank(sheet)
            self.images = [_picture(pixels, rects) for rects in found.rects[:3]]
        self.ask(wanted)

    def ask(self, on: bool) -> None:
        """Open or close it, and tell other boards over the Desk."""
        if on == self.isHidden():
            self.setVisible(on)
            self.proposals.desk.asks.emit(on)
        if on:
            self.place()

    def place(self) -> None:
        desk = self.proposals.desk
        room = desk.room
        self.move(int(room.center().x() - self.width() / 2), int(room.bottom()) - self.height() - 8)
        self.raise_()

    def box_of(self, n: int) -> QRectF:
        return QRectF(8 + n * (THUMB[0] + 8), 30, *THUMB)

    def _at(self, x: float, y: float) -> int | None:
        return next(
            (n for n in range(len(self.images)) if self.box_of(n).adjusted(0, 0, 0, 26).contains(x, y)), None
        )

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = self._at(event.position().x(), event.position().y())
        if at != self._hover:
            self._hover = at
            self.proposals.hover(at)
            self.update()

    def leaveEvent(self, event: object) -> None:
        self._hover = None
        self.proposals.hover(None)
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = self._at(event.position().x(), event.position().y())
        if at is not None and self._found is not None:
            self.proposals.take(self._found.ways[at])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        painter.fillRect(self.rect(), look.colour("raised"))
        painter.setPen(look.colour("rule_deep"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.setFont(look.font(12, True))
        painter.setPen(look.colour("ink"))
        middle = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        painter.drawText(QRectF(8, 0, 320, 30), middle, "Which one is cut right?")
        for n, image in enumerate(self.images):
            box = self.box_of(n)
            painter.fillRect(box, look.colour("desk"))
            painter.drawImage(QRectF(box.x(), box.y(), image.width(), image.height()), image)
            chosen = n == self._hover
            painter.setPen(QPen(look.colour("rust" if chosen else "rule"), 2 if chosen else 1))
            painter.drawRect(box.adjusted(0, 0, -1, -1))
            assert self._found is not None
            way = self._found.ways[n]
            painter.setFont(look.font(12, True))
            painter.setPen(look.colour("ink"))
            words = QRectF(box.left(), box.bottom() + 4, box.width() - 42, 22)
            painter.drawText(words, middle, elided(painter, way.words, words.width()))
            painter.setFont(look.mono(11))
            painter.setPen(look.colour("quiet"))
            right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
            painter.drawText(
                QRectF(box.left(), box.bottom() + 4, box.width(), 22), right, f"{way.chance:.0%}"
            )


def _rects(sheet: Sheet, way: Ranked, pixels: np.ndarray) -> list[Rect]:
    if way.rects:
        return list(way.rects)
    try:
        return rects_of(sheet, way.cut, pixels)
    except CutError:
        return []


def _cuts_of_alike(project: Project, sheet: Sheet) -> Counter[Cut]:
    """How other sheets of the same size are cut by a grid."""
    same = (s.cut for s in project.sheets if s.id != sheet.id and s.source.size == sheet.source.size)
    return Counter(cut for cut in same if isinstance(cut, GridCut))


def _with_alike(ways: list[Ranked], alike: Counter[Cut]) -> list[Ranked]:
    """Sheets of one size vote: the way in which most others are cut goes first if it is among these."""
    for cut, count in alike.most_common(1):
        for n, way in enumerate(ways):
            if isinstance(way.cut, GridCut) and isinstance(cut, GridCut) and _alike(way.cut, cut):
                voted = way._replace(evidence=f"as {many(count, 'other sheet')} of this size, {way.evidence}")
                return [voted, *ways[:n], *ways[n + 1 :]]
    return ways


def _alike(one: GridCut, other: GridCut) -> bool:
    return (one.cell, one.margin, one.spacing) == (other.cell, other.margin, other.spacing)


def _same(sheet: Sheet, cut: Cut) -> bool:
    if isinstance(cut, GridCut) and isinstance(sheet.cut, GridCut):
        return _alike(cut, sheet.cut)
    return cut == sheet.cut and not isinstance(cut, HandCut)


def _picture(pixels: np.ndarray, rects: list[Rect]) -> QImage:
    """A part of the sheet, where most art is, with the cells drawn as boxes, at most THUMB px."""
    height, width = pixels.shape[:2]
    w, h = min(width, REGION), min(height, REGION * THUMB[1] // THUMB[0])
    alpha = pixels[..., 3] > 0
    x = _fullest(alpha.sum(axis=0), w)
    y = _fullest(alpha.sum(axis=1), h)
    scale = min(THUMB[0] / w, THUMB[1] / h)
    part = np.ascontiguousarray(pixels[y : y + h, x : x + w])
    image = QImage(part.tobytes(), w, h, 4 * w, QImage.Format.Format_RGBA8888)
    out = QImage(int(w * scale), int(h * scale), QImage.Format.Format_ARGB32_Premultiplied)
    out.fill(Qt.GlobalColor.transparent)
    painter = QPainter(out)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, scale < 1)
    painter.drawImage(QRectF(0, 0, out.width(), out.height()), image)
    for pen in (QPen(Qt.GlobalColor.black, 2), QPen(Qt.GlobalColor.yellow, 1)):
        painter.setPen(pen)
        for a, b, c, d in rects:
            if a < x + w and b < y + h and a + c > x and b + d > y:
                painter.drawRect(QRectF((a - x) * scale, (b - y) * scale, c * scale, d * scale))
    painter.end()
    return out


def _fullest(ink: np.ndarray, span: int) -> int:
    """Where the window of `span` px with most ink begins; the start where several are as full."""
    total = np.concatenate(([0], np.cumsum(ink)))
    return int(np.argmax(total[span:] - total[:-span])) if len(ink) > span else 0
