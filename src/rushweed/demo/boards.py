"""Wood of the boardwalk: planks, posts, braces, ladders and rails."""

from __future__ import annotations

from rushweed.demo.plate import Plate, chance

TILE = 16


def tile() -> Plate:
    return Plate(TILE, TILE)


def planks(p: Plate, y: int, seed: int, first: int = 0, last: int = 16, missing: int = -1) -> None:
    """A walkway of four-pixel boards seen at an angle, nine pixels high with its beam."""
    for x in range(first, last):
        board, column = divmod(x, 4)
        if board == missing:
            if column in (0, 3):
                p.box(x, y + 1 + (column == 3), 1, 4 - (column == 3), "m")
            p.box(x, y + 5, 1, 1, "d")
        elif column == 3:
            p.box(x, y, 1, 6, "d")
        else:
            shade = "hlb" if chance(board, 0, seed) < 0.45 else "lbm"
            if chance(board, 3, seed) > 0.85:
                shade = "hhl"
            p.box(x, y, 1, 2, shade[0] if column < 2 else shade[1])
            p.box(x, y + 2, 1, 2, shade[1])
            p.box(x, y + 4, 1, 1, shade[2] if column else shade[1])
            p.dot(x, y, "h" if column != 2 or shade != "lbm" else "l")
            p.dot(x, y + 5, "d")
            if column == 2:
                p.box(x, y + 3, 1, 2, "m")
    for board in range(4):
        if first <= board * 4 + 1 < last and chance(board, 1, seed) > 0.7 and board != missing:
            p.dot(board * 4 + 1, y + 3, "d")
    p.box(first, y + 6, last - first, 1, "m")
    p.box(first, y + 7, last - first, 1, "k")
    p.box(first, y + 8, last - first, 1, "d")
    for x in range(first, last):
        if chance(x, 7, seed) > 0.88:
            p.dot(x, y + 6, "b")


def deck(seed: int, left: bool = False, right: bool = False, missing: int = -1, y: int = 0) -> Plate:
    p = tile()
    planks(p, y, seed, missing=missing)
    if left:
        p.box(0, y, 1, 9, ".")
        p.box(0, y + 6, 2, 3, ".")
        p.box(2, y + 6, 1, 3, "d")
        p.dot(4, y + 6, "h")
    if right:
        p.box(15, y, 1, 9, ".")
        p.box(14, y + 6, 2, 3, ".")
        p.box(13, y + 6, 1, 3, "d")
        p.dot(11, y + 6, "h")
    return p


def deck_mossy() -> Plate:
    p = deck(5)
    p.text(11, 0, "rR.\n.Rr\nG..\n")
    return p


def post(seed: int, wet: str = "") -> Plate:
    p = tile()
    for y in range(TILE):
        p.text(5, y, wet or "lbbmkd")
        if chance(1, y, seed) > 0.6:
            p.dot(7 + int(chance(2, y, seed) * 2), y, "m")
            p.dot(8, min(y + 1, 15), "m")
        if chance(3, y, seed) > 0.82:
            p.dot(6, y, "l")
    return p


def post_top() -> Plate:
    p = post(3)
    p.box(0, 0, 16, 3, ".")
    p.text(4, 0, "hhhhlllk\nhlbbbmkd\n.kddddd.")
    return p


def post_rope() -> Plate:
    p = post(7)
    for y, row in (
        (4, "lhhlhlhk"),
        (5, "blbblbbk"),
        (6, "hlhhlhlk"),
        (7, "blbbblbk"),
        (8, "lhlhhlhk"),
        (9, "kmkmkmkd"),
    ):
        p.text(4, y, row)
    p.text(3, 10, "lb\nl.")
    return p


def post_weed() -> Plate:
    p = post(9)
    wet = post(11, "gkeedo")
    p.ink[8:, :] = wet.ink[8:, :]
    p.text(5, 7, "rGrgGg\nGgGGgg\ng.gG.g")
    p.text(7, 11, "h.\n.h")
    return p


def post_foot() -> Plate:
    p = post(13, "gkeedo")
    p.text(6, 3, ".h\n\nh.")
    for y in range(9, 16):
        reach = min(7, 1 + (y - 8))
        p.box(8 - reach, y, reach * 2, 1, "f" if y < 14 else "e")
        p.dot(8 - reach, y, "q")
        p.dot(7 + reach, y, "e")
    p.text(5, 11, "qq...q\n\n.e.qq")
    return p


def brace() -> Plate:
    p = tile()
    for x in range(-2, 18):
        y = 15 - x
        p.text(x - 1, y - 1, "h\nl\nb\nk\nd" if x % 5 else "l\nb\nb\nk\nd")
    return p


def ladder(top: bool = False, weed: bool = False) -> Plate:
    p = tile()
    for y in range(TILE):
        p.text(3, y, "lb")
        p.text(11, y, "bm")
    for y in (3, 7, 11, 15):
        p.box(5, y, 6, 1, "h")
        p.box(5, y + 1, 6, 1, "d")
    if top:
        p.text(2, 0, "hhllhhlhlllk\nkddddddddddk")
    if weed:
        for y in range(6, TILE):
            p.text(3, y, "Gg")
            p.text(11, y, "gG")
        for y in (7, 11, 15):
            p.box(5, y, 6, 1, "G")
        p.text(3, 5, "rG......rG")
        p.text(5, 8, "g..g")
        p.text(7, 12, "g..g")
    return p


def rail(kind: str) -> Plate:
    p = tile()
    if kind == "mid":
        for x in range(TILE):
            p.text(x, 7, "h\nb" if x % 7 else "l\nm")
        p.text(6, 6, "hhlb\nlbmk\nlbmk\nbbmd")
        p.text(7, 10, "\n".join(["bk"] * 6))
        return p
    p.text(3, 0, "hhhhl\nlbbbmk")
    for y in range(2, TILE):
        p.text(3, y, "lbbbmd")
        if chance(2, y, 21) > 0.7:
            p.dot(5, y, "m")
    for x in range(9, TILE):
        sag = 4 + (x - 8) // 3
        p.text(x, sag, "h\nb" if x % 5 else "l\nm")
    return p if kind == "left" else p.mirrored()
