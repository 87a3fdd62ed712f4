"""`./run bench real-art`: how proposals do on real sheets that nobody drew for a test.

First what training measured on games that were left out and how it does on games kept aside, which is what
counts; then all labelled pictures as the program judges them now, with those it is sure of and wrong about by
name. The pictures are fetched
when they are missing, and never become a part of the project.
"""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator
from multiprocessing import Pool
from multiprocessing.pool import Pool as Workers

from bench import judged
from bench.labels import ART, HERE, Sheet, fetched, key_labels, keys_in, kind_labels, read, sheet_labels
from bench.row import Row
from rushweed.core.cut.propose import SURE
from rushweed.core.cut.take import choices
from rushweed.core.pixels.key import key_candidates, may_be_keyed
from rushweed.core.pixels.read import read_picture
from rushweed.core.ranking import weights

AIMS = {
    "cell_first": ("cell size first, game left out", 0.93),
    "kind_pieces_right": ("pieces: chosen, game left out", 0.60),
    "kind_single_right": ("singles: chosen, game left out", 0.90),
    "cell_among_three": ("cell size among three, game left out", 0.98),
    "key_best_right": ("key: best candidate right, game left out", 0.95),
}
KEPT_ASIDE = {  # at least, and at most, on games that nothing was learned from
    "first": 0.85, "three": 0.92, "taken": 0.80, "lost": 0.03, "single": 0.15, "sure": 0.03, "key": 0.95,
    "false": 0.01,
}  # fmt: skip
MOST = {
    "kind_grid_lost": ("grids lost to pieces, game left out", 0.03),
    "key_taken_falsely": ("key: taken silently, falsely, game left out", 0.01),
    "sure_and_wrong": ("said to be sure and wrong, game left out", 0.02),
}


def rows() -> Iterator[Row]:
    if not fetched():
        done = subprocess.run(["bash", str(HERE / "fetch")], capture_output=True, text=True)
        if done.returncode or not fetched():
            print(
                "real-art: the pictures are missing and could not be fetched (no network?).", file=sys.stderr
            )
            return
    known = weights()
    for name, (words, least) in AIMS.items():
        got = known.scores[name]
        yield Row(words, f"{got:.1%}", f"{least:.0%}", (1 - got) / (1 - least), 1.0, f"trained {known.made}")
    for name, (words, most) in MOST.items():
        yield Row(words, f"{known.scores[name]:.1%}", f"{most:.0%}", known.scores[name] / most, 1.0)
    with Pool(2) as pool:
        yield from _kept_aside(pool)
        yield from _as_it_is(pool)
    yield from judged.rows()


def _look(file: str) -> tuple[str, list[tuple[int, int]], float, str, int]:
    found = choices(read_picture(ART / file).rgba)
    kind = "pieces" if found.pieces_first else "single" if found.single else "grid"
    cells = [g.cell for g in found.grids[:3]]
    share = found.grids[0].score * found.of_grid if found.grids else 0.0
    return file, cells, share, kind, found.pieces


def _key(args: tuple[str, tuple[int, int, int] | None]) -> tuple[bool, bool, bool] | None:
    file, key = args
    rgba = read_picture(ART / file).rgba
    if not may_be_keyed(rgba):
        return None
    best = key_candidates(rgba, 1)[0]
    right = key is not None and max(abs(a - b) for a, b in zip(best.colour, key, strict=True)) <= 2
    return key is not None, right, best.sure


