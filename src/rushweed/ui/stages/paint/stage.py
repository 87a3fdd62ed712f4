"""Paint: levels from tiles, layer by layer."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.core.document.model.project import Project
from rushweed.core.level.brush import rectangle
from rushweed.core.level.caution import caution
from rushweed.core.level.chunks import region
from rushweed.core.walk.walkers import units_of
from rushweed.ui.desk import rulers
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.toggles import ToggleButton
from rushweed.ui.stages.paint.card import LevelCard
from rushweed.ui.stages.paint.cells_work import CellsWork
from rushweed.ui.stages.paint.edges import LevelEdges
from rushweed.ui.stages.paint.level_work import LevelWork
from rushweed.ui.stages.paint.overlay import PaintOverlay
from rushweed.ui.stages.paint.overview import Overview
from rushweed.ui.stages.paint.room_rows import RoomRows
from rushweed.ui.stages.paint.since_commit import SinceCommit
from rushweed.ui.stages.paint.stamp_line import How
from rushweed.ui.stages.paint.state import PaintState
from rushweed.ui.stages.paint.thing_rows import ThingRows
from rushweed.ui.stages.paint.tools.area import TakeStamp
from rushweed.ui.stages.paint.tools.brush import Brush, Erase
from rushweed.ui.stages.paint.tools.scatter import ScatterThings
from rushweed.ui.stages.paint.tools.things import Things
from rushweed.ui.stages.paint.tools.tool import PaintTool
from rushweed.ui.stages.paint.tools.toolbox import Toolbox
from rushweed.ui.stages.select_cells import ARROWS


class PaintStage(Stage):
    key, title = "paint", "Paint"
    ruler_unit, strip = "u", "tray"

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self.state = state = PaintState(context)
        self.toolbox = Toolbox(state)
        self.tools, self.tool = self.toolbox.all, Brush.id
        state.tool_id = self.tool
        self.things = self.toolbox.the(Things)
        self.overview, self.changes, self.edges = Overview(state), SinceCommit(state), LevelEdges(state)
        self.overlay = PaintOverlay(state, self.toolbox, self.changes, self.edges)
        self.card: LevelCard = LevelCard(self.look, self.icons, self.session, self.desk.images)
        self.thing_rows = ThingRows(context, self.things, self.toolbox.the(ScatterThings))
        self.room_rows = RoomRows(state)
        self.card.add_rows(self.thing_rows)
        self.card.add_rows(self.room_rows)
        self.cells_work = CellsWork(state, self.toolbox)
        self.level_work = LevelWork(state, self.room_rows)
        self.card.new_level.clicked.connect(self.level_work.new_level)
        self.show_button = ToggleButton(self.look, "Show", state.shown.all)
        self.option_line.fill(*state.stamp_line.parts, self.show_button, None)
        self._connect()

    def _connect(self) -> None:
        state, shown = self.state, self.state.shown
        state.tool_wanted.connect(self.use)
        state.layer_wanted.connect(self.card.layers.show_layer)
        state.chosen_changed.connect(self.show_thing)
        state.stamp_line.pressed.connect(self.rearrange)
        shown.moving.edited.connect(self.things.run)
        shown.small.edited.connect(self.overview.setVisible)
        shown.since.edited.connect(self.changes.switch)

    @property
    def active(self) -> PaintTool:
        tool = super().active
        assert isinstance(tool, PaintTool)
        return tool

    # -- showing ---------------------------------------------------------------------------------------

    def refresh(self) -> None:
        if self.session.document.gesturing:
            return
        level = self.session.selection.level
        self.option_line.setEnabled(level is not None)
        self.card.refresh(self.session.project, level)
        self.state.stamp_line.refresh(self.active.auto_set())
        self.state.shown.fade_others()
        self.show_thing()
        self.overview.refresh()

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
        chosen = self.state.chosen
        super().use(tool)
        self.state.tool_id = tool
        if self.active.chooses:
            self.state.chosen = chosen
        self.show_thing()

    def view_key(self) -> str:
        return self.session.selection.level_id if self.session.selection.level else ""

    def content(self) -> QRectF:
        return self.state.content()

    def empty_words(self) -> tuple[str, str]:
        return (
            "No level yet",
            "Press + beside Levels, or Ctrl+L: a level takes its cell size from the sheet shown.",
        )

    def describe(self, at: DeskEvent) -> str:
        level = self.session.selection.level
        if level is None:
            return ""
        column, line_ = self.state.cell(at)
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
        if self.state.at is not None:
            side = level.cell[band.axis]
            chosen = (self.state.at[band.axis] * side, (self.state.at[band.axis] + 1) * side)
        rulers.even(band, Scale(units_of(self.session.project, level), "u"), chosen)

    # -- painting --------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, room: QRectF) -> None:
        self.overlay.paint(painter, room)

    @property
    def unfinished(self) -> bool:
        return self.overlay.unfinished

    def dirty(self, old: object, new: object) -> QRectF | None:
        assert isinstance(old, Project) and isinstance(new, Project)
        return None if self.active.selects else self.overlay.changed_region(old, new)

    def hover_region(self) -> QRectF | None:
        return self.overlay.pointer_region()

    def rearrange(self, how: How) -> None:
        """Mirror, flip or turn what is selected, or the stamp if nothing is."""
        if not self.active.rearrange(how):
            self.state.stamp_line.rearrange(how)

    # -- pointer ---------------------------------------------------------------------------------------

    def hover(self, at: DeskEvent) -> None:
        self.state.at = self.state.cell(at)
        self.session.aimed = (float(round(at.x)), float(round(at.y)))
        selection, tool = self.session.selection, self.active
        tool.hovered(at)
        if tool.chooses:
            self.desk.setCursor(self.edges.cursor(at.screen) or self.cursor())
        x, y, columns, rows = self.toolbox.covered()
        spots = rectangle(x, y, x + columns - 1, y + rows - 1)
        self.state.warned = None
        if tool.warns and selection.level is not None and selection.layer is not None:
            self.state.warned = caution(selection.level, selection.layer_id, spots, isinstance(tool, Erase))

    def leave(self) -> None:
        self.state.at = self.session.aimed = None

    def press(self, at: DeskEvent) -> None:
        """The right button erases and Alt takes, whatever lays the stamp."""
        tool = self.active
        if tool.paints and not at.right and not at.alt:
            tool.take_cell_size()
        self.state.at = cell = self.state.cell(at)
        if tool.chooses and self.edges.press(at):
            return
        self.state.stamp_line.draw_anew()
        if tool.paints and at.right:
            tool = self.toolbox.the(Erase)
        elif tool.paints and at.alt:
            self.toolbox.the(TakeStamp).take(cell, cell)
            return
        self.toolbox.held = tool
        tool.press(at)

    def drag(self, at: DeskEvent) -> None:
        self.state.at = self.state.cell(at)
        if self.edges.held is not None:
            self.edges.drag(at)
        elif self.toolbox.held is not None:
            self.toolbox.held.drag(at)

    def release(self, at: DeskEvent) -> None:
        box = self.toolbox
        held, box.held = box.held, None
        if self.edges.held is not None:
            self.edges.release()
        elif held is not None:
            held.release(at)

    def cancel(self) -> None:
        self.toolbox.held = None
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
