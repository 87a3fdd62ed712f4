"""The Shelf: every sheet and level with a thumbnail and a dot for each stage."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from rushweed.core.document.edit import animated_sheets, painted_sheets
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet, Tune
from rushweed.core.document.remembered import Remembered
from rushweed.ui.desk.images import SheetImages, checker, image_of
from rushweed.ui.kit.controls import IconButton, Pressable, dots, elided, label, plain_tip, row
from rushweed.ui.kit.fields import TextField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import STAGES, Session, later

if TYPE_CHECKING:
    from rushweed.core.findings.finding import Finding

Part = Sheet | Level | Animation
ROW, HEAD, THUMB = 32, 24, 24
LOW = 620  # px of height below which the hint at the foot is one line


has_shapes: Remembered[tuple[Cell, ...], bool] = Remembered(lambda cells: any(c.shapes for c in cells))


def stage_states(
    project: Project, findings: list[Finding], shipped: frozenset[str]
) -> dict[str, dict[str, str]]:
    """For each sheet, each stage as done, fault or open."""
    painted, animated = painted_sheets(project), animated_sheets(project)
    walked = painted_sheets(project, (level for level in project.levels if level.runs))
    faults = {(f.place.sheet, f.place.stage) for f in findings if f.weight == "fault"}
    states: dict[str, dict[str, str]] = {}
    for sheet in project.sheets:
        done = {
            "gather": bool(sheet.credit.licence),
            "cut": bool(sheet.cells),
            "animate": sheet.id in animated,
            "tune": sheet.tune != Tune() or sheet.id in shipped,
            "shape": has_shapes(sheet.cells),
            "paint": sheet.id in painted,
            "walk": sheet.id in walked,
            "ship": sheet.id in shipped,
        }
        states[sheet.id] = {
            stage: "fault" if (sheet.id, stage) in faults else "done" if done[stage] else "open"
            for stage in STAGES
        }
    return states


class _List(Keyed):
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
        self._thumbs: OrderedDict[str, tuple[tuple[object, object], QImage]] = OrderedDict()
        self._hover = -1.0
        self._wanted: list[str] = []
        self._idle = later(self, 10, self._draw_wanted)
        self._blank = QImage(THUMB, THUMB, QImage.Format.Format_ARGB32_Premultiplied)
        self._blank.fill(look.colour("rule"))
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
        project, y = self.session.project, 0
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

    def _row_at(self, y: float) -> Part | None:
        for kind, part, top in self.entries():
            if kind == "row" and top <= y < top + ROW and not isinstance(part, str):
                return part
        return None

    def _stuck(self) -> list[tuple[str, int, int]]:
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
        return next((place for _words, place, top in self._stuck() if top <= y < top + HEAD), None)

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
            from rushweed.core.level.edit import sheets_used

            session.bring(sheets_used(session.project, part), partial(self._show_level, part.id))

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
        tops += [top for words, _place, top in self._stuck() if words.startswith("Levels\t")]
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
        painter, look = QPainter(self), self.look
        top, bottom = event.rect().top() - ROW, event.rect().bottom()
        for kind, part, y in self.entries():
            if not top <= y <= bottom:
                continue
            if kind == "head" and isinstance(part, str):
                self._head(painter, part, y)
            elif not isinstance(part, str):
                self._row(painter, part, y)
        for words, _place, y in self._stuck():
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
        painter.drawImage(QRectF(8, y + 4, THUMB, THUMB), self._thumb(part))
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

    def _thumb(self, part: Part) -> QImage:
        """The thumbnail as last drawn; a new one is drawn when the window is idle."""
        key = self._key(part)
        known = self._thumbs.get(part.id)
        if known is None or not all(a is b or a == b for a, b in zip(known[0], key, strict=True)):
            if part.id not in self._wanted:
                self._wanted.append(part.id)
            if self.images.ready:
                self._idle.start()
        return known[1] if known else self._blank

    def _key(self, part: Part) -> tuple[object, object]:
        """What its thumbnail depends on."""
        if isinstance(part, Sheet):
            return part.source, part.cells[:1]
        return part, self.session.project.sheets  # levels and animations show the art of sheets

    def _draw_wanted(self) -> None:
        """Draw one thumbnail, then let the window breathe."""
        part_id = self._wanted.pop(0)
        project = self.session.project
        parts: list[Part] = [*project.sheets, *project.levels, *project.animations]
        part = next((p for p in parts if p.id == part_id), None)
        if isinstance(part, Sheet):
            self._thumbs[part.id] = (self._key(part), self._sheet_thumb(part))
        elif isinstance(part, Animation):
            self._thumbs[part.id] = (self._key(part), self._animation_thumb(part))
        elif part is not None:
            self._thumbs[part.id] = (self._key(part), self._level_thumb(part))
        while len(self._thumbs) > 600:
            self._thumbs.popitem(last=False)
        if self._wanted:
            self._idle.start()
        self.update()

    def _sheet_thumb(self, sheet: Sheet) -> QImage:
        thumb = QImage(THUMB, THUMB, QImage.Format.Format_ARGB32_Premultiplied)
        painter = QPainter(thumb)
        painter.fillRect(0, 0, THUMB, THUMB, checker(self.look, 6))
        image = self.images.image(sheet)
        side = min(24, image.width(), image.height())
        if sheet.cells:
            x, y, w, h = sheet.cells[0].rect
            wide = max(min(w, h, 24), 8)
            if w > 48:
                wide = min(w, h)
            painter.drawImage(QRectF(0, 0, THUMB, THUMB), image, QRectF(x + (w - wide) // 2, y, wide, wide))
        elif image.width() > 64:
            scaled = image.scaled(QSize(48, 48), Qt.AspectRatioMode.KeepAspectRatioByExpanding)
            painter.drawImage(QRectF(0, 0, THUMB, THUMB), scaled, QRectF(0, 0, 32, 32))
        else:
            painter.drawImage(QRectF(0, 0, THUMB, THUMB), image, QRectF(0, 0, side, side))
        painter.end()
        return thumb

    def _animation_thumb(self, animation: Animation) -> QImage:
        thumb = QImage(THUMB, THUMB, QImage.Format.Format_ARGB32_Premultiplied)
        painter = QPainter(thumb)
        painter.fillRect(0, 0, THUMB, THUMB, checker(self.look, 6))
        found = self.session.cells_by_id.get(animation.frames[0].cell) if animation.frames else None
        if found is not None:
            sheet, cell = found
            w, h = cell.rect[2:]
            scale = min(THUMB / w, THUMB / h, 2)
            box = QRectF((THUMB - w * scale) / 2, (THUMB - h * scale) / 2, w * scale, h * scale)
            painter.drawImage(box, self.images.image(sheet), QRectF(*cell.rect))
        painter.end()
        return thumb

    def _level_thumb(self, level: Level) -> QImage:
        from rushweed.core.level.render import level_picture

        x, y = round(level.start[0]) - 36, round(level.start[1]) - 48
        pixels = level_picture(
            self.session.project, level, self.session.stock.pixels_or_blank, (x, y, 72, 72)
        )
        return image_of(pixels).scaled(QSize(THUMB, THUMB))


class DropHint(Pressable):
    """The foot of the Shelf: what can be dropped."""

    def __init__(self, look: Look, icons: Icons) -> None:
        super().__init__()
        self.look, self.icons = look, icons
        self.show_low(False)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Add pictures")

    def show_low(self, low: bool) -> None:
        """As one line, where the window is low."""
        self._low = low
        self.setFixedHeight(40 if low else 80)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        painter.setPen(QPen(look.colour("rule_deep"), 1, Qt.PenStyle.DashLine))
        painter.drawRect(QRectF(8.5, 8.5, self.width() - 17, self.height() - 18))
        if self._low:
            painter.setFont(look.font(11))
            painter.setPen(look.colour("quiet"))
            self.icons.paint(painter, QRectF(14, 8, 18, 24), "download-simple", look.colour("quiet"), 15)
            words = elided(painter, "Drop pictures here", self.width() - 48)
            painter.drawText(QRectF(36, 8, self.width() - 44, 24), Qt.AlignmentFlag.AlignVCenter, words)
            return
        self.icons.paint(
            painter, QRectF(0, 12, self.width(), 22), "download-simple", look.colour("quiet"), 17
        )
        painter.setFont(look.font(11))
        painter.setPen(look.colour("quiet"))
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
        painter.drawText(QRectF(0, 36, self.width(), 34), flags, "Drop pictures or a\nfolder here")


class Shelf(QWidget):
    """Head, list, and the hint at the foot; `opened` emits states for the rail when they change."""

    wants_pictures = pyqtSignal()
    wants_level = pyqtSignal()
    states_changed = pyqtSignal(dict)

    def __init__(self, look: Look, icons: Icons, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.look, self.session = look, session
        self._name = label("", "quiet")
        find = IconButton(look, icons, "magnifying-glass", "Find on the Shelf", px=16)
        add = IconButton(look, icons, "plus", "Add pictures  (Ctrl+I)", px=16)
        add.pressed.connect(self.wants_pictures)
        head = QWidget()
        head.setFixedHeight(32)
        head.setLayout(row(label("Shelf", "head"), self._name, None, find, add, spacing=2))
        layout = head.layout()
        assert layout is not None
        layout.setContentsMargins(8, 0, 4, 0)
        self._find = TextField("name of a sheet or level")
        self._find.hide()
        self._find.textChanged.connect(self._filter)
        find.pressed.connect(self._toggle_find)
        self.list = _List(look, icons, session, images)
        self.list.wants_level.connect(self.wants_level)
        self._scroll = scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        bar = scroll.verticalScrollBar()
        assert bar is not None
        bar.valueChanged.connect(self.list.update)
        self.list.wants_place.connect(bar.setValue)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.list)
        self._hint = hint = DropHint(look, icons)
        hint.pressed.connect(self.wants_pictures)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(head)
        box.addWidget(self._find)
        box.addWidget(scroll, 1)
        box.addWidget(hint)
        self.setMinimumWidth(120)
        self._soon = later(self, 100, self.refresh)
        self._reveal = later(self, 0, self._bring_into_view)
        self._chosen: tuple[object, ...] = ()
        session.document.changed.connect(self._changed)
        session.selection.focused.connect(self._show_chosen)
        session.staged.connect(lambda _s: self._show_chosen())
        session.checker.found.connect(self.refresh)
        session.shipped.connect(self.refresh)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._hint.show_low(self.height() < LOW)

    def _toggle_find(self) -> None:
        self._find.setVisible(not self._find.isVisible())
        self._find.clear()
        if self._find.isVisible():
            self._find.setFocus()

    def _filter(self, text: str) -> None:
        self.list.filter = text.casefold()
        self.list.relayout()

    def _show_chosen(self) -> None:
        """Draw the rows again where another part is chosen."""
        selection = self.session.selection
        chosen = (
            self.session.stage, selection.sheet_ids, selection.sheet_id, selection.level_id,
            selection.animation_id,
        )  # fmt: skip
        if chosen != self._chosen:
            self._chosen = chosen
            self.list.update()
            self._reveal.start()

    def _bring_into_view(self) -> None:
        """The row of what is shown, clear of the heads that stand at the foot."""
        y = self.list.shown_at()
        if y is not None:
            self._scroll.ensureVisible(0, y + ROW // 2, 0, ROW // 2 + HEAD)

    def _changed(self, old: Project, new: Project) -> None:
        """Parts that came or went are followed at once, all else a moment later: a long list is not drawn
        while its owner types, nor a level's row while it is painted."""
        kinds = ((old.sheets, new.sheets), (old.animations, new.animations), (old.levels, new.levels))
        if any(
            [part.id for part in was] != [part.id for part in now] for was, now in kinds if was is not now
        ):
            self.refresh()
        elif not self.session.document.gesturing:
            self._soon.start()

    def refresh(self) -> None:
        project = self.session.project
        self._name.setText(project.name)
        held = self.session.shipped_sheets
        shipped = frozenset(s.id for s in project.sheets if held.get(s.id) is s)
        states = stage_states(project, self.session.checker.findings, shipped)
        self.list.states = states
        self.list.relayout()
        self.states_changed.emit({stage: [states[s.id][stage] for s in project.sheets] for stage in STAGES})
