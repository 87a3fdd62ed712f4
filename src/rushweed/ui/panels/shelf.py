"""The Shelf: every sheet and level with a thumbnail and a dot for each stage."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from rushweed.core.document.edit import animated_sheets, painted_sheets
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Tune
from rushweed.core.document.remembered import Remembered
from rushweed.ui.desk.images import SheetImages
from rushweed.ui.kit.controls import IconButton, label, row
from rushweed.ui.kit.fields import TextField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.drop_hint import DropHint
from rushweed.ui.panels.shelf_list import HEAD, ROW, ShelfList
from rushweed.ui.session import STAGES, Session, later

if TYPE_CHECKING:
    from rushweed.core.findings.finding import Finding

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
        self._find.textChanged.connect(self.filter)
        find.pressed.connect(self.toggle_find)
        self.list = ShelfList(look, icons, session, images)
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
        self._chosen: tuple[str, frozenset[str | None], str | None] = ("", frozenset(), None)
        session.document.changed.connect(self._changed)
        session.selection.focused.connect(self._show_chosen)
        session.staged.connect(lambda _s: self._show_chosen())
        session.checker.found.connect(self.refresh)
        session.shipped.connect(self.refresh)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._hint.show_low(self.height() < LOW)

    def toggle_find(self) -> None:
        self._find.setVisible(not self._find.isVisible())
        self._find.clear()
        if self._find.isVisible():
            self._find.setFocus()

    def filter(self, text: str) -> None:
        self.list.filter = text.casefold()
        self.list.relayout()

    def _show_chosen(self) -> None:
        """Draw the rows again where another part is chosen."""
        selection = self.session.selection
        parts = {*selection.sheet_ids, selection.sheet_id, selection.level_id, selection.animation_id}
        chosen = (self.session.stage, frozenset(parts), selection.sheet_id)
        if chosen != self._chosen:
            self.list.draw_rows(chosen[1] | self._chosen[1])
            self._chosen = chosen
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
