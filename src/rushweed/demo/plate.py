"""The palette of Tidelamp and a small indexed surface to draw on."""

from __future__ import annotations

import numpy as np

# One letter a colour, so that small figures can be written down as text.
PALETTE: dict[str, str] = {
    ".": "",
    "n": "1a1829",  # night, outlines of people
    "s": "28243f",  # sky, highest
    "t": "3d3359",
    "u": "5b4470",
    "v": "86587b",
    "w": "b26d7b",
    "x": "d88b76",
    "y": "efb084",
    "z": "f8d6a0",
    "Z": "fff0cc",  # the sun, flames
    "1": "1c2942",  # water, deepest
    "2": "2a405f",
    "3": "436379",
    "4": "76949f",
    "o": "241c27",  # wood and mud, darkest
    "d": "2b2329",
    "k": "48383a",
    "m": "6a5147",
    "b": "8f7058",
    "l": "b6936d",
    "h": "d9bc8d",
    "e": "362a33",  # mud
    "f": "4b3a3f",
    "q": "64504b",
    "g": "31453b",  # moss and reed
    "G": "4c6347",
    "r": "76854f",
    "R": "aba862",
    "a": "ffce6b",  # lamp light
    "c": "fb9a4b",
}
LETTERS = "".join(PALETTE)
RGBA = np.array(
    [[0, 0, 0, 0] if not code else [*bytes.fromhex(code), 255] for code in PALETTE.values()], dtype=np.uint8
)


def chance(x: int, y: int, seed: int) -> float:
    """A number in 0..1 fixed by (x, y, seed): the same grain on every machine."""
    n = (x * 374761393 + y * 668265263 + seed * 1274126177) & 0xFFFFFFFF
    n = ((n ^ (n >> 13)) * 1103515245) & 0xFFFFFFFF
    n = ((n ^ (n >> 16)) * 2246822519) & 0xFFFFFFFF
    return ((n ^ (n >> 15)) & 0xFFFFFF) / 0x1000000


class Plate:
    """A picture of palette letters; drawing outside it is cut off."""

    def __init__(self, width: int, height: int) -> None:
        self.ink = np.zeros((height, width), dtype=np.uint8)

    @property
    def width(self) -> int:
        return int(self.ink.shape[1])

    @property
    def height(self) -> int:
        return int(self.ink.shape[0])

    def dot(self, x: int, y: int, colour: str) -> None:
        if 0 <= x < self.width and 0 <= y < self.height:
            self.ink[y, x] = LETTERS.index(colour)

    def at(self, x: int, y: int) -> str:
        inside = 0 <= x < self.width and 0 <= y < self.height
        return LETTERS[self.ink[y, x]] if inside else "."

    def box(self, x: int, y: int, w: int, h: int, colour: str) -> None:
        self.ink[max(y, 0) : max(y + h, 0), max(x, 0) : max(x + w, 0)] = LETTERS.index(colour)

    def line(self, x0: int, y0: int, x1: int, y1: int, colour: str) -> None:
        steps = max(abs(x1 - x0), abs(y1 - y0), 1)
        for i in range(steps + 1):
            self.dot(round(x0 + (x1 - x0) * i / steps), round(y0 + (y1 - y0) * i / steps), colour)

    def text(self, x: int, y: int, rows: str) -> None:
        """Draw rows of palette letters; a dot leaves what is there."""
        for j, row in enumerate(rows.strip("\n").split("\n")):
            for i, letter in enumerate(row):
                if letter not in ". ":
                    self.dot(x + i, y + j, letter)

    def paste(self, other: Plate, x: int, y: int, mirrored: bool = False) -> None:
        ink = other.ink[:, ::-1] if mirrored else other.ink
        for j in range(other.height):
            for i in range(other.width):
                if ink[j, i] and 0 <= x + i < self.width and 0 <= y + j < self.height:
                    self.ink[y + j, x + i] = ink[j, i]

    def mirrored(self) -> Plate:
        other = Plate(self.width, self.height)
        other.ink = self.ink[:, ::-1].copy()
        return other

    def rgba(self) -> np.ndarray:
        """The picture as uint8 (height, width, 4)."""
        return RGBA[self.ink]
