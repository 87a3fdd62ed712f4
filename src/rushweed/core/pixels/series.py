"""Files that belong together: numbered pictures, the same picture at 2x and 3x, a normal map."""

from __future__ import annotations

import re
from collections import defaultdict
from pathlib import Path
from typing import NamedTuple

import numpy as np

from rushweed.core.document.ids import natural_key
from rushweed.core.pixels.read import frame_columns

NUMBERED = re.compile(r"^(?P<stem>.*?)[ _.(-]*(?P<number>\d{1,6})\)?$")
ENLARGED = re.compile(r"^(?P<stem>.+?)[@_. -](?P<scale>[23])x$", re.IGNORECASE)
SCALE_FOLDER = re.compile(r"^@?(?P<scale>[123])x$", re.IGNORECASE)
NORMAL = re.compile(r"^(?P<stem>.+?)[_. -](n|nrm|normal|normals|normalmap)$", re.IGNORECASE)
LARGE = 512  # px a side from which numbered pictures are frames only if they are many and of one size


class Batch(NamedTuple):
    """What becomes one sheet: a picture, or numbered ones in order, with what goes along with it."""

    paths: tuple[Path, ...]
    name: str
    variants: tuple[tuple[int, Path], ...] = ()
    normal: Path | None = None


def batches(files: list[Path], as_one: bool = True) -> list[Batch]:
    """Sort files into what belongs together by their names, in the order of the first of each.

    `as_one` makes numbered pictures of one folder and one stem a single thing; variants and normal maps join
    the picture that bears their name.
    """
    names = {_plain(path): path for path in reversed(files)}
    variants: dict[Path, list[tuple[int, Path]]] = defaultdict(list)
    normals: dict[Path, Path] = {}
    rest: list[Path] = []
    for path in files:
        base = _base_of(path, names)
        if base is not None and base[0] is not None and base[0] != path:
            owner, scale = base
            assert owner is not None
            if scale:
                variants[owner].append((scale, path))
            else:
                normals.setdefault(owner, path)
        else:
            rest.append(path)
    runs: dict[tuple[Path, str, str], list[Path]] = defaultdict(list)
    for path in rest:
        match = NUMBERED.match(path.stem)
        if as_one and match and not variants.get(path) and path not in normals:
            runs[path.parent, match["stem"].casefold(), path.suffix.lower()].append(path)
    whole = {path: run for run in runs.values() if _is_run(run) for path in run}
    made: list[Batch] = []
    done: set[Path] = set()
    for path in rest:
        if path in done:
            continue
        run = whole.get(path)
        if run:
            ordered = sorted(run, key=lambda p: natural_key(p.name))
            done.update(run)
            match = NUMBERED.match(path.stem)
            stem = match["stem"].strip() if match else ""
            made.append(Batch(tuple(ordered), stem or path.parent.name or "frames"))
        else:
            made.append(Batch((path,), path.name, tuple(sorted(variants.get(path, []))), normals.get(path)))
    return made


def _plain(path: Path) -> tuple[str, str]:
    return str(path.parent), path.stem.casefold()


def _base_of(path: Path, names: dict[tuple[str, str], Path]) -> tuple[Path | None, int] | None:
    """The picture that a variant (scale 2 or 3) or a normal map (scale 0) belongs to."""
    match = ENLARGED.match(path.stem)
    if match:
        for stem in (match["stem"], f"{match['stem']}@1x", f"{match['stem']}_1x"):
            owner = names.get((str(path.parent), stem.casefold()))
            if owner is not None:
                return owner, int(match["scale"])
    folder = SCALE_FOLDER.match(path.parent.name)
    if folder and folder["scale"] != "1":
        for name in ("1x", "@1x", "1X"):
            owner = names.get((str(path.parent.parent / name), path.stem.casefold()))
            if owner is not None:
                return owner, int(folder["scale"])
    match = NORMAL.match(path.stem)
    if match:
        owner = names.get((str(path.parent), match["stem"].casefold()))
        if owner is not None:
            return owner, 0
    return None


def _is_run(paths: list[Path]) -> bool:
    """Whether the numbers follow on one another: each once, and not many more gaps than pictures."""
    numbers = [int(match["number"]) for p in paths if (match := NUMBERED.match(p.stem))]
    once = len(set(numbers)) == len(numbers) > 1
    return once and max(numbers) - min(numbers) < 4 * len(numbers)


def are_frames(sizes: list[tuple[int, int]]) -> bool:
    """Whether numbered pictures of these sizes are frames of one thing, and not sheets each for itself."""
    sides = [max(size) for size in sizes]
    alike = max(sides) <= 3 * min(sides)
    if max(sides) <= LARGE:
        return alike
    return max(sides) <= 2 * LARGE and len(sizes) >= 4 and len(set(sizes)) == 1


def laid_out(parts: list[np.ndarray], crop: tuple[int, int, int, int] | None, columns: int) -> np.ndarray:
    """Numbered pictures on one sheet, row by row: uint8 (height, width, 4).

    Smaller ones are padded above and at both sides, so that all stand on one line; `crop` is x, y, w, h of
    the padded pictures.
    """
    width, height = max(p.shape[1] for p in parts), max(p.shape[0] for p in parts)
    x, y, w, h = crop or (0, 0, width, height)
    columns = columns or frame_columns(len(parts), w, h)
    sheet = np.zeros((-(-len(parts) // columns) * h, columns * w, 4), np.uint8)
    for n, part in enumerate(parts):
        full = padded(part, (width, height))[y : y + h, x : x + w]  # less, where the parts became smaller
        top, left = n // columns * h, n % columns * w
        sheet[top : top + full.shape[0], left : left + full.shape[1]] = full
    return sheet


def padded(part: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """A picture in the middle of the foot of a clear one of `size` (width, height)."""
    height, width = part.shape[:2]
    if (width, height) == size:
        return part
    whole = np.zeros((size[1], size[0], 4), np.uint8)
    left, top = (size[0] - width) // 2, size[1] - height
    whole[top : top + height, left : left + width] = part
    return whole


def common_crop(parts: list[np.ndarray]) -> tuple[int, int, int, int]:
    """x, y, w, h around what any of the pictures, padded to one size, holds; at least one px."""
    size = max(p.shape[1] for p in parts), max(p.shape[0] for p in parts)
    ink = np.zeros((size[1], size[0]), bool)
    for part in parts:
        ink |= padded(part, size)[..., 3] > 0
    rows, columns = np.flatnonzero(ink.any(axis=1)), np.flatnonzero(ink.any(axis=0))
    if not rows.size:
        return 0, 0, size[0], size[1]
    x, y = int(columns[0]), int(rows[0])
    return x, y, int(columns[-1]) - x + 1, int(rows[-1]) - y + 1
