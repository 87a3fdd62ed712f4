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
    return all((ART / label["file"]).is_file() for label in read("key.json"))


def sheet_labels() -> list[Sheet]:
    return [
        Sheet(
            label["file"], tuple(label["cell"]), tuple(label["margin"]), tuple(label["spacing"]),
            tuple(tuple(c) for c in label["acceptable"]),
            tuple(label["key_colour"]) if label["key_colour"] else None, label["kind"],
        )
        for label in read("key.json")
    ]  # fmt: skip


def key_labels() -> list[tuple[str, tuple[int, int, int] | None]]:
    """Pictures and their key colour, or None where there is none; those that people would differ over are
    left out."""
    found = [
        (label["file"], tuple(label["key_colour"]) if label.get("key_colour") else None)
        for name in ("key.json", "pieces.json") for label in read(name) if not label.get("key_open")
    ]  # fmt: skip
    more = read("more.json")
    return (
        found
        + [(file, None) for file in more["negative"]]
        + [(f, tuple(k)) for f, k in more["keyed"].items()]
    )


def kind_labels() -> list[tuple[str, str]]:
    """Pictures and what they are: grid, pieces or single."""
    more = read("more.json")
    found = [(label["file"], "grid") for label in read("key.json")]
    found += [(label["file"], "pieces") for label in read("pieces.json")]
    found += [(file, "pieces") for file in more["pieces"]]
    found += [(label["file"], "single") for label in read("singles.json")]
    return found + [(file, "single") for file in more["single"]]


def games_of(sheets: Sequence[Any]) -> list[str]:
    return [sheet.label.game for sheet in sheets]
