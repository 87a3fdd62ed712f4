"""What all tools of Paint share: the layer in use, the stamp, and words of caution."""

from __future__ import annotations

import numpy as np

from rushweed.core.document.model.level import Thing
from rushweed.core.document.model.shape import AutoSet
from rushweed.core.level.brush import Spots
from rushweed.core.level.caution import caution
from rushweed.core.level.levels import is_empty, set_cell
from rushweed.core.level.stamp import Stamp, single
from rushweed.core.level.wide import reflections
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.tool import Tool
from rushweed.ui.stages.paint.stamp_line import How
from rushweed.ui.stages.paint.state import PaintState

Place = tuple[int, int]  # column, row


class PaintTool(Tool):
    """A tool that works a level. The flags say what is drawn at the pointer."""

    paints = False  # it lays the stamp: the right button erases, Alt takes what is under the pointer
    warns = False  # of tiles on other layers
    spans = False  # its drag covers a rectangle of cells
    marks_cell = True  # where the pointer is, also before it is pressed
    shows_stamp = False
    moves_start = False
    chooses = False  # cells are selected with it
    scatters = False  # the card shows how things are scattered
    of_rooms = False  # the card shows the rooms

    def __init__(self, state: PaintState) -> None:
        super().__init__()
        self.state, self.session = state, state.session
        self.began: Place | None = None  # cell where the press began

    @property
    def ids(self) -> tuple[str, str]:
        """Of the level and the layer in use."""
        return self.session.selection.level_id, self.session.selection.layer_id

    @property
    def layer_name(self) -> str:
        layer = self.session.selection.layer
        return layer.name if layer else "the layer"

    @property
    def thing(self) -> Thing | None:
        """The placed thing it has in hand."""
        return None

    @property
    def selects(self) -> bool:
        """Whether something is selected that can be moved, turned or erased."""
        return False

    def press(self, at: DeskEvent) -> None:
        self.began = self.state.cell(at)

    def release(self, at: DeskEvent) -> None:
        start, self.began = self.began, None
        if start is not None:
            self.dragged(start, self.state.cell(at), at)

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        """The drag from one cell to another is over."""

    def cancel(self) -> None:
        self.began = None

    def hovered(self, at: DeskEvent) -> None:
        """The pointer is somewhere else."""

    def covered(self, at: Place) -> tuple[int, int, int, int]:
        """The cells that the gesture covers, or the press would: left, top, columns, rows."""
        if self.spans and self.began is not None:
            (x0, y0), (x1, y1) = self.began, at
            return min(x0, x1), min(y0, y1), abs(x1 - x0) + 1, abs(y1 - y0) + 1
        return (*at, 1, 1)

    def rearrange(self, how: How) -> bool:
        """Mirror, flip or turn what is selected; whether anything is."""
        return self.selects

    def remove(self) -> None:
        """Erase what is selected."""

    # -- the stamp -----------------------------------------------------------------------------------

    def ready_stamp(self) -> Stamp | None:
        """The stamp; where there is none, that is told."""
        stamp = self.session.selection.stamp
        if stamp is None or not stamp.cells:
            self.session.tell("fault", "There is no stamp to paint with.", "Press a tile in the Tray below.")
            return None
        return stamp

    def take_cell_size(self) -> None:
        """An empty level takes the cell size of the first tiles painted in it."""
        level, stamp = self.session.selection.level, self.session.selection.stamp
        found = self.session.cells_by_id.get(stamp.cells[0]) if stamp is not None and stamp.cells else None
        if level is not None and found is not None and is_empty(level):
            size = (found[1].rect[2], found[1].rect[3])
            if size != level.cell:
                self.session.document.edit("Cell size of the level", lambda p: set_cell(p, level.id, size))

    def auto_set(self) -> AutoSet | None:
        """The auto-tile set that the stamp stands for, if it does."""
        wanted = self.session.selection.auto_id
        return next((s for s in self.session.project.autosets if s.id == wanted), None) if wanted else None

    def mirrored(self, stamp: Stamp, spots: Spots) -> list[tuple[Stamp, Spots]]:
        """The stamp at its spots, and as the symmetry in use has it."""
        way = self.state.stamp_line.symmetry.value or "none"
        return reflections(stamp, spots, self.state.stamp_line.axes(), way)  # type: ignore[arg-type]

    def mirrored_spots(self, spots: Spots) -> Spots:
        """Cells, and where the symmetry in use mirrors them."""
        made = [places for _stamp, places in self.mirrored(single(""), spots)]
        if len(made) == 1:
            return spots
        pairs = np.unique(np.concatenate([np.stack(places) for places in made], axis=1), axis=1)
        return pairs[0], pairs[1]

    @staticmethod
    def on_pattern(spots: Spots, stamp: Stamp, start: Place) -> Spots:
        """Spots of a large stamp, so that its repeats along a stroke do not overlap."""
        columns, rows = stamp.size
        if columns == rows == 1:
            return spots
        xs = start[0] + (spots[0] - start[0]) // columns * columns
        ys = start[1] + (spots[1] - start[1]) // rows * rows
        pairs = np.unique(np.stack((xs, ys)), axis=1)
        return pairs[0], pairs[1]

    def caution(self, spots: Spots, erasing: bool = False) -> None:
        """Say, after the fact too, that the tiles are on another layer or that this one is hidden."""
        selection = self.session.selection
        level, layer = selection.level, selection.layer
        found = caution(level, selection.layer_id, spots, erasing) if level is not None else None
        if found is None or layer is None:
            return
        if not layer.shown:
            answer = f"Show {layer.name}", lambda: self.state.layer_wanted.emit(layer.id)
        else:
            answer = f"Go to {found.layer.name}", lambda: selection.choose_layer(found.layer.id)
        self.session.ask(found.text(layer.name), [answer], lambda: None)
