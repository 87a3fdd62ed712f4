"""Ships a project: atlas pages, manifest, levels and credits into a folder. Same input, same bytes."""

from __future__ import annotations

import contextlib
import hashlib
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path
from typing import NamedTuple

import msgspec
import numpy as np

from rushweed import __version__
from rushweed.core.document.errors import EditError, StoreError, file_reason
from rushweed.core.document.model import Codec, Level, Project
from rushweed.core.level.render import level_picture
from rushweed.core.pixels.licence import credit_lines
from rushweed.core.pixels.stock import Stock
from rushweed.core.ship.atlas import AtlasSettings, Kind, build
from rushweed.core.ship.manifest import (
    MANIFEST_FORMAT,
    has_texture,
    larger_file,
    level_file,
    manifest_of,
    normals_file,
    texture_file,
)
from rushweed.core.store.files import read_file, write_file
from rushweed.core.store.folder import file_name
from rushweed.core.store.form import level_text
from rushweed.core.tune.codec.compress import container, png_bytes
from rushweed.core.tune.ktx2 import write_ktx2

Progress = Callable[[float, str], None]
MOST_PICTURE = 64 * 1024 * 1024  # px of a level picture


class Shipped(NamedTuple):
    """Where it went, every file written, how many frames on how many pages, and the share filled."""

    folder: Path
    files: list[Path]
    frames: int
    pages: int
    filled: float


def ship(
    project: Project,
    stock: Stock,
    out: Path,
    settings: AtlasSettings = AtlasSettings(),  # noqa: B008
    progress: Progress = lambda share, words: None,
    jobs: int = 2,
) -> Shipped:
    """Write the game's files into `out`, encoding `jobs` of them at a time.

    Each file is old or new, never half. Raises RushweedError.
    """
    if not any(sheet.cells for sheet in project.sheets):
        raise EditError(f"{project.name} has no cells to ship.", "Cut a sheet first.")
    if out.exists() and not out.is_dir():
        raise StoreError(f"{out} is a file.", "Choose a folder to ship to.")
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StoreError(
            f"{out} could not be made: {file_reason(error)}.", "Choose a folder you may write to."
        ) from error
    key = _key_of(project, stock, settings)
    before = _shipped_before(out, key)
    if before is not None:
        progress(1.0, "Nothing has changed since it was shipped")
        return before
    progress(0.0, "Packing the atlas")
    atlas = build(project, stock, settings)
    files: dict[str, bytes] = {}
    page_files = [f"atlas_{i}.png" for i in range(len(atlas.pages))]
    level_files = _level_names(project)
    frame_index = {frame.cell.id: i for i, frame in enumerate(atlas.frames)}
    work: dict[str, Callable[[], bytes]] = {}
    for n, (name, page) in enumerate(zip(page_files, atlas.pages, strict=True)):
        work[name] = partial(png_bytes, page, atlas.kinds[n].codec == "indexed")
        if has_texture(atlas.kinds[n]):
            work[texture_file(name)] = partial(_texture_bytes, page, atlas.kinds[n])
        normals = atlas.normals[n]
        if normals is not None:
            work[normals_file(name)] = partial(png_bytes, normals)
            if has_texture(atlas.kinds[n]):
                work[texture_file(normals_file(name))] = partial(_normals_bytes, normals, atlas.kinds[n])
        for scale, larger in atlas.larger[n].items():
            work[larger_file(name, scale)] = partial(png_bytes, larger)
    for name, level in zip(level_files, project.levels, strict=True):
        work[name] = partial(_level_bytes, project, level, frame_index)
        if 0 < level.bounds[2] * level.cell[0] * level.bounds[3] * level.cell[1] <= MOST_PICTURE:
            work[str(Path(name).with_suffix(".png"))] = partial(
                _level_png, project, level, stock, level.bounds
            )
            for room in level.rooms:
                picture = f"{name.removesuffix('.json')}-{file_name(room.name)}.png"
                work[picture] = partial(_level_png, project, level, stock, room.area)
    with ThreadPoolExecutor(max(jobs, 1)) as pool:
        made = {name: pool.submit(make) for name, make in work.items()}
        for i, (name, future) in enumerate(made.items()):
            progress(0.2 + 0.7 * i / len(made), f"Writing {name}")
            files[name] = future.result()
    files["CREDITS.txt"] = credits_text(project).encode()
    files["manifest.json"] = json_bytes(manifest_of(project, atlas, page_files, level_files))
    progress(0.92, "Putting the files in place")
    written = []
    for name, data in files.items():
        path = out / name
        if not (path.is_file() and path.read_bytes() == data):
            write_file(path, data)
        written.append(path)
    progress(1.0, "Shipped")
    covered = sum(w * h for _page, _x, _y, w, h in {(f.page, *f.rect) for f in atlas.frames})
    area_px = sum(p.shape[0] * p.shape[1] for p in atlas.pages)
    done = Shipped(out, written, len(atlas.frames), len(atlas.pages), covered / area_px)
    _remove_former(done)
    _note(done, key)
    return done


