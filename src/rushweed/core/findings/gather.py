"""Findings about pictures: missing or broken files, sheets nothing uses, sheets without a licence."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterator
from functools import partial

from msgspec.structs import replace

from rushweed.core.animate.timeline import rename_animation
from rushweed.core.cut.aside import drop_aside
from rushweed.core.cut.reload import Reread, newer, take_up
from rushweed.core.document.edit import (
    put_sheet,
    remove_sheet,
    rename,
    sheet_of,
    unused_sheets,
    uses_of_sheet,
)
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.findings.finding import Finding, Fix, Place, Weight
from rushweed.core.level.losses import tiles_by_cell
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.licence import asks_for_credit, licence_fault


def missing_source(project: Project, stock: PixelCache) -> Iterator[Finding]:
    """A sheet whose picture is gone or broken."""
    for sheet in project.sheets:
        fault = stock.fault(sheet)
        if fault is not None and newer(sheet, stock) is None:
            fix = None
            if not uses_of_sheet(project, sheet.id):
                fix = Fix("Remove the sheet", partial(remove_sheet, sheet_id=sheet.id))
            text = f"{fault.problem} {fault.cure}"
            yield Finding("missing-source", "fault", text, Place("gather", sheet=sheet.id), fix)


def changed_source(project: Project, stock: PixelCache) -> Iterator[Finding]:
    """A sheet whose file holds another picture than the one that is shown, or one of another size."""
    for sheet in project.sheets:
        apart = stock.stands_apart(sheet.source)
        found = newer(sheet, stock) if apart or stock.fault(sheet) is not None else None
        if found is None:
            continue
        (w, h), (now_w, now_h) = sheet.source.size, found.source.size
        if apart:
            text = f"{sheet.name} shows an earlier picture than its file {sheet.source.path} holds."
        else:
            text = f"{sheet.name} was {w} x {h} px and its file is {now_w} x {now_h} px now"
            text += f": {found.moves[0].words}." if found.moves else "."
        fix = Fix("Take the file's picture", partial(_taken_up, found=found, stock=stock))
        yield Finding("changed-source", "fault", text, Place("gather", sheet=sheet.id), fix)


def _taken_up(project: Project, found: Reread, stock: PixelCache) -> Project:
    return take_up(project, found, found.moves[0] if found.moves else None, stock)


def kept_aside(project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Cells that lie outside their picture since that shrank."""
    if not any(sheet.aside for sheet in project.sheets):
        return
    used = {f.cell for a in project.animations for f in a.frames}
    for level in project.levels:
        used.update(tiles_by_cell(level))
        used.update(thing.shows for thing in level.things)
    for sheet in project.sheets:
        if not sheet.aside:
            continue
        number, needed = len(sheet.aside), sum(one.cell.id in used for one in sheet.aside)
        text = f"{sheet.name}: {number} {'cell lies' if number == 1 else 'cells lie'} outside its picture"
        text += f", {needed} of them in use." if needed else "."
        fix = None if needed else Fix("Remove them", partial(drop_aside, sheet_id=sheet.id))
        weight: Weight = "fault" if needed else "hint"
        yield Finding("kept-aside", weight, text, Place("cut", sheet=sheet.id), fix)


