"""Earth of the boardwalk: banks of grass over mud, and mud under water."""

from __future__ import annotations

from collections.abc import Callable

from rushweed.demo.boards import TILE, tile
from rushweed.demo.plate import Plate, chance


def mud_fill(
    p: Plate, seed: int, dark: bool = False, keep: Callable[[int, int], bool] = lambda x, y: True
) -> None:
    """Wet mud: short level strokes, a few stones, nothing that tiles visibly."""
    base, low, mark = ("e", "o", "d") if dark else ("f", "e", "q")
    for y in range(TILE):
        for x in range(TILE):
            if keep(x, y):
                p.dot(x, y, base)
    for i in range(13):
        x, y = int(chance(i, 1, seed) * 16), int(chance(i, 2, seed) * 15)
        length = 2 + int(chance(i, 3, seed) * 5)
        colour = low if chance(i, 4, seed) < 0.68 else mark
        for k in range(length):
            if keep((x + k) % 16, y) and p.at((x + k) % 16, y) == base:
                p.dot((x + k) % 16, y, colour)
        if colour == mark and keep((x + 1) % 16, y + 1):
            p.dot((x + 1) % 16, y + 1, low)


def grass_edge(p: Plate, surface: Callable[[int], float], seed: int) -> None:
    """A fringe of marsh grass along `surface(x)`, hanging over the mud below it."""
    for x in range(TILE):
        top = round(surface(x))
        depth = 4 + int(chance(x, 5, seed) * 3)
        for k in range(depth):
            colour = "R" if k == 0 else "r" if k == 1 else "G" if k < 3 else "g"
            if k == 0 and chance(x, 6, seed) < 0.35:
                colour = "r"
            if k == 1 and chance(x, 7, seed) < 0.25:
                colour = "R"
            if 0 <= top + k < TILE:
                p.dot(x, top + k, colour)


def bank(
    seed: int, surface: Callable[[int], float] = lambda x: 0, left: bool = False, right: bool = False
) -> Plate:
    p = tile()
    mud_fill(p, seed, keep=lambda x, y: y >= surface(x))
    grass_edge(p, surface, seed)
    ragged(p, seed, left, right, top=5)
    return p


def ragged(p: Plate, seed: int, left: bool, right: bool, top: int = 0) -> None:
    for y in range(TILE):
        bite = int(chance(y // 2, 9, seed) * 2.4) if y >= top else 1
        if left:
            p.box(0, y, bite, 1, ".")
            if y >= top:
                p.dot(bite, y, "e")
                p.dot(bite + 1, y, "q" if chance(y, 3, seed) > 0.4 else "f")
        if right:
            p.box(16 - bite, y, bite, 1, ".")
            if y >= top:
                p.dot(15 - bite, y, "o")
                p.dot(14 - bite, y, "e")


def mud(seed: int, left: bool = False, right: bool = False, dark: bool = False, extra: str = "") -> Plate:
    p = tile()
    mud_fill(p, seed, dark)
    ragged(p, seed, left, right)
    if extra:
        p.text(3, 1, extra)
    return p


ROOTS = "q....q..\nq..q.qq.\n.q.q..q.\n.qq...q.\n..q..q..\n..q..qq.\n...q..q."
SHELL = "......\n..hl..\n..lb..\n......\n......\n.....h\n.....l"


def mud_water() -> Plate:
    p = mud(61, dark=True)
    p.text(0, 0, "3433334333334333\n2333233332333323\n1221121221112212")
    return p


def ramp(first: int, last: int) -> Callable[[int], float]:
    return lambda x: first + (last - first) * (x + 0.5) / TILE - 0.5
