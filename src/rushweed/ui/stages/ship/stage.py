"""Ship: the atlas as it will be, and the files a game loads."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QFileDialog

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model import Project
from rushweed.core.ship.atlas import Atlas, AtlasSettings, Frame, build
from rushweed.core.ship.build import Shipped, ship
from rushweed.ui.commands.command import Command
from rushweed.ui.desk import rulers
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.images import checker, image_of
from rushweed.ui.desk.marks import paint_hover, paint_selected
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.stage import Stage
from rushweed.ui.desk.tool import Tool
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.controls import Check, Rule, button, label, row, tag
from rushweed.ui.kit.fields import ChoiceRow, NumbersField
from rushweed.ui.kit.text import many
from rushweed.ui.session.jobs import Job
from rushweed.ui.stages.sheet_stage import POINT

GAP = 24  # px between pages on the Desk


class ShipStage(Stage):
    key, title = "ship", "Ship"
    tools = (
        Tool(POINT.id, "Find a frame", POINT.icon, POINT.key, "Press a frame to see its cell in the Strip"),
    )

    def __init__(self, *parts: object) -> None:
        super().__init__(*parts)  # type: ignore[arg-type]
        self.atlas: Atlas | None = None
        self._images: list[QImage] = []
        self._made_for: object = None
        self._job: Job | None = None
        self._fault: RushweedError | None = None
        self._hovered: Frame | None = None
        self.last: Shipped | None = None

    def build(self) -> None:
        self._gutter = NumbersField(1, "px", 0, 16, look=self.look)
        self._gutter.show_value(2)
        self._gutter.setFixedWidth(64)
        self._gutter.setToolTip("Px of repeated edge around each frame, so that neighbours never bleed in")
        self._page = ChoiceRow(self.look, [(str(n), str(n)) for n in (512, 1024, 2048, 4096)])
        self._page.show_value("2048")
        self._power = Check(self.look, self.icons, "Powers of two")
        self._trim = Check(self.look, self.icons, "Trim")
        self._trim.setToolTip("Leave clear borders out; the manifest keeps where each frame lies")
        self._power.show_value(True)
        self._trim.show_value(True)
        for control in (self._gutter, self._page, self._power, self._trim):
            control.edited.connect(lambda _v: self._renew())
        self._ship = button("Ship to a folder ...", fix=True)
        self._ship.clicked.connect(self.choose)
        self.option_line.setLayout(
            row(
                label("Gutter"),
                self._gutter,
                label("Page at most"),
                self._page,
                self._power,
                self._trim,
                None,
                self._ship,
            )
        )
        card = Card(self.look, "Card")
        self.card: Card = card
        self._facts = {}
        for words in ("Frames", "Pages", "Filled", "Memory", "Levels", "Credits"):
            value = label("", "text")
            card.field(words, value)
            self._facts[words] = value
        card.add(Rule(self.look))
        card.add(label("Shipped", "head"))
        self._where = label("not yet in this session", "quiet")
        self._where.setWordWrap(True)
        card.add(self._where)
        card.end()

    def settings(self) -> AtlasSettings:
        return AtlasSettings(
            int(self._gutter.values[0]), int(self._page.value or 2048), self._power.on, self._trim.on
        )

    def entered(self) -> None:
        self._renew()

    def refresh(self) -> None:
        if self.session.stage == "ship":
            self._renew()
        self._tell()

    def _renew(self) -> None:
        """Make the atlas anew in the background if what it holds has changed."""
        project, settings = self.session.document.history.project, self.settings()
        key = (tuple((s.source, s.cells, s.tune) for s in project.sheets), settings)
        if key == self._made_for or not any(s.cells for s in project.sheets):
            return
        self._made_for = key
        if self._job is not None:
            self._job.cancel()
        self._job = self.session.jobs.start(
            "Packing", lambda job: build(project, self.session.stock, settings), self._packed, self._failed
        )

    def _packed(self, atlas: Atlas) -> None:
        first = self.atlas is None
        self.atlas, self._fault = atlas, None
        self._images = [image_of(page) for page in atlas.pages]
        self._tell()
        if first and self.session.stage == "ship":
            self.desk.zoom_fit()
        self.desk.update()

    def _failed(self, error: RushweedError) -> None:
        self.atlas, self._images, self._fault = None, [], error
        self.session.tell("fault", error.problem, error.cure)
        self.desk.update()

    def _tell(self) -> None:
        project, atlas = self.session.project, self.atlas
        self.card.what.setText("the atlas")
        self._facts["Levels"].setText(", ".join(v.name for v in project.levels) or "none")
        missing = sum(1 for s in project.sheets if not s.credit.licence)
        self._facts["Credits"].setText(
            f"{many(missing, 'sheet')} without a licence" if missing else "complete"
        )
        if atlas is None:
            return
        pages = " and ".join(f"{p.shape[1]} × {p.shape[0]}" for p in atlas.pages[:3])
        total = sum(p.shape[0] * p.shape[1] for p in atlas.pages)
        held = sum(
            r[2] * r[3] for r in {(f.rect[0], f.rect[1], f.rect[2], f.rect[3], f.page) for f in atlas.frames}
        )
        self._facts["Frames"].setText(str(len(atlas.frames)))
        self._facts["Pages"].setText(f"{len(atlas.pages)}: {pages} px")
        self._facts["Filled"].setText(f"{held / total:.0%} with art")
        self._facts["Memory"].setText(f"{total * 4 / 2**20:.2f} MiB uncompressed")

    # -- shipping --------------------------------------------------------------------------------------

    def choose(self) -> None:
        start = str(self.last.folder if self.last else self.session.folder.path.parent)
        name = QFileDialog.getExistingDirectory(self.desk.window(), "Ship to this folder", start)
        if name:
            self.ship_to(Path(name))

    def ship_to(self, folder: Path) -> Job:
        """Write everything a game needs into a folder, in the background."""
        project: Project = self.session.document.history.project
        settings, stock = self.settings(), self.session.stock

        def shipped(done: Shipped) -> None:
            self._shipped(done)
            self.session.note_shipped(project)

        job = self.session.jobs.start(
            "Shipping", lambda job: ship(project, stock, folder, settings, job.tell), shipped
        )
        self.session.working.emit(job)
        return job

    def _shipped(self, done: Shipped) -> None:
        self.last = done
        names = ", ".join(str(p.relative_to(done.folder)) for p in done.files)
        self._where.setText(f"{done.folder}\n{names}")
        self.session.tell(
            "told",
            f"Shipped {many(done.frames, 'frame')} in {many(len(done.files), 'file')} to {done.folder}.",
        )

    # -- the Desk --------------------------------------------------------------------------------------

    def view_key(self) -> str:
        return "atlas" if self._images else ""

    def content(self) -> QRectF:
        wide = sum(i.width() for i in self._images) + GAP * max(len(self._images) - 1, 0)
        return QRectF(0, 0, max(wide, 1), max((i.height() for i in self._images), default=1))

    def empty_words(self) -> tuple[str, str]:
        if self._fault is not None:
            return "The atlas cannot be made", str(self._fault)
        if self._job is not None and any(s.cells for s in self.session.project.sheets):
            return "Packing the atlas", "One moment."
        return "Nothing to ship yet", "Cut a sheet: its cells become frames of the atlas."

    def _left(self, page: int) -> int:
        return sum(i.width() + GAP for i in self._images[:page])

    def paint(self, painter: QPainter, room: QRectF) -> None:
        view = self.desk.view
        ground = checker(self.look)
        for number, image in enumerate(self._images):
            box = view.rect(self._left(number), 0, image.width(), image.height())
            painter.setBrushOrigin(box.topLeft())
            painter.fillRect(box, ground)
            painter.drawImage(box, image)
            assert self.atlas is not None
            words = f"page {number}, {self.atlas.kinds[number].filter}"
            tag(painter, self.look, box.left(), box.top() - 20, words)
        chosen = set(self.session.selection.cell_ids)
        for frame in self.atlas.frames if self.atlas else []:
            if frame.cell.id in chosen:
                paint_selected(painter, view, self._rect(frame), self.look)
        if self._hovered is not None:
            paint_hover(painter, view, self._rect(self._hovered), self.look)

    def _rect(self, frame: Frame) -> tuple[int, int, int, int]:
        x, y, w, h = frame.rect
        return x + self._left(frame.page), y, w, h

    def ruler(self, band: Band) -> None:
        rulers.even(band, Scale(1, "px"))

    def _frame_at(self, at: DeskEvent) -> Frame | None:
        for frame in self.atlas.frames if self.atlas else []:
            x, y, w, h = self._rect(frame)
            if x <= at.x < x + w and y <= at.y < y + h:
                return frame
        return None

    def hover(self, at: DeskEvent) -> None:
        self._hovered = self._frame_at(at)

    def leave(self) -> None:
        self._hovered = None

    def press(self, at: DeskEvent) -> None:
        frame = self._frame_at(at)
        if frame is not None:
            self.session.selection.choose_sheet(frame.sheet.id)
            self.session.selection.choose_cells((frame.cell.id,))

    def describe(self, at: DeskEvent) -> str:
        frame = self._frame_at(at)
        where = f"{int(at.x // 1)}, {int(at.y // 1)} px"
        if frame is None:
            return where
        x, y, w, h = frame.rect
        return f"{where}   {frame.sheet.name} {frame.cell.name}   {w} × {h} at {x}, {y} on page {frame.page}"

    def commands(self) -> list[Command]:
        def cells() -> str:
            return "" if any(s.cells for s in self.session.project.sheets) else "Nothing is cut yet."

        return [Command("ship.ship", "Ship to a folder", ("Ctrl+E",), "Atlas, manifest, levels and credits.",
                        self.choose, cells, group="Ship")]  # fmt: skip
