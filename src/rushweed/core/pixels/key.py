"""The key colour of an opaque picture: ranked from its pixels, made clear, its fringe cleaned."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.document.model.base import Colour
from rushweed.core.pixels.fringe import clean_fringe, cleans_by_itself
from rushweed.core.pixels.markers import marker_rows
from rushweed.core.ranking import chance, model

OPAQUE = 0.995  # share of px without transparency from which a picture may be keyed
NEAR = 12  # of 255: how far colours of a lossy picture may stray from their key
SURE = 0.95  # chance from which a key colour is taken without asking
LIKELY = 0.12  # chance from which it serves to find the art, and is offered
ROWS = 512  # lines read
FEATURES = (
    "share", "log_share", "border", "ring", "least_side", "corners", "solid", "shaded", "contrast", "vivid",
    "saturation", "black", "white", "all_over", "reaches", "of_top", "colours", "lead", "nearly_all",
    "vivid_border", "tiny", "lossy",
)  # fmt: skip


class KeyProposal(NamedTuple):
    """A key colour, how far px may be from it (of 255), how likely it is one at all, and why."""

    colour: Colour
    tolerance: int
    evidence: str
    chance: float = 1.0

    @property
    def sure(self) -> bool:
        """Whether it may be taken without asking."""
        return self.chance >= SURE


def may_be_keyed(rgba: np.ndarray) -> bool:
    """Whether a picture is opaque and large enough to ask for its key colour."""
    height, width = rgba.shape[:2]
    return bool(
        height >= 3 and width >= 3 and np.count_nonzero(rgba[..., 3] >= 250) >= OPAQUE * height * width
    )


def key_candidates(rgba: np.ndarray, most: int = 3) -> list[KeyProposal]:
    """The colours that may stand for nothing in a picture, uint8 (height, width, 4), the likeliest first;
    none if it has transparency of its own.

    Which colour is ranked by one model, whether there is one at all by another, for the first; the chances
    of the others are what is left in proportion.
    """
    if not may_be_keyed(rgba):
        return []
    colours, values = candidate_features(rgba)
    order = model("key_colour", FEATURES).scores(values)
    seen = model("key_present", FEATURES).scores(values)
    found = []
    for place in np.argsort(-order, kind="stable")[:most].tolist():
        colour = colours[place]
        share, border, lossy = (float(values[place, FEATURES.index(n)]) for n in ("share", "border", "lossy"))
        name = "#{:02x}{:02x}{:02x}".format(*colour)
        words = f"{name} fills {border:.0%} of the border, {share:.0%} of the picture"
        likely = chance(float(seen[place]))
        found.append(KeyProposal(colour, NEAR if lossy else 0, words, round(likely, 4)))
    return found


def likely_key(rgba: np.ndarray) -> KeyProposal | None:
    """The colour that most likely stands for nothing, if one does: what grids and pieces take for clear."""
    found = key_candidates(rgba, 1)
    return found[0] if found and found[0].chance >= LIKELY else None


def propose_key(rgba: np.ndarray) -> KeyProposal | None:
    """The key colour of a picture, uint8 (height, width, 4), if there is one for sure, else None."""
    found = key_candidates(rgba, 1)
    return found[0] if found and found[0].sure else None


def candidate_features(rgba: np.ndarray) -> tuple[list[Colour], np.ndarray]:
    """Colours that come into question, and what speaks for each: float (colours, FEATURES).

    The commonest of the picture and of its border, and pure ones that fill a hundredth of it.
    """
    above, below = marker_rows(rgba)
    rgba = rgba[above : rgba.shape[0] - below]
    height, width = rgba.shape[:2]
    rows = np.unique(np.linspace(0, height - 1, min(height, ROWS)).astype(int))
    lines = rgba[rows]
    codes = lines[..., :3].astype(np.uint32) @ np.array([65536, 256, 1], np.uint32)
    step = max(codes.size // 300_000, 1)
    values, counts = np.unique(codes.ravel()[::step], return_counts=True)
    total, order = int(counts.sum()), np.argsort(-counts, kind="stable")
    rings = [_ring(rgba, depth) for depth in range(3) if min(height, width) > 2 * depth + 2] or [
        codes.ravel()
    ]
    at_border, times = np.unique(np.concatenate(rings), return_counts=True)
    picked = [int(v) for v in values[order[:8]]]
    picked += [int(v) for v in at_border[np.argsort(-times, kind="stable")[:4]]]
    for place in order[:256]:
        r, g, b = _channels(int(values[place]))
        if counts[place] > 0.01 * total and max(r, g, b) - min(r, g, b) >= 245:
            picked.append(int(values[place]))
    picked = list(dict.fromkeys(picked))
    looked = _Looked(rgba, lines, codes, rings, values, counts)
    return [_channels(code) for code in picked], np.array([looked.features(code) for code in picked])


def _channels(code: int) -> Colour:
    return code >> 16, code >> 8 & 255, code & 255


def _ring(rgba: np.ndarray, depth: int) -> np.ndarray:
    """The colours of the px so far from the border."""
    end = -1 - depth
    sides = (rgba[depth], rgba[end], rgba[:, depth], rgba[:, end])
    ring = np.concatenate([side[:, :3] for side in sides]).astype(np.uint32)
    return np.asarray(ring @ np.array([65536, 256, 1], np.uint32))


class _Looked:
    """A picture being asked for its key colour."""

    def __init__(
        self, rgba: np.ndarray, lines: np.ndarray, codes: np.ndarray, rings: list[np.ndarray],
        values: np.ndarray, counts: np.ndarray,
    ) -> None:  # fmt: skip
        self.rgba, self.codes, self.rings = rgba, codes, rings
        self.planes = [lines[..., channel].astype(np.int16) for channel in range(3)]
        self.values, self.counts, self.total = values, counts, int(counts.sum())
        self.top = int(counts.max()) / self.total

    def features(self, code: int) -> list[float]:
        colour = np.array(_channels(code), np.int16)
        clear = self.codes == code
        away = np.zeros(clear.shape, np.int16)
        for plane, value in zip(self.planes, colour, strict=True):
            np.maximum(away, np.abs(plane - value), out=away)
        near = away <= NEAR
        strays, held = int(np.count_nonzero(near & ~clear)), int(np.count_nonzero(clear))
        lossy = strays > 0.35 * max(held, 1) and _kinds(self.codes[near & ~clear]) > 24
        clear = near if lossy else clear

        def share_of(ring: np.ndarray) -> float:
            return float((_near(ring, colour) if lossy else ring == code).mean())

        share = float(clear.mean())
        on_rings = [share_of(ring) for ring in self.rings]
        height, width = self.rgba.shape[:2]
        ring = self.rings[0]
        sides = [share_of(part) for part in np.split(ring, [width, 2 * width, 2 * width + height])]
        corners = (
            [ring[i] == code for i in (0, width - 1, width, 2 * width - 1)] if len(ring) > 2 * width else []
        )
        runs, starts = (
            int(np.count_nonzero(clear[:, 1:] & clear[:, :-1])),
            int(np.count_nonzero(clear[:, :-1])),
        )
        across = runs / max(starts, 1)
        beside = np.zeros_like(clear)
        beside[:, 1:] |= clear[:, :-1]
        beside[:, :-1] |= clear[:, 1:]
        off = away[beside & ~clear]
        bound = [int(c) for c in colour]
        saturation = (max(bound) - min(bound)) / 255
        others = self.counts[self.values != code]
        colours = float(np.log(len(self.values) + 1)) / 10
        return [
            share, float(np.log(share + 1e-4)), max(on_rings), on_rings[0], min(sides),
            float(np.mean(corners)) if corners else 0.0, across,
            float((off <= 48).mean()) if off.size else 0.0, float(off.mean()) / 255 if off.size else 0.0,
            float(is_vivid(_channels(code))), saturation, float(max(bound) <= 8), float(min(bound) >= 247),
            _all_over(clear), _reaches(clear), share / self.top, colours,
            share - (int(others.max()) / self.total if others.size else 0.0), float(share > 0.9),
            saturation * max(on_rings), float(height * width < 3000), float(lossy),
        ]  # fmt: skip


def _near(codes: np.ndarray, colour: np.ndarray) -> np.ndarray:
    parts = np.stack((codes >> 16, codes >> 8 & 255, codes & 255), axis=-1).astype(np.int16)
    return np.asarray(np.abs(parts - colour).max(axis=-1) <= NEAR)


def _kinds(codes: np.ndarray) -> int:
    return len(np.unique(codes[:20_000]))


def _all_over(clear: np.ndarray) -> float:
    """In how many of 8 x 8 fields of the picture some of it is."""
    high, wide = max(clear.shape[0] // 8, 1), max(clear.shape[1] // 8, 1)
    rows, columns = clear.shape[0] // high, clear.shape[1] // wide
    fields = clear[: rows * high, : columns * wide].reshape(rows, high, columns, wide)
    held = np.count_nonzero(fields, axis=(1, 3))
    return float((held / (high * wide) > 0.03).mean())


def is_vivid(colour: Colour) -> bool:
    """Whether a colour is of the kind that no art has: full light or none in each channel, and both."""
    ends = [c <= 10 or c >= 245 for c in colour]
    return all(ends) and max(colour) >= 245 and min(colour) <= 10


def _reaches(clear: np.ndarray) -> float:
    """The share of the clear px that hang together with the border."""
    from scipy import ndimage  # late: it takes a third of a second to import

    step = max(int(np.sqrt(clear.size / 100_000)), 1)
    clear = clear[::step, ::step]
    labels, count = ndimage.label(clear)
    edge = np.unique(np.concatenate((labels[0], labels[-1], labels[:, 0], labels[:, -1])))
    held = np.bincount(labels.ravel(), minlength=count + 1)
    return float(held[edge[edge > 0]].sum() / max(held[1:].sum(), 1))


def keyed(rgba: np.ndarray, colour: Colour, tolerance: int = 0, fringe: bool | None = None) -> np.ndarray:
    """A picture with its key colour made clear: uint8 (height, width, 4).

    With `fringe` px on soft edges lose the key's part (see fringe.py); None cleans where that is safe.
    """
    clear = np.ones(rgba.shape[:2], bool)
    for channel, value in enumerate(colour):
        clear &= rgba[..., channel] >= max(value - tolerance, 0)
        clear &= rgba[..., channel] <= min(value + tolerance, 255)
    out = rgba.copy()
    out[clear] = 0
    wanted = cleans_by_itself(colour) if fringe is None else fringe
    if wanted and clear.any() and not clear.all():
        clean_fringe(rgba, out, clear, colour, asked=fringe is True)
    return out
