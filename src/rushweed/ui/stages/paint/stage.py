"""Paint: levels from tiles, layer by layer."""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.core.document.edit import remove_level
from rushweed.core.document.model import AutoSet, Level, Project
from rushweed.core.level.autopaint import paint_auto
from rushweed.core.level.brush import Spots, line, rectangle
from rushweed.core.level.chunks import region
from rushweed.core.level.edit import (
    add_backdrop,
    add_level,
    erase,
    fill,
    fill_spots,
    move_region,
    paint,
    paint_pattern,
    rearrange_region,
    set_start,
    take,
)
from rushweed.core.level.layers import Caution, caution
from rushweed.core.level.stamp import Stamp, from_level
from rushweed.ui.commands.command import Command
from rushweed.ui.desk import rulers
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.desk.stage import Stage, Tool
from rushweed.ui.kit.controls import Check, IconButton, label, row
from rushweed.ui.session.gesture import Gesture
from rushweed.ui.stages.paint.card import LevelCard
from rushweed.ui.stages.paint.commands import commands
from rushweed.ui.stages.paint.overlay import DRAGGED, PaintOverlay
from rushweed.ui.stages.paint.thing_rows import ThingRows
from rushweed.ui.stages.paint.things import Things
from rushweed.ui.stages.sheet_stage import ARROWS

BRUSHES = ("brush", "line", "box", "fill", "swap")


