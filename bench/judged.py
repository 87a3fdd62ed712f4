"""Findings on labelled real sheets, cut as their labels say, beside what a person said of each.

A sheet in one row or column, or of characters, is one animation or one for each row. What is true of all of
them by how they come together (no licence is named, nothing shows the tiles) is not counted.
"""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

from PIL import Image

from bench.labels import ART, Sheet, read, sheet_labels
from bench.row import Row
from rushweed.core.animate.timeline import animate, animate_rows
from rushweed.core.cut.edit import cut_sheet
from rushweed.core.document.model.cut import GridCut
from rushweed.core.document.model.project import Project
from rushweed.core.findings.check import check
from rushweed.core.findings.finding import Finding
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.gather import Gathering, add_gathered
from rushweed.core.pixels.key import keyed
from rushweed.core.pixels.read import read_picture
from rushweed.core.store.folder import Folder

ANIMATED = ("strip", "chars")
BY_MAKING = ("missing-licence", "unused-sheet", "name-clash")
MOST_FALSE = 1 / 20


def rows() -> Iterator[Row]:
    """How many findings a person called false; those nobody judged yet count as false and are named."""
    labels = sheet_labels() + sheet_labels(read("aside.json")["grids"])
    judged = read("judged.json")
    with tempfile.TemporaryDirectory() as home:
        found = [(label, f) for label, f in findings(labels, Path(home)) if f.rule not in BY_MAKING]
    false = [
        f"{'false' if key in judged['false'] else 'not judged'}: {finding.text}"
        for label, finding in found
        if (key := f"{label.file} {finding.rule}") not in judged["right"]
    ]
    share = len(false) / max(len(found), 1)
    words = f"{share:.1%} of {len(found)}"
    note = "; ".join(false)
    yield Row(f"false findings on {len(labels)} sheets", words, "5%", share / MOST_FALSE, 1.0, note)


def findings(labels: list[Sheet], home: Path) -> Iterator[tuple[Sheet, Finding]]:
    """Each finding of a project of these sheets, with the label of its sheet."""
    files = [_keyed(label, number, home) for number, label in enumerate(labels)]
    _folder, project = Folder.create(home / "project", "judged")
    gathering = Gathering(home / "project", project, lambda _rgba: 1.0)
    got = [r for batch in gathering.batches(files, False) for r in gathering.take(batch)]
    project = add_gathered(project, [r._replace(picture=None) for r in got])
    stock = PixelCache(home / "project")
    number_of = {sheet.id: int(Path(sheet.source.path).name[:4]) for sheet in project.sheets}
    for sheet_id, number in number_of.items():
        project = _cut(project, sheet_id, labels[number], stock)
    for finding in check(project, stock):
        if finding.place.sheet is not None:
            yield labels[number_of[finding.place.sheet]], finding


def _keyed(label: Sheet, number: int, home: Path) -> Path:
    """The picture of a label as a file of its own, its key colour made clear."""
    rgba = read_picture(ART / label.file).rgba
    if label.key is not None:
        rgba = keyed(rgba, label.key, 2)
    path = home / f"{number:04} {Path(label.file).stem}.png"
    Image.fromarray(rgba).save(path)
    return path


def _cut(project: Project, sheet_id: str, label: Sheet, stock: PixelCache) -> Project:
    sheet = next(s for s in project.sheets if s.id == sheet_id)
    cut = GridCut(label.cell, label.margin, label.spacing)
    project = cut_sheet(project, sheet_id, cut, stock.pixels(sheet))
    cells = next(s for s in project.sheets if s.id == sheet_id).cells
    if label.kind not in ANIMATED or len(cells) < 2:
        return project
    places = [{cell.rect[axis] for cell in cells} for axis in (0, 1)]
    if label.kind == "strip" and min(map(len, places)) == 1:
        return animate(project, [cell.id for cell in cells])[0]
    return animate_rows(project, sheet_id)[0]
