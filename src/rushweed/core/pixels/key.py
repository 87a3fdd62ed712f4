"""The key colour of an opaque picture: proposed from its border, made clear, its fringe cleaned."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.document.model import Colour

OPAQUE = 0.995  # share of px without transparency from which a picture may be keyed
NEAR = 12  # of 255: how far colours of a lossy picture may stray from their key


class KeyProposal(NamedTuple):
    """A key colour, how far px may be from it (of 255), and why."""

    colour: Colour
    tolerance: int
    evidence: str


def propose_key(rgba: np.ndarray) -> KeyProposal | None:
    """The colour that stands for nothing in a picture, uint8 (height, width, 4), or None.

    It is the commonest colour of the border, if it fills enough of the border and of the picture, reaches
    from the border to most of its px, and is more than the lines between tiles.
    """
    height, width = rgba.shape[:2]
    if height < 3 or width < 3 or np.count_nonzero(rgba[..., 3] >= 250) < OPAQUE * height * width:
        return None
    codes = rgba[..., :3].astype(np.uint32) @ np.array([65536, 256, 1], np.uint32)
    border = np.concatenate((codes[0], codes[-1], codes[1:-1, 0], codes[1:-1, -1]))
    colours, counts = np.unique(border, return_counts=True)
    for best in np.argsort(-counts, kind="stable")[:3]:
        found = _judged(rgba, codes, int(colours[best]), border)
        if found is not None:
            return found
    return None


def _judged(rgba: np.ndarray, codes: np.ndarray, code: int, border: np.ndarray) -> KeyProposal | None:
    colour = (code >> 16, code >> 8 & 255, code & 255)
    clear = codes == code
    on_border = float((border == code).mean())
    tolerance = 0
    if on_border < 0.4:  # a lossy picture strays a little
        clear = np.abs(rgba[..., :3].astype(np.int16) - np.array(colour, np.int16)).max(axis=-1) <= NEAR
        edge = np.concatenate((clear[0], clear[-1], clear[1:-1, 0], clear[1:-1, -1]))
        on_border, tolerance = float(edge.mean()), NEAR
    share = float(clear.mean())
    vivid = is_vivid(colour)
    sides = [float(line.mean()) for line in (clear[0], clear[-1], clear[:, 0], clear[:, -1])]
    if not vivid and (min(sides) < 0.1 or tolerance and on_border < 0.8):
        return None
    least = 0.3 if vivid else 0.35 if share > 0.25 else 0.5
    if on_border < least or not (0.02 if vivid else 0.08) <= share <= 0.99:
        return None
    rows, columns = clear.all(axis=1), clear.all(axis=0)
    inner = clear[~rows][:, ~columns]
    lines = rows.mean() < 0.4 and columns.mean() < 0.4
    if not vivid and lines and inner.size and inner.mean() < 0.04:
        return None  # only the lines between tiles
    if not vivid and not _reaches(clear):
        return None
    name = f"#{code:06x}"
    words = f"{name} fills {on_border:.0%} of the border, {share:.0%} of the picture"
    return KeyProposal(colour, tolerance, words)


def is_vivid(colour: Colour) -> bool:
    """Whether a colour is of the kind that no art has: full light or none in each channel, and both."""
    ends = [c <= 10 or c >= 245 for c in colour]
    return all(ends) and max(colour) >= 245 and min(colour) <= 10


def _reaches(clear: np.ndarray) -> bool:
    """Whether most of the clear px hang together with the border."""
    from scipy import ndimage  # late: it takes a third of a second to import

    labels, count = ndimage.label(clear)
    edge = np.unique(np.concatenate((labels[0], labels[-1], labels[:, 0], labels[:, -1])))
    held = np.bincount(labels.ravel(), minlength=count + 1)
    reached = int(held[edge[edge > 0]].sum())
    return reached >= 0.5 * int(held[1:].sum())


def keyed(rgba: np.ndarray, colour: Colour, tolerance: int = 0, fringe: bool = True) -> np.ndarray:
    """A picture with its key colour made clear: uint8 (height, width, 4).

    With `fringe`, px beside the clear ones that are a mixture of the key and of an inner neighbour lose the
    key's part: their alpha becomes the share of the neighbour, their colour the neighbour's.
    """
    away = np.abs(rgba[..., :3].astype(np.int16) - np.array(colour, np.int16)).max(axis=-1)
    clear = away <= tolerance
    out = rgba.copy()
    out[clear] = 0
    if fringe and clear.any() and not clear.all():
        _clean_fringe(rgba, out, clear, np.array(colour, np.float32), max(tolerance, 1))
    return out


def _clean_fringe(
    rgba: np.ndarray, out: np.ndarray, clear: np.ndarray, key: np.ndarray, tolerance: int
) -> None:
    """Take the key's tint out of the px on the edge of what became clear, in place."""
    padded = np.pad(clear, 1)
    beside = padded[:-2, 1:-1] | padded[2:, 1:-1] | padded[1:-1, :-2] | padded[1:-1, 2:]
    ys, xs = np.nonzero(beside & ~clear)
    height, width = clear.shape
    colour = rgba[ys, xs, :3].astype(np.float32)
    share = np.ones(len(ys), np.float32)
    inner = colour.copy()
    spread = float(np.abs(key - key.mean()).max())
    for dy, dx in ((-1, 0), (1, 0), (0, -1), (0, 1), (-1, -1), (-1, 1), (1, -1), (1, 1)):
        ny, nx = np.clip(ys + dy, 0, height - 1), np.clip(xs + dx, 0, width - 1)
        ok = ~clear[ny, nx] & ~(beside[ny, nx])
        other = rgba[ny, nx, :3].astype(np.float32)
        line = other - key
        length = (line * line).sum(axis=1)
        part = np.where(length > 0, ((colour - key) * line).sum(axis=1) / np.maximum(length, 1), 1)
        off = np.abs(colour - (key + part[:, None] * line)).max(axis=1)
        fits = ok & (off <= max(6.0, tolerance)) & (part > 0.05) & (part < 0.95) & (length > 32 * 32)
        better = fits & (part < share) & (spread > 20)
        share[better], inner[better] = part[better], other[better]
    mixed = share < 1
    out[ys[mixed], xs[mixed], :3] = inner[mixed].astype(np.uint8)
    out[ys[mixed], xs[mixed], 3] = np.rint(share[mixed] * rgba[ys[mixed], xs[mixed], 3]).astype(np.uint8)
