"""`./run bench soft`: how well soft edges lose the key colour.

Real art with alpha is laid on keys, cleaned and compared with itself: shrunk, so that its edges are 1 or 2
px soft, and as it was drawn. Only px count that a colour within 3 px of them explains at all (`answerable`).
Half of the games (by a hash of their name) is kept aside: rules were chosen on the others, the rows are of
those kept aside.
"""

from __future__ import annotations

import hashlib
import sys
from collections.abc import Iterator
from multiprocessing import Pool
from pathlib import Path

import numpy as np

from bench.labels import ART, fetched
from bench.row import Row
from rushweed.core.pixels.fringe import cleans_by_itself
from rushweed.core.pixels.key import keyed
from rushweed.core.pixels.read import read_picture

KEYS = {
    "magenta": (255, 0, 255),
    "green": (0, 255, 0),
    "cyan": (0, 255, 255),
    "leaf": (32, 156, 90),
    "grey": (128, 128, 128),
    "black": (0, 0, 0),
    "white": (255, 255, 255),
}
MOST = {"1 px": (0.20, 0.06), "2 px": (0.40, 0.20), "as drawn": (0.20, 0.06)}
OFF, FAR_OFF = 16, 48  # of 255
HARD = 0.005  # share of the edge px of hard art that may change,
SOFT_ART = 0.03  # which is what has at most so many half clear px
A_GAME = 8  # pictures of each
NEAR_KEY = 48  # of 255: art that holds the key's own colour is not laid on it


def kept_aside(game: str) -> bool:
    return hashlib.sha256(game.encode()).digest()[0] % 2 == 1


def pictures(aside: bool) -> list[Path]:
    """Pictures with clear px, up to A_GAME of each game, spread over its files."""
    found = []
    for game in sorted(p for p in ART.iterdir() if p.is_dir() and kept_aside(p.name) == aside):
        files = sorted(game.rglob("*.png"), key=lambda p: hashlib.sha256(p.name.encode()).digest())
        taken = 0
        for file in files:
            if taken == A_GAME:
                break
            rgba = _read(file)
            if rgba is not None and _has_edges(rgba):
                found.append(file)
                taken += 1
    return found


def _read(file: Path) -> np.ndarray | None:
    try:
        rgba = read_picture(file).rgba
    except Exception:  # other people's files: one that cannot be read is none of this measure's
        return None
    high, wide = rgba.shape[:2]
    return rgba if wide >= 48 and high >= 32 and wide * high <= 1_200_000 else None


def _has_edges(rgba: np.ndarray) -> bool:
    clear, full = rgba[..., 3] == 0, rgba[..., 3] == 255
    return bool(clear.mean() > 0.05 and full.mean() > 0.1)


def shrunk(rgba: np.ndarray, by: int, blur: int) -> np.ndarray:
    """Hard art of `by` times the size drawn small: premultiplied means over `blur` px; uint8 RGBA."""
    from scipy import ndimage

    hard = (rgba[..., 3:] >= 128).astype(np.float32)
    flat = np.dstack((rgba[..., :3] * hard, hard * 255))
    flat = ndimage.uniform_filter(
        flat, (blur, blur, 0), mode="constant", origin=(-1, -1, 0) if blur == 2 else 0
    )
    small = flat[::by, ::by]
    alpha = small[..., 3:] / 255
    colour = np.where(alpha > 0, small[..., :3] / np.maximum(alpha, 1 / 255), 0)
    out = np.dstack((colour, small[..., 3:])).round().clip(0, 255).astype(np.uint8)
    out[out[..., 3] == 0] = 0
    return out


def on_key(rgba: np.ndarray, key: tuple[int, int, int]) -> np.ndarray:
    alpha = rgba[..., 3:] / 255.0
    flat = rgba[..., :3] * alpha + np.array(key) * (1 - alpha)
    return np.dstack((flat.round(), np.full(rgba.shape[:2], 255))).astype(np.uint8)


def seen(rgba: np.ndarray) -> np.ndarray:
    return np.dstack((rgba[..., :3] * (rgba[..., 3:] / 255.0), rgba[..., 3]))


