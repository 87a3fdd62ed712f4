"""Reads what was shipped for a game: checks it whole, or brings it back as a project."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple, TypeVar

import numpy as np

from rushweed.core.document.errors import RushweedError, StoreError
from rushweed.core.level.stamp import orient
from rushweed.core.pixels.read import decode, read_bytes
from rushweed.core.ship import level_file
from rushweed.core.ship import manifest as m
from rushweed.core.ship.names import MANIFEST
from rushweed.core.ship.placing import LIST, Shipment, is_name, last_shipment, stands
from rushweed.core.store.files import read_file
from rushweed.core.store.form import decode as decode_json
from rushweed.core.store.migrate import present_names
from rushweed.core.tune.ktx2 import read_ktx2

Read = TypeVar("Read", m.Manifest, level_file.LevelFile)
MOST_SIDE = 16_384


class Problem(NamedTuple):
    """What is wrong with a shipment: the file, and what it is."""

    file: str
    what: str

    def __str__(self) -> str:
        return f"{self.file}: {self.what}"


class Checked(NamedTuple):
    """A shipment as it was found."""

    folder: Path
    manifest: m.Manifest
    levels: dict[str, level_file.LevelFile]
    listed: Shipment | None
    problems: list[Problem]


def check_shipment(folder: Path) -> Checked:
    """Look at a whole shipment. Raises StoreError where there is none, or its manifest cannot be read."""
    manifest = _read(folder, MANIFEST, m.Manifest)
    if not m.OLDEST_FORMAT <= manifest.format <= m.MANIFEST_FORMAT:
        raise StoreError(
            f"{folder / MANIFEST} is of format {manifest.format}; this Rushweed reads {m.OLDEST_FORMAT} and "
            f"{m.MANIFEST_FORMAT}.",
            "Ship it again with this Rushweed.",
        )
    listed = last_shipment(folder)
    problems = list(_listed(folder, listed))
    sizes: dict[int, tuple[int, int]] = {}
    for number, page in enumerate(manifest.pages):
        problems += _page(folder, page, number, sizes)
    problems += _frames(manifest, sizes)
    levels: dict[str, level_file.LevelFile] = {}
    for part in manifest.levels:
        try:
            levels[part.file] = _read(folder, part.file, level_file.LevelFile)
        except StoreError as error:
            problems.append(Problem(part.file, error.problem))
            continue
        problems += [Problem(part.file, what) for what in _level(folder, manifest, levels[part.file])]
        if part.picture is not None:
            problems += _picture(folder, part.picture, None)
    return Checked(folder, manifest, levels, listed, problems)


def _read(folder: Path, name: str, kind: type[Read]) -> Read:
    if not is_name(name):
        raise StoreError(f"{name!r} leads out of {folder}.", "Ship again.")
    try:
        data = read_file(folder / name)
    except OSError:
        raise StoreError(
            f"{folder} holds no {name}.", "Choose a folder that was shipped for a game."
        ) from None
    made: Read = decode_json(present_names(data), kind, str(folder / name))
    return made


def _listed(folder: Path, listed: Shipment | None) -> Iterator[Problem]:
    if listed is None:
        yield Problem(LIST, "it is missing or cannot be read, so that no file can be compared with it")
        return
    for name, one in listed.files.items():
        if not (folder / name).is_file():
            yield Problem(name, "it is missing")
        elif not stands(folder, name, one):
            yield Problem(name, "it is not as it was shipped")


def _page(
    folder: Path, page: m.PagePart, number: int, sizes: dict[int, tuple[int, int]]
) -> Iterator[Problem]:
    if not all(1 <= side <= MOST_SIDE for side in page.size_px):
        yield Problem(page.file, f"a page of {page.size_px[0]} x {page.size_px[1]} px cannot be")
        return
    sizes[number] = page.size_px
    yield from _picture(folder, page.file, page.size_px)
    if page.normals is not None:
        yield from _picture(folder, page.normals, page.size_px)
    for scale, file in page.larger.items():
        if scale.isdecimal() and 1 < int(scale) <= 64:
            yield from _picture(folder, file, (page.size_px[0] * int(scale), page.size_px[1] * int(scale)))
        else:
            yield Problem(file, f"it is said to be {scale!r} times as large")
    for texture in (page.texture, page.normals_texture):
        if texture is not None:
            yield from _texture(folder, texture, page)


def _picture(folder: Path, file: str, size: tuple[int, int] | None) -> Iterator[Problem]:
    try:
        rgba = _pixels(folder, file)
    except RushweedError as error:
        yield Problem(file, error.problem)
        return
    found = (rgba.shape[1], rgba.shape[0])
    if size is not None and found != size:
        yield Problem(file, f"it has {found[0]} x {found[1]} px, and the manifest says {size[0]} x {size[1]}")


def _pixels(folder: Path, file: str) -> np.ndarray:
    if not is_name(file):
        raise StoreError(f"{file!r} leads out of {folder}.", "Ship again.")
    return decode(read_bytes(folder / file), file).rgba


def _texture(folder: Path, file: str, page: m.PagePart) -> Iterator[Problem]:
    try:
        if not is_name(file):
            raise StoreError(f"{file!r} leads out of {folder}.", "Ship again.")
        texture = read_ktx2(read_bytes(folder / file), file)
    except RushweedError as error:
        yield Problem(file, error.problem)
        return
    if texture.size != page.size_px:
        yield Problem(file, f"it has {texture.size[0]} x {texture.size[1]} px, and its page another size")
    if file == page.texture and texture.codec != (page.codec if page.codec != "indexed" else "none"):
        yield Problem(file, f"it is coded by {texture.codec}, and the manifest says {page.codec}")


def _frames(manifest: m.Manifest, sizes: dict[int, tuple[int, int]]) -> Iterator[Problem]:
    ids = set()
    for sheet in manifest.sheets:
        if not all(1 <= side <= MOST_SIDE for side in sheet.size_px):
            yield Problem(
                MANIFEST, f"{sheet.name} is said to have {sheet.size_px[0]} x {sheet.size_px[1]} px"
            )
    for frame in manifest.frames:
        name = f"{frame.sheet} {frame.name}"
        if frame.id in ids:
            yield Problem(MANIFEST, f"two frames have the id {frame.id!r}")
        ids.add(frame.id)
        x, y, w, h = frame.rect_px
        wide, high = sizes.get(frame.page, (0, 0))
        if frame.page not in sizes:
            yield Problem(MANIFEST, f"{name} is on page {frame.page}, which there is not")
        elif min(x, y) < 0 or min(w, h) < 1 or x + w > wide or y + h > high:
            yield Problem(MANIFEST, f"{name} lies outside its page, at {x}, {y} with {w} x {h} px")
        if not 0 <= frame.orientation <= 7:
            yield Problem(MANIFEST, f"{name} has the orientation {frame.orientation}")
        if not all(1 <= side <= MOST_SIDE for side in frame.size_px):
            yield Problem(MANIFEST, f"{name} is said to have {frame.size_px[0]} x {frame.size_px[1]} px")
    for animation in manifest.animations:
        if any(shown not in ids for shown, _ms in animation.frames):
            yield Problem(MANIFEST, f"animation {animation.name} shows a frame that there is not")
        if any(ms < 1 for _shown, ms in animation.frames):
            yield Problem(MANIFEST, f"animation {animation.name} shows a frame for no time")
    for auto in manifest.auto_sets:
        if any(not 0 <= tile.frame < len(manifest.frames) for tile in auto.tiles):
            yield Problem(MANIFEST, f"auto-tile set {auto.name} has a frame that there is not")


def _level(folder: Path, manifest: m.Manifest, level: level_file.LevelFile) -> Iterator[str]:
    _left, _top, columns, rows = level.bounds_cells
    if not (0 <= columns <= MOST_SIDE and 0 <= rows <= MOST_SIDE and min(level.cell_px) >= 1):
        yield f"a level of {columns} x {rows} cells cannot be"
        return
    frames = len(manifest.frames)
    shown = {f.id for f in manifest.frames} | {a.id for a in manifest.animations}
    for layer in level.layers:
        if layer.kind == "tiles":
            yield from _tiles(layer, columns, rows, frames)
        elif layer.frame is not None and not 0 <= layer.frame < frames:
            yield f"layer {layer.name} shows frame {layer.frame}, which there is not"
        elif layer.picture is not None:
            yield from (str(problem) for problem in _picture(folder, layer.picture, None))
    for thing in level.things:
        if thing.shows not in shown:
            yield f"a thing shows {thing.shows!r}, which there is not"
        if not 0 <= thing.layer < max(len(level.layers), 1):
            yield f"a thing stands on layer {thing.layer}, which there is not"
    for room in level.rooms:
        if room.picture is not None:
            yield from (str(problem) for problem in _picture(folder, room.picture, None))


def _tiles(layer: level_file.LayerPart, columns: int, rows: int, frames: int) -> Iterator[str]:
    count = len(layer.cells or layer.rows)
    if count != rows:
        yield f"layer {layer.name} has {count} rows of {rows}"
    for number, runs in enumerate(layer.rows):
        if sum(run[0] for run in runs) != columns or any(run[0] < 1 for run in runs):
            yield f"row {number} of layer {layer.name} has not {columns} cells"
            return
        if any(not (-1 <= frame < frames and 0 <= turn <= 7) for _count, frame, turn in runs):
            yield f"row {number} of layer {layer.name} names a frame that there is not"
            return
    for number, cells in enumerate(layer.cells):
        if len(cells) != columns:
            yield f"row {number} of layer {layer.name} has not {columns} cells"
            return
        if any(not -1 <= value < frames * 8 for value in cells):
            yield f"row {number} of layer {layer.name} names a frame that there is not"
            return


# -- px ----------------------------------------------------------------------------------------------------


class Art:
    """The px of a shipment, each file read once."""

    def __init__(self, checked: Checked) -> None:
        self._folder, self._manifest = checked.folder, checked.manifest
        self._pages: dict[str, np.ndarray] = {}

    def file(self, name: str) -> np.ndarray:
        """The px of a page's file, read once: uint8 (height, width, 4)."""
        if name not in self._pages:
            self._pages[name] = _pixels(self._folder, name)
        return self._pages[name]

    def frame(self, frame: m.FramePart, file: str, scale: int = 1) -> np.ndarray:
        """What stands for a frame on a file of its page, as it is drawn: uint8 (height, width, 4)."""
        x, y, w, h = (v * scale for v in frame.rect_px)
        return orient(self.file(file)[y : y + h, x : x + w], frame.orientation)


def report(checked: Checked) -> dict[str, Any]:
    """What was found, for a script."""
    manifest, listed = checked.manifest, checked.listed
    return {
        "project": manifest.project,
        "way": listed.way if listed is not None else None,
        "rushweed": listed.rushweed if listed is not None else None,
        "pages": len(manifest.pages),
        "frames": len(manifest.frames),
        "animations": len(manifest.animations),
        "levels": [part.name for part in manifest.levels],
        "files": len(listed.files) if listed is not None else 0,
        "problems": [{"file": p.file, "what": p.what} for p in checked.problems],
    }
