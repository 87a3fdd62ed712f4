"""Paint: levels from tiles, layer by layer."""

from __future__ import annotations

import time
from typing import TypeVar

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.core.document.edit import remove_level
from rushweed.core.document.model import Level, Project
from rushweed.core.level.brush import rectangle
from rushweed.core.level.caution import Caution, caution
from rushweed.core.level.chunks import region
from rushweed.core.level.layers import add_backdrop
from rushweed.core.level.levels import add_level
from rushweed.core.level.stamp import Stamp
from rushweed.ui.commands.command import Command
from rushweed.ui.desk import rulers
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.controls import Check, IconButton, label, row
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session
from rushweed.ui.stages.paint.card import LevelCard
from rushweed.ui.stages.paint.commands import commands
from rushweed.ui.stages.paint.overlay import PaintOverlay
from rushweed.ui.stages.paint.thing_rows import ThingRows
from rushweed.ui.stages.paint.tools import TOOLS
from rushweed.ui.stages.paint.tools.area import TakeStamp
from rushweed.ui.stages.paint.tools.brush import Brush, Erase
from rushweed.ui.stages.paint.tools.things import Things
from rushweed.ui.stages.paint.tools.tool import How, PaintTool
from rushweed.ui.stages.sheet_stage import ARROWS

AnyTool = TypeVar("AnyTool", bound=PaintTool)


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
        self.overlay = PaintOverlay(self)
        self._seed = 0

    @property
    def active(self) -> PaintTool:
        return next(tool for tool in self.tools if tool.id == self.tool)

    def the(self, kind: type[AnyTool]) -> AnyTool:
        """The tool of a kind."""
        return next(tool for tool in self.tools if isinstance(tool, kind))

    def build(self) -> None:
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
            "Rectangle and fill draw tiles of the stamp by chance; a tile twice in it comes twice as often"
        )
        self.shapes = Check(self.look, self.icons, "Shapes")
        self.edge = Check(self.look, self.icons, "Picture edge")
        self.grid = Check(self.look, self.icons, "Cells")
        self.moving = Check(self.look, self.icons, "Play")
        self.moving.setToolTip("Let the things in the level play and go along their paths")
        self.moving.edited.connect(self.the(Things).run)
        self.shapes.show_value(True)
        self.edge.show_value(True)
        for check in (self.shapes, self.edge, self.grid):
            check.edited.connect(lambda _v: self.desk.update())
        self.option_line.setLayout(
            row(
                label("Stamp"),
                self._stamp_words,
                *buttons,
                4,
                self.scatter,
                self.shapes,
                self.edge,
                self.grid,
                self.moving,
                None,
            )
        )
        self.card: LevelCard = LevelCard(self.look, self.icons, self.session, self.desk.images)
        self.thing_rows = ThingRows(self)
        self.card.add_rows(self.thing_rows)

    # -- showing ---------------------------------------------------------------------------------------

    def refresh(self) -> None:
        if self.session.document.gesturing:
            return
        level, stamp = self.session.selection.level, self.session.selection.stamp
        self.option_line.setEnabled(level is not None)
        self.card.setEnabled(level is not None)
        self._stamp_words.setText(self._stamp_name(stamp))
        self.card.layers.refresh()
        self.show_thing()
        if level is not None:
            self.card.refresh(level, self._ppu(level))

    def show_thing(self) -> None:
        """The numbers of the chosen thing on the card, while things are at hand."""
        self.thing_rows.refresh(self.active.thing)

    def use(self, tool: str) -> None:
        super().use(tool)
        self.show_thing()

    def _stamp_name(self, stamp: Stamp | None) -> str:
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

    def _ppu(self, level: Level) -> float:
        ids = set(level.table)
        for sheet in self.session.project.sheets:
            if any(c.id in ids for c in sheet.cells):
                return sheet.tune.ppu
        return level.cell[0]

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
            "Press the map on the Shelf, or Ctrl+L: a level takes its cell size from the sheet shown.",
        )

    def describe(self, at: DeskEvent) -> str:
        level = self.session.selection.level
        if level is None:
            return ""
        column, line_ = self.cell(at)
        ppu = self._ppu(level)
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
        rulers.even(band, Scale(self._ppu(level), "u"), chosen)

    # -- painting --------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, room: QRectF) -> None:
        self.overlay.paint(painter, room)

    def dirty(self, old: object, new: object) -> QRectF | None:
        assert isinstance(old, Project) and isinstance(new, Project)
        return None if self.active.selects else self.overlay.changed_region(old, new)

    def hover_region(self) -> QRectF | None:
        return self.overlay.pointer_region()

    # -- pointer ---------------------------------------------------------------------------------------

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.CrossCursor

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
        selection, tool = self.session.selection, self.active
        x, y, columns, rows = self.covered()
        spots = rectangle(x, y, x + columns - 1, y + rows - 1)
        self.warned = None
        if tool.warns and selection.level is not None and selection.layer is not None:
            self.warned = caution(selection.level, selection.layer_id, spots, isinstance(tool, Erase))

    def leave(self) -> None:
        self.at = None

    def press(self, at: DeskEvent) -> None:
        """The right button erases and Alt takes, whatever lays the stamp."""
        cell, tool = self.cell(at), self.active
        self.at = cell
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
        if self.held is not None:
            self.held.drag(at)

    def release(self, at: DeskEvent) -> None:
        held, self.held = self.held, None
        if held is not None:
            held.release(at)

    def cancel(self) -> None:
        self.held = None
        for tool in self.tools:
            tool.cancel()
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

    def rearrange(self, how: How) -> None:
        """Mirror, flip or turn what is selected, or the stamp if nothing is."""
        stamp = self.session.selection.stamp
        if not self.active.rearrange(how) and stamp is not None:
            made = {"mirror": stamp.mirrored, "flip": stamp.flipped, "turn": stamp.turned}[how]()
            self.session.selection.choose_stamp(made)

    def new_level(self) -> None:
        """A level with the cell size of the sheet shown, or of the first one that is cut."""
        sheets = [s for s in (self.session.selection.sheet, *self.session.project.sheets) if s and s.cells]
        if not sheets:
            self.session.tell(
                "fault",
                "A level takes its cell size from its tiles, and no sheet is cut yet.",
                "Cut one first.",
            )
            return
        size = (sheets[0].cells[0].rect[2], sheets[0].cells[0].rect[3])
        made = ""

        def change(project: Project) -> Project:
            nonlocal made
            project, made = add_level(project, "level", size)
            return project

        if self.session.document.edit("Make a level", change):
            self.session.selection.choose_level(made)
            self.session.go("paint")

    def remove_level(self) -> None:
        level = self.session.selection.level
        if level is not None:
            self.session.document.edit(f"Remove {level.name}", lambda p: remove_level(p, level.id))

    def backdrop(self) -> None:
        """Put the sheet shown behind the level."""
        level, sheet = self.session.selection.level, self.session.selection.sheet
        if level is None or sheet is None:
            return
        top = float(level.bounds[1] * level.cell[1])
        self.session.document.edit(
            f"Put {sheet.name} behind {level.name}", lambda p: add_backdrop(p, level.id, sheet.id, 0.1, top)
        )

    def commands(self) -> list[Command]:
        return commands(self)
