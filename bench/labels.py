"""The labelled real pictures beside this file (real_art/), and where their pictures lie once fetched.

The pictures are other people's: they are used for measuring only, and never copied into the project.
"""

from __future__ import annotations

import json
import os
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NamedTuple

from rushweed.core.cut.candidates import Step

HERE = Path(__file__).parent / "real_art"
ART = Path(os.environ.get("RUSHWEED_REAL_ART") or Path.home() / ".cache" / "rushweed-real-art")

Pair = tuple[int, int]


class Sheet(NamedTuple):
    """A sheet with the grid a person would cut it by, and other cells one would also take."""

    file: str
    cell: Pair
    margin: Pair
    spacing: Pair
    acceptable: tuple[Pair, ...] = ()
    key: tuple[int, int, int] | None = None
    kind: str = "tileset"

    @property
    def game(self) -> str:
        return self.file.split("/")[0]

    def takes(self, wide: int, high: int) -> bool:
        return (wide, high) in (self.cell, *self.acceptable)

    def has(self, axis: int, side: int) -> bool:
        return side in {cell[axis] for cell in (self.cell, *self.acceptable)}

    def is_exactly(self, axis: int, step: Step) -> bool:
        if step == (self.cell[axis], self.margin[axis], self.spacing[axis]):
            return True
        also = {cell[axis] for cell in self.acceptable} - {self.cell[axis]}
        return step.cell in also and not step.margin and not step.gap


def read(name: str) -> Any:
    return json.loads((HERE / name).read_text())


def fetched() -> bool:
    grids = read("key.json") + read("others.json")["grids"] + read("aside.json")["grids"]
    return all((ART / label["file"]).is_file() for label in grids)


def sheet_labels(labels: Sequence[Any] | None = None) -> list[Sheet]:
    """The sheets that grids are learned from, or others as a file of labels tells them."""
    return [
        Sheet(
            label["file"], tuple(label["cell"]), tuple(label["margin"]), tuple(label["spacing"]),
            tuple(tuple(c) for c in label["acceptable"]),
            tuple(label["key_colour"]) if label["key_colour"] else None, label["kind"],
        )
        for label in (labels or read("key.json") + read("others.json")["grids"])
    ]  # fmt: skip


def key_labels() -> list[tuple[str, tuple[int, int, int] | None]]:
    """Pictures and their key colour, or None where there is none; those that people would differ over are
    left out."""
    found = [
        (label["file"], tuple(label["key_colour"]) if label.get("key_colour") else None)
        for name in ("key.json", "pieces.json") for label in read(name) if not label.get("key_open")
    ]  # fmt: skip
    for more in (read("more.json"), read("others.json")):
        found += keys_in(more)
    return found


def keys_in(labels: Any) -> list[tuple[str, tuple[int, int, int] | None]]:
    """The key colours that a file of labels names, and the pictures it says have none."""
    none: list[tuple[str, tuple[int, int, int] | None]] = [(file, None) for file in labels["negative"]]
    return none + [(file, tuple(key)) for file, key in labels["keyed"].items()]


def kind_labels() -> list[tuple[str, str]]:
    """Pictures and what they are: grid, pieces or single."""
    more = read("more.json")
    found = [(label["file"], "grid") for label in read("key.json")]
    found += [(label["file"], "pieces") for label in read("pieces.json")]
    found += [(file, "pieces") for file in more["pieces"]]
    found += [(label["file"], "single") for label in read("singles.json")]
    return found + [(file, "single") for file in more["single"]] + kinds_in(read("others.json"))


def kinds_in(labels: Any) -> list[tuple[str, str]]:
    """What the pictures of a file of labels are."""
    found = [(label["file"], "grid") for label in labels["grids"]]
    return found + [(file, kind) for kind in ("pieces", "single") for file in labels[kind]]


def games_of(sheets: Sequence[Any]) -> list[str]:
    return [sheet.label.game for sheet in sheets]
