"""Takes up a picture that another program has written: new pixels, everything built on them kept."""

from __future__ import annotations

import hashlib
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from rushweed.core.cut.transform_cells import moved
from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet, Source, Variant
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.prepare import Affine, size_after, way_of
from rushweed.core.pixels.read import decode, frame_columns, read_bytes
from rushweed.core.pixels.reload import Moved, by_size, what_moved
from rushweed.core.pixels.series import common_crop, laid_out, padded


class Reread(NamedTuple):
    """A sheet's picture as it is now: its new source, and where the art went if the size is another."""

    sheet_id: str
    source: Source
    moves: list[Moved]


def reread(sheet: Sheet, stock: PixelCache) -> Reread | None:
    """Read a sheet's files again; None if nothing changed. Raises PictureError while a file is missing or
    half written. The new pixels are put into `stock`."""
    source = sheet.source
    old = stock.earlier(source)
    pictures = [decode(read_bytes(stock.folder / path), path) for path in source.parts or (source.path,)]
    variants = tuple(
        Variant(v.scale, v.path, hashlib.sha256(read_bytes(stock.folder / v.path)).hexdigest())
        for v in source.variants
    )
    if source.normal:
        stock.forget_normals(sheet)
    fresh = source
    if source.parts:
        digest = hashlib.sha256("".join(p.sha256 for p in pictures).encode()).hexdigest()
        arrays = [p.rgba for p in pictures]
        crop, columns = _crop_for(arrays, source)
        rgba = laid_out(arrays, crop, columns)
        fresh = replace(source, sha256=digest, crop=crop, columns=columns)
    else:
        rgba = pictures[0].rgba
        fresh = replace(source, sha256=pictures[0].sha256, times=pictures[0].times)
    if fresh.sha256 == source.sha256:
        return (
            Reread(sheet.id, replace(source, variants=variants), []) if variants != source.variants else None
        )
    raw = (rgba.shape[1], rgba.shape[0])
    before = source.raw or source.size
    moves = [] if raw == before else what_moved(old, rgba) if old is not None else by_size(before, raw)
    fresh = replace(
        fresh, size=size_after(raw, source.steps), raw=raw if source.steps else None, variants=variants
    )
    stock.put_raw(fresh, rgba)
    return Reread(sheet.id, fresh, moves)


def newer(sheet: Sheet, stock: PixelCache) -> Reread | None:
    """What a sheet's files hold by now if that is another picture, found once for each state of the files;
    None if it is the same, or cannot be read."""
    now = stock.seen.source_sha(sheet.source)
    if now in (None, sheet.source.sha256):
        return None

    def look() -> Reread | None:
        try:
            return reread(sheet, stock)
        except RushweedError:
            return None

    return stock.remembered(("newer", sheet.id, sheet.source.key, now), look)


def refresh(project: Project, stock: PixelCache) -> tuple[Project, list[tuple[Sheet, Reread]]]:
    """Take up every picture that is another by now than the document says, each the likeliest way. Returns
    the project, and what changed with the sheet as it was. Raises PictureError for one half written."""
    changed: list[tuple[Sheet, Reread]] = []
    for sheet in project.sheets:
        found = reread(sheet, stock) if stock.seen.has_changed(sheet.source) else None
        if found is not None:
            project = take_up(project, found, found.moves[0] if found.moves else None, stock)
            changed.append((sheet, found))
    return project, changed


def _crop_for(arrays: list[np.ndarray], source: Source) -> tuple[tuple[int, int, int, int], int]:
    """The crop of numbered pictures as it was, or a new one if art now lies outside it."""
    size = max(a.shape[1] for a in arrays), max(a.shape[0] for a in arrays)
    crop = source.crop or (0, 0, *size)
    x, y, w, h = crop
    if x + w <= size[0] and y + h <= size[1]:
        ink = [padded(a, size)[..., 3] > 0 for a in arrays]
        if all(np.count_nonzero(i) == np.count_nonzero(i[y : y + h, x : x + w]) for i in ink):
            return crop, source.columns
    crop = common_crop(arrays)
    return crop, frame_columns(len(arrays), crop[2], crop[3])


def take_up(project: Project, change: Reread, move: Moved | None, stock: PixelCache) -> Project:
    """Put new pixels under a sheet; cells, pivots and shapes go the way of `move`, or stay."""
    sheet = sheet_of(project, change.sheet_id)
    before, after = sheet.source, change.source
    way = Affine()
    if move is not None:
        old_raw, new_raw = before.raw or before.size, after.raw or after.size
        way = way_of(old_raw, before.steps).back().then(move.way).then(way_of(new_raw, after.steps))
    return put_sheet(project, moved(replace(sheet, source=after), way, stock))