def attribution_missing(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """A licence that asks for its author where nobody is named, or that is no licence at all."""
    credit = sheet.credit
    place = Place("gather", sheet=sheet.id)
    wrong = licence_fault(credit.licence)
    if wrong:
        yield Finding("unknown-licence", "hint", f"{sheet.name}: {wrong}.", place)
    elif asks_for_credit(credit.licence) and not (credit.author or credit.attribution):
        text = f"{sheet.name}: {credit.licence} asks that its author is named, and nobody is."
        yield Finding("missing-attribution", "fault", text, place)


def companions(project: Project, stock: PixelCache) -> Iterator[Finding]:
    """A normal map or a larger variant that no longer fits its sheet."""
    for sheet in project.sheets:
        place = Place("gather", sheet=sheet.id)
        source = sheet.source
        if source.normal and stock.normals(sheet) is None:
            text = f"{sheet.name}: its normal map {source.normal} is missing or of another size."
            yield Finding(
                "normal-map", "fault", text, place, Fix("Ship without it", partial(_flat, sheet_id=sheet.id))
            )
        for variant in source.variants:
            if stock.variant(sheet, variant.scale) is None:
                text = f"{sheet.name}: {variant.path} is missing or not {variant.scale} times as large."
                fix = Fix("Ship without it", partial(_single, sheet_id=sheet.id, scale=variant.scale))
                yield Finding("variant", "fault", text, place, fix)


def _flat(project: Project, sheet_id: str) -> Project:
    sheet = sheet_of(project, sheet_id)
    return put_sheet(project, replace(sheet, source=replace(sheet.source, normal="")))


def _single(project: Project, sheet_id: str, scale: int) -> Project:
    sheet = sheet_of(project, sheet_id)
    rest = tuple(v for v in sheet.source.variants if v.scale != scale)
    return put_sheet(project, replace(sheet, source=replace(sheet.source, variants=rest)))


def missing_licence(project: Project, stock: PixelCache) -> Iterator[Finding]:
    """A sheet that says nothing of its licence."""
    for sheet in project.sheets:
        if sheet.credit.licence:
            continue
        used = uses_of_sheet(project, sheet.id)
        tail = f"; {used[0]} uses it." if used else "."
        place = Place("gather", sheet=sheet.id)
        yield Finding("missing-licence", "hint", f"{sheet.name} has no licence{tail}", place)


def unused_sheet(project: Project, stock: PixelCache) -> Iterator[Finding]:
    """A sheet that is cut and that nothing shows, once most others are shown. One that a way to ship names,
    that has states or nine-slices is for the game to use."""
    cut = [sheet for sheet in project.sheets if sheet.cells]
    unused = [sheet for sheet in unused_sheets(project) if sheet.cells]
    if 2 * len(unused) >= len(cut):  # work that has hardly begun
        return
    named = {sheet_id for way in project.ways for sheet_id in way.sheets or ()}
    for sheet in unused:
        if sheet.id not in named and not sheet.states and not any(c.stretch for c in sheet.cells):
            text = f"{sheet.name}: no level and no animation shows it."
            fix = Fix("Remove the sheet", partial(remove_sheet, sheet_id=sheet.id))
            yield Finding("unused-sheet", "hint", text, Place("gather", sheet=sheet.id), fix)


def name_clash(project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Sheets, levels or animations whose names differ in capitals alone or not at all: their files do too."""
    kinds: tuple[tuple[str, tuple[Sheet | Level | Animation, ...]], ...] = (
        ("sheet", project.sheets), ("level", project.levels), ("animation", project.animations),
    )  # fmt: skip
    for kind, parts in kinds:
        first: dict[str, str] = {}
        for part in parts:
            name = unicodedata.normalize("NFC", part.name).casefold()
            if name not in first:
                first[name] = part.name
                continue
            text = f"The {kind} {part.name} has the name of another, {first[name]}."
            fix = Fix("Give it a number", partial(_numbered, part_id=part.id))
            yield Finding("name-clash", "hint", text, _place_of(part), fix)


def _place_of(part: Sheet | Level | Animation) -> Place:
    if isinstance(part, Sheet):
        return Place("gather", sheet=part.id)
    return Place("paint", level=part.id) if isinstance(part, Level) else Place("animate", animation=part.id)


def _numbered(project: Project, part_id: str) -> Project:
    """The part under a name that no other of its kind has, whatever the capitals."""
    for parts, change in (
        (project.sheets, rename),
        (project.levels, rename),
        (project.animations, rename_animation),
    ):
        part = next((p for p in parts if p.id == part_id), None)
        if part is not None:
            taken = {p.name.casefold() for p in parts if p.id != part_id}
            return change(project, part_id, _free(part.name, taken))
    return project


def _free(name: str, taken: set[str]) -> str:
    stem, dot, end = name.rpartition(".") if "." in name else (name, "", "")
    number = 2
    while f"{stem}_{number}{dot}{end}".casefold() in taken:
        number += 1
    return f"{stem}_{number}{dot}{end}"
