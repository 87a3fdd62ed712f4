"""Gather: the pictures of the project, where they come from and under which licence."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QWidget

from rushweed.core.document.edit import remove_sheet, set_credit, uses_of_sheet
from rushweed.core.document.model import Project
from rushweed.core.pixels.gather import Gathered, add_sheets, files_in, gather_file, known_pictures
from rushweed.ui.actions import Command
from rushweed.ui.controls import Rule, button, label, row
from rushweed.ui.fields import TextField
from rushweed.ui.stages.base import POINT, Card, SheetStage, many
from rushweed.ui.work import Job

FIELDS = (
    ("author", "Author", "who drew it"),
    ("title", "Title", "what they call it"),
    ("link", "Link", "where it is found"),
    ("licence", "Licence", "SPDX, such as CC0-1.0"),
)


class GatherStage(SheetStage):
    key, title = "gather", "Gather"
    dims_waste = False
    tools = (POINT,)

    def build(self) -> None:
        add = button("Add pictures ...")
        folder = button("Add a folder ...")
        self._words = label("", "quiet")
        add.clicked.connect(self.choose_files)
        folder.clicked.connect(self.choose_folder)
        self.option_line.setLayout(row(add, folder, 8, self._words, None))
        card = Card(self.look, "Card")
        self.card: Card = card
        self._facts = {}
        for name in ("Picture", "Size", "Cut into", "Used by"):
            value = label("", "value" if name == "Size" else "text")
            value.setWordWrap(False)
            card.field(name, value)
            self._facts[name] = value
        card.add(Rule(self.look))
        card.add(label("Credit", "head"))
        self._credit: dict[str, TextField] = {}
        for field, words, hint in FIELDS:
            made = TextField(hint)
            made.edited.connect(lambda text, f=field: self._set(f, text))
            card.field(words, made)
            self._credit[field] = made
        self._remove = button("Take it off the Shelf")
        self._remove.clicked.connect(self.remove)
        card.gap()
        holder = QWidget()
        holder.setLayout(row(self._remove, None))
        card.add(holder)
        card.end()

    def refresh(self) -> None:
        sheets = self.session.sheets
        sheet = self.session.sheet
        number = len(self.session.project.sheets)
        self._words.setText(f"{many(number, 'picture')} gathered. Drop more anywhere in the window.")
        self.card.what.setText(many(len(sheets), "sheet") if sheets else "nothing selected")
        self.card.where.setText(sheet.name if sheet else "")
        self.card.setEnabled(sheet is not None)
        for name, text in zip(self._facts, self._texts(), strict=True):
            self._facts[name].setText(text)
            self._facts[name].setToolTip(text)
        for field, made in self._credit.items():
            values = {getattr(s.credit, field) for s in sheets}
            made.show_value(values.pop() if len(values) == 1 else "")
            made.setPlaceholderText("mixed" if values else next(h for f, _w, h in FIELDS if f == field))

    def _texts(self) -> tuple[str, str, str, str]:
        sheet = self.session.sheet
        if sheet is None:
            return "", "", "", ""
        used = uses_of_sheet(self.session.project, sheet.id)
        width, height = sheet.source.size
        cells = many(len(sheet.cells), "cell") if sheet.cells else "not cut yet"
        return sheet.source.path, f"{width} × {height} px", cells, ", ".join(used) or "no level yet"

    def _set(self, field: str, text: str) -> None:
        ids = list(self.session.sheet_ids)
        words = next(w for f, w, _h in FIELDS if f == field).lower()
        self.session.edit(
            f"Set the {words} of {many(len(ids), 'sheet')}", lambda p: set_credit(p, ids, **{field: text})
        )

    def remove(self) -> None:
        ids = self.session.sheet_ids

        def off(project: Project) -> Project:
            for sheet_id in ids:
                project = remove_sheet(project, sheet_id)
            return project

        names = [s.name for s in self.session.sheets]
        users = sorted({u for i in ids for u in uses_of_sheet(self.session.project, i)})
        if self.session.edit(f"Take {', '.join(names)} off the Shelf", off) and users:
            self.session.tell(
                "told",
                f"{', '.join(users)} paints with {', '.join(names)}; those tiles now show nothing.",
                "Undo brings it back.",
            )

    # -- bringing pictures in --------------------------------------------------------------------------

    def choose_files(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(
            self.desk.window(), "Add pictures", "", "Pictures (*.png *.bmp *.PNG *.BMP);;All files (*)"
        )
        self.bring([Path(name) for name in names])

    def choose_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self.desk.window(), "Add the pictures of a folder")
        if name:
            self.bring([Path(name)])

    def bring(self, paths: list[Path]) -> Job | None:
        """Read pictures in the background and put them on the Shelf; bad files are named."""
        if not paths:
            return None
        if self.session.read_only:
            self.session.tell(
                "fault", "This project is open for looking only.", "Copy its folder to add to it."
            )
            return None
        known, taken = known_pictures(self.session.project)
        folder = self.session.folder.path

        def work(job: Job) -> list[Gathered]:
            files = files_in(paths)
            got = []
            for i, path in enumerate(files):
                job.tell(i / len(files), f"Gathering {path.name} ({i + 1} of {len(files)})")
                got.append(gather_file(folder, path, known, taken))
            return got

        job = self.session.workshop.start("Gathering", work)
        job.done.connect(self._brought)
        job.failed.connect(lambda e: self.session.tell("fault", e.problem, e.cure))
        self.session.working.emit(job)
        return job

    def _brought(self, got: list[Gathered]) -> None:
        sheets = [g.sheet for g in got if g.sheet]
        for g in got:
            if g.picture:
                self.session.stock.put(g.picture)
        if sheets:
            self.session.edit(f"Gather {many(len(sheets), 'picture')}", lambda p: add_sheets(p, sheets))
            self.session.choose_sheet(sheets[0].id)
        same = [g for g in got if g.same]
        faults = [g.fault for g in got if g.fault]
        if faults:
            more = f" {len(faults) - 1} more could not be read." if len(faults) > 1 else ""
            self.session.tell("fault", faults[0].problem + more, faults[0].cure)
        elif same:
            more = f" and {len(same) - 1} more" if len(same) > 1 else ""
            self.session.tell(
                "told", f"{same[0].path.name}{more} is on the Shelf already, as {same[0].same}."
            )
        elif not sheets:
            self.session.tell("told", "There were no PNG or BMP pictures in it.")

    def commands(self) -> list[Command]:
        return [
            Command("gather.add", "Add pictures", ("Ctrl+I",), "Choose picture files to bring in.",
                    self.choose_files, group="Gather"),
            Command("gather.folder", "Add a folder of pictures", ("Ctrl+Shift+I",),
                    "Bring in every picture of a folder.", self.choose_folder, group="Gather"),
            Command("gather.remove", "Take the sheet off the Shelf", (), "Undo brings it back.", self.remove,
                    lambda: "" if self.session.sheet else "No sheet is selected.", group="Gather"),
        ]  # fmt: skip
