"""Bring pictures into a project: copied into its art folder, one sheet each; numbered ones together."""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.errors import PictureError, RushweedError, file_reason
from rushweed.core.document.ids import natural_key, new_id, unique_name
from rushweed.core.document.model.animation import Animation, Frame
from rushweed.core.document.model.cut import GridCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet, Source, Variant
from rushweed.core.document.model.steps import KeyColour
from rushweed.core.pixels.key import propose_key
from rushweed.core.pixels.read import ENDINGS, KINDS, Picture, frame_columns, read_picture
from rushweed.core.pixels.series import Batch, are_frames, batches, common_crop, laid_out
from rushweed.core.store.files import write_file

MOST_FILES = 20_000
FRAMES_UP_TO, SHEETS_FROM = 0.2, 0.8  # chances of being sheets between which it is asked


class Gathered(NamedTuple):
    """What came of one file: a new `sheet` (with an `animation` if it moves), the `same` one there already,
    the sheet it went `along` with as a variant or normal map, or the `fault`; `note` says more. `numbered`
    are the files of numbered pictures that were taken together, or each by itself, without being sure."""

    path: Path
    sheet: Sheet | None = None
    picture: Picture | None = None
    same: str | None = None
    fault: RushweedError | None = None
    animation: Animation | None = None
    along: str = ""
    note: str = ""
    numbered: tuple[Path, ...] = ()


SheetChance = Callable[[np.ndarray], float]  # how likely a picture is a sheet of many cells, 0..1


def files_in(paths: list[Path], faults: list[Gathered] | None = None) -> list[Path]:
    """The files to read: folders are opened, their pictures taken in natural order, folder by folder. A
    folder that cannot be read, or holds no picture, is added to `faults`."""
    found: list[Path] = []
    for path in paths:
        if not path.is_dir():
            found.append(path)
            continue

        def unreadable(error: OSError, path: Path = path) -> None:
            if faults is not None:
                where = Path(error.filename or path).name
                problem = f"The folder {where} could not be read: {file_reason(error)}."
                faults.append(
                    Gathered(path, fault=PictureError(problem, "Allow reading it, or leave it out."))
                )

        inside: list[Path] = []
        failed = len(faults) if faults is not None else 0
        for folder, _folders, names in os.walk(path, onerror=unreadable):
            inside += [Path(folder) / n for n in names if Path(n).suffix.lower() in ENDINGS]
        if not inside and faults is not None and len(faults) == failed:
            problem = f"The folder {path.name or path} holds no pictures."
            faults.append(Gathered(path, fault=PictureError(problem, f"Choose one with {KINDS} files.")))
        found += sorted(inside, key=lambda p: (natural_key(str(p.parent)), natural_key(p.name)))
    return found[:MOST_FILES]


