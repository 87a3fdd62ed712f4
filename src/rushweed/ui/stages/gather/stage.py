"""Gather: the pictures of the project, how they are prepared and where they come from."""

from __future__ import annotations

from functools import partial
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QHBoxLayout, QLayout, QWidget

from rushweed.core.document.edit import set_credit, set_group, uses_of_sheet
from rushweed.core.document.model.base import Colour
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.steps import KeyColour, Recolour, Reduce, ReplaceColour, Step
from rushweed.core.pixels.copies import recoloured_copy
from rushweed.core.pixels.gather import Gathered
from rushweed.core.pixels.key import KeyProposal, key_candidates, keyed
from rushweed.core.pixels.licence import licence_fault
from rushweed.core.pixels.true_pixel import TruePixel, true_pixel
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.images import image_of
from rushweed.ui.kit.card import Card, scrolled
from rushweed.ui.kit.choices import ChoiceRow, PickBox
from rushweed.ui.kit.controls import Check, Chip, Rule, button, emptied, label, picture_tip, row
from rushweed.ui.kit.fields import TextField
from rushweed.ui.kit.text import many, short
from rushweed.ui.panels.settings_board import EDITOR
from rushweed.ui.session.jobs import Job
from rushweed.ui.session.shown_work import ShownWork
from rushweed.ui.stages.gather.bringing import Bringing, Report
from rushweed.ui.stages.gather.editor import open_picture
from rushweed.ui.stages.gather.removing import take_off
from rushweed.ui.stages.gather.step_work import StepWork
from rushweed.ui.stages.gather.steps import FRESH, StepList, hex_of
from rushweed.ui.stages.gather.tools import PickColour, Wipe
from rushweed.ui.stages.sheet_pointer import Point
from rushweed.ui.stages.sheet_stage import SheetStage

FIELDS = (
    ("author", "Author", "who drew it"),
    ("title", "Title", "what they call it"),
    ("link", "Link", "where it is found"),
    ("licence", "Licence", "SPDX, such as CC0-1.0"),
    ("attribution", "Credit line", "the words its author asks for"),
    ("changes", "Changes", "besides the preparation"),
)


OFFERED = 0.1  # chance from which a key colour is offered
RESULT = 240  # px of a side of the small picture of what a key colour makes of a sheet


class Seen(NamedTuple):
    """What a picture seems to need: its key colours, likeliest first, with a picture of the result of each,
    and its true px size if it was enlarged."""

    keys: list[KeyProposal]
    pictures: list[np.ndarray]
    true: TruePixel | None


