"""Paint: levels from tiles, layer by layer."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.core.document.model.project import Project
from rushweed.core.level.brush import rectangle
from rushweed.core.level.caution import Caution, caution
from rushweed.core.level.chunks import region
from rushweed.core.level.wide import Selected
from rushweed.core.walk.walkers import units_of
from rushweed.ui.desk import rulers
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.kit.toggles import ToggleButton
from rushweed.ui.session import Session
from rushweed.ui.stages.paint.card import LevelCard
from rushweed.ui.stages.paint.cells_work import CellsWork
from rushweed.ui.stages.paint.edges import LevelEdges
from rushweed.ui.stages.paint.level_work import LevelWork
from rushweed.ui.stages.paint.overlay import PaintOverlay
from rushweed.ui.stages.paint.overview import Overview
from rushweed.ui.stages.paint.room_rows import RoomRows
from rushweed.ui.stages.paint.shown import Shown
from rushweed.ui.stages.paint.since_commit import SinceCommit
from rushweed.ui.stages.paint.stamp_line import StampLine
from rushweed.ui.stages.paint.thing_rows import ThingRows
from rushweed.ui.stages.paint.tools import TOOLS
from rushweed.ui.stages.paint.tools.area import TakeStamp
from rushweed.ui.stages.paint.tools.brush import Brush, Erase
from rushweed.ui.stages.paint.tools.scatter import ScatterThings
from rushweed.ui.stages.paint.tools.things import Things
from rushweed.ui.stages.paint.tools.tool import PaintTool
from rushweed.ui.stages.select_cells import ARROWS


class PaintStage(Stage):
    key, title = "paint", "Paint"
    ruler_unit, strip = "u", "tray"

    def __init__(self, session: Session, look: Look, icons: Icons) -> None:
        super().__init__(session, look, icons)
        self.tools: list[PaintTool] = [tool(self) for tool in TOOLS]
        self.tool = Brush.id
        self.marks = ShapeMarks(self.look)
        self.at: tuple[int, int] | None = None  # cell under the pointer
        self.held: PaintTool | None = None  # the tool whose gesture is under way
        self.warned: Caution | None = None
        self.chosen: Selected | None = None  # cells of the layer in use
        self.every = 1  # cells between the lines of the grid
        self.overlay, self.edges = PaintOverlay(self), LevelEdges(self)

    @property
    def active(self) -> PaintTool:
        tool = super().active
        assert isinstance(tool, PaintTool)
        return tool

    @property
    def things(self) -> Things:
        return self.the(Things)

    @property
    def scattering(self) -> ScatterThings:
        return self.the(ScatterThings)

    def build(self) -> None:
        self.overview, self.changes = Overview(self), SinceCommit(self)
        self.cells_work, self.level_work = CellsWork(self), LevelWork(self)
        self.stamp_line, self.shown = StampLine(self), Shown(self)
        self.show_button = ToggleButton(self.look, "Show", self.shown.all)
        self.option_line.fill(*self.stamp_line.parts, self.show_button, None)
        self.card: LevelCard = LevelCard(self.look, self.icons, self.session, self.desk.images)
        self.thing_rows, self.room_rows = ThingRows(self), RoomRows(self)
        self.card.add_rows(self.thing_rows)
        self.card.add_rows(self.room_rows)

    # -- showing ---------------------------------------------------------------------------------------

    def refresh(self) -> None:
        if self.session.document.gesturing:
            return
        level = self.session.selection.level
        self.option_line.setEnabled(level is not None)
        self.card.setEnabled(level is not None)
        self.stamp_line.refresh()
        self.card.layers.refresh()
        self.shown.fade_others()
        self.show_thing()
        self.overview.refresh()
        if level is not None:
            self.card.refresh(level, units_of(self.session.project, level))
            if self.active.of_rooms:
                self.room_rows.refresh(level)

    def show_thing(self) -> None:
        """The numbers of the chosen thing on the card, while things are at hand."""
        tool = self.active
        self.thing_rows.refresh(self.things.things, tool is self.things, tool.scatters)
        self.thing_rows.setVisible(tool is self.things or tool.scatters)
        level, rooms = self.session.selection.level, self.active.of_rooms
        self.room_rows.setVisible(rooms)
        if rooms and level is not None:
            self.room_rows.refresh(level)

    def use(self, tool: str) -> None:
        """Another tool; what is selected stays for another one that selects."""
        chosen = self.chosen
        super().use(tool)
        if self.active.chooses:
            self.chosen = chosen
        self.show_thing()

    def view_key(self) -> str:
        return self.session.selection.level_id if self.session.selection.level else ""

    def content(self) -> QRectF:
        level = self.session.selection.level
        if level is None:
            return super().content()
        x, y, columns, rows = level.bounds
        cw, ch = level.cell
        return QRectF(x * cw, y * ch, columns * cw, rows * ch)

    def empty_words(self) -> tuple[str, str]:
        return (
            "No level yet",
            "Press + beside Levels, or Ctrl+L: a level takes its cell size from the sheet shown.",
        )

    def describe(self, at: DeskEvent) -> str:
        level = self.session.selection.level
        if level is None:
            return ""
        column, line_ = self.cell(at)
        ppu = units_of(self.session.project, level)
        text = f"column {column}, row {line_}   {int(at.x // 1)}, {int(at.y // 1)} px"
        text += f"   {at.x / ppu:.2f}, {at.y / ppu:.2f} u"
        layer = self.session.selection.layer
        value = int(region(layer.tiles, column, line_, 1, 1)[0, 0]) if layer else 0
        if value and (value >> 3) <= len(level.table):
            found = self.session.cells_by_id.get(level.table[(value >> 3) - 1])
            text += f"   {found[1].name if found else 'gone'}"
        return text

    def ruler(self, band: Band) -> None:
        level = self.session.selection.level
        if level is None:
            return
        chosen = None
        if self.at is not None:
            side = level.cell[band.axis]
            chosen = (self.at[band.axis] * side, (self.at[band.axis] + 1) * side)
        rulers.even(band, Scale(units_of(self.session.project, level), "u"), chosen)

    # -- painting --------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, room: QRectF) -> None:
        self.overlay.paint(painter, room)

    def dirty(self, old: object, new: object) -> QRectF | None:
        assert isinstance(old, Project) and isinstance(new, Project)
        return None if self.active.selects else self.overlay.changed_region(old, new)

    def hover_region(self) -> QRectF | None:
        return self.overlay.pointer_region()

    # -- pointer ---------------------------------------------------------------------------------------

    def cell(self, at: DeskEvent) -> tuple[int, int]:
        """The column and row under the pointer."""
        level = self.session.selection.level
        assert level is not None
        return int(at.x // level.cell[0]), int(at.y // level.cell[1])

    def covered(self) -> tuple[int, int, int, int]:
        """The cells that the gesture or the stamp covers: left, top, columns, rows."""
        assert self.at is not None
        return (self.held or self.active).covered(self.at)

    def hover(self, at: DeskEvent) -> None:
        self.at = self.cell(at)
        self.session.aimed = (float(round(at.x)), float(round(at.y)))
        selection, tool = self.session.selection, self.active
        tool.hovered(at)
        if tool.chooses:
            self.desk.setCursor(self.edges.cursor(at.screen) or self.cursor())
        x, y, columns, rows = self.covered()
        spots = rectangle(x, y, x + columns - 1, y + rows - 1)
        self.warned = None
        if tool.warns and selection.level is not None and selection.layer is not None:
            self.warned = caution(selection.level, selection.layer_id, spots, isinstance(tool, Erase))

    def leave(self) -> None:
        self.at = self.session.aimed = None

    def press(self, at: DeskEvent) -> None:
        """The right button erases and Alt takes, whatever lays the stamp."""
        tool = self.active
        if tool.paints and not at.right and not at.alt:
            tool.take_cell_size()
        self.at = cell = self.cell(at)
        if tool.chooses and self.edges.press(at):
            return
        self.stamp_line.draw_anew()
        if tool.paints and at.right:
            tool = self.the(Erase)
        elif tool.paints and at.alt:
            self.the(TakeStamp).take(cell, cell)
            return
        self.held = tool
        tool.press(at)

    def drag(self, at: DeskEvent) -> None:
        self.at = self.cell(at)
        if self.edges.held is not None:
            self.edges.drag(at)
        elif self.held is not None:
            self.held.drag(at)

    def release(self, at: DeskEvent) -> None:
        held, self.held = self.held, None
        if self.edges.held is not None:
            self.edges.release()
        elif held is not None:
            held.release(at)

    def cancel(self) -> None:
        self.held = None
        self.edges.cancel()
        super().cancel()

    def key_pressed(self, event: QKeyEvent) -> bool:
        step, level = ARROWS.get(Qt.Key(event.key())), self.session.selection.level
        if step is None or level is None:
            return False
        if not self.active.step(*step):
            zoom = self.desk.view.zoom
            self.desk.view.pan(-step[0] * level.cell[0] * zoom, -step[1] * level.cell[1] * zoom)
        self.desk.update()
        return True