class _Note(msgspec.Struct, frozen=True):
    """What was shipped last into a folder: the key of all that went in, and the files as written."""

    key: str
    files: dict[str, tuple[int, int]]  # name -> size, mtime in ns
    frames: int
    pages: int
    filled: float


NOTE = ".rushweed-ship.json"


def _key_of(project: Project, stock: Stock, settings: AtlasSettings) -> str:
    """A digest of the project, the settings and the state of its pictures on disk."""
    digest = hashlib.sha256(
        repr((settings, MANIFEST_FORMAT, __version__, project.name, project.groups, project.traits)).encode()
    )
    for sheet in project.sheets:
        digest.update(msgspec.json.encode(sheet))
        for path in sheet.source.files:
            try:
                state = (stock.folder / path).stat()
                digest.update(repr((state.st_size, state.st_mtime_ns)).encode())
            except OSError:
                digest.update(b"missing")
    for level in project.levels:
        digest.update(level_text(level))
    for animation in project.animations:
        digest.update(msgspec.json.encode(animation))
    return digest.hexdigest()


def _last_note(out: Path) -> _Note | None:
    try:
        return msgspec.json.decode(read_file(out / NOTE), type=_Note)
    except (OSError, msgspec.DecodeError, ValueError):
        return None


def _remove_former(done: Shipped) -> None:
    """Remove what the last shipping wrote and this one did not, where it stands as it was written."""
    note, out = _last_note(done.folder), done.folder
    for name, (size, written_ns) in note.files.items() if note is not None else ():
        path = out / name
        if path in done.files or ".." in Path(name).parts or Path(name).is_absolute():
            continue
        with contextlib.suppress(OSError):
            state = path.lstat()
            if (state.st_size, state.st_mtime_ns) == (size, written_ns):
                path.unlink()


def _shipped_before(out: Path, key: str) -> Shipped | None:
    """The last shipping into `out`, if the same went in and its files stand as they were written."""
    note = _last_note(out)
    if note is None or note.key != key:
        return None
    try:
        for name, (size, written_ns) in note.files.items():
            state = (out / name).stat()
            if (state.st_size, state.st_mtime_ns) != (size, written_ns):
                return None
    except OSError:
        return None
    return Shipped(out, [out / name for name in note.files], note.frames, note.pages, note.filled)


def _note(done: Shipped, key: str) -> None:
    states = {str(p.relative_to(done.folder)): p.stat() for p in done.files}
    files = {name: (state.st_size, state.st_mtime_ns) for name, state in states.items()}
    note = _Note(key, files, done.frames, done.pages, done.filled)
    write_file(done.folder / NOTE, msgspec.json.encode(note))


def _level_names(project: Project) -> list[str]:
    names: list[str] = []
    for level in project.levels:
        stem, number = file_name(level.name), 1
        name = f"levels/{stem}.json"
        while name in names:
            number += 1
            name = f"levels/{stem}_{number}.json"
        names.append(name)
    return names


def _level_bytes(project: Project, level: Level, frame_index: dict[str, int]) -> bytes:
    return json_bytes(level_file(project, level, frame_index))


def _texture_bytes(page: np.ndarray, kind: Kind) -> bytes:
    codec: Codec = "none" if kind.codec == "indexed" else kind.codec
    return write_ktx2(container(page, codec, kind.mipmaps, kind.alpha, kind.transfer))


def _normals_bytes(page: np.ndarray, kind: Kind) -> bytes:
    """Normals beside a texture: whole px, as blocks would turn them, and never as sRGB."""
    return write_ktx2(container(page, "none", kind.mipmaps, "straight", "linear"))


def _level_png(project: Project, level: Level, stock: Stock, part: tuple[int, int, int, int]) -> bytes:
    """A level, or a part of it (left, top, columns, rows in cells), as a picture."""
    left, top, columns, rows = part
    cw, ch = level.cell
    area = (left * cw, top * ch, columns * cw, rows * ch)
    return png_bytes(level_picture(project, level, stock.pixels_or_blank, area))


def json_bytes(value: msgspec.Struct) -> bytes:
    return msgspec.json.format(msgspec.json.encode(value), indent=1) + b"\n"


def credits_text(project: Project) -> str:
    """CREDITS.txt: who made what, under which licence."""
    lines = [f"Pictures in {project.name}", ""]
    for sheet in project.sheets:
        lines += credit_lines(sheet)
    return "\n".join(lines) + "\n"