class Gathering:
    """Reads files into one project folder. Knows the pictures that are there, by content and by name."""

    def __init__(
        self, folder: Path, project: Project, sheet_chance: SheetChance | None = None, sure: bool = False
    ) -> None:
        """`sheet_chance` tells sheets of many cells, which stay apart although they are numbered; with `sure`
        nobody is asked."""
        self.folder = folder
        self._sheet_chance, self._sure = sheet_chance, sure
        self._written: list[Path] = []
        self._known = {s.source.sha256: s.name for s in project.sheets}
        self._taken = {path for s in project.sheets for path in s.source.files}

    def batches(self, files: list[Path], as_one: bool = True) -> list[Batch]:
        """What belongs together among some files, as `batches` has it."""
        return batches(files, as_one)

    def take(self, batch: Batch) -> list[Gathered]:
        """Read what belongs together and copy it under art/. Never raises RushweedError."""
        if len(batch.paths) == 1:
            return self._single(batch)
        try:
            return self._series(batch)
        except _Apart as apart:
            alone = [one for path in batch.paths for one in self._single(Batch((path,), path.name))]
            if apart.unsure:
                alone = [one._replace(numbered=batch.paths) if one.sheet else one for one in alone]
            return alone

    # -- one picture -------------------------------------------------------------------------------

    def _single(self, batch: Batch) -> list[Gathered]:
        path = batch.paths[0]
        try:
            picture = read_picture(path)
            if picture.sha256 in self._known:
                return [Gathered(path, same=self._known[picture.sha256])]
            relative = self._copy(path.stem, picture)
        except RushweedError as fault:
            return [Gathered(path, fault=fault)]
        except OSError as error:
            return [Gathered(path, fault=_unwritten(path, error))]
        height, width = picture.rgba.shape[:2]
        name = Path(relative).name
        source = Source(
            relative, picture.sha256, (width, height), columns=picture.columns, times=picture.times
        )
        results: list[Gathered] = []
        for scale, other in batch.variants:
            source, result = self._along(source, other, name, scale)
            results.append(result)
        if batch.normal is not None:
            source, result = self._along(source, batch.normal, name, 0)
            results.append(result)
        self._known[picture.sha256] = name
        sheet, animation = _framed(Sheet(new_id(), name, source))
        note = f"{len(picture.times)} frames" if picture.times else ""
        return [Gathered(path, sheet, picture, animation=animation, note=note), *results]

    def _along(self, source: Source, path: Path, name: str, scale: int) -> tuple[Source, Gathered]:
        """Add a variant (scale 2, 3) or a normal map (0) to a source, if its size is right."""
        try:
            picture = read_picture(path)
            wide, high = picture.rgba.shape[1], picture.rgba.shape[0]
            want = (source.size[0] * (scale or 1), source.size[1] * (scale or 1))
            if (wide, high) != want:
                raise PictureError(
                    f"{path.name} is {wide} x {high} px, but to go along with {name} it needs "
                    f"{want[0]} x {want[1]} px.",
                    "Export it in that size, or rename it to gather it by itself.",
                )
            relative = self._copy(path.stem, picture)
        except RushweedError as fault:
            return source, Gathered(path, fault=fault)
        except OSError as error:
            return source, Gathered(path, fault=_unwritten(path, error))
        if scale:
            variants = (*source.variants, Variant(scale, relative, picture.sha256))
            return replace(source, variants=variants), Gathered(path, along=name, note=f"{scale}x")
        return replace(source, normal=relative), Gathered(path, along=name, note="normal map")

    # -- numbered pictures -------------------------------------------------------------------------

    def _series(self, batch: Batch) -> list[Gathered]:
        pictures: list[Picture] = []
        results: list[Gathered] = []
        for path in batch.paths:
            try:
                picture = read_picture(path)
                if picture.times:
                    raise _Apart
                pictures.append(picture)
            except RushweedError as fault:
                results.append(Gathered(path, fault=fault))
        sizes = [(p.rgba.shape[1], p.rgba.shape[0]) for p in pictures]
        if len(pictures) < 2 or not are_frames(sizes):
            raise _Apart
        chance = self._chance_of_sheets(pictures)
        if chance > 0.5:
            raise _Apart(unsure=chance < SHEETS_FROM)
        digest = hashlib.sha256("".join(p.sha256 for p in pictures).encode()).hexdigest()
        first = batch.paths[0]
        if digest in self._known:
            return [Gathered(first, same=self._known[digest]), *results]
        stem = unique_name(_file_stem(batch.name), {Path(p).parent.name for p in self._taken})
        width = len(str(len(pictures)))
        try:
            parts = []
            for n, picture in enumerate(pictures, 1):
                relative = f"art/{stem}/{stem}_{n:0{width}d}.{_ending(picture)}"
                self._write(relative, picture.data)
                parts.append(relative)
        except OSError as error:
            return [Gathered(first, fault=_unwritten(first, error)), *results]
        arrays = [p.rgba for p in pictures]
        crop = common_crop(arrays)
        columns = frame_columns(len(parts), crop[2], crop[3])
        rgba = laid_out(arrays, crop, columns)
        size = (rgba.shape[1], rgba.shape[0])
        source = Source(f"art/{stem}", digest, size, parts=tuple(parts), columns=columns, crop=crop)
        self._known[digest] = stem
        self._taken.update(parts)
        sheet, animation = _framed(Sheet(new_id(), stem, source))
        note = f"{len(parts)} numbered pictures"
        if len(set(sizes)) > 1:
            low, high = min(sizes), max(sizes)
            note += f", {low[0]} x {low[1]} to {high[0]} x {high[1]} px, padded to stand on one line"
        whole = Picture(rgba, b"", digest, "PNG")
        unsure = batch.paths if chance > FRAMES_UP_TO else ()
        done = Gathered(first, sheet, whole, animation=animation, note=note, numbered=unsure)
        return [done, *results]

    def _chance_of_sheets(self, pictures: list[Picture]) -> float:
        """How likely numbered pictures are sheets of many cells, and not one frame each: by a few of them."""
        if self._sheet_chance is None:
            return 0.0
        few = [pictures[n] for n in sorted({0, len(pictures) // 2, len(pictures) - 1})]
        chance = float(np.median([self._sheet_chance(p.rgba) for p in few]))
        return round(chance) if self._sure else chance

    # -- files -------------------------------------------------------------------------------------

    def _copy(self, stem: str, picture: Picture) -> str:
        """Copy a picture under art/ by a name of its own; a file that is there with the same bytes serves."""
        names = {Path(p).stem for p in self._taken}
        relative = f"art/{unique_name(_file_stem(stem), names)}.{_ending(picture)}"
        while (self.folder / relative).exists() and (self.folder / relative).read_bytes() != picture.data:
            names.add(Path(relative).stem)
            relative = f"art/{unique_name(_file_stem(stem), names)}.{_ending(picture)}"
        self._write(relative, picture.data)
        self._taken.add(relative)
        return relative

    def _write(self, relative: str, data: bytes) -> None:
        path = self.folder / relative
        there = path.exists()
        write_file(path, data)
        if not there:
            self._written.append(path)

    def take_back(self) -> None:
        """Remove every file that was copied, and the folders made for them: nobody wants them."""
        written, self._written = self._written, []
        for path in written:
            with contextlib.suppress(OSError):
                path.unlink()
        for folder in sorted({path.parent for path in written}, key=lambda p: -len(p.parts)):
            with contextlib.suppress(OSError):
                folder.rmdir()  # only if nothing else is in it


class _Apart(Exception):
    """Numbered pictures that are no frames of one thing."""

    def __init__(self, unsure: bool = False) -> None:
        super().__init__()
        self.unsure = unsure


def _file_stem(stem: str) -> str:
    return re.sub(r"[^\w.-]+", "_", stem).strip("._")[:60] or "picture"


def _ending(picture: Picture) -> str:
    return {"JPEG": "jpg"}.get(picture.format, picture.format.lower())


def _unwritten(path: Path, error: OSError) -> PictureError:
    return PictureError(
        f"{path.name} could not be copied: {file_reason(error)}.", "Check the project folder."
    )


def _framed(sheet: Sheet) -> tuple[Sheet, Animation | None]:
    """The sheet of a moving picture or of numbered ones with its frames cut, and their animation."""
    source = sheet.source
    count = len(source.parts or source.times)
    if count < 2:
        return sheet, None
    rows = -(-count // source.columns)
    w, h = source.size[0] // source.columns, source.size[1] // rows
    stem = Path(sheet.name).stem
    fx, fy = sheet.tune.pivot
    cells = tuple(
        Cell(
            new_id(), f"{stem}_{n}", (n % source.columns * w, n // source.columns * h, w, h), (fx * w, fy * h)
        )
        for n in range(count)
    )
    left_out = tuple((n % source.columns, n // source.columns) for n in range(count, rows * source.columns))
    cut = GridCut((w, h), leave_out_empty=False, left_out=left_out)
    times = source.times or (100,) * count
    frames = tuple(Frame(cell.id, ms) for cell, ms in zip(cells, times, strict=True))
    return replace(sheet, cut=cut, cells=cells), Animation(new_id(), stem, frames)


def with_sure_key(one: Gathered) -> Gathered:
    """The same with its key colour as its first step of preparation, where its picture has one for sure."""
    if one.sheet is None or one.picture is None:
        return one
    key = propose_key(one.picture.rgba)
    if key is None:
        return one
    source = one.sheet.source
    step = KeyColour(key.colour, key.tolerance)
    keyed = replace(one.sheet, source=replace(source, steps=(step, *source.steps)))
    told = "#{:02x}{:02x}{:02x} is taken as clear".format(*key.colour)
    return one._replace(sheet=keyed, note=f"{one.note}, {told}" if one.note else told)


def add_gathered(project: Project, got: Iterable[Gathered]) -> Project:
    """Put new sheets at the end of the Shelf, each under a name of its own, with their animations."""
    names = {sheet.name for sheet in project.sheets}
    taken = {animation.name for animation in project.animations}
    sheets, animations = [], []
    for g in got:
        if g.sheet is None:
            continue
        name = unique_name(g.sheet.name, names)
        names.add(name)
        sheets.append(g.sheet if name == g.sheet.name else replace(g.sheet, name=name))
        if g.animation is not None:
            free = unique_name(g.animation.name, taken)
            taken.add(free)
            animations.append(replace(g.animation, name=free))
    if not sheets:
        return project
    return replace(project, sheets=(*project.sheets, *sheets), animations=(*project.animations, *animations))