class PaintStage(Stage):
    key, title = "paint", "Paint"
    ruler_unit, strip = "u", "tray"
    tools = (
        Tool(
            "point", "Select an area", "selection", "V", "Drag an area; drag inside it to move, Ctrl copies"
        ),
        Tool("brush", "Brush", "paint-brush", "B", "Paint the stamp; Alt takes what is under the pointer", 1),
        Tool("line", "Line", "line-segment", "L", "Drag a line of the stamp", 1),
        Tool("box", "Rectangle", "rectangle", "R", "Drag a rectangle; Shift paints only its outline", 1),
        Tool("fill", "Fill", "paint-bucket", "F", "Fill joined cells that hold the same", 1),
        Tool("swap", "Replace", "swap", "X", "Replace all cells of the layer that hold the same", 1),
        Tool("erase", "Erase", "eraser", "E", "Erase cells; the right button erases with any brush", 1),
        Tool("take", "Take a stamp", "eyedropper", "K", "Drag over the level to make a stamp of it", 2),
        Tool(
            "thing",
            "Things",
            "push-pin",
            "N",
            "Press to place the stamp's tile or the animation; drag it, or the diamond it moves to",
            2,
        ),
        Tool("start", "Start", "flag", "T", "Press where the player starts", 2),
    )

    def __init__(self, *parts: object) -> None:
        super().__init__(*parts)  # type: ignore[arg-type]
        self.tool = "brush"
        self.marks = ShapeMarks(self.look)
        self.began: tuple[int, int] | None = None  # cell where the press began
        self._last: tuple[int, int] = (0, 0)
        self.at: tuple[int, int] | None = None  # cell under the pointer
        self.erasing = False
        self._seed = 0
        self._gesture: Gesture | None = None
        self._trail: list[Spots] = []  # the cells that the stroke went over
        self.area: tuple[int, int, int, int] | None = None  # selected, in cells
        self._moving = False
        self.warned: Caution | None = None
        self.overlay = PaintOverlay(self)
        self.things = Things(self)

    def build(self) -> None:
        self._stamp_words = label("", "value")
        buttons = []
        for glyph, tip, call in (
            ("arrows-left-right", "Mirror the stamp or the area  (M)", lambda: self.rearrange("mirror")),
            ("arrows-down-up", "Exchange top and bottom  (Shift+M)", lambda: self.rearrange("flip")),
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
        self.moving = Check(self.look, self.icons, "Move")
        self.moving.setToolTip("Let the things in the level play and go along their paths")
        self.moving.edited.connect(self.things.run)
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
        self.thing_rows.refresh(self.things.thing if self.tool == "thing" else None)

    def use(self, tool: str) -> None:
        super().use(tool)
        self.show_thing()

    def _stamp_name(self, stamp: Stamp | None) -> str:
        if stamp is None or not stamp.cells:
            return "none: press a tile below"
        auto = self._auto()
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
        column, line_ = self._cell(at)
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

    def reach(self) -> tuple[int, int, int, int]:
        """The cells that the gesture or the stamp covers: left, top, columns, rows."""
        assert self.at is not None
        if self.began is not None and self.tool in DRAGGED:
            (x0, y0), (x1, y1) = self.began, self.at
            return min(x0, x1), min(y0, y1), abs(x1 - x0) + 1, abs(y1 - y0) + 1
        if self.tool == "brush" and self.session.selection.stamp is not None:
            return (*self.at, *self.session.selection.stamp.size)
        return (*self.at, 1, 1)

    def dirty(self, old: object, new: object) -> QRectF | None:
        assert isinstance(old, Project) and isinstance(new, Project)
        return None if self.area is not None else self.overlay.changed_region(old, new)

    def hover_region(self) -> QRectF | None:
        return self.overlay.pointer_region()

    # -- pointer ---------------------------------------------------------------------------------------

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.CrossCursor

    def _cell(self, at: DeskEvent) -> tuple[int, int]:
        level = self.session.selection.level
        assert level is not None
        return int(at.x // level.cell[0]), int(at.y // level.cell[1])

    def hover(self, at: DeskEvent) -> None:
        self.at = self._cell(at)
        level = self.session.selection.level
        paints = (
            level is not None
            and self.session.selection.layer is not None
            and self.tool in (*BRUSHES, "erase")
        )
        x, y, columns, rows = self.reach()
        spots = rectangle(x, y, x + columns - 1, y + rows - 1)
        self.warned = (
            caution(level, self.session.selection.layer_id, spots, self.tool == "erase")
            if paints and level is not None else None
        )  # fmt: skip

    def leave(self) -> None:
        self.at = None

    def press(self, at: DeskEvent) -> None:
        cell = self._cell(at)
        self.began = self._last = self.at = cell
        self._gesture, self._trail = None, []
        self.erasing = self.tool == "erase" or (at.right and self.tool in BRUSHES)
        self._seed = int(time.monotonic() * 1000) & 0xFFFF
        if self.tool == "start":
            self._place_start(at)
        elif self.tool == "thing":
            self.things.press(at)
        elif self.tool == "point":
            self._moving = self.area is not None and _inside(self.area, cell)
            if not self._moving:
                self.area = None
        elif self.tool in BRUSHES and at.alt and not at.right:
            self._take(cell, cell)
            self.began = None
        elif self.erasing or self.tool == "brush":
            self._stroke(cell)
        elif self.tool in ("fill", "swap"):
            self._fill(cell, self.tool == "swap")
            self.began = None

    def drag(self, at: DeskEvent) -> None:
        cell = self._cell(at)
        self.at = cell
        if self.began is None:
            return
        if self.tool == "start":
            self._place_start(at)
        elif self.tool == "thing":
            self.things.drag(at)
        elif self.tool == "point" and self._moving and self.area is not None:
            dx, dy = cell[0] - self.began[0], cell[1] - self.began[1]
            area, ids = self.area, self._ids()
            self.session.document.preview(lambda p: move_region(p, *ids, area, dx, dy, at.ctrl))
        elif (self.tool == "brush" or self.erasing) and cell != self._last:
            self._stroke(cell)

    def release(self, at: DeskEvent) -> None:
        start, cell = self.began, self._cell(at)
        self.began = None
        if start is None:
            return
        if self.tool == "point":
            self._end_area(start, cell, at.ctrl)
        elif self.tool == "thing":
            self.things.release(at)
        elif self.tool == "start":
            self._commit("Move the start")
        elif self.tool == "take":
            self._take(start, cell)
        elif self.erasing or self.tool == "brush":
            words = "Erase" if self.erasing else "Paint"
            self._commit(f"{words} on {self._layer_name()}")
            if self._trail:
                xs, ys = zip(*self._trail, strict=True)
                self._caution((np.concatenate(xs), np.concatenate(ys)))
        elif self.tool == "line":
            self._draw_line(start, cell)
        elif self.tool == "box":
            self._draw_box(start, cell, at.shift)
        self.erasing = False

    def _commit(self, label: str) -> None:
        if self._gesture is not None:
            self._gesture.commit(label)
        self._gesture = None

    def _caution(self, spots: Spots) -> None:
        """Say, after the fact too, that the tiles are on another layer or that this one is hidden."""
        session, level, layer = self.session, self.session.selection.level, self.session.selection.layer
        found = caution(level, session.selection.layer_id, spots, self.erasing) if level is not None else None
        if found is None or layer is None:
            return
        if not layer.shown:
            answer = f"Show {layer.name}", lambda: self.card.layers.show_layer(layer.id)
        else:
            answer = f"Go to {found.layer.name}", lambda: session.selection.choose_layer(found.layer.id)
        session.ask(found.text(layer.name), [answer], lambda: None)

    def cancel(self) -> None:
        self.began, self._moving, self.area, self._gesture = None, False, None, None
        super().cancel()

    def key_pressed(self, event: QKeyEvent) -> bool:
        step = ARROWS.get(Qt.Key(event.key()))
        level = self.session.selection.level
        if step is None or level is None:
            return False
        if self.tool == "thing" and self.things.nudge(*step):
            return True
        if self.area is not None:
            area, ids = self.area, self._ids()
            if self.session.document.edit("Move an area", lambda p: move_region(p, *ids, area, *step)):
                self.area = (area[0] + step[0], area[1] + step[1], area[2], area[3])
        else:
            self.desk.view.pan(
                -step[0] * level.cell[0] * self.desk.view.zoom, -step[1] * level.cell[1] * self.desk.view.zoom
            )
        self.desk.update()
        return True

    # -- editing ---------------------------------------------------------------------------------------

    def _ids(self) -> tuple[str, str]:
        return self.session.selection.level_id, self.session.selection.layer_id

    def _layer_name(self) -> str:
        return self.session.selection.layer.name if self.session.selection.layer else "the layer"

    def _ready(self) -> Stamp | None:
        stamp = self.session.selection.stamp
        if stamp is None or not stamp.cells:
            self.session.tell("fault", "There is no stamp to paint with.", "Press a tile in the Tray below.")
            return None
        return stamp

    def _stroke(self, cell: tuple[int, int]) -> None:
        """Carry the stroke on to a cell: only the new cells are painted, onto the stroke so far."""
        spots, ids = line(*self._last, *cell), self._ids()
        self._last = cell
        auto, stamp = self._auto(), None if self.erasing else self._ready()
        if stamp is None and not self.erasing or self.began is None:
            return
        self._gesture = self._gesture or self.session.document.gesture("Erase" if self.erasing else "Paint")
        if auto is not None:
            on, empty = not self.erasing, self.tool == "erase"

            def joined(project: Project) -> Project:
                made = paint_auto(project, *ids, auto, spots, on)
                return erase(made, *ids, spots) if empty else made

            self._trail.append(spots)
            self._gesture.update(joined)
        elif stamp is None:
            self._trail.append(spots)
            self._gesture.update(lambda p: erase(p, *ids, spots))
        else:
            places = self._on_pattern(spots, stamp)
            self._trail.append(stamp.footprint(places))
            self._gesture.update(lambda p: paint(p, *ids, stamp, places))

    def _on_pattern(self, spots: Spots, stamp: Stamp) -> Spots:
        """Spots of a large stamp, so that its repeats along a stroke do not overlap."""
        assert self.began is not None
        columns, rows = stamp.size
        if columns == rows == 1:
            return spots
        xs = self.began[0] + (spots[0] - self.began[0]) // columns * columns
        ys = self.began[1] + (spots[1] - self.began[1]) // rows * rows
        pairs = np.unique(np.stack((xs, ys)), axis=1)
        return pairs[0], pairs[1]

    def _draw_line(self, start: tuple[int, int], end: tuple[int, int]) -> None:
        stamp, auto = self._ready(), self._auto()
        if stamp is not None:
            self.began = start
            spots = self._on_pattern(line(*start, *end), stamp)
            self.began = None
            self.session.document.edit(
                f"Draw a line on {self._layer_name()}",
                lambda p: paint_auto(p, *self._ids(), auto, spots) if auto
                else paint(p, *self._ids(), stamp, spots),
            )  # fmt: skip
            self._caution(spots)

    def _draw_box(self, start: tuple[int, int], end: tuple[int, int], outline: bool) -> None:
        stamp, auto = self._ready(), self._auto()
        if stamp is not None:
            spots = rectangle(*start, *end, outline)
            self.session.document.edit(
                f"Draw a rectangle on {self._layer_name()}",
                lambda p: paint_auto(p, *self._ids(), auto, spots) if auto
                else paint_pattern(p, *self._ids(), stamp, spots, self._chance()),
            )  # fmt: skip
            self._caution(spots)

    def _fill(self, cell: tuple[int, int], everywhere: bool) -> None:
        erasing, auto = self.erasing, self._auto()
        stamp = None if erasing else self._ready()
        if stamp is None and not erasing:
            return

        def change(project: Project) -> Project:
            if auto is not None:
                spots = fill_spots(project, *self._ids(), *cell, everywhere)
                return paint_auto(project, *self._ids(), auto, spots, not erasing)
            return fill(project, *self._ids(), stamp, *cell, everywhere, self._chance())

        words = "Replace" if everywhere else "Fill"
        self.session.document.edit(f"{words} on {self._layer_name()}", change)
        self._caution((np.array([cell[0]]), np.array([cell[1]])))
        self.erasing = False

    def _auto(self) -> AutoSet | None:
        """The auto-tile set that the stamp stands for, if it does."""
        wanted = self.session.selection.auto_id
        return next((s for s in self.session.project.autosets if s.id == wanted), None) if wanted else None

    def _chance(self) -> int | None:
        return self._seed if self.scatter.on else None

    def _take(self, start: tuple[int, int], end: tuple[int, int]) -> None:
        level = self.session.selection.level
        if level is None:
            return
        left, top = min(start[0], end[0]), min(start[1], end[1])
        size = (abs(end[0] - start[0]) + 1, abs(end[1] - start[1]) + 1)
        stamp = from_level(level.table, take(self.session.project, *self._ids(), left, top, *size))
        if not stamp.cells:
            self.session.tell(
                "told", f"There is nothing on {self._layer_name()} there.", "Choose another layer or place."
            )
            return
        self.session.selection.choose_stamp(stamp)
        if self.tool == "take":
            self.use("brush")

    def _end_area(self, start: tuple[int, int], end: tuple[int, int], copy: bool) -> None:
        if self._moving and self.area is not None:
            self._moving = False
            dx, dy, area, ids = end[0] - start[0], end[1] - start[1], self.area, self._ids()
            if dx or dy:
                words = "Copy an area" if copy else "Move an area"
                self.session.document.edit(words, lambda p: move_region(p, *ids, area, dx, dy, copy))
                self.area = (area[0] + dx, area[1] + dy, area[2], area[3])
            return
        x, y = min(start[0], end[0]), min(start[1], end[1])
        self.area = (x, y, abs(end[0] - start[0]) + 1, abs(end[1] - start[1]) + 1)

    def _place_start(self, at: DeskEvent) -> None:
        level = self.session.selection.level
        if level is not None:
            x = round(at.x)
            y = round(at.y / level.cell[1]) * level.cell[1] if level.view == "side" else round(at.y)
            self._gesture = self._gesture or self.session.document.gesture("Move the start")
            self._gesture.replace(lambda p: set_start(p, level.id, x, y))

    def rearrange(self, how: str) -> None:
        """Mirror or turn the selected area, or the stamp if no area is selected."""
        if self.tool == "thing" and self.things.thing is not None:
            if how == "mirror":
                self.things.mirror()
        elif self.area is not None:
            area, ids, made = self.area, self._ids(), self.area

            def change(project: Project) -> Project:
                nonlocal made
                project, made = rearrange_region(project, *ids, area, how)  # type: ignore[arg-type]
                return project

            if self.session.document.edit(f"{how.capitalize()} an area", change):
                self.area = made
                self.desk.update()
        elif self.session.selection.stamp is not None:
            stamp = self.session.selection.stamp
            made_stamp = {"mirror": stamp.mirrored, "flip": stamp.flipped, "turn": stamp.turned}[how]()
            self.session.selection.choose_stamp(made_stamp)

    def erase_area(self) -> None:
        if self.tool == "thing":
            self.things.remove()
        elif self.area is not None:
            x, y, columns, rows = self.area
            spots = rectangle(x, y, x + columns - 1, y + rows - 1)
            self.session.document.edit(
                f"Erase an area of {self._layer_name()}", lambda p: erase(p, *self._ids(), spots)
            )

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


def _inside(area: tuple[int, int, int, int], cell: tuple[int, int]) -> bool:
    x, y, columns, rows = area
    return x <= cell[0] < x + columns and y <= cell[1] < y + rows
