"""One open project in a window: its document, what is selected, its files and findings, the stage shown."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Literal, NamedTuple, Protocol

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.document.edit import updated_cells
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.store.folder import Folder
from rushweed.core.store.recovery import Recovered, recover
from rushweed.ui.session.checker import Checker
from rushweed.ui.session.document import Document
from rushweed.ui.session.jobs import Job, JobPool
from rushweed.ui.session.level_pictures import LevelPictures, TileSets
from rushweed.ui.session.saver import Saver
from rushweed.ui.session.selection import Selection
from rushweed.ui.session.textures import Textures
from rushweed.ui.session.walked import LogRow, Walked

if TYPE_CHECKING:
    from rushweed.core.findings.finding import Place
    from rushweed.core.level.render import TileSet

TITLES = {
    "gather": "Gather",
    "cut": "Cut",
    "tune": "Tune",
    "animate": "Animate",
    "shape": "Shape",
    "paint": "Paint",
    "walk": "Walk",
    "ship": "Ship",
}
STAGES = tuple(TITLES)
READ_AT_ONCE = 1 << 18  # px of pictures that are read without leaving the window's thread


NoticeKind = Literal["fault", "told"]


class Notice(NamedTuple):
    """What the strip under the rail says."""

    kind: NoticeKind
    text: str
    cure: str = ""


class Question(NamedTuple):
    """Something to answer before an edit is made: buttons with what they call, and what closing calls."""

    text: str
    answers: list[tuple[str, Callable[[], object]]]
    otherwise: Callable[[], object]


class Prepares(Protocol):
    """What keeps something about the sheet on the Desk that takes long to work out."""

    def holds(self, sheet: Sheet) -> bool:
        """Whether it has been worked out."""
        ...

    def prepare(self, sheet: Sheet, pixels: np.ndarray) -> Callable[[], None]:
        """Work it out, beside the window; what is returned keeps it, on the window's thread."""
        ...


