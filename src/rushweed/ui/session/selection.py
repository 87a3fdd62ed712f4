"""What is selected: sheets, cells, a shape, a level with its layer, an animation, the stamp."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import KeptStamp, Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.ui.session.document import Document

if TYPE_CHECKING:
    from rushweed.core.level.stamp import Stamp


MOST_RECENT = 8  # stamps


class Selection(QObject):
    """Ids, and what they stand for in the project as it is shown."""

    focused = pyqtSignal()  # another sheet, cell, shape, level, layer or stamp

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        project = self.project
        self.sheet_id = project.sheets[0].id if project.sheets else ""
        self.sheet_ids: tuple[str, ...] = (self.sheet_id,) if self.sheet_id else ()
        self.cell_ids: tuple[str, ...] = ()
        self._chosen: tuple[object, object, list[Cell]] = (None, None, [])
        self._last: tuple[list[Cell] | None, Cell | None] = (None, None)  # the cell last selected of some
        self._shape_index: int | None = None
        self.level_id = project.levels[0].id if project.levels else ""
        self.layer_id = self._first_layer()
        self.animation_id = project.animations[0].id if project.animations else ""
        self._frames: tuple[int, ...] = ()
        self.stamp: Stamp | None = None
        self.auto_id = ""  # of the auto-tile set that the stamp stands for
        self.whole_stamp: KeptStamp | None = None  # put in place of the stamp: over several layers, or things
        self.recent: list[Stamp | KeptStamp] = []  # stamps painted with, the latest first

    @property
    def project(self) -> Project:
        return self._document.project

    @property
    def sheet(self) -> Sheet | None:
        return next((s for s in self.project.sheets if s.id == self.sheet_id), None)

    @property
    def sheets(self) -> list[Sheet]:
        """The sheets selected on the Shelf, the current one first."""
        chosen = [s for s in self.project.sheets if s.id in self.sheet_ids]
        return sorted(chosen, key=lambda s: s.id != self.sheet_id)

    @property
    def level(self) -> Level | None:
        return next((v for v in self.project.levels if v.id == self.level_id), None)

    @property
    def animation(self) -> Animation | None:
        return next((a for a in self.project.animations if a.id == self.animation_id), None)

    @property
    def layer(self) -> TileLayer | None:
        level = self.level
        found = next((x for x in level.layers if x.id == self.layer_id), None) if level else None
        return found if isinstance(found, TileLayer) else None

    @property
    def cells(self) -> list[Cell]:
        """The selected cells of the current sheet, in the sheet's order."""
        sheet = self.sheet
        if sheet is None or not self.cell_ids:
            return []
        if self._chosen[0] is not sheet.cells or self._chosen[1] is not self.cell_ids:
            wanted = set(self.cell_ids)
            self._chosen = (sheet.cells, self.cell_ids, [c for c in sheet.cells if c.id in wanted])
        return self._chosen[2]

    @property
    def cell(self) -> Cell | None:
        """The cell last selected."""
        cells = self.cells
        if self._last[0] is not cells:
            by_id = {c.id: c for c in cells}
            self._last = (cells, next((by_id[i] for i in reversed(self.cell_ids) if i in by_id), None))
        return self._last[1]

    @property
    def shape_index(self) -> int | None:
        """Which shape of the cell is selected; None also while a gesture has taken that shape away."""
        index, cell = self._shape_index, self.cell
        return index if index is not None and cell is not None and index < len(cell.shapes) else None

    @property
    def frames(self) -> tuple[int, ...]:
        """The places selected in the animation, those that are there."""
        animation = self.animation
        return tuple(n for n in self._frames if n < len(animation.frames)) if animation else ()

    def _first_layer(self) -> str:
        level = self.level
        layers = [x for x in level.layers if isinstance(x, TileLayer)] if level else []
        return layers[-1].id if layers else ""

    def choose_sheet(self, sheet_id: str, more: bool = False) -> None:
        """Show a sheet; with `more` it joins those already selected."""
        self._document.settling.emit()
        ids = (*(i for i in self.sheet_ids if i != sheet_id), sheet_id) if more else (sheet_id,)
        if sheet_id == self.sheet_id and ids == self.sheet_ids:
            return
        if sheet_id != self.sheet_id:
            self.cell_ids, self._shape_index = (), None
        self.sheet_id, self.sheet_ids = sheet_id, ids
        self.focused.emit()

    def choose_sheets(self, ids: tuple[str, ...]) -> None:
        self._document.settling.emit()
        self.sheet_ids = ids
        if ids and self.sheet_id not in ids:
            self.sheet_id, self.cell_ids, self._shape_index = ids[-1], (), None
        self.focused.emit()

    def choose_cells(self, ids: tuple[str, ...], shape: int | None = None) -> None:
        if ids != self.cell_ids or shape != self._shape_index:
            self.cell_ids, self._shape_index = ids, shape
            self.focused.emit()

    def choose_level(self, level_id: str) -> None:
        if level_id != self.level_id:
            self._document.settling.emit()
            self.level_id = level_id
            self.layer_id = self._first_layer()
            self.focused.emit()

    def choose_animation(self, animation_id: str, frames: tuple[int, ...] = ()) -> None:
        if (animation_id, frames) != (self.animation_id, self._frames):
            if animation_id != self.animation_id:
                self._document.settling.emit()
            self.animation_id, self._frames = animation_id, frames
            self.focused.emit()

    def choose_layer(self, layer_id: str) -> None:
        if layer_id != self.layer_id:
            self.layer_id = layer_id
            self.focused.emit()

    def choose_stamp(self, stamp: Stamp | None, auto_id: str = "") -> None:
        """The stamp to paint with; with the id of an auto-tile set its tiles choose themselves."""
        self.stamp, self.auto_id, self.whole_stamp = stamp, auto_id, None
        self.focused.emit()

    def choose_whole(self, stamp: KeptStamp) -> None:
        """A stamp over several layers, or with things, to be put as it is."""
        self.stamp, self.auto_id, self.whole_stamp = None, "", stamp
        self.focused.emit()

    def note_painted(self) -> None:
        """Remember the stamp in use among the recent ones."""
        used: Stamp | KeptStamp | None = self.whole_stamp or self.stamp
        if used is None or self.auto_id or any(used is one for one in self.recent[:1]):
            return
        self.recent = [used, *(one for one in self.recent if not _alike(one, used))][:MOST_RECENT]

    def repair(self) -> None:
        """Selections that point to what is gone move to what is there."""
        sheets = {s.id for s in self.project.sheets}
        if self.sheet_id not in sheets:
            self.sheet_id = self.project.sheets[0].id if self.project.sheets else ""
            self.cell_ids = ()
        self.sheet_ids = tuple(i for i in self.sheet_ids if i in sheets) or (
            (self.sheet_id,) if self.sheet_id else ()
        )
        if self.level is None:
            self.level_id = self.project.levels[0].id if self.project.levels else ""
        level = self.level
        if level is None or all(x.id != self.layer_id for x in level.layers):
            self.layer_id = self._first_layer()
        animation = self.animation
        if animation is None:
            self.animation_id = self.project.animations[0].id if self.project.animations else ""
        self._frames, self._shape_index = self.frames, self.shape_index


def _alike(one: Stamp | KeptStamp, two: Stamp | KeptStamp) -> bool:
    """Whether two stamps paint the same."""
    if isinstance(one, KeptStamp) or isinstance(two, KeptStamp):
        return one is two
    same = one.cells == two.cells and one.slots.shape == two.slots.shape
    return bool(same and (one.slots == two.slots).all() and (one.turns == two.turns).all())
