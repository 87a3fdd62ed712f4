"""Findings about pictures: missing or broken files, sheets nothing uses, sheets without a licence."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from rushweed.core.document.edit import remove_sheet, uses_of_sheet
from rushweed.core.document.model import Project
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.pixels.stock import Stock


def missing_source(project: Project, stock: Stock) -> Iterator[Finding]:
    """A sheet whose picture is gone, broken or of another size."""
    for sheet in project.sheets:
        fault = stock.fault(sheet)
        if fault is not None:
            fix = None
            if not uses_of_sheet(project, sheet.id):
                fix = Fix("Take it off the Shelf", partial(remove_sheet, sheet_id=sheet.id))
            text = f"{fault.problem} {fault.cure}"
            yield Finding("missing-source", "fault", text, Place("gather", sheet=sheet.id), fix)


def missing_licence(project: Project, stock: Stock) -> Iterator[Finding]:
    """A sheet that says nothing of its licence."""
    for sheet in project.sheets:
        if not sheet.credit.licence:
            used = uses_of_sheet(project, sheet.id)
            tail = f"; {used[0]} paints with it." if used else "."
            yield Finding(
                "missing-licence",
                "hint",
                f"{sheet.name} has no licence{tail}",
                Place("gather", sheet=sheet.id),
            )
