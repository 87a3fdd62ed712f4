"""Animations as files to show: GIF, APNG, WebP and one row of frames as PNG."""

from __future__ import annotations

import io
from typing import Literal, NamedTuple

import numpy as np

from rushweed.core.animate.containers import apng, gif, webp
from rushweed.core.animate.play import order_of
from rushweed.core.document.edit import cell_homes
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.project import Project
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.read import MOST_SIDE

Form = Literal["gif", "apng", "webp", "row"]
MOST_PX = 64 * 1024 * 1024  # of all frames together


class Still(NamedTuple):
    """The frames on one canvas, uint8 (frames, height, width, 4), their ms, and where the pivot stands."""

    frames: np.ndarray
    times: list[int]
    pivot: tuple[int, int]


def stills(
    project: Project, animation: Animation, stock: PixelCache, scale: int = 1, whole_round: bool = True
) -> Still:
    """The frames of an animation with their shifts, pivots on one point, `scale` times as large.

    `whole_round` lays there-and-back out as it is seen. Raises EditError without frames or beyond bounds.
    """
    cells = cell_homes(project)
    found = [(f, cells[f.cell]) for f in animation.frames if f.cell in cells]
    if not found:
        raise EditError(f"{animation.name} has no frames.", "Put some into it first.")
    boxes = []
    for _frame, (_sheet, cell) in found:
        left = round(cell.shift[0] - cell.pivot[0])
        top = round(cell.shift[1] - cell.pivot[1])
        boxes.append((left, top, left + cell.rect[2], top + cell.rect[3]))
    x0, y0 = min(b[0] for b in boxes), min(b[1] for b in boxes)
    width, height = max(b[2] for b in boxes) - x0, max(b[3] for b in boxes) - y0
    order = order_of(len(found), animation.play) if whole_round else list(range(len(found)))
    if max(width, height) * scale > MOST_SIDE or width * height * scale * scale * len(order) > MOST_PX:
        raise EditError(f"{animation.name} would be too large at {scale} times.", "Use a smaller scale.")
    canvas = np.zeros((len(found), height, width, 4), np.uint8)
    for n, ((_frame, (sheet, cell)), box) in enumerate(zip(found, boxes, strict=True)):
        x, y, w, h = cell.rect
        part = stock.pixels(sheet)[y : y + h, x : x + w]
        canvas[n, box[1] - y0 : box[1] - y0 + h, box[0] - x0 : box[0] - x0 + w] = part
    shown = canvas[order].repeat(scale, axis=1).repeat(scale, axis=2)
    return Still(shown, [found[n][0].ms for n in order], (-x0 * scale, -y0 * scale))


def written(project: Project, animation: Animation, stock: PixelCache, form: Form, scale: int = 1) -> bytes:
    """The bytes of a file that shows an animation, `scale` (a whole number) times as large.

    A GIF has hundredths of a second and 255 colours with clear; times are rounded so that the whole keeps its
    length. A row is the frames side by side, each once.
    """
    if not 1 <= scale <= 64:
        raise EditError(f"A picture cannot be written {scale} times as large.", "Use 1 to 64.")
    still = stills(project, animation, stock, scale, whole_round=form != "row")
    if form == "row":
        row = np.concatenate(list(still.frames), axis=1)
        if row.shape[1] > MOST_SIDE:
            raise EditError(
                f"{animation.name} in one row is {row.shape[1]:,} px wide.", "Use a smaller scale."
            )
        return _png(row)
    loop = 1 if animation.play == "once" else 0
    if form == "gif":
        return gif(*indexed(still.frames), hundredths(still.times), loop)
    return apng(still.frames, still.times, loop) if form == "apng" else webp(still.frames, still.times, loop)


def _png(rgba: np.ndarray) -> bytes:
    from PIL import Image  # late: only who writes pictures waits for it

    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "PNG")
    return buffer.getvalue()


def hundredths(times: list[int]) -> list[int]:
    """Times in hundredths of a second, at least 1 each, rounded so that their sum stays right."""
    made, due, spent = [], 0, 0
    for ms in times:
        due += ms
        one = max(round(due / 10) - spent, 1)
        spent += one
        made.append(one)
    return made


def indexed(frames: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Frames, uint8 (n, height, width, 4), as indices (n, height, width) into a palette, uint8 (256, 3).

    Index 0 is clear; px of less than half alpha are clear. More than 255 colours are reduced to 255.
    """
    from PIL import Image

    solid = frames[..., 3] >= 128
    rgb = frames[..., :3].astype(np.uint32)
    codes = rgb[..., 0] << 16 | rgb[..., 1] << 8 | rgb[..., 2]
    colours = np.unique(codes[solid])
    palette = np.zeros((256, 3), np.uint8)
    if len(colours) <= 255:
        index = np.searchsorted(colours, codes) + 1 if len(colours) else np.zeros(codes.shape, np.int64)
        table = colours
        palette[1 : len(table) + 1] = np.stack((table >> 16, table >> 8 & 255, table & 255), axis=1)
        return np.where(solid, index, 0).astype(np.uint8), palette
    row = frames[..., :3][solid].reshape(1, -1, 3)
    picture = Image.fromarray(np.ascontiguousarray(row))
    reduced = picture.quantize(255, dither=Image.Dither.NONE)
    found = np.array(reduced.getpalette()[: 255 * 3], np.uint8).reshape(-1, 3)  # type: ignore[index]
    palette[1 : len(found) + 1] = found
    out = np.zeros(solid.shape, np.uint8)
    out[solid] = np.asarray(reduced).reshape(-1) + 1
    return out, palette
