"""Ship: what goes out by each way, as it will be, and where to."""

from __future__ import annotations

import os
from pathlib import Path

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QFileDialog

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shipping import Way
from rushweed.core.ship.ways import DESKTOP, READY, add_way, change_way, remove_way, ways_of
from rushweed.ui.desk import rulers
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.images import checker, image_of
from rushweed.ui.desk.marks import paint_hover, paint_selected
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.stage import Stage
from rushweed.ui.desk.tool import Tool
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.choices import PickBox
from rushweed.ui.kit.controls import IconButton, button, elided, label
from rushweed.ui.kit.text import short
from rushweed.ui.session.jobs import Job
from rushweed.ui.stages.sheet_pointer import Point
from rushweed.ui.stages.ship.board import LINE, Board, board_of
from rushweed.ui.stages.ship.card import ShipCard
from rushweed.ui.stages.ship.shipping import Shipping

NARROW, LONG = 40, 250  # screen px: below which nothing is written under an item, and room for a small one


class FindFrame(Tool):
    id, words, icon, key = Point.id, "Find a frame", Point.icon, Point.key
    help = "Press a frame to see its cell in the Strip"

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.ArrowCursor


class ShipStage(Stage):
    key, title = "ship", "Ship"
    tools = (FindFrame(),)

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self.board: Board | None = None
        self._way_id = DESKTOP.id
        self._images: list[QImage] = []
        self._made_for: object = None
        self._job: Job | None = None
        self.fault: RushweedError | None = None
        self._hovered: tuple[int, str] = (-1, "")  # the item and the cell under the pointer
        self.shipping = Shipping(
            self.session, lambda: self.way, self.choose_folder, lambda text: self.settings.where.setText(text)
        )
        self._make_options()
        self.settings = ShipCard(self.session, self.look, self.icons, lambda: self.way, self.refresh)
        self.card = scrolled(self.settings)

    @property
    def way(self) -> Way:
        """The way that is shown."""
        ways = ways_of(self.session.project)
        return next((w for w in ways if w.id == self._way_id), ways[0])

    def _make_options(self) -> None:
        self.ways_box = PickBox(self.look, [])
        self.ways_box.setMinimumWidth(132)
        self.ways_box.setToolTip("The way to ship that is shown; each keeps its own settings and folder")
        self.ways_box.picked.connect(self._pick)
        self.add_button = IconButton(
            self.look, self.icons, "plus", "Another way, as this one is", framed=True, px=14
        )
        self.add_button.pressed.connect(self.add)
        self.remove_button = IconButton(self.look, self.icons, "minus", "Remove", framed=True, px=14)
        self.remove_button.pressed.connect(self.remove)
        self._folder = button("")
        self._folder.setToolTip("The folder this way ships to")
        self._folder.clicked.connect(self.choose_folder)
        self.ship_button = button("Ship", fix=True)
        self.ship_button.clicked.connect(self.shipping.ship_now)
        self.all_button = button("Ship all")
        self.all_button.clicked.connect(self.shipping.ship_all)
        self.option_line.fill(
            label("Way"), self.ways_box, self.add_button, self.remove_button, label("to"), self._folder, None,
            self.all_button, self.ship_button, keep=(self.ship_button,),
        )  # fmt: skip

    # -- ways --------------------------------------------------------------------------------------

    def _pick(self, name: str) -> None:
        found = next((w for w in ways_of(self.session.project) if w.name == name), None)
        if found is not None:
            self.show_way(found.id)

    def show_way(self, way_id: str) -> None:
        self._way_id, self._hovered = way_id, (-1, "")
        self.refresh()

    def add(self) -> None:
        """Another way, as the one that is shown."""
        like, made = self.way.id, []

        def edit(project: Project) -> Project:
            project, way_id = add_way(project, f"{self.way.name} 2", like)
            made.append(way_id)
            return project

        if self.session.document.edit("Add a way to ship", edit):
            self.show_way(made[-1])

    def remove(self) -> None:
        """Take the way that is shown off the list; a ready one becomes again as it came."""
        way_id = self.way.id
        self.session.document.edit("Remove a way to ship", lambda p: remove_way(p, way_id))
        self.refresh()

    def choose_folder(self) -> bool:
        """Ask for the folder the way ships to; returns whether there is one."""
        home = self.session.folder.path
        start = str(home / self.way.folder) if self.way.folder else str(home.parent)
        name = QFileDialog.getExistingDirectory(
            self.desk.window(), f"{self.way.name} goes to this folder", start
        )
        if not name:
            return False
        way_id, told = self.way.id, os.path.relpath(name, home)
        self.session.document.edit("Folder of a way to ship", lambda p: change_way(p, way_id, folder=told))
        self.refresh()
        return bool(self.way.folder)

    # -- showing -----------------------------------------------------------------------------------

    def entered(self) -> None:
        self.refresh()

    def refresh(self) -> None:
        project, way = self.session.project, self.way
        ways = ways_of(project)
        names = [w.name for w in ways]
        if [self.ways_box.itemText(n) for n in range(self.ways_box.count())] != names:
            self.ways_box.clear()
            self.ways_box.addItems(names)
        self.ways_box.setCurrentText(way.name)
        ready = way.id in {w.id for w in READY}
        self.remove_button.setEnabled(not ready or way not in READY)
        self.remove_button.setToolTip("Back to how it came" if ready else "Take this way off the list")
        self._folder.setText(short(Path(way.folder).name, 14) if way.folder else "Choose a folder ...")
        self._folder.setToolTip(way.folder or "The folder this way ships to")
        with_folder = sum(bool(w.folder) for w in ways)
        self.all_button.setVisible(with_folder > 1)
        self.all_button.setToolTip(f"Ship all {with_folder} ways that have a folder")
        self.settings.show_way(project, way)
        if self.session.stage == "ship":
            self._renew()
        self.settings.show_board(project, self.board)

    def _renew(self) -> None:
        """Work out what the way makes in the background, if what goes into it has changed."""
        project, way = self.session.document.history.project, self.way
        levels = project.levels if way.makes == "page" or way.sheets is not None else ()
        key = (tuple((s.source, s.cells, s.tune) for s in project.sheets), way, levels)
        if key == self._made_for or not any(s.cells for s in project.sheets):
            return
        self._made_for = key
        if self._job is not None:
            self._job.cancel()
        stock, room = self.session.stock, self.desk.room.toRect()

        def work(job: Job) -> tuple[Board, list[QImage]]:
            board = board_of(project, stock, way, (room.width(), room.height()))
            return board, [image_of(item.rgba) for item in board.items]

        self._job = self.session.jobs.start("Packing", work, self._packed, self._failed)

    def _packed(self, made: tuple[Board, list[QImage]]) -> None:
        self._job, self.fault = None, None
        old = self.board.size if self.board is not None else None
        board, self._images = made
        self.board = board
        self.settings.show_board(self.session.project, board)
        if old != board.size and self.session.stage == "ship":
            self.desk.zoom_fit()
        self.desk.update()

    def _failed(self, error: RushweedError) -> None:
        self._job, self.board, self._images, self.fault = None, None, [], error
        self.settings.show_board(self.session.project, None)
        self.session.tell("fault", error.problem, error.cure)
        self.desk.update()

    # -- the Desk ----------------------------------------------------------------------------------

    def view_key(self) -> str:
        return f"ship {self._way_id}" if self._images else ""

    def content(self) -> QRectF:
        wide, high = self.board.size if self.board is not None else (1, 1)
        return QRectF(0, 0, wide, high)

    def empty_words(self) -> tuple[str, str]:
        if self.fault is not None:
            return f"{self.way.name} cannot be made", str(self.fault)
        if self._job is not None and any(s.cells for s in self.session.project.sheets):
            return "Packing", "One moment."
        if self.board is not None:
            return "Nothing goes this way", "Choose sheets or levels for it in the card."
        return "Nothing to ship yet", "Cut a sheet: its cells become frames."

    def paint(self, painter: QPainter, room: QRectF) -> None:
        if self.board is None:
            return
        view, ground, look = self.desk.view, checker(self.look), self.look
        for n, (image, spot) in enumerate(zip(self._images, self.board.spots, strict=True)):
            box = view.rect(*spot, image.width(), image.height())
            if not box.adjusted(0, 0, LONG, 3 * LINE).intersects(room):
                continue
            painter.setBrushOrigin(box.topLeft())
            painter.fillRect(box, ground)
            painter.drawImage(box, image)
            self._write(painter, n, box)
        for place in self.board.places_of(self.session.selection.cell_ids):
            paint_selected(painter, view, place, look)
        if self._hovered[1]:
            for place in self.board.places_of([self._hovered[1]]):
                paint_hover(painter, view, place, look)

    def _write(self, painter: QPainter, number: int, box: QRectF) -> None:
        """What stands under an item, as far as there is room."""
        assert self.board is not None
        zoom = self.desk.view.zoom
        longest = max(box.width(), LONG) if self.way.makes == "game" else box.width()
        wide = min(self.board.room_of(number) * zoom - 6, longest)
        room = int((self.board.under * zoom - 4) / LINE)
        if wide < NARROW:
            return
        painter.setFont(self.look.mono(11))
        painter.setPen(self.look.colour("straw" if number == self._hovered[0] else "art_paper"))
        for n, text in enumerate(self.board.items[number].lines[:room]):
            line = QRectF(box.left(), box.bottom() + 2 + n * LINE, wide, LINE)
            painter.drawText(line, 0, elided(painter, text, wide))

    def ruler(self, band: Band) -> None:
        rulers.even(band, Scale(1, "px"))

    def hover(self, at: DeskEvent) -> None:
        item, frame = self.board.frame_at(at.x, at.y) if self.board is not None else (-1, None)
        self._hovered = (item, frame.cell.id if frame is not None else "")

    def leave(self) -> None:
        self._hovered = (-1, "")

    def press(self, at: DeskEvent) -> None:
        _item, frame = self.board.frame_at(at.x, at.y) if self.board is not None else (-1, None)
        if frame is not None:
            self.session.selection.choose_sheet(frame.sheet.id)
            self.session.selection.choose_cells((frame.cell.id,))

    def describe(self, at: DeskEvent) -> str:
        where = f"{int(at.x // 1)}, {int(at.y // 1)} px"
        if self.board is None:
            return where
        number, frame = self.board.frame_at(at.x, at.y)
        if number < 0:
            return where
        item, (left, top) = self.board.items[number], self.board.spots[number]
        where = f"{item.name}  {int(at.x - left)}, {int(at.y - top)} px"
        if frame is None:
            return where
        x, y, w, h = frame.rect
        turned = f", orientation {frame.turn}" if frame.turn else ""
        return f"{where}   {frame.sheet.name} {frame.cell.name}   {w} × {h} at {x}, {y}{turned}"
