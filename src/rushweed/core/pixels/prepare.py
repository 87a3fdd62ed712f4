"""Preparation steps: kept as a list on the sheet and done anew each time its picture is read."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.document.errors import PictureError
from rushweed.core.document.limits import check_step
from rushweed.core.document.model.steps import (
    Enlarge,
    Fit,
    KeyColour,
    Mirror,
    Recolour,
    Reduce,
    ReplaceColour,
    Step,
    Turn,
)
from rushweed.core.pixels.key import keyed
from rushweed.core.pixels.read import check_size
from rushweed.core.pixels.true_pixel import reduced

AT_A_TIME = 1 << 15  # colours that are converted without a pause for other threads


class Affine(NamedTuple):
    """Where a place of the picture goes: x' = xx * x + xy * y + dx, y' = yx * x + yy * y + dy, in px."""

    xx: float = 1
    xy: float = 0
    yx: float = 0
    yy: float = 1
    dx: float = 0
    dy: float = 0

    def point(self, x: float, y: float) -> tuple[float, float]:
        """Where a point comes to lie."""
        return self.xx * x + self.xy * y + self.dx, self.yx * x + self.yy * y + self.dy

    def then(self, other: Affine) -> Affine:
        """This way, and from there the other."""
        dx, dy = other.point(self.dx, self.dy)
        return Affine(
            other.xx * self.xx + other.xy * self.yx, other.xx * self.xy + other.xy * self.yy,
            other.yx * self.xx + other.yy * self.yx, other.yx * self.xy + other.yy * self.yy, dx, dy,
        )  # fmt: skip

    def back(self) -> Affine:
        """The way from there back. Raises ZeroDivisionError for one that loses a dimension."""
        area = self.xx * self.yy - self.xy * self.yx
        xx, xy, yx, yy = self.yy / area, -self.xy / area, -self.yx / area, self.xx / area
        return Affine(xx, xy, yx, yy, -(xx * self.dx + xy * self.dy), -(yx * self.dx + yy * self.dy))


def prepared(rgba: np.ndarray, steps: tuple[Step, ...], name: str = "The picture") -> np.ndarray:
    """The picture after all steps that are on: uint8 (height, width, 4). Raises PictureError if a step
    would make it too large."""
    for step in steps:
        if step.on:
            size = size_after((rgba.shape[1], rgba.shape[0]), (step,))
            check_size(size[0], size[1], name)
            rgba = _done(rgba, step)
    return rgba


def prepared_normals(rgba: np.ndarray, steps: tuple[Step, ...], name: str) -> np.ndarray:
    """A normal map after the steps of its picture: steps that only recolour leave it, turning and mirroring
    turn its vectors too. Vectors are x right, y up, each channel from -1 at 0 to 1 at 255."""
    for step in steps:
        if not step.on or isinstance(step, (KeyColour, Recolour, ReplaceColour)):
            continue
        rgba = prepared(rgba, (step,), name)
        if isinstance(step, Mirror):
            rgba = rgba.copy()
            channel = 0 if step.way == "across" else 1
            rgba[..., channel] = 255 - rgba[..., channel]
        elif isinstance(step, Turn):
            for _ in range(step.quarters % 4):
                rgba = np.concatenate((rgba[..., 1:2], 255 - rgba[..., :1], rgba[..., 2:]), axis=-1)
    return rgba


def _done(rgba: np.ndarray, step: Step) -> np.ndarray:
    if isinstance(step, KeyColour):
        return keyed(rgba, step.colour, step.tolerance, step.fringe)
    if isinstance(step, Reduce):
        return reduced(rgba, step.factor, step.start)
    if isinstance(step, Enlarge):
        return np.ascontiguousarray(rgba.repeat(step.factor, axis=0).repeat(step.factor, axis=1))
    if isinstance(step, Fit):
        ys = (np.arange(step.size[1]) * 2 + 1) * rgba.shape[0] // (2 * step.size[1])
        xs = (np.arange(step.size[0]) * 2 + 1) * rgba.shape[1] // (2 * step.size[0])
        return np.ascontiguousarray(rgba[ys][:, xs])
    if isinstance(step, Turn):
        return np.ascontiguousarray(np.rot90(rgba, -step.quarters))
    if isinstance(step, Mirror):
        return np.ascontiguousarray(rgba[:, ::-1] if step.way == "across" else rgba[::-1])
    if isinstance(step, Recolour):
        return recoloured(rgba, step.hue, step.saturation, step.lightness)
    return exchanged(rgba, step)


def size_after(size: tuple[int, int], steps: tuple[Step, ...]) -> tuple[int, int]:
    """The size in px of a picture of `size` after all steps that are on."""
    w, h = size
    for step in steps:
        if not step.on:
            continue
        if isinstance(step, Reduce):
            left, top = step.start[0] % step.factor, step.start[1] % step.factor
            before = (step.factor - left) % step.factor, (step.factor - top) % step.factor
            w, h = -(-(w + before[0]) // step.factor), -(-(h + before[1]) // step.factor)
        elif isinstance(step, Enlarge):
            w, h = w * step.factor, h * step.factor
        elif isinstance(step, Fit):
            w, h = step.size
        elif isinstance(step, Turn) and step.quarters % 2:
            w, h = h, w
    return w, h


def way_of(size: tuple[int, int], steps: tuple[Step, ...]) -> Affine:
    """Where the places of a picture of `size` px go through all steps that are on."""
    way = Affine()
    for step in steps:
        if not step.on:
            continue
        w, h = size
        if isinstance(step, Reduce):
            k = step.factor
            left, top = step.start[0] % k, step.start[1] % k
            way = way.then(Affine(1 / k, 0, 0, 1 / k, ((k - left) % k) / k, ((k - top) % k) / k))
        elif isinstance(step, Enlarge):
            way = way.then(Affine(step.factor, 0, 0, step.factor))
        elif isinstance(step, Fit):
            way = way.then(Affine(step.size[0] / w, 0, 0, step.size[1] / h))
        elif isinstance(step, Turn):
            turns = {
                1: Affine(0, -1, 1, 0, h, 0),
                2: Affine(-1, 0, 0, -1, w, h),
                3: Affine(0, 1, -1, 0, 0, w),
            }
            way = way.then(turns.get(step.quarters % 4, Affine()))
        elif isinstance(step, Mirror):
            way = way.then(Affine(-1, 0, 0, 1, w, 0) if step.way == "across" else Affine(1, 0, 0, -1, 0, h))
        size = size_after(size, (step,))
    return way


def check_steps(steps: tuple[Step, ...], size: tuple[int, int], name: str) -> None:
    """Raises PictureError or EditError if a step has an impossible number or makes the picture too large."""
    for n, step in enumerate(steps):
        factor = getattr(step, "factor", 1)
        if not 1 <= factor <= 64:
            raise PictureError(f"{name} cannot be made {factor} times as large.", "Use 1 to 64.")
        check_step(step)
        if isinstance(step, Fit):
            check_size(step.size[0], step.size[1], name)
        check_size(*size_after(size, steps[: n + 1]), name)


def recoloured(rgba: np.ndarray, hue: float, saturation: float, lightness: float) -> np.ndarray:
    """Hue turned by degrees, saturation and lightness by per cent (-100..100), in hue, saturation, lightness.

    Every colour of the picture is converted once; alpha stays. Greys keep no hue. Source of the conversion:
    CSS Color Module Level 4, section 7.
    """
    words = np.ascontiguousarray(rgba).view(np.uint32)[..., 0]
    opaque = words & np.uint32(0xFFFFFF)
    held = np.zeros(1 << 24, bool)  # faster than sorting, and alpha does not matter
    held[opaque] = True
    colours = np.flatnonzero(held).astype(np.uint32)
    table = colours.view(np.uint8).reshape(-1, 4).copy()
    for start in range(0, len(table), AT_A_TIME):
        part = table[start : start + AT_A_TIME, :3]
        part[:] = _converted(part, hue, saturation, lightness)
    becomes = np.empty(1 << 24, np.uint32)
    becomes[colours] = table.view(np.uint32)[:, 0]
    found = becomes[opaque] | words & np.uint32(0xFF000000)
    return np.ascontiguousarray(found).view(np.uint8).reshape(rgba.shape)


def _converted(colours: np.ndarray, hue: float, saturation: float, lightness: float) -> np.ndarray:
    """Colours, uint8 (n, 3), with all three changed, as whole numbers."""
    rgb = colours.astype(np.float64) / 255
    most, least = rgb.max(axis=1), rgb.min(axis=1)
    light, spread = (most + least) / 2, most - least
    safe = np.where(spread > 0, spread, 1)
    r, g, b = rgb.T
    turn = np.where(
        most == r, (g - b) / safe % 6, np.where(most == g, (b - r) / safe + 2, (r - g) / safe + 4)
    )
    room = 1 - np.abs(2 * light - 1)
    strong = np.where(room > 0, spread / np.where(room > 0, room, 1), 0)
    turn = (turn + hue / 60) % 6
    strong = np.clip(_pushed(strong, saturation) if saturation < 0 else strong * (1 + saturation / 100), 0, 1)
    strong = np.where(spread > 0, strong, 0)
    light = _pushed(light, lightness)
    chroma = (1 - np.abs(2 * light - 1)) * strong
    second = chroma * (1 - np.abs(turn % 2 - 1))
    zero = np.zeros_like(chroma)
    sector = turn.astype(int) % 6
    out = np.empty_like(rgb)
    for channel, order in enumerate((
        (chroma, second, zero, zero, second, chroma),
        (second, chroma, chroma, second, zero, zero),
        (zero, zero, second, chroma, chroma, second),
    )):  # fmt: skip
        out[:, channel] = np.choose(sector, order) + light - chroma / 2
    return np.clip(np.rint(out * 255), 0, 255)


def _pushed(values: np.ndarray, percent: float) -> np.ndarray:
    """Values 0..1 brought nearer to 0 (percent below 0) or to 1."""
    share = percent / 100
    return values * (1 + share) if share < 0 else values + (1 - values) * share


def exchanged(rgba: np.ndarray, step: ReplaceColour) -> np.ndarray:
    """Colour for colour."""
    out = rgba.copy()
    for old, new in step.pairs:
        same = (rgba[..., :3] == np.array(old, np.uint8)).all(axis=-1)
        out[same, :3] = new
    return out


def step_words(step: Step) -> str:
    """What a step does, as the credits tell it."""
    if isinstance(step, KeyColour):
        r, g, b = step.colour
        return f"colour #{r:02x}{g:02x}{b:02x} made clear"
    if isinstance(step, Reduce):
        return f"reduced to 1/{step.factor}"
    if isinstance(step, Enlarge):
        return f"enlarged {step.factor} times"
    if isinstance(step, Fit):
        return f"fitted to {step.size[0]} x {step.size[1]} px"
    if isinstance(step, Turn):
        return f"turned by {step.quarters * 90} degrees"
    if isinstance(step, Mirror):
        return "mirrored" if step.way == "across" else "turned upside down"
    return "recoloured"