def answerable(truth: np.ndarray, key: tuple[int, int, int]) -> np.ndarray:
    """Which half clear px could be told at all: with the full colour within 3 px that is the nearest to
    its own, it is no farther off than OFF. Bool, of the half clear px in order."""
    ys, xs = np.nonzero(half_clear(truth))
    colour = truth[..., :3].astype(np.float32)
    high, wide = truth.shape[:2]
    least, inner = np.full(len(ys), np.inf, np.float32), np.zeros((len(ys), 3), np.float32)
    for dy in range(-3, 4):
        for dx in range(-3, 4):
            y, x = ys + dy, xs + dx
            on = np.flatnonzero((y >= 0) & (y < high) & (x >= 0) & (x < wide))
            on = on[truth[y[on], x[on], 3] == 255]
            far = np.abs(colour[y[on], x[on]] - colour[ys[on], xs[on]]).max(axis=1)
            near = far < least[on]
            least[on[near]], inner[on[near]] = far[near], colour[y[on], x[on]][near]
    mixed = on_key(truth, key)[ys, xs, :3] - np.array(key, np.float32)
    inner -= np.array(key, np.float32)
    share = (mixed * inner).sum(axis=1) / np.maximum((inner * inner).sum(axis=1), 1)
    got = truth.copy()
    share = np.clip(np.where(np.isfinite(least), share, 1), 0, 1)
    got[ys, xs, 3] = np.rint(share * 255)
    got[ys, xs, :3] = np.clip(mixed / np.maximum(share, 1 / 255)[:, None] + np.array(key), 0, 255)
    return np.abs(seen(got) - seen(truth)).max(axis=-1)[ys, xs] <= OFF


def half_clear(rgba: np.ndarray) -> np.ndarray:
    return (rgba[..., 3] > 0) & (rgba[..., 3] < 255)


def judge(file: Path) -> list[tuple[str, str, int, int, int]]:
    """(kind, key, half clear px, off, far off) of one picture; for kind "hard": edge px, changed, 0."""
    rgba = _read(file)
    assert rgba is not None
    truths = {"1 px": shrunk(rgba, 2, 2), "2 px": shrunk(rgba, 2, 4)}
    if half_clear(rgba).mean() > 0.005:
        truths["as drawn"] = rgba
    found = []
    for name, key in KEYS.items():
        solid = rgba[rgba[..., 3] == 255][:, :3].astype(int)
        if (np.abs(solid - key).max(axis=1) <= NEAR_KEY).mean() > 0.002:
            continue
        for kind, truth in truths.items():
            got = keyed(on_key(truth, key), key, 0, fringe=None if cleans_by_itself(key) else True)
            off = np.abs(seen(got) - seen(truth)).max(axis=-1)[half_clear(truth)]
            off = off[answerable(truth, key)]
            found.append((kind, name, off.size, int((off > OFF).sum()), int((off > FAR_OFF).sum())))
        if half_clear(rgba).mean() > SOFT_ART:
            continue
        hard = np.where(rgba[..., 3:] >= 128, rgba | np.array((0, 0, 0, 255), np.uint8), 0).astype(np.uint8)
        flat = on_key(hard, key)
        plain, got = keyed(flat, key, 0, fringe=False), keyed(flat, key)
        full = np.pad(plain[..., 3] > 0, 1)
        edge = full[1:-1, 1:-1] & ~(full[:-2, 1:-1] & full[2:, 1:-1] & full[1:-1, :-2] & full[1:-1, 2:])
        found.append(("hard", name, int(edge.sum()), int((got != plain).any(axis=-1).sum()), 0))
    return found


def table(aside: bool) -> dict[tuple[str, str], tuple[float, float, int]]:
    """(kind, key) -> mean share off and far off over the pictures, and how many pictures."""
    with Pool(2) as pool:
        judged = [j for js in pool.imap(judge, pictures(aside)) for j in js if j[2] >= 20]
    found = {}
    for kind in (*MOST, "hard"):
        for key in (*KEYS, "all"):
            of = np.array([j[2:] for j in judged if j[0] == kind and key in (j[1], "all")], float)
            if len(of):
                shares = of[:, 1:] / of[:, :1]
                found[kind, key] = (*(float(s) for s in shares.mean(axis=0)), len(of))
    return found


def rows() -> Iterator[Row]:
    if not fetched():
        print("soft: the pictures are missing; `./run bench real-art` fetches them.", file=sys.stderr)
        return
    for (kind, key), (off, far, count) in table(aside=True).items():
        if key != "all":
            continue
        words = f"of {count} pictures on keys, games kept aside"
        if kind == "hard":
            yield Row("hard edges: edge px changed", f"{off:.2%}", f"{HARD:.2%}", off / HARD, 1.0, words)
            continue
        for share, most, by in zip((off, far), MOST[kind], (OFF, FAR_OFF), strict=True):
            name = f"soft edges, {kind}: off by more than {by}"
            yield Row(name, f"{share:.1%}", f"{most:.0%}", share / most, 1.0, words)
