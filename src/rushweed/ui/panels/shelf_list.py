"""The rows of the Shelf: sheets, animations and levels, under their heads."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from functools import partial

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.desk.images import SheetImages
from rushweed.ui.kit.controls import dots, elided, plain_tip
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.thumbs import THUMB, Part, Thumbs
from rushweed.ui.session import STAGES, Session

ROW, HEAD = 32, 24


class ShelfList(Keyed):
    """Rows of sheets and levels, drawn at once."""

    wants_level = pyqtSignal()
    folded_changed = pyqtSignal()
    wants_place = pyqtSignal(int)  # to be scrolled to

    def __init__(self, look: Look, icons: Icons, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.look, self.icons, self.session, self.images = look, icons, session, images
        self.folded: set[str] = set()  # heads whose rows are put away
        self.states: dict[str, dict[str, str]] = {}
        self.filter = ""
        self._thumbs = Thumbs(look, session, images)
        self._thumbs.drawn.connect(self._draw_row)
        self._hover = -1.0
        self._listed: tuple[object, object, list[tuple[str, str | Part, int]]] = (None, None, [])
        self.setMouseTracking(True)
        self.set_keyed("Sheets, animations and levels")

    def spots(self) -> list[Spot]:
        made = []
        for kind, part, y in self.entries():
            high = HEAD if kind == "head" else ROW
            words = part.lstrip("\x01").replace("\t", ", ") if isinstance(part, str) else part.name
            made.append(Spot(QRectF(0, y, self.width(), high), words))
            if words.startswith("Levels, "):
                made[-1].box.setRight(self.width() - 30)
                made.append(Spot(QRectF(self.width() - 28, y, 24, high), "new level"))
        return made

    def first_spot(self) -> int:
        """At what is shown, if it has a row."""
        now = self.shown_at() or 0
        return next((n for n, spot in enumerate(self.spots()) if spot.box.top() == now), 0)

    def shown_at(self) -> int | None:
        """Where the row is of what the Desk shows."""
        selection = self.session.selection
        shown = {
            "paint": selection.level_id, "walk": selection.level_id, "animate": selection.animation_id,
        }  # fmt: skip
        part_id = shown.get(self.session.stage, selection.sheet_id)
        rows = (y for _kind, part, y in self.entries() if not isinstance(part, str) and part.id == part_id)
        return next(rows, None)

    def entries(self) -> list[tuple[str, str | Part, int]]:
        """(kind, part, y): heads and rows from the top."""
        project = self.session.project
        parts = project.sheets, project.levels, project.animations
        now = (*map(id, parts), self.filter, frozenset(self.folded))
        if now != self._listed[0]:
            self._listed = now, parts, self._entries(project)
        return self._listed[2]

    def _entries(self, project: Project) -> list[tuple[str, str | Part, int]]:
        y = 0
        found: list[tuple[str, str | Part, int]] = []
        wanted = [s for s in project.sheets if self.filter in f"{s.name} {s.group}".casefold()]
        groups = {"": [s for s in wanted if not s.group]}
        for sheet in wanted:
            if sheet.group:
                groups.setdefault(sheet.group, []).append(sheet)
        levels = [v for v in project.levels if self.filter in v.name.casefold()]
        kinds: list[tuple[str, Sequence[Part], int]] = [("Sheets", groups.pop(""), len(wanted))]
        kinds += [(f"\x01{name}", sheets, len(sheets)) for name, sheets in sorted(groups.items())]
        animations = [a for a in project.animations if self.filter in a.name.casefold()]
        if project.animations:
            kinds.append(("Animations", animations, len(animations)))
        kinds.append(("Levels", [v for v in levels if not v.group], len(levels)))
        for name in sorted({v.group for v in levels if v.group}):
            grouped = [v for v in levels if v.group == name]
            kinds.append((f"\x01{name}", grouped, len(grouped)))
        for words, parts, number in kinds:
            found.append(("head", f"{words}\t{number}", y))
            y += HEAD
            for part in () if words in self.folded and not self.filter else parts:
                found.append(("row", part, y))
                y += ROW
            y += 4
        return found

    def relayout(self) -> None:
        entries = self.entries()
        self.setMinimumHeight(entries[-1][2] + (ROW if entries[-1][0] == "row" else HEAD) + 8)
        self.update()

    def draw_rows(self, part_ids: Collection[str | None]) -> None:
        """Draw the rows of some parts again."""
        for _kind, part, y in self.entries():
            if not isinstance(part, str) and part.id in part_ids:
                self.update(0, y, self.width(), ROW)

    def _draw_row(self, part_id: str) -> None:
        self.draw_rows((part_id,))

    def _row_at(self, y: float) -> Part | None:
        for kind, part, top in self.entries():
            if kind == "row" and top <= y < top + ROW and not isinstance(part, str):
                return part
        return None

    def stuck(self) -> list[tuple[str, int, int]]:
        """Heads of whole kinds that lie below what is in view: what they say, where they are, and where they
        stand in the meantime, at the foot of the view."""
        heads = [(str(part), y) for kind, part, y in self.entries() if kind == "head"]
        heads = [(words, y) for words, y in heads if not words.startswith("\x01")]
        foot = self.visibleRegion().boundingRect().bottom() + 1
        found = []
        for words, y in reversed(heads):
            if y <= foot - HEAD:
                break
            foot -= HEAD
            found.append((words, y, foot))
        return found

    def _stuck_at(self, y: float) -> int | None:
        """Where the head really is that stands at a place at the foot of the view."""
        return next((place for _words, place, top in self.stuck() if top <= y < top + HEAD), None)

    def _head_at(self, y: float) -> str | None:
        for kind, part, top in self.entries():
            if kind == "head" and top <= y < top + HEAD:
                return str(part).rsplit("\t", 1)[0]
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        part, place = self._row_at(event.position().y()), self._stuck_at(event.position().y())
        if self._on_plus(event.position().x(), event.position().y()):
            self.wants_level.emit()
            return
        if place is not None:
            self.wants_place.emit(place)
            return
        head = self._head_at(event.position().y())
        if head is not None:
            self.folded ^= {head}
            self.relayout()
            self.folded_changed.emit()
            return
        session, keys = self.session, event.modifiers()
        if isinstance(part, Sheet):
            order = [s.id for s in session.project.sheets]
            if keys & Qt.KeyboardModifier.ControlModifier:
                rest = tuple(i for i in session.selection.sheet_ids if i != part.id)
                session.selection.choose_sheets(
                    rest if part.id in session.selection.sheet_ids and rest else (*rest, part.id)
                )
            elif keys & Qt.KeyboardModifier.ShiftModifier and session.selection.sheet_id in order:
                a, b = order.index(session.selection.sheet_id), order.index(part.id)
                session.selection.choose_sheets(tuple(order[min(a, b) : max(a, b) + 1]))
            else:
                session.bring([part], partial(self._show_sheet, part.id))
        elif isinstance(part, Animation):
            session.selection.choose_animation(part.id)
            session.go("animate")
        elif isinstance(part, Level):
            from rushweed.core.level.edit import sheets_shown

            session.bring(sheets_shown(session.project, part), partial(self._show_level, part.id))

    def _show_sheet(self, sheet_id: str) -> None:
        self.session.selection.choose_sheet(sheet_id)
        if self.session.stage in ("paint", "animate"):
            self.session.go("cut")

    def _show_level(self, level_id: str) -> None:
        self.session.selection.choose_level(level_id)
        self.session.go("paint")

    def _on_plus(self, x: float, y: float) -> bool:
        """Whether a point is on the plus beside the head of the levels."""
        tops = [t for kind, part, t in self.entries() if kind == "head" and str(part).startswith("Levels\t")]
        tops += [top for words, _place, top in self.stuck() if words.startswith("Levels\t")]
        return x > self.width() - 28 and any(top <= y < top + HEAD for top in tops)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._hover = event.position().y()
        part = self._row_at(self._hover)
        if self._on_plus(event.position().x(), self._hover):
            self.setToolTip("New level  (Ctrl+L)")
            return
        head = self._head_at(self._hover)
        if head is not None:
            self.setToolTip("Show its rows" if head in self.folded else "Put its rows away")
            return
        if isinstance(part, Sheet):
            states = self.states.get(part.id, {})
            done = ", ".join(s for s in STAGES if states.get(s) == "done") or "nothing yet"
            words = f"{part.name}\n{part.source.size[0]} × {part.source.size[1]} px\nDone: {done}"
            self.setToolTip(plain_tip(words))
        elif part is not None:
            self.setToolTip(part.name)
        else:
            self.setToolTip("")
        self.update()

    def leaveEvent(self, event: object) -> None:
        self._hover = -1
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        assert event is not None
        painter, look, region = QPainter(self), self.look, event.region()
        for kind, part, y in self.entries():
            if not region.intersects(QRect(0, y, self.width(), ROW)):
                continue
            if kind == "head" and isinstance(part, str):
                self._head(painter, part, y)
            elif not isinstance(part, str):
                self._row(painter, part, y)
        for words, _place, y in self.stuck():
            painter.fillRect(QRectF(0, y, self.width(), HEAD), look.colour("paper"))
            self._head(painter, words, y)

    def _head(self, painter: QPainter, part: str, y: int) -> None:
        look = self.look
        words, number = part.rsplit("\t", 1)
        grouped, folded = words.startswith("\x01"), words in self.folded
        words = words.lstrip("\x01")
        if y and not grouped:
            painter.fillRect(QRectF(0, y, self.width(), 1), look.colour("rule"))
        painter.setFont(look.font(12, grouped))
        painter.setPen(look.colour("ink" if grouped else "quiet"))
        self._hook(painter, y, folded)
        words = elided(painter, words, self.width() - 56)
        painter.drawText(QRectF(20, y, self.width(), HEAD), Qt.AlignmentFlag.AlignVCenter, words)
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.setFont(look.mono(11))
        levels = words == "Levels" and not grouped
        edge = self.width() - (30 if levels else 8)
        painter.drawText(QRectF(0, y, edge, HEAD), right, number)
        if levels:
            plus = QRectF(self.width() - 28, y, 24, HEAD)
            self.icons.paint(painter, plus, "plus", look.colour("ink"), 16)

    def _hook(self, painter: QPainter, y: int, folded: bool) -> None:
        """Whether the rows of a head are there: a hook that points down to them, or at the head."""
        middle = y + HEAD / 2
        points = [(10, -3), (13, 0), (10, 3)] if folded else [(8, -2), (11, 1), (14, -2)]
        painter.setPen(QPen(self.look.colour("quiet"), 1.5))
        painter.drawPolyline(QPolygonF([QPointF(x, middle + dy) for x, dy in points]))
        painter.setPen(self.look.colour("quiet"))

    def _row(self, painter: QPainter, part: Part, y: int) -> None:
        look, session = self.look, self.session
        box = QRectF(0, y, self.width(), ROW)
        shown = {"paint": session.selection.level_id, "animate": session.selection.animation_id}
        now = part.id == shown.get(session.stage, session.selection.sheet_id)
        also = (
            isinstance(part, Sheet) and session.stage not in shown and part.id in session.selection.sheet_ids
        )
        if now or also:
            painter.fillRect(box, look.colour("raised"))
            painter.fillRect(QRectF(0, y, 3, ROW), look.colour("rust" if now else "straw"))
        elif box.contains(1, self._hover):
            painter.fillRect(box, look.colour("straw_wash"))
        painter.drawImage(QRectF(8, y + 4, THUMB, THUMB), self._thumbs.of(part))
        painter.setFont(look.font(12, now))
        painter.setPen(look.colour("ink"))
        name = elided(painter, part.name, self.width() - 44)
        painter.drawText(QRectF(40, y + 2, self.width() - 42, 17), Qt.AlignmentFlag.AlignVCenter, name)
        if isinstance(part, Sheet):
            states = self.states.get(part.id, {})
            dots(painter, look, 40, y + 22, [states.get(s, "open") for s in STAGES])
        else:
            painter.setFont(look.font(11))
            painter.setPen(look.colour("quiet"))
            words = (
                f"{len(part.frames)} frames, {part.play.replace('-', ' ')}"
                if isinstance(part, Animation)
                else ""
            )
            if isinstance(part, Level):
                words = f"{part.view}, {part.bounds[2]} × {part.bounds[3]} cells"
            painter.drawText(QRectF(40, y + 16, self.width() - 42, 15), Qt.AlignmentFlag.AlignVCenter, words)
