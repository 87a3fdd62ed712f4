"""Brings pictures in, off the window's thread: from files, folders and the clipboard, with a report."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QApplication, QFileDialog, QFrame, QPlainTextEdit, QVBoxLayout, QWidget

from rushweed.core.cut.take import sheet_chance
from rushweed.core.cut.transform_cells import set_steps
from rushweed.core.document.edit import remove_sheet
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.steps import KeyColour
from rushweed.core.pixels.gather import Gathered, Gathering, add_gathered, files_in, with_sure_key
from rushweed.core.pixels.read import ENDINGS, KINDS
from rushweed.core.tune.recipe import suited
from rushweed.ui.kit.controls import button, emptied, label, row
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session
from rushweed.ui.session.jobs import Job


class Report(QWidget):
    """What came of the last gathering: what came in, what was there already, what failed and why. Of
    numbered pictures that may be frames or sheets `other_way` names the files to be taken otherwise."""

    other_way = pyqtSignal(tuple)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self.head = label("Nothing was gathered since this window was opened.", "quiet")
        self.head.setWordWrap(True)
        self.lines = QPlainTextEdit()
        self.lines.setReadOnly(True)
        self.lines.setFrameShape(QFrame.Shape.NoFrame)
        self.lines.setMinimumHeight(160)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        self._asked = QVBoxLayout()
        self._asked.setSpacing(4)
        box.addWidget(self.head)
        box.addLayout(self._asked)
        box.addWidget(self.lines, 1)

    def show_value(self, got: list[Gathered]) -> None:
        new = [g for g in got if g.sheet]
        same, along, faults = ([g for g in got if getattr(g, f)] for f in ("same", "along", "fault"))
        counts = [
            many(len(new), "sheet") + " came in",
            f"{len(along)} went along" if along else "",
            f"{len(same)} were there already" if same else "",
            f"{len(faults)} failed" if faults else "",
        ]
        self.head.setText(", ".join(c for c in counts if c) + ".")
        self._ask(got)
        texts = []
        for g in [*faults, *same, *along, *new]:
            if g.fault:
                text = f"Failed: {g.fault.problem} {g.fault.cure}"
            elif g.same:
                text = f"{g.path.name} is the same picture as {g.same}."
            elif g.along:
                text = f"{g.path.name} goes with {g.along}: {g.note}."
            else:
                assert g.sheet is not None
                text = g.sheet.name + (f": {g.note}" if g.note else "")
            texts.append(text.replace("\n", " "))
        self.lines.setPlainText("\n".join(texts))

    def _ask(self, got: list[Gathered]) -> None:
        """One line with a button for each run of numbered pictures that could be either."""
        emptied(self._asked)
        for files in dict.fromkeys(g.numbered for g in got if g.numbered):
            joined = sum(g.numbered == files for g in got) == 1
            names = f"{files[0].name} to {files[-1].name}"
            what = "were taken as frames of one animation" if joined else "were taken as a sheet each"
            words = label(f"{names} {what}.", "quiet")
            words.setWordWrap(True)
            turn = button("Each a sheet" if joined else "One animation", fix=True)
            turn.clicked.connect(lambda _c=False, f=files: self.other_way.emit(f))
            line = QWidget()
            line.setLayout(row(words, turn, spacing=6))
            self._asked.addWidget(line)


class Bringing:
    """The ways in, asked about over a window; `as_one` says whether numbered pictures go together, and `came`
    shows what came of it."""

    def __init__(
        self, session: Session, window: Callable[[], QWidget | None], as_one: Callable[[], bool],
        came: Callable[[list[Gathered]], object],
    ) -> None:  # fmt: skip
        self.session, self._window, self._as_one, self._came = session, window, as_one, came
        self._unsure: dict[tuple[Path, ...], list[str]] = {}
        self._pasted: tempfile.TemporaryDirectory[str] | None = None

    def choose_files(self) -> None:
        endings = " ".join(f"*{e} *{e.upper()}" for e in ENDINGS)
        names, _ = QFileDialog.getOpenFileNames(
            self._window(), "Add pictures", "", f"Pictures ({endings});;All files (*)"
        )
        self.bring([Path(name) for name in names])

    def choose_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self._window(), "Add the pictures of a folder")
        if name:
            self.bring([Path(name)])

    def paste(self) -> None:
        """Bring in what the clipboard holds: files, or a picture that was copied in another program."""
        clipboard = QApplication.clipboard()
        data = clipboard.mimeData() if clipboard is not None else None
        if data is not None and data.hasUrls():
            self.bring([Path(u.toLocalFile()) for u in data.urls() if u.isLocalFile()])
            return
        image = clipboard.image() if clipboard is not None and data is not None and data.hasImage() else None
        if image is None or image.isNull():
            self.session.tell("told", "The clipboard holds no picture.", "Copy one in another program first.")
            return
        self._pasted = self._pasted or tempfile.TemporaryDirectory(prefix="rushweed-")
        path = Path(self._pasted.name) / "pasted.png"
        if image.save(str(path), "PNG"):
            self.bring([path])

    def bring(self, paths: list[Path], joined: bool | None = None) -> Job | None:
        """Read pictures in the background and put them on the Shelf; bad files are named. With `joined` true
        or false numbered ones are one animation, or each a sheet, whatever they look like."""
        session = self.session
        as_one = self._as_one() if joined is None else joined
        if not paths:
            return None
        if session.document.read_only:
            session.tell("fault", "This project is read-only.", "Copy its folder to add to it.")
            return None
        project = session.document.history.project
        gathering = Gathering(session.folder.path, project, None if joined else sheet_chance)
        stock = session.stock

        def work(job: Job) -> list[Gathered]:
            try:
                return gather(job)
            except BaseException:
                gathering.take_back()
                raise

        def gather(job: Job) -> list[Gathered]:
            got: list[Gathered] = []
            batches = gathering.batches(files_in(paths, got), as_one)
            for i, batch in enumerate(batches):
                job.tell(i / len(batches), f"Gathering {batch.paths[0].name} ({i + 1} of {len(batches)})")
                for one in (suited(project, with_sure_key(taken)) for taken in gathering.take(batch)):
                    if one.picture is not None:
                        stock.put(one.picture)
                    got.append(one._replace(picture=None))
            return got

        job = session.jobs.start("Gathering", work, self._brought)
        job.ended.connect(lambda: gathering.take_back() if job.cancelled else None)
        session.working.emit(job)
        return job

    def other_way(self, files: tuple[Path, ...]) -> None:
        """Numbered pictures the other way: parted if they were taken as one, else joined."""
        session, ids = self.session, self._unsure.pop(files, [])
        there = [s for s in session.document.history.project.sheets if s.id in ids]
        if not there:
            return

        def without(project: Project) -> Project:
            for sheet in there:
                project = remove_sheet(project, sheet.id)
            return project

        if session.document.edit(f"Take {many(len(there), 'sheet')} the other way", without):
            self.bring(list(files), joined=len(there) > 1)

    def _tell_keyed(self, sheets: list[Sheet]) -> None:
        """Sheets whose key colour was taken as they came in."""

        def opaque(project: Project) -> Project:
            for one in project.sheets:
                if one.id in {sheet.id for sheet in sheets}:
                    steps = tuple(step for step in one.source.steps if not isinstance(step, KeyColour))
                    project = set_steps(project, one.id, steps, self.session.stock)
            return project

        more = f" and {len(sheets) - 1} more" if len(sheets) > 1 else ""
        leave = partial(self.session.document.edit, "Leave the key colour", opaque)
        text = f"The key colour of {sheets[0].name}{more} is taken as clear."
        self.session.ask(text, [("Leave it opaque", leave)], lambda: None)

    def _brought(self, got: list[Gathered]) -> None:
        session = self.session
        sheets = [g.sheet for g in got if g.sheet]
        if sheets:
            session.document.edit(f"Gather {many(len(sheets), 'picture')}", lambda p: add_gathered(p, got))
            session.selection.choose_sheet(sheets[0].id)
        self._came(got)
        self._unsure = {g.numbered: [o.sheet.id for o in got if o.numbered == g.numbered and o.sheet]
                        for g in got if g.numbered}  # fmt: skip
        same = [g for g in got if g.same]
        faults = [g.fault for g in got if g.fault]
        if faults:
            more = f" {len(faults) - 1} more could not be read." if len(faults) > 1 else ""
            session.tell("fault", faults[0].problem + more, faults[0].cure)
        elif same:
            more = f" and {len(same) - 1} more" if len(same) > 1 else ""
            session.tell("told", f"{same[0].path.name}{more} is on the Shelf already, as {same[0].same}.")
        elif any(sheet.source.steps for sheet in sheets):
            self._tell_keyed([sheet for sheet in sheets if sheet.source.steps])
        elif not sheets:
            session.tell("told", f"There were no {KINDS} pictures among them.")