def _result(raw: np.ndarray, key: KeyProposal) -> np.ndarray:
    """A small picture of a sheet with its key colour made clear."""
    step = max(-(-max(raw.shape[:2]) // RESULT), 1)
    return keyed(np.ascontiguousarray(raw[::step, ::step]), key.colour, key.tolerance)


class GatherStage(SheetStage):
    key, title = "gather", "Gather"
    dims_waste = False

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self.picking = PickColour(self.pointer, self.take_colour)
        self.tools = [Point(self.pointer), Wipe(self.pointer), self.picking]
        self.tool = Point.id
        self.bringing = Bringing(
            self.session, lambda: self.desk.window(), lambda: self.as_one.on, self._show_report
        )
        add, folder = button("Add pictures ..."), button("Add a folder ...")
        add.clicked.connect(self.bringing.choose_files)
        folder.clicked.connect(self.bringing.choose_folder)
        self.as_one = Check(self.look, self.icons, "Numbered ones together")
        self.as_one.show_value(True)
        self.as_one.setToolTip("run_1, run_2 ... become one sheet with its frames and an animation")
        self.add_step = PickBox(self.look, ["Add a step", *FRESH])
        self.add_step.setAccessibleName("Add a step")
        self.add_step.setFixedWidth(120)
        self.add_step.picked.connect(self.begin_step)
        copy = button("Recoloured copy")
        copy.setToolTip("The same picture in other colours: its cells share the shapes of this one")
        copy.clicked.connect(self.recoloured)
        self.option_line.fill(add, folder, self.as_one, None, self.add_step, copy)
        self.proposal_line = QWidget()
        self.chips = QHBoxLayout(self.proposal_line)
        self.chips.setContentsMargins(8, 0, 8, 8)
        self.chips.setSpacing(8)
        self.chips.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        self._chip_key: object = None
        self._found: dict[str, Seen] = {}
        self._looking = ShownWork(self.session.jobs, "Looking at the picture")
        self._looked = False
        self.steps_work = StepWork(self.session, partial(self.show_tab, "steps"), self.refresh)
        self._build_card()

    def _build_card(self) -> None:
        card = Card(self.look, "Card")
        self._head_of, self.card = card, scrolled(card)
        self.facts = {}
        for name in ("Picture", "Size", "Used by"):
            value = label("", "value" if name == "Size" else "text")
            value.setWordWrap(False)
            card.field(name, value)
            self.facts[name] = value
        self.group_field = TextField("folder on the Shelf")
        self.group_field.edited.connect(self._set_group)
        card.field("Group", self.group_field)
        self._tab = ChoiceRow(
            self.look, [("steps", "Preparation"), ("credit", "Credit"), ("report", "Report")]
        )
        self._tab.edited.connect(lambda _v: self._show_tab())
        card.add(self._tab)
        self.steps = StepList(self.look, self.icons)
        self.steps.edited.connect(self.steps_work.edited)
        self.session.document.follow(self.steps)
        self.steps.escaped.connect(self.steps_work.leave)
        self.steps.picking.connect(self._pick_for)
        card.add(self.steps)
        credit = Card(self.look, "")
        credit.rows.setContentsMargins(0, 0, 0, 0)
        credit.head.parentWidget().hide()  # type: ignore[union-attr]
        self.credit: dict[str, TextField] = {}
        for field, words, hint in FIELDS:
            made = TextField(hint)
            made.edited.connect(lambda text, f=field: self._set(f, text))
            credit.field(words, made)
            self.credit[field] = made
        self.licence = label("", "caption")
        self.licence.setWordWrap(True)
        credit.add(self.licence)
        self._credit_page = credit
        card.add(credit)
        self.report = Report(self.look)
        self.report.other_way.connect(self.bringing.other_way)
        card.add(self.report)
        card.add(Rule(self.look))
        self.open_button, self._remove = button("Open in editor"), button("Remove sheet")
        self.open_button.setToolTip(
            "In the program your desktop opens pictures with; it is read again when saved"
        )
        self.open_button.clicked.connect(self.open_outside)
        self._remove.setToolTip("Undo brings it back")
        self._remove.clicked.connect(self.remove)
        holder = QWidget()
        holder.setLayout(row(self.open_button, self._remove, None))
        card.add(holder)
        card.end()
        self._tab.show_value("steps")
        self._show_tab()

    # -- showing -----------------------------------------------------------------------------------

    def entered(self) -> None:
        self._looked = True
        self._ask()

    def left(self) -> None:
        self._looking.leave()

    def _ask(self) -> None:
        """Look for a key colour and the true px of the picture shown, once."""
        sheet = self.session.selection.sheet
        if sheet is None:
            return

        def work(job: Job) -> Seen:
            raw = self.session.stock.raw(sheet)
            keys = [key for key in key_candidates(raw) if key.sure or key.chance >= OFFERED][:2]
            return Seen(keys, [_result(raw, key) for key in keys], true_pixel(raw))

        self._looking.want(sheet.source.sha256, work, lambda found: self._seen_now(sheet, found))

    def _seen_now(self, sheet: Sheet, found: Seen) -> None:
        self._found[sheet.source.sha256] = found
        self._show_chips()

    def refresh(self) -> None:
        sheets, sheet = self.session.selection.sheets, self.session.selection.sheet
        if self.session.stage == "gather" and self._looked:
            self._ask()
        self._head_of.what.setText(many(len(sheets), "sheet") if sheets else "nothing selected")
        self._head_of.where.setText(short(sheet.name) if sheet else "")
        for name, text in zip(self.facts, self._texts(), strict=True):
            self.facts[name].setText(text)
            self.facts[name].setToolTip(text)
        for part in (
            self.group_field,
            self.steps,
            self._credit_page,
            self.open_button,
            self._remove,
            self.add_step,
        ):
            part.setEnabled(sheet is not None)
        groups = {s.group for s in sheets}
        self.group_field.show_value(groups.pop() if len(groups) == 1 else "")
        self.group_field.setPlaceholderText("mixed" if groups else "folder on the Shelf")
        for field, made in self.credit.items():
            values = {getattr(s.credit, field) for s in sheets}
            made.show_value(values.pop() if len(values) == 1 else "")
            made.setPlaceholderText("mixed" if values else next(h for f, _w, h in FIELDS if f == field))
        fault = licence_fault(sheet.credit.licence) if sheet and self._looked else ""
        self.licence.setText(f"{fault}." if fault else "")
        self.steps.show_value(sheet.source.steps if sheet else (), self.picking.for_step)
        self._show_chips()

    def _texts(self) -> tuple[str, str, str]:
        sheet = self.session.selection.sheet
        if sheet is None:
            return "", "", ""
        used = uses_of_sheet(self.session.project, sheet.id)
        source = sheet.source
        extra = [f"{v.scale}x" for v in source.variants] + (["normal map"] if source.normal else [])
        size = f"{source.size[0]} × {source.size[1]} px"
        if source.raw and source.raw != source.size:
            size += f" of {source.raw[0]} × {source.raw[1]}"
        many_parts = f"{len(source.parts)} in {source.path}" if source.parts else source.path
        return many_parts, ", ".join([size, *extra]), ", ".join(used) or "nothing yet"

    def _show_tab(self) -> None:
        value = self._tab.value
        self.steps.setVisible(value == "steps")
        self._credit_page.setVisible(value == "credit")
        self.report.setVisible(value == "report")

    def show_tab(self, name: str) -> None:
        self._tab.show_value(name)
        self._show_tab()

    def _show_report(self, got: list[Gathered]) -> None:
        self.report.show_value(got)
        if len(got) > 1 or any(g.fault for g in got):
            self.show_tab("report")

    def _show_chips(self) -> None:
        sheet = self.session.selection.sheet
        found = self._found.get(sheet.source.sha256) if sheet else None
        shown = (sheet.source if sheet else None, id(found))
        if shown == self._chip_key:
            return
        self._chip_key = shown
        emptied(self.chips)
        if sheet is None:
            self.chips.addWidget(label("Drop pictures anywhere in the window.", "quiet"))
        elif found is None:
            self.chips.addWidget(label("Looking at the picture ...", "quiet"))
        else:
            keys, pictures, true = found
            self.chips.addWidget(label("Proposed" if keys or true else "Ready to be cut as it is.", "quiet"))
            for key, picture in zip(keys, pictures, strict=True):
                step: Step = KeyColour(key.colour, key.tolerance)
                chosen = any(isinstance(s, KeyColour) and s.colour == key.colour for s in sheet.source.steps)
                words = f"Key colour {hex_of(key.colour)}"
                evidence = key.evidence[8:] if key.sure else f"perhaps, {key.evidence[8:]}"
                self._chip(words, evidence, chosen, step, picture)
            if true:
                step = Reduce(true.factor, true.start)
                chosen = any(isinstance(s, Reduce) for s in sheet.source.steps)
                self._chip(f"Reduce to 1/{true.factor}", true.evidence, chosen, step)
        self.chips.addStretch(1)

    def _chip(
        self, words: str, evidence: str, chosen: bool, step: Step, picture: np.ndarray | None = None
    ) -> None:
        tip = f"{words}: {evidence}. Press to do it."
        image = image_of(picture) if picture is not None else None
        chip = Chip(self.look, words, evidence, chosen, tip if image is None else picture_tip(tip, image))
        chip.picture = image
        if not chosen:
            chip.pressed.connect(partial(self.steps_work.add, step))
        self.chips.addWidget(chip)

    # -- preparation -------------------------------------------------------------------------------

    def begin_step(self, words: str) -> None:
        self.add_step.setCurrentIndex(0)
        if words in FRESH:
            sheet = self.session.selection.sheet
            step = FRESH[words]
            found = self._found.get(sheet.source.sha256) if sheet else None
            if isinstance(step, KeyColour) and found and found.keys:
                step = KeyColour(found.keys[0].colour, found.keys[0].tolerance)
            if isinstance(step, Reduce) and found and found.true:
                step = Reduce(found.true.factor, found.true.start)
            if words == "Fit to" and sheet is not None:
                step = replace(step, size=sheet.source.size)
            self.steps_work.add(step)
            if isinstance(step, ReplaceColour) or (
                isinstance(step, KeyColour) and not (found and found.keys)
            ):
                self._pick_for(
                    len(self.session.selection.sheet.source.steps) - 1 if self.session.selection.sheet else 0
                )

    def _pick_for(self, number: int) -> None:
        self.use(PickColour.id)
        self.picking.for_step = number  # after the change of tools, which ends any picking before
        self.refresh()

    def take_colour(self, colour: Colour, number: int | None) -> None:
        """A colour was picked on the Desk, for a step or the first that takes one: it is the key, or one to
        exchange."""
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        steps = sheet.source.steps
        if number is None or number >= len(steps):
            number = next((n for n, s in enumerate(steps) if isinstance(s, (KeyColour, ReplaceColour))), None)
        if number is None:
            self.steps_work.add(KeyColour(colour))
        else:
            step = steps[number]
            if isinstance(step, ReplaceColour):
                if all(old != colour for old, _new in step.pairs):
                    step = replace(step, pairs=(*step.pairs, (colour, colour)))
            elif isinstance(step, KeyColour):
                step = replace(step, colour=colour)
            self.steps_work.edited((*steps[:number], step, *steps[number + 1 :]), "Pick a colour")
        self.picking.cancel()
        self.use(Point.id)
        self.refresh()

    def recoloured(self) -> None:
        """Copy the sheet, or its selected cells, to be recoloured by the fields of its new step."""
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        if sheet is None:
            return
        made = ""

        def change(project: Project) -> Project:
            nonlocal made
            project, made = recoloured_copy(project, sheet.id, set(ids), Recolour(hue=180))
            return project

        if self.session.document.edit(f"Copy {sheet.name} to recolour it", change):
            self.session.selection.choose_sheet(made)
            self.show_tab("steps")

    def paint_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        self.active.paint(painter, room)

    # -- credit and order ----------------------------------------------------------------------------

    def _set(self, field: str, text: str) -> None:
        ids = list(self.session.selection.sheet_ids)
        words = next(w for f, w, _h in FIELDS if f == field).lower()
        self.session.document.edit(
            f"Set the {words} of {many(len(ids), 'sheet')}", lambda p: set_credit(p, ids, **{field: text})
        )

    def _set_group(self, text: str) -> None:
        ids = list(self.session.selection.sheet_ids)
        self.session.document.edit(f"Group {many(len(ids), 'sheet')}", lambda p: set_group(p, ids, text))

    def open_outside(self) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None:
            path = self.session.folder.path / (sheet.source.parts or (sheet.source.path,))[0]
            open_picture(self.session, path, str(self.context.preferences.value(EDITOR, "") or ""))

    def remove(self) -> None:
        """Take the selected sheets off the Shelf; what would break is named first."""
        take_off(self.session, list(self.session.selection.sheets))
