"""What is done with many cells at once: selected, copied, kept, replaced, closed."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QMimeData
from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import KeptStamp, Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.level.autopaint import rejoin, unjoined
from rushweed.core.level.chunks import cell_at
from rushweed.core.level.clipboard import from_text, holds_tiles, to_text
from rushweed.core.level.edit import erase
from rushweed.core.level.kept import area_stamp, brush_stamp, keep
from rushweed.core.level.render import Seen, level_picture
from rushweed.core.level.wide import (
    Selected,
    Where,
    fill_holes,
    places_of,
    rectangle_of,
    replace_sheet,
    replace_tile,
    same_tiles,
    tiles_with_trait,
)
from rushweed.core.pixels.read import check_size
from rushweed.core.shape.traits import traits_of
from rushweed.core.store.files import write_file
from rushweed.core.store.folder import file_name
from rushweed.core.tune.codec.compress import png_bytes
from rushweed.ui.desk.images import image_of
from rushweed.ui.kit.text import many
from rushweed.ui.session.jobs import Job
from rushweed.ui.stages.paint.state import PaintState
from rushweed.ui.stages.paint.tools.toolbox import Toolbox

MOST_PICTURE = 4096  # px a side of the picture that goes to the clipboard too


class CellsWork:
    """The commands of Paint that work on cells."""

    def __init__(self, state: PaintState, tools: Toolbox) -> None:
        self.state, self.session, self.tools = state, state.session, tools
        self._looked_at = -1  # which of the places of the tile in hand

    # -- selecting -------------------------------------------------------------------------------------

    def select_alike(self) -> None:
        level, layer, at = self.session.selection.level, self.session.selection.layer, self.state.at
        if level is None or layer is None or at is None:
            self.session.tell("told", "The pointer is over no cell.", "Point at a tile first.")
            return
        self._choose(same_tiles(level, layer, *at), f"{layer.name} holds nothing there.")

    def select_with_trait(self) -> None:
        level, layer, project = (
            self.session.selection.level,
            self.session.selection.layer,
            self.session.project,
        )
        if level is None or layer is None:
            return
        traits = traits_of(project)
        name, held = QInputDialog.getItem(
            self.state.desk, "Select by a trait", "Trait", [t.name for t in traits], 0, False
        )
        trait = next((t for t in traits if t.name == name), None)
        if held and trait is not None:
            found = tiles_with_trait(project, level, layer, trait.id)
            self._choose(found, f"No tile of {layer.name} says anything of {name}.")

    def _choose(self, found: Selected | None, otherwise: str) -> None:
        if found is None:
            self.session.tell("told", otherwise)
            return
        self.state.tool_wanted.emit("point")
        self.state.chosen = found
        self.state.desk.update()

    def next_place(self) -> None:
        """Look at the next place of the tile in hand, after the one last looked at."""
        level, stamp = self.session.selection.level, self.session.selection.stamp
        if level is None or stamp is None or not stamp.cells:
            self.session.tell("told", "There is no tile in hand.", "Press one in the Tray.")
            return
        found = places_of(level, stamp.cells[0])
        spots = np.concatenate(list(found.values())) if found else np.zeros((0, 2), np.int64)
        name = (
            self.session.cells_by_id[stamp.cells[0]][1].name
            if stamp.cells[0] in self.session.cells_by_id
            else ""
        )
        if not len(spots):
            self.session.tell("told", f"{name} stands nowhere in {level.name}.")
            return
        self._looked_at = (self._looked_at + 1) % len(spots)
        x, y = (int(v) for v in spots[self._looked_at])
        self.state.desk.look_at((x + 0.5) * level.cell[0], (y + 0.5) * level.cell[1])
        self.state.at = (x, y)
        where = f"{self._looked_at + 1} of {many(len(spots), 'place')}"
        self.session.tell("told", f"{name} at {x}, {y}: {where}, on {many(len(found), 'layer')}.")

    # -- the clipboard, kept stamps --------------------------------------------------------------------

    def _selected(self, all_layers: bool) -> KeptStamp | None:
        """What is selected, as a stamp."""
        level, chosen, selection = self.session.selection.level, self.state.chosen, self.session.selection
        if level is None or chosen is None:
            return None
        shown = tuple(layer.id for layer in level.layers if layer.shown)
        try:
            return area_stamp(
                self.session.project, level.id, chosen.area, shown if all_layers else (selection.layer_id,)
            )
        except RushweedError as error:
            self.session.tell("told", error.problem, error.cure)
            return None

    def copy(self) -> None:
        """All layers shown: as text of our own, and as a picture for other programs."""
        self._to_clipboard(self._selected(True))

    def cut(self) -> None:
        """Of the layer in use only."""
        stamp, chosen = self._selected(False), self.state.chosen
        ids = self.session.selection.level_id, self.session.selection.layer_id
        if chosen is not None and self._to_clipboard(stamp):
            self.session.document.edit("Cut an area", lambda p: erase(p, *ids, chosen.spots()))

    def _to_clipboard(self, stamp: KeptStamp | None) -> bool:
        level, chosen, clipboard = self.session.selection.level, self.state.chosen, QApplication.clipboard()
        if stamp is None or level is None or chosen is None or clipboard is None:
            return False
        data, (x, y, columns, rows), (cw, ch) = QMimeData(), chosen.area, level.cell
        data.setText(to_text(self.session.project, stamp))
        if max(columns * cw, rows * ch) <= MOST_PICTURE:
            area = (x * cw, y * ch, columns * cw, rows * ch)
            pixels_of = self.session.stock.pixels_or_blank
            picture = level_picture(
                self.session.project, level, pixels_of, area, seen=Seen(with_backdrops=False)
            )
            data.setImageData(image_of(picture).copy())
        clipboard.setMimeData(data)
        self.session.tell("told", f"{columns} × {rows} cells copied, {many(len(stamp.parts), 'layer')}.")
        return True

    def paste(self) -> None:
        """The copied cells become the stamp in hand."""
        clipboard = QApplication.clipboard()
        text = clipboard.text() if clipboard is not None else ""
        try:
            if not holds_tiles(text):
                self.session.tell(
                    "told", "The clipboard holds no tiles.", "Select cells and copy them first."
                )
                return
            self.state.stamp_line.take(from_text(self.session.project, text))
        except RushweedError as error:
            self.session.tell("fault", error.problem, error.cure)
            return
        self.state.tool_wanted.emit("brush")

    def keep(self) -> None:
        """Keep the stamp in hand, or what is selected over all layers shown, under a name."""
        selection, project = self.session.selection, self.session.project
        stamp = self._selected(True) if self.state.chosen is not None else selection.whole_stamp
        try:
            if stamp is None and selection.stamp is not None:
                layer = selection.layer
                stamp = brush_stamp(project, selection.stamp, layer.name if layer else "")
        except RushweedError as error:
            self.session.tell("fault", error.problem, error.cure)
            return
        if stamp is None:
            self.session.tell("told", "There is no stamp to keep.", "Take one in the Tray or from the level.")
            return
        name, held = QInputDialog.getText(self.state.desk, "Keep the stamp", "Name", text=stamp.name)
        if held:
            kept = stamp
            self.session.document.edit("Keep a stamp", lambda p: keep(p, kept, name)[0])

    # -- replacing -------------------------------------------------------------------------------------

    def replace_tile(self, where: Where) -> None:
        """The tile at the pointer by the first of the stamp."""
        selection, at = self.session.selection, self.state.at
        level, layer, stamp = selection.level, selection.layer, selection.stamp
        value = cell_at(layer.tiles, *at) >> 3 if layer is not None and at is not None else 0
        if level is None or layer is None or stamp is None or not 0 < value <= len(level.table):
            self.session.tell("told", "Point at a tile, with another in the stamp.", "Press one in the Tray.")
            return
        old, ids = level.table[value - 1], (level.id, layer.id)
        self.session.document.edit(
            f"Replace a tile in the {where}", lambda p: replace_tile(p, *ids, old, stamp.cells[0], where)
        )

    def replace_sheet(self) -> None:
        """A sheet that levels use by the one shown."""
        new, project = self.session.selection.sheet, self.session.project
        others = [s for s in project.sheets if new is not None and s.id != new.id and s.cells]
        if new is None or not others:
            self.session.tell("told", "There is no other sheet.", "Gather one first.")
            return
        names = [s.name for s in others]
        name, held = QInputDialog.getItem(
            self.state.desk, "Replace a sheet", f"By {new.name}, in all levels", names, 0, False
        )
        if held:
            old = others[names.index(name)]
            self.session.document.edit(
                f"{new.name} in the place of {old.name}", lambda p: replace_sheet(p, old.id, new.id)
            )

    def rejoin(self) -> None:
        """The tiles of the set in hand are chosen anew where cells are selected, or on the whole layer."""
        selection, chosen = self.session.selection, self.state.chosen
        auto, level = self.tools.active.auto_set(), selection.level
        ids = selection.level_id, selection.layer_id
        if auto is None or level is None or selection.layer is None:
            self.session.tell(
                "told", "There is no auto-tile set in hand.", "Press one in the Tray, at its left."
            )
            return
        spots = (chosen if chosen is not None else rectangle_of(*level.bounds)).spots()
        words = f"Join {auto.name} anew"
        if not self.session.document.edit(words, lambda p: rejoin(p, *ids, auto, spots)):
            self.session.tell("told", f"All tiles of {auto.name} are joined already.")
            return
        missing = unjoined(*self._layer(), auto)
        if len(missing):
            x, y = (int(v) for v in missing[0])
            text = f"{many(len(missing), 'cell')} of {auto.name} cannot be joined, the first at {x}, {y}."
            self.session.tell("told", text, "The set has no tile for its neighbours.")

    def _layer(self) -> tuple[Level, TileLayer]:
        level, layer = self.session.selection.level, self.session.selection.layer
        assert level is not None and layer is not None
        return level, layer

    def export_picture(self) -> None:
        """The level, or the room at hand, as a picture of whole times its px."""
        level, project = self.session.selection.level, self.session.project
        if level is None:
            return
        room = next((r for r in level.rooms if r.id == self.state.room_id), None)
        name = f"{file_name(level.name)}{f'-{file_name(room.name)}' if room else ''}.png"
        path, _kind = QFileDialog.getSaveFileName(self.state.desk, "Export a picture", name, "PNG (*.png)")
        if not path:
            return
        scale, held = QInputDialog.getInt(self.state.desk, "Export a picture", "Times as large", 1, 1, 16)
        if not held:
            return
        left, top, columns, rows = room.area if room is not None else level.bounds
        (cw, ch), pixels_of = level.cell, self.session.stock.pixels_or_blank
        area = (left * cw, top * ch, columns * cw, rows * ch)

        def work(_job: Job) -> str:
            check_size(area[2] * scale, area[3] * scale, f"A picture of {level.name}")
            drawn = level_picture(project, level, pixels_of, area).repeat(scale, 0).repeat(scale, 1)
            write_file(Path(path), png_bytes(drawn))
            return f"{Path(path).name}: {area[2] * scale} × {area[3] * scale} px."

        done = partial(self.session.tell, "told")
        self.session.working.emit(self.session.jobs.start("Exporting a picture", work, done))

    def fill_holes(self) -> None:
        stamp = self.tools.active.ready_stamp()
        ids = self.session.selection.level_id, self.session.selection.layer_id
        if stamp is None:
            return

        def change(project: Project) -> Project:
            return fill_holes(project, *ids, stamp)

        if not self.session.document.edit("Fill the holes", change):
            self.session.tell("told", "Tiles shut in no empty cell on this layer.")
