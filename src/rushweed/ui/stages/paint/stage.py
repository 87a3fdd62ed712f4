"""Paint: levels from tiles, layer by layer."""

from __future__ import annotations

import time

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import KeptStamp, Level
from rushweed.core.document.model.project import Project
from rushweed.core.level.brush import rectangle
from rushweed.core.level.caution import Caution, caution
from rushweed.core.level.chunks import region
from rushweed.core.level.kept import area_stamp, as_stamp, size_of
from rushweed.core.level.stamp import Stamp
from rushweed.core.level.wide import Selected, middle_of
from rushweed.core.walk.walkers import units_of
from rushweed.ui.desk import rulers
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Check, IconButton, label
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look
from rushweed.ui.kit.toggles import Toggle, ToggleButton
from rushweed.ui.session import Session
from rushweed.ui.stages.paint.card import LevelCard
from rushweed.ui.stages.paint.cells_work import CellsWork
from rushweed.ui.stages.paint.edges import LevelEdges
from rushweed.ui.stages.paint.level_work import LevelWork
from rushweed.ui.stages.paint.overlay import PaintOverlay
from rushweed.ui.stages.paint.overview import Overview
from rushweed.ui.stages.paint.room_rows import RoomRows
from rushweed.ui.stages.paint.since_commit import SinceCommit
from rushweed.ui.stages.paint.thing_rows import ThingRows
from rushweed.ui.stages.paint.tools import TOOLS
from rushweed.ui.stages.paint.tools.area import TakeStamp
from rushweed.ui.stages.paint.tools.brush import Brush, Erase
from rushweed.ui.stages.paint.tools.scatter import ScatterThings
from rushweed.ui.stages.paint.tools.things import Things
from rushweed.ui.stages.paint.tools.tool import How, PaintTool
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
        self.room_id = ""
        self.every = 1  # cells between the lines of the grid
        self.overlay, self.edges = PaintOverlay(self), LevelEdges(self)
        self._seed = 0

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
        self._stamp_words = label("", "value")
        buttons = []
        for glyph, tip, call in (
            ("arrows-left-right", "Mirror the stamp or the area  (M)", lambda: self.rearrange("mirror")),
            ("arrows-down-up", "Flip vertically  (Shift+M)", lambda: self.rearrange("flip")),
            ("arrow-clockwise", "Turn a quarter  (U)", lambda: self.rearrange("turn")),
        ):
            made = IconButton(self.look, self.icons, glyph, tip, framed=True)
            made.pressed.connect(call)
            buttons.append(made)
        self.scatter = Check(self.look, self.icons, "Scatter")
        self.scatter.setToolTip(
            "Every brush draws tiles of the stamp by chance; a tile twice in it comes twice as often"
        )
        self.symmetry = ChoiceRow(
            self.look, [("none", "Once"), ("across", "Across"), ("down", "Down"), ("both", "Four")]
        )
        self.symmetry.setToolTip(
            "Paint once, mirrored across, mirrored down, or all four; at the level's middle"
        )
        self.symmetry.edited.connect(lambda _v: self.desk.update())
        self._make_toggles()
        self.show_button = ToggleButton(self.look, "Show", self.toggles)
        self.option_line.fill(label("Stamp"), self._stamp_words, *buttons, 4, self.scatter, self.symmetry,
                self.show_button, None)  # fmt: skip
        self.card: LevelCard = LevelCard(self.look, self.icons, self.session, self.desk.images)
        self.thing_rows, self.room_rows = ThingRows(self), RoomRows(self)
        self.card.add_rows(self.thing_rows)
        self.card.add_rows(self.room_rows)

    def _make_toggles(self) -> None:
        self.shapes = Toggle("Shapes of tiles", True, "H")
        self.merged = Toggle(
            "Outline of the level", False, "Shift+H", "All solid shapes as one, with its corners"
        )
        self.edge = Toggle("Picture edge", True)
        self.grid = Toggle("Cells", False, "C")
        self.rooms = Toggle("Rooms", True)
        self.fade = Toggle(
            "Other layers faded", False, "J", "While you paint, only the layer in use is strong"
        )
        self.moving = Toggle("Play", False, "", "Let things and tiles play and go along their paths")
        self.small = Toggle("Overview", False, "Shift+O", "The whole level small; drag in it to go elsewhere")
        self.walked = Toggle("Path walked last", True, "", "Where the walker went in Walk")
        self.since = Toggle(
            "Changes since the last commit", False, "", "Cells that differ from what git holds"
        )
        self.toggles = (
            self.shapes, self.merged, self.edge, self.grid, self.rooms, self.fade, self.moving, self.small,
            self.walked, self.since,
        )  # fmt: skip
        self.moving.edited.connect(self.the(Things).run)
        self.fade.edited.connect(lambda _on: self._show_faded())
        self.small.edited.connect(self.overview.setVisible)
        self.since.edited.connect(self.changes.switch)
        for toggle in (self.shapes, self.merged, self.edge, self.grid, self.rooms, self.walked):
            toggle.edited.connect(lambda _on: self.desk.update())

    def _show_faded(self) -> None:
        self.desk.level_painter.alone = self.session.selection.layer_id if self.fade.on else ""
        self.desk.update()

    # -- showing ---------------------------------------------------------------------------------------

    def refresh(self) -> None:
        if self.session.document.gesturing:
            return
        level, stamp = self.session.selection.level, self.session.selection.stamp
        self.option_line.setEnabled(level is not None)
        self.card.setEnabled(level is not None)
        self._stamp_words.setText(self._stamp_name(stamp))
        self.card.layers.refresh()
        self._show_faded()
        self.show_thing()
        self.overview.refresh()
        if level is not None:
            self.card.refresh(level, self.ppu(level))
            if self.active.of_rooms:
                self.room_rows.refresh(level, self.room_id)

    def show_thing(self) -> None:
        """The numbers of the chosen thing on the card, while things are at hand."""
        tool = self.active
        self.thing_rows.refresh(self.things.things, tool is self.things, tool.scatters)
        self.thing_rows.setVisible(tool is self.things or tool.scatters)
        level, rooms = self.session.selection.level, self.active.of_rooms
        self.room_rows.setVisible(rooms)
        if rooms and level is not None:
            self.room_rows.refresh(level, self.room_id)

    def use(self, tool: str) -> None:
        """Another tool; what is selected stays for another one that selects."""
        chosen = self.chosen
        super().use(tool)
        if self.active.chooses:
            self.chosen = chosen
        self.show_thing()

    def choose_room(self, room_id: str) -> None:
        self.room_id = room_id
        self.show_thing()
        self.desk.update()

    def go_to_room(self, room_id: str) -> None:
        """Choose a room and look at it."""
        level = self.session.selection.level
        room = next((r for r in level.rooms if r.id == room_id), None) if level else None
        if room is not None and level is not None:
            (x, y, columns, rows), (cw, ch) = room.area, level.cell
            self.desk.view.fit(QRectF(x * cw, y * ch, columns * cw, rows * ch), self.desk.room)
            self.desk.update()
            self.choose_room(room_id)

    def _stamp_name(self, stamp: Stamp | None) -> str:
        whole = self.session.selection.whole_stamp
        if whole is not None:
            columns, rows = size_of(whole)
            return f"{whole.name}  {columns} × {rows}, {many(len(whole.parts), 'layer')}"
        if stamp is None or not stamp.cells:
            return "none: press a tile below"
        auto = self.active.auto_set()
        if auto is not None:
            return f"{auto.name}, joining"
        known = self.session.cells_by_id
        first = known.get(stamp.cells[0])
        name = first[1].name if first else "gone"
        columns, rows = stamp.size
        return name if (columns, rows) == (1, 1) else f"{name} …  {columns} × {rows}"

    def ppu(self, level: Level) -> float:
        return units_of(self.session.project, level)

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
        ppu = self.ppu(level)
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
        rulers.even(band, Scale(self.ppu(level), "u"), chosen)

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
        self._seed = int(time.monotonic() * 1000) & 0xFFFF
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

    # -- editing ---------------------------------------------------------------------------------------

    def chance(self) -> int | None:
        """The seed by which tiles are drawn from the stamp, while they are scattered."""
        return self._seed if self.scatter.on else None

    def axes(self) -> tuple[int, int]:
        """Where symmetry mirrors: the middle of the level."""
        level = self.session.selection.level
        return middle_of(level.bounds) if level is not None else (0, 0)

    def take_all_layers(self, area: tuple[int, int, int, int]) -> bool:
        """Make a stamp of an area on all layers that are shown; whether there is anything."""
        level = self.session.selection.level
        assert level is not None
        layers = tuple(layer.id for layer in level.layers if layer.shown)
        try:
            made = area_stamp(self.session.project, level.id, area, layers, "taken")
        except RushweedError as error:
            self.session.tell("told", error.problem, error.cure)
            return False
        self.use_stamp(made)
        return True

    def use_stamp(self, stamp: KeptStamp) -> None:
        """Take a kept or copied stamp in hand."""
        plain = as_stamp(stamp)
        if plain is not None:
            self.session.selection.choose_stamp(plain)
        else:
            self.session.selection.choose_whole(stamp)

    def rearrange(self, how: How) -> None:
        """Mirror, flip or turn what is selected, or the stamp if nothing is."""
        stamp = self.session.selection.stamp
        if not self.active.rearrange(how) and stamp is not None:
            made = {"mirror": stamp.mirrored, "flip": stamp.flipped, "turn": stamp.turned}[how]()
            self.session.selection.choose_stamp(made)
