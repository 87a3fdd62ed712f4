"""The one mutable thing: the project's history, what is selected, and which stage is shown."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple, Protocol

from PyQt6.QtCore import QObject, QTimer, pyqtBoundSignal, pyqtSignal

from rushweed.core.document.edit import updated_cells
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.history import History, Step
from rushweed.core.document.limits import check_values
from rushweed.core.document.model import Animation, Cell, Level, Project, Sheet, TileLayer
from rushweed.core.pixels.stock import Stock
from rushweed.core.store.folder import ChangedOutside, Folder
from rushweed.core.store.recovery import Recovered, answer, put_away, recover
from rushweed.core.store.saves import save_and_remember
from rushweed.ui.kit.text import many
from rushweed.ui.session.gesture import Edit, Gesture
from rushweed.ui.session.jobs import Job, JobPool
from rushweed.ui.session.textures import Textures

if TYPE_CHECKING:
    from rushweed.core.findings.finding import Finding, Place
    from rushweed.core.level.render import TileSet
    from rushweed.core.level.stamp import Stamp

TITLES = {
    "gather": "Gather",
    "cut": "Cut",
    "tune": "Tune",
    "animate": "Animate",
    "shape": "Shape",
    "paint": "Paint",
    "ship": "Ship",
}
STAGES = tuple(TITLES)
KEEP_AFTER_MS = 30  # an edit is painted before it is put on disk


class Notice(NamedTuple):
    """What the strip under the rail says; `kind` is fault or told."""

    kind: str
    text: str
    cure: str = ""


class Question(NamedTuple):
    """Something to answer before an edit is made: buttons with what they call, and what closing calls."""

    text: str
    answers: list[tuple[str, Callable[[], object]]]
    otherwise: Callable[[], object]


class Typed(Protocol):
    """A field that tells when a run of small edits begins, is settled, and is taken back."""

    begun: pyqtBoundSignal
    settled: pyqtBoundSignal
    escaped: pyqtBoundSignal


class Session(QObject):
    """Holds one open project. Panels read it, listen, and ask it to edit; they never talk to each other."""

    changed = pyqtSignal(object, object)  # old project, new project
    focused = pyqtSignal()  # another sheet, cell, shape, level, layer or stamp
    staged = pyqtSignal(str)
    told = pyqtSignal(object)  # Notice, or None to take it away
    asked = pyqtSignal(object)  # Question
    saved = pyqtSignal()  # the save state reads differently
    pointed = pyqtSignal(str)  # what the pointer is over
    found = pyqtSignal()  # new findings
    shipped = pyqtSignal()  # the sheets as they were shipped have changed
    played = pyqtSignal()  # another frame of the animation is shown
    outside = pyqtSignal()  # a save found files that other programs have changed
    settling = pyqtSignal()  # a field being typed in should finish now
    working = pyqtSignal(object)  # a Job that a person should see

    def __init__(self, folder: Folder, project: Project, stock: Stock, jobs: JobPool) -> None:
        super().__init__()
        self.folder, self.stock, self.jobs = folder, stock, jobs
        self.textures = Textures(stock, jobs)
        self.proofs_nine = False  # whether the Proof shows the nine-slice stretched
        self.read_only = False
        self.history = History(project)
        self._run_mark: Step | None = None
        self._gesture: Gesture | None = None
        self._saved_project = project
        self.edits = 0
        self.saving = self._save_again = False
        self.keep_fault: RushweedError | None = None
        self.stage = "cut"
        self.sheet_id = project.sheets[0].id if project.sheets else ""
        self.sheet_ids: tuple[str, ...] = (self.sheet_id,) if self.sheet_id else ()
        self.cell_ids: tuple[str, ...] = ()
        self._by_id: tuple[tuple[Sheet, ...], dict[str, tuple[Sheet, Cell]]] = ((), {})
        self._chosen: tuple[object, object, list[Cell]] = (None, None, [])
        self._last: tuple[list[Cell] | None, Cell | None] = (None, None)  # the cell last selected of some
        self._shape_index: int | None = None
        self.level_id = project.levels[0].id if project.levels else ""
        self.layer_id = self._first_layer()
        self.animation_id = project.animations[0].id if project.animations else ""
        self._frames: tuple[int, ...] = ()
        self.played_cell = ""  # what the animation under way shows, for the Proof
        self.stamp: Stamp | None = None
        self.auto_id = ""  # of the auto-tile set that the stamp stands for
        self.picture_size = (256, 144)  # px of the game's picture, as the Proof shows it
        self.findings: list[Finding] = []
        self.shipped_sheets: dict[str, Sheet] = {}  # as they last were shipped in this session
        self._tiles: dict[str, tuple[tuple[Sheet, ...], tuple[str, ...], TileSet]] = {}
        self._finding_job: Job | None = None
        self._finding_fault = ""
        self._keeping = self._keep_again = False
        self._find_timer = later(self, 250, self._find)
        jobs.unheard.connect(lambda e: self.tell("fault", e.problem, e.cure))

    # -- reading -----------------------------------------------------------------------------------

    @property
    def project(self) -> Project:
        """What is shown: what a gesture under way makes of the present, else the present."""
        shown = self._gesture.shown if self._gesture is not None else None
        return shown if shown is not None else self.history.project

    @property
    def gesturing(self) -> bool:
        """Whether a gesture is under way: what is slow to draw waits for its end."""
        return self._gesture is not None and self._gesture.shown is not None

    @property
    def sheet(self) -> Sheet | None:
        return next((s for s in self.project.sheets if s.id == self.sheet_id), None)

    @property
    def sheets(self) -> list[Sheet]:
        """The sheets selected on the Shelf, the current one first."""
        chosen = [s for s in self.project.sheets if s.id in self.sheet_ids]
        return sorted(chosen, key=lambda s: s.id != self.sheet_id)

    @property
    def level(self) -> Level | None:
        return next((v for v in self.project.levels if v.id == self.level_id), None)

    @property
    def cells_by_id(self) -> dict[str, tuple[Sheet, Cell]]:
        """Every cell of the project with its sheet, made anew only when a sheet changes."""
        sheets = self.project.sheets
        if self._by_id[0] is not sheets:
            self._by_id = (sheets, updated_cells(self._by_id[0], self._by_id[1], sheets))
        return self._by_id[1]

    @property
    def animation(self) -> Animation | None:
        return next((a for a in self.project.animations if a.id == self.animation_id), None)

    @property
    def layer(self) -> TileLayer | None:
        level = self.level
        found = next((x for x in level.layers if x.id == self.layer_id), None) if level else None
        return found if isinstance(found, TileLayer) else None

    @property
    def cells(self) -> list[Cell]:
        """The selected cells of the current sheet, in the sheet's order."""
        sheet = self.sheet
        if sheet is None or not self.cell_ids:
            return []
        if self._chosen[0] is not sheet.cells or self._chosen[1] is not self.cell_ids:
            wanted = set(self.cell_ids)
            self._chosen = (sheet.cells, self.cell_ids, [c for c in sheet.cells if c.id in wanted])
        return self._chosen[2]

    @property
    def cell(self) -> Cell | None:
        """The cell last selected."""
        cells = self.cells
        if self._last[0] is not cells:
            by_id = {c.id: c for c in cells}
            self._last = (cells, next((by_id[i] for i in reversed(self.cell_ids) if i in by_id), None))
        return self._last[1]

    @property
    def shape_index(self) -> int | None:
        """Which shape of the cell is selected; None also while a gesture has taken that shape away."""
        index, cell = self._shape_index, self.cell
        return index if index is not None and cell is not None and index < len(cell.shapes) else None

    @property
    def frames(self) -> tuple[int, ...]:
        """The places selected in the animation, those that are there."""
        animation = self.animation
        return tuple(n for n in self._frames if n < len(animation.frames)) if animation else ()

    def _first_layer(self) -> str:
        level = self.level
        layers = [x for x in level.layers if isinstance(x, TileLayer)] if level else []
        return layers[-1].id if layers else ""

    def tiles(self, level: Level) -> TileSet:
        """The drawn tiles of a level, made anew only when its table or a sheet changes."""
        from rushweed.core.level.render import TileSet

        project = self.project
        known = self._tiles.get(level.id)
        if known is None or known[0] is not project.sheets or known[1] != level.table:
            made = TileSet(project, level, self.stock.pixels_or_blank)
            known = self._tiles[level.id] = (project.sheets, level.table, made)
        return known[2]

    # -- editing -----------------------------------------------------------------------------------

    def edit(self, label: str, change: Edit, merge: object = None) -> bool:
        """Make one edit. A refusal is told in the strip, and nothing changes. Returns whether it held.

        While a gesture is under way the edit comes from elsewhere: it is made first, and what was drawn
        is drawn again on it. A preview that nobody draws on ends with the edit.
        """
        if self._refused():
            return False
        old = self.project
        drawn = self._gesture if self._gesture is not None and self._gesture.label else None
        if drawn is None:
            self._gesture = None
        try:
            new = change(self.history.project)
            check_values(self.history.project, new)
        except RushweedError as error:
            self.tell("fault", error.problem, error.cure)
            if old is not self.project:
                self.changed.emit(old, self.project)
            return False
        self.told.emit(None)
        made = self.history.do(label, new, merge)
        if made:
            self.edits += 1
            if drawn is not None:
                self._draw_again(drawn)
            self._after_edit()
        if made or old is not self.project:
            self.changed.emit(old, self.project)
        return True

    def _refused(self) -> bool:
        """Whether the project may not be changed, which is told."""
        if self.read_only:
            self.tell("fault", "This project is read-only.", "Copy its folder to change it.")
        return self.read_only

    def _draw_again(self, drawn: Gesture) -> None:
        """What a gesture did so far, on an edit that came from elsewhere."""
        try:
            drawn.shown = drawn.on(self.history.project)
        except RushweedError as error:
            self._gesture = None
            self.tell("fault", f"{drawn.label} was stopped by another change: {error.problem}", error.cure)

    def gesture(self, label: str) -> Gesture:
        """Begin a drag or stroke, which is one step of the history once it is committed."""
        self.preview(None)
        self._gesture = Gesture(self, label)
        return self._gesture

    def carry(self, gesture: Gesture, change: Edit, anew: bool = False) -> bool:
        """Show one more step of a gesture, or with `anew` this one alone. A refusal leaves what was shown."""
        if self._gesture is not gesture or self._refused():
            return False
        old = self.project
        try:
            shown = change(self.history.project if anew else old)
            check_values(self.history.project, shown)
            gesture.shown = shown
        except RushweedError as error:
            self.tell("fault", error.problem, error.cure)
            return False
        gesture.log = [change] if anew else [*gesture.log, change]
        if old is not self.project:
            self.changed.emit(old, self.project)
        return True

    def commit(self, gesture: Gesture, label: str, merge: object = None) -> bool:
        """Make what a gesture shows one step of the history. Returns whether there was anything to make."""
        if self._gesture is not gesture:
            return False
        shown, self._gesture = gesture.shown, None
        if shown is None or shown is self.history.project:
            return False
        made = self.history.do(label, shown, merge)
        self.edits += 1
        self.told.emit(None)
        self._after_edit()
        self.changed.emit(shown, shown)
        return made

    def preview(self, change: Edit | None) -> bool:
        """Show an edit that is not made yet; None takes it away, and what a gesture under way has drawn. A
        refusal leaves the last preview."""
        if change is not None:
            if self._gesture is None or self._gesture.label:
                self._gesture = Gesture(self, "")
            return self.carry(self._gesture, change, anew=True)
        old, self._gesture = self.project, None
        if old is not self.project:
            self.changed.emit(old, self.project)
        return True

    def seal(self) -> None:
        """The run of small edits of one field is over; the next is a step of its own."""
        self.history.seal()

    def follow(self, field: Typed) -> None:
        """Make each run of small edits of a field one step, which Escape takes back whole."""
        field.begun.connect(self._mark_run)
        field.escaped.connect(self._take_run_back)
        field.settled.connect(self.seal)

    def _mark_run(self) -> None:
        self.history.seal()
        self._run_mark = self.history.mark

    def _take_run_back(self) -> None:
        old = self.project
        self._gesture = None
        if self.history.back_to(self._run_mark):
            self.edits = max(self.edits - 1, 0)
            self._after_edit()
        if old is not self.project:
            self.changed.emit(old, self.project)

    def undo(self) -> None:
        self.settling.emit()
        self._step(self.history.undo)

    def redo(self) -> None:
        self.settling.emit()
        self._step(self.history.redo)

    def _step(self, move: Callable[[], str | None]) -> None:
        """Undo or redo; in the middle of a gesture only that is taken back."""
        if self._gesture is not None and self._gesture.label and self.gesturing:
            self.preview(None)
            return
        old = self.project
        self._gesture = None
        if move() is not None:
            self.edits += 1
            self._after_edit()
        if old is not self.project:
            self.changed.emit(old, self.project)

    def _after_edit(self) -> None:
        self._repair_focus()
        self.keep_edits()
        self._find_timer.start()
        self.saved.emit()

    def _repair_focus(self) -> None:
        """Selections that point to what is gone move to what is there."""
        sheets = {s.id for s in self.project.sheets}
        if self.sheet_id not in sheets:
            self.sheet_id = self.project.sheets[0].id if self.project.sheets else ""
            self.cell_ids = ()
        self.sheet_ids = tuple(i for i in self.sheet_ids if i in sheets) or (
            (self.sheet_id,) if self.sheet_id else ()
        )
        if self.level is None:
            self.level_id = self.project.levels[0].id if self.project.levels else ""
        if self.layer is None:
            self.layer_id = self._first_layer()
        animation = self.animation
        if animation is None:
            self.animation_id = self.project.animations[0].id if self.project.animations else ""
        self._frames, self._shape_index = self.frames, self.shape_index

    # -- focus -------------------------------------------------------------------------------------

    def go(self, stage: str) -> None:
        if stage != self.stage:
            self.settling.emit()
            self.preview(None)
            self.stage = stage
            self.staged.emit(stage)

    def choose_sheet(self, sheet_id: str, more: bool = False) -> None:
        """Show a sheet; with `more` it joins those already selected."""
        self.settling.emit()
        ids = (*(i for i in self.sheet_ids if i != sheet_id), sheet_id) if more else (sheet_id,)
        if sheet_id == self.sheet_id and ids == self.sheet_ids:
            return
        if sheet_id != self.sheet_id:
            self.cell_ids, self._shape_index = (), None
        self.sheet_id, self.sheet_ids = sheet_id, ids
        self.focused.emit()

    def choose_sheets(self, ids: tuple[str, ...]) -> None:
        self.settling.emit()
        self.sheet_ids = ids
        if ids and self.sheet_id not in ids:
            self.sheet_id, self.cell_ids, self._shape_index = ids[-1], (), None
        self.focused.emit()

    def choose_cells(self, ids: tuple[str, ...], shape: int | None = None) -> None:
        if ids != self.cell_ids or shape != self._shape_index:
            self.cell_ids, self._shape_index = ids, shape
            self.focused.emit()

    def choose_level(self, level_id: str) -> None:
        if level_id != self.level_id:
            self.settling.emit()
            self.level_id = level_id
            self.layer_id = self._first_layer()
            self.focused.emit()

    def choose_animation(self, animation_id: str, frames: tuple[int, ...] = ()) -> None:
        if (animation_id, frames) != (self.animation_id, self._frames):
            if animation_id != self.animation_id:
                self.settling.emit()
            self.animation_id, self._frames = animation_id, frames
            self.focused.emit()

    def show_played(self, cell_id: str) -> None:
        """Tell which cell an animation under way shows; empty when it is over."""
        if cell_id != self.played_cell:
            self.played_cell = cell_id
            self.played.emit()

    def choose_layer(self, layer_id: str) -> None:
        if layer_id != self.layer_id:
            self.layer_id = layer_id
            self.focused.emit()

    def choose_stamp(self, stamp: Stamp | None, auto_id: str = "") -> None:
        """The stamp to paint with; with the id of an auto-tile set its tiles choose themselves."""
        self.stamp, self.auto_id = stamp, auto_id
        self.focused.emit()

    def show(self, place: Place) -> None:
        """Go where a finding is."""
        if place.sheet:
            self.choose_sheet(place.sheet)
        if place.cells:
            self.choose_cells(place.cells)
        if place.level:
            self.choose_level(place.level)
        if place.animation:
            self.choose_animation(place.animation)
        self.go(place.stage)
        self.focused.emit()

    def tell(self, kind: str, text: str, cure: str = "") -> None:
        self.told.emit(Notice(kind, text, cure))

    def ask(
        self, text: str, answers: list[tuple[str, Callable[[], object]]], otherwise: Callable[[], object]
    ) -> None:
        """Ask in the strip under the rail; the next edit or a press on its cross counts as `otherwise`."""
        self.asked.emit(Question(text, answers, otherwise))

    # -- files -------------------------------------------------------------------------------------

    @property
    def unsaved(self) -> bool:
        return self.history.project is not self._saved_project

    def save(self) -> Job | None:
        """Save in the background; the save state tells when it is done."""
        self.settling.emit()
        if self._refused():
            return None
        if self.saving:
            self._save_again = True  # what was done since the one under way began is wanted too
            return None
        self.saving, self._save_again = True, False
        project, edits = self.history.project, self.edits
        job = self.jobs.start(
            "Saving",
            lambda _job: save_and_remember(self.folder, project),
            lambda _n: self._after_save(project, edits),
            self._save_failed,
            writes=True,
        )
        self.saved.emit()
        return job

    def _after_save(self, project: Project, edits: int) -> None:
        self.saving = False
        self._saved_project = project
        self.edits -= edits
        self.keep_fault = None
        if self.unsaved:
            self.save() if self._save_again else self.keep_edits()
        self.saved.emit()

    def _save_failed(self, error: RushweedError) -> None:
        self.saving = False
        self.keep_edits()
        if isinstance(error, ChangedOutside):
            self.outside.emit()
        else:
            self.tell("fault", error.problem, error.cure)
        self.saved.emit()

    def note_saved(self) -> None:
        """What is shown is on disk, because it was read from there."""
        self._saved_project, self.edits = self.history.project, 0
        self.keep_edits()
        self.saved.emit()

    def keep_edits(self) -> None:
        """Put the edits on disk now; if that is under way already, once more when it is done."""
        if self.read_only or self.saving:
            return
        if self._keeping:
            self._keep_again = True
            return
        self._keeping, self._keep_again = True, False
        project, edits, unsaved = self.history.project, self.edits, self.unsaved

        def work(_job: Job) -> None:
            if unsaved:
                self.folder.keep(project, edits)
            else:
                self.folder.forget_kept()

        done = lambda _n: self._kept(None)  # noqa: E731
        self.jobs.start("Keeping", work, done, self._kept, writes=True, after_ms=KEEP_AFTER_MS)

    def _kept(self, fault: RushweedError | None) -> None:
        self._keeping = False
        if fault is not None and self.keep_fault is None:
            self.tell("fault", fault.problem, fault.cure)
        self.keep_fault = fault
        if self._keep_again:
            self.keep_edits()
        self.saved.emit()

    def take_back(self, found: Recovered) -> None:
        """Take up edits that a crash left behind; undo leaves them again."""
        try:
            project = found.project()
            held = self.edit(f"Take back {many(found.edits, 'edit')}", lambda _p: project)
            if held:
                self.edits += found.edits - 1
                answer(found, "taken")
        except RushweedError as error:
            self.tell("fault", error.problem, error.cure)
        self.saved.emit()

    def discard(self, found: Recovered) -> None:
        """Let edits that a crash left behind be; they are kept for 30 days."""
        try:
            answer(found, "discarded")
            self.tell(
                "told", f"{many(found.edits, 'edit')} discarded.", f"They stay in {found.path} for 30 days."
            )
        except RushweedError as error:
            self.tell("fault", error.problem, error.cure)

    def leave_unsaved(self) -> None:
        """Close without saving: what was not saved is put where discarded edits are kept."""
        if self.unsaved:
            put_away(self.folder, self.history.project, self.edits, answer="discarded")
        self.folder.forget_kept()

    def save_state(self) -> tuple[bool, str]:
        """Whether all is safe, and the words for it."""
        if self.read_only:
            return True, "Read-only"
        if self.saving:
            return True, "Saving ..."
        if self.keep_fault is not None:
            return False, f"{self._edit_words()} not yet safe"
        at = time.strftime("%H:%M", time.localtime(self.folder.saved_at or time.time()))
        if not self.unsaved:
            return True, f"Saved {at}"
        return True, f"Saved {at}. {self._edit_words()} since, kept safe"

    def _edit_words(self) -> str:
        return many(self.edits, "edit")

    def note_shipped(self, project: Project) -> None:
        """Remember the sheets that a folder now holds as they are."""
        self.shipped_sheets = {sheet.id: sheet for sheet in project.sheets if sheet.cells}
        self.shipped.emit()

    # -- findings ----------------------------------------------------------------------------------

    def find_soon(self) -> None:
        self._find_timer.start()

    def _find(self) -> None:
        if self._finding_job is not None:
            self._finding_job.cancel()
        project = self.history.project

        def work(job: Job) -> list[Finding]:
            from rushweed.core.findings.check import check

            return check(project, self.stock)

        self._finding_job = self.jobs.start("Checking", work, self._show_findings, self._find_failed)

    def _find_failed(self, error: RushweedError) -> None:
        """Told once, not after each edit."""
        if error.problem != self._finding_fault:
            self._finding_fault = error.problem
            self.tell("fault", error.problem, error.cure)

    def _show_findings(self, findings: list[Finding]) -> None:
        self.findings = findings
        self.found.emit()


def later(parent: QObject, ms: int, call: Callable[[], None]) -> QTimer:
    """A timer that calls once, `ms` after it was last started."""
    timer = QTimer(parent)
    timer.setSingleShot(True)
    timer.setInterval(ms)
    timer.timeout.connect(call)
    return timer


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
    session = Session(folder, project, Stock(path), jobs)
    session.read_only = read_only or folder.newer
    return session, [] if session.read_only else recover(folder)
