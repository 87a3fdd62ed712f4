"""Brings pictures in, off the window's thread: from files, folders and the clipboard, with a report."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QApplication, QFileDialog, QFrame, QPlainTextEdit, QVBoxLayout, QWidget

from rushweed.core.pixels.gather import Gathered, Gathering, add_gathered, files_in
from rushweed.core.pixels.read import ENDINGS, KINDS
from rushweed.core.tune.recipe import suited
from rushweed.ui.controls import label
from rushweed.ui.jobs import Job
from rushweed.ui.stages.base import many
from rushweed.ui.theme import Look

if TYPE_CHECKING:
    from rushweed.ui.stages.gather import GatherStage


class Report(QWidget):
    """What came of the last gathering: what came in, what was there already, what failed and why."""

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
        box.addWidget(self.head)
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


class Bringing:
    """The ways in. `stage` shows what came of it."""

    def __init__(self, stage: GatherStage) -> None:
        self.stage, self.session = stage, stage.session
        self._pasted: tempfile.TemporaryDirectory[str] | None = None

    def choose_files(self) -> None:
        endings = " ".join(f"*{e} *{e.upper()}" for e in ENDINGS)
        names, _ = QFileDialog.getOpenFileNames(
            self.stage.desk.window(), "Add pictures", "", f"Pictures ({endings});;All files (*)"
        )
        self.bring([Path(name) for name in names])

    def choose_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self.stage.desk.window(), "Add the pictures of a folder")
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

    def bring(self, paths: list[Path]) -> Job | None:
        """Read pictures in the background and put them on the Shelf; bad files are named."""
        session, as_one = self.session, self.stage.as_one.on
        if not paths:
            return None
        if session.read_only:
            session.tell("fault", "This project is read-only.", "Copy its folder to add to it.")
            return None
        project = session.history.project
        gathering = Gathering(session.folder.path, project)
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
                for one in (suited(project, taken) for taken in gathering.take(batch)):
                    if one.picture is not None:
                        stock.put(one.picture)
                    got.append(one._replace(picture=None))
            return got

        job = session.jobs.start("Gathering", work, self._brought)
        job.ended.connect(lambda: gathering.take_back() if job.cancelled else None)
        session.working.emit(job)
        return job

    def _brought(self, got: list[Gathered]) -> None:
        session = self.session
        sheets = [g.sheet for g in got if g.sheet]
        if sheets:
            session.edit(f"Gather {many(len(sheets), 'picture')}", lambda p: add_gathered(p, got))
            session.choose_sheet(sheets[0].id)
        self.stage.report.show_value(got)
        if len(got) > 1 or any(g.fault for g in got):
            self.stage.show_tab("report")
        same = [g for g in got if g.same]
        faults = [g.fault for g in got if g.fault]
        if faults:
            more = f" {len(faults) - 1} more could not be read." if len(faults) > 1 else ""
            session.tell("fault", faults[0].problem + more, faults[0].cure)
        elif same:
            more = f" and {len(same) - 1} more" if len(same) > 1 else ""
            session.tell("told", f"{same[0].path.name}{more} is on the Shelf already, as {same[0].same}.")
        elif not sheets:
            session.tell("told", f"There were no {KINDS} pictures among them.")