def _kept_aside(pool: Workers) -> Iterator[Row]:
    """Pictures of games that nothing was learned from."""
    labels = read("aside.json")
    sheets, single, aims = sheet_labels(labels["grids"]), labels["single"], KEPT_ASIDE
    files = [s.file for s in sheets] + labels["pieces"] + single
    seen = {file: rest for file, *rest in pool.map(_look, files, chunksize=2)}
    keys = [k for k in pool.map(_key, keys_in(labels), chunksize=2) if k is not None]
    keyed = [k for k in keys if k[0]]

    def right(sheet: Sheet, first: int = 1) -> bool:
        return any(sheet.takes(*cell) for cell in seen[sheet.file][0][:first])

    taken = [s for s in sheets if seen[s.file][2] == "grid" and right(s)]
    sure = [s for s in sheets if seen[s.file][1] >= SURE]
    pieces = sum(seen[f][2] == "pieces" for f in labels["pieces"])
    yield _least("cell size first", sum(right(s) for s in sheets), len(sheets), aims["first"])
    yield _least("cell size among three", sum(right(s, 3) for s in sheets), len(sheets), aims["three"])
    yield _least("taken at once", len(taken), len(sheets), aims["taken"])
    yield _most("sure and wrong", sum(not right(s) for s in sure), len(sure), aims["sure"])
    yield _most(
        "grids lost to pieces", sum(seen[s.file][2] == "pieces" for s in sheets), len(sheets), aims["lost"]
    )
    yield _share("kept aside: pieces chosen", pieces, len(labels["pieces"]))
    yield _most(
        "singles called a grid or pieces",
        sum(seen[f][2] != "single" for f in single),
        len(single),
        aims["single"],
    )
    yield _least("key: best candidate", sum(k[1] for k in keyed), len(keyed), aims["key"])
    yield _most(
        "key: taken silently, falsely",
        sum(k[2] for k in keys if not k[0]),
        len(keys) - len(keyed),
        aims["false"],
    )


def _as_it_is(pool: Workers) -> Iterator[Row]:
    """All labelled pictures with the weights as they are: learned from them, so this flatters."""
    seen = {file: rest for file, *rest in pool.map(_look, [f for f, _kind in kind_labels()], chunksize=4)}
    keys = [k for k in pool.map(_key, key_labels(), chunksize=4) if k is not None]
    sheets = sheet_labels()
    first = sum(s.takes(*seen[s.file][0][0]) for s in sheets if seen[s.file][0])
    three = sum(any(s.takes(*c) for c in seen[s.file][0]) for s in sheets)
    taken = sum(seen[s.file][2] == "grid" and s.takes(*seen[s.file][0][0]) for s in sheets)
    lost = sum(seen[s.file][2] == "pieces" for s in sheets)
    wrong = [s for s in sheets if seen[s.file][1] >= SURE and not s.takes(*seen[s.file][0][0])]
    for name, right in (("first", first), ("among three", three), ("taken at once", taken)):
        yield _share(f"cell size {name}, all {len(sheets)}", right, len(sheets))
    yield _share("grids lost to pieces", lost, len(sheets))
    yield _share("sure and wrong", len(wrong), len(sheets), ", ".join(s.file.rsplit("/")[-1] for s in wrong))
    pieces = read("pieces.json")
    ranges = [(p["file"], p.get("pieces_range") or [p["pieces"]] * 2) for p in pieces]
    counted = sum(low * 0.9 <= seen[f][3] <= high * 1.1 for f, (low, high) in ranges)
    chosen = sum(
        seen[f][2] == "pieces" and low * 0.9 <= seen[f][3] <= high * 1.1 for f, (low, high) in ranges
    )
    yield _share("pieces: count within 10 %", counted, len(pieces))
    yield _share("pieces: chosen and count right", chosen, len(pieces))
    single = [label["file"] for label in read("singles.json")]
    yield _share("singles called a grid or pieces", sum(seen[f][2] != "single" for f in single), len(single))
    keyed = [k for k in keys if k[0]]
    yield _share("key: best candidate right", sum(k[1] for k in keyed), len(keyed))
    yield _share("key: taken silently", sum(k[2] and k[1] for k in keyed), len(keyed))
    yield _share("key: taken silently, falsely", sum(k[2] for k in keys if not k[0]), len(keys) - len(keyed))


def _least(words: str, right: int, of: int, least: float) -> Row:
    """A share that is to be high: the ratio is that of what is missing to what may be."""
    share = f"{right / of:.1%} of {of}"
    return Row(f"kept aside: {words}", share, f"{least:.0%}", (1 - right / of) / (1 - least), 1.0)


def _most(words: str, wrong: int, of: int, most: float) -> Row:
    share = wrong / max(of, 1)
    return Row(f"kept aside: {words}", f"{share:.1%} of {of}", f"{most:.0%}", share / most, 1.0)


def _share(words: str, right: int, of: int, note: str = "") -> Row:
    return Row(words, f"{right / of:.1%}", f"{right} of {of}", 0.0, 1.0, note)