class Session(QObject):
    """What stages and panels are given. They read it, listen, and ask it to edit; never one another."""

    staged = pyqtSignal(str)
    told = pyqtSignal(object)  # Notice, or None to take it away
    asked = pyqtSignal(object)  # Question
    pointed = pyqtSignal(str)  # what the pointer is over
    shipped = pyqtSignal()  # the sheets as they were shipped have changed
    played = pyqtSignal()  # another frame of the animation is shown
    working = pyqtSignal(object)  # a Job that a person should see
    spotted = pyqtSignal(int, int)  # a cell of the level to be looked at
    logged = pyqtSignal(list)  # the log of the walk under way, newest first

    def __init__(self, folder: Folder, project: Project, stock: PixelCache, jobs: JobPool) -> None:
        super().__init__()
        self.folder, self.stock, self.jobs = folder, stock, jobs
        self.document = Document(project)
        self.selection = Selection(self.document)
        self.saver = Saver(self.document, folder, jobs)
        self.checker = Checker(self.document, stock, jobs)
        self.textures = Textures(stock, jobs)
        self.stage = "cut"
        self.proofs_nine = False  # whether the Proof shows the nine-slice stretched
        self.played_place = 0
        self.played_cell = ""  # what the animation under way shows, for the Proof
        self.picture_size = (256, 144)  # px of the game's picture, as the Proof shows it
        self.walked: Walked | None = None  # what was walked last
        self.aimed: tuple[float, float] | None = None  # where in the level a walk is to begin
        self.shipped_sheets: dict[str, Sheet] = {}  # as they last were shipped in this session
        self._by_id: tuple[tuple[Sheet, ...], dict[str, tuple[Sheet, Cell]]] = ((), {})
        self._bringing: Job | None = None
        self.prepares: list[Prepares] = []  # what is worked out with a picture before it is shown
        self._tiles = TileSets(stock)
        self.level_pictures = LevelPictures(stock, jobs)
        self.document.edited.connect(self._edited)
        self.selection.focused.connect(lambda: self.checker.look_at(self.selection.sheet_id or ""))
        self.document.accepted.connect(lambda: self.told.emit(None))
        self.document.refused.connect(lambda text, cure: self.tell("fault", text, cure))
        self.saver.told.connect(self.tell)
        jobs.unheard.connect(lambda e: self.tell("fault", e.problem, e.cure))

    @property
    def project(self) -> Project:
        """The project as it is shown."""
        return self.document.project

    def _edited(self, number: int) -> None:
        self.selection.repair()
        self.saver.note_edits(number)
        self.checker.find_soon()
        self.saver.saved.emit()

    @property
    def cells_by_id(self) -> dict[str, tuple[Sheet, Cell]]:
        """Every cell of the project with its sheet, made anew only when a sheet changes."""
        sheets = self.project.sheets
        if self._by_id[0] is not sheets:
            self._by_id = (sheets, updated_cells(self._by_id[0], self._by_id[1], sheets))
        return self._by_id[1]

    def tiles(self, level: Level) -> TileSet:
        """The drawn tiles of a level, made anew only when its table, its cell or a sheet changes."""
        return self._tiles.of(self.project, level)

    def bring(self, sheets: Sequence[Sheet], then: Callable[[], object]) -> None:
        """Go on when the pictures of some sheets are at hand: at once, or where large ones have to be read
        first, when that was done beside the window. Another call takes the place of one that still waits."""
        if self._bringing is not None:
            self._bringing.cancel()
        self._bringing = self.read(sheets, then, on_desk=True)

    def read(self, sheets: Sequence[Sheet], then: Callable[[], object], on_desk: bool = False) -> Job | None:
        """As `bring`, but whatever else is brought meanwhile. Returns the job, if it needs one. With
        `on_desk` a sheet that is the only one is prepared for being shown there."""
        prepares = self.prepares if on_desk and len(sheets) == 1 else []
        wanted = [s for s in sheets if not (self.stock.holds(s) and all(p.holds(s) for p in prepares))]
        if sum(s.source.size[0] * s.source.size[1] for s in wanted) <= READ_AT_ONCE:
            then()
            return None

        def work(job: Job) -> list[Callable[[], None]]:
            made = []
            for number, sheet in enumerate(wanted):
                job.tell(number / len(wanted), sheet.name)
                pixels = self.stock.pixels_or_blank(sheet)
                made += [p.prepare(sheet, pixels) for p in prepares]
            return made

        def done(made: list[Callable[[], None]]) -> None:
            for take in made:
                take()
            then()

        return self.jobs.start("Reading pictures", work, done)

    def go(self, stage: str) -> None:
        if stage != self.stage:
            self.document.settling.emit()
            self.document.preview(None)
            self.stage = stage
            self.staged.emit(stage)

    def show_played(self, cell_id: str, place: int = 0) -> None:
        """Tell which cell an animation under way shows, and at which place; empty when it is over."""
        if (cell_id, place) != (self.played_cell, self.played_place):
            self.played_cell, self.played_place = cell_id, place
            self.played.emit()

    def show(self, place: Place) -> None:
        """Go where a finding is, once its picture is at hand."""
        named = [s for s in self.project.sheets if s.id == place.sheet]
        self.bring(named, lambda: self._show(place))

    def _show(self, place: Place) -> None:
        if place.sheet:
            self.selection.choose_sheet(place.sheet)
        if place.cells:
            self.selection.choose_cells(place.cells)
        if place.level:
            self.selection.choose_level(place.level)
        if place.animation:
            self.selection.choose_animation(place.animation)
        self.go(place.stage)
        self.selection.focused.emit()
        if place.spot is not None:
            self.spotted.emit(*place.spot)

    def tell_walk(self, walked: Walked | None, log: list[LogRow]) -> None:
        """What was walked so far, and the log of it."""
        self.walked = walked
        self.logged.emit(log)

    def tell(self, kind: NoticeKind, text: str, cure: str = "") -> None:
        self.told.emit(Notice(kind, text, cure))

    def ask(
        self, text: str, answers: list[tuple[str, Callable[[], object]]], otherwise: Callable[[], object]
    ) -> None:
        """Ask in the strip under the rail; the next edit or a press on its cross counts as `otherwise`."""
        self.asked.emit(Question(text, answers, otherwise))

    def note_shipped(self, project: Project) -> None:
        """Remember the sheets that a folder now holds as they are."""
        self.shipped_sheets = {sheet.id: sheet for sheet in project.sheets if sheet.cells}
        self.shipped.emit()


def open_session(path: Path, jobs: JobPool) -> tuple[Session, list[Recovered]]:
    """Open a project folder: the session, and edits that crashes left behind. Raises StoreError."""
    folder = Folder(path)
    try:
        read_only = not (folder.is_project and folder.lock())
    except RushweedError:
        read_only = True
    try:
        project = folder.open()
    except RushweedError:
        folder.unlock()
        raise
    session = Session(folder, project, PixelCache(path), jobs)
    session.document.read_only = read_only or folder.newer
    return session, [] if session.document.read_only else recover(folder)
