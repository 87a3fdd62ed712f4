"""marsh.png: 16 px tiles without gaps, seen from above; three grounds that join by their corners."""

from __future__ import annotations

import math

from rushweed.demo.plate import Plate, chance

TILE = 16
COLUMNS, ROWS = 12, 7
# Where a tile with the corner bits (top left 1, top right 2, bottom right 4, bottom left 8) stands in
# its block of 4 x 4, so that neighbours in the block already fit one another.
BLOCK = ((4, 12, 8, 0), (6, 15, 9, 5), (2, 3, 1, 10), (14, 7, 13, 11))


def speckle(p: Plate, x: int, y: int, kind: str, phase: int = 0) -> str:
    """The colour of one pixel of water, mud or grass; repeats every 16 px."""
    x, y = x % TILE, y % TILE
    n = chance(x, y, {"water": 5, "mud": 6, "grass": 7, "plank": 8}[kind])
    if kind == "water":
        wave = math.sin((x + phase * 4) * math.pi / 8 + (y // 2) * 2.4) + 0.6 * math.sin(
            y * math.pi / 4 + phase
        )
        if wave > 1.25:
            return "4" if y % 4 == 1 else "3"
        return "3" if wave > 0.95 and y % 2 else "1" if wave < -1.3 else "2"
    if kind == "mud":
        row = chance(x // 3, y, 16)
        return "e" if row > 0.86 else "q" if row < 0.1 else "f"
    if kind == "grass":
        blade = chance(x, y // 3, 17)
        if blade > 0.9:
            return "R" if y % 3 == 0 else "r"
        return "g" if blade < 0.12 else "r" if n > 0.8 else "G"
    if y % 4 == 3:
        return "d"
    joint = (5 if (y // 4) % 2 else 12) == x
    return "d" if joint else ("h" if y % 4 == 0 else "l" if y % 4 == 1 else "b") if n < 0.85 else "b"


def joined(corners: int, over: str, under: str, seed: int) -> Plate:
    """One tile whose marked corners are `over` and the rest `under`, with a shore between."""
    p = Plate(TILE, TILE)
    tl, tr, br, bl = (1.0 if corners & bit else 0.0 for bit in (1, 2, 4, 8))
    inside: list[list[bool]] = []
    for y in range(-1, TILE + 2):
        row = []
        for x in range(-1, TILE + 1):
            u, v = min(max((x + 0.5) / TILE, 0), 1), min(max((y + 0.5) / TILE, 0), 1)
            level = (tl * (1 - u) + tr * u) * (1 - v) + (bl * (1 - u) + br * u) * v
            calm = 4 * min(u, 1 - u, 0.25) * 4 * min(v, 1 - v, 0.25)
            level += (chance(x // 2, y // 2, seed) - 0.5) * 0.22 * min(calm, 1)
            row.append(level > 0.5)
        inside.append(row)
    rim = {"mud": "qe", "grass": "Rg", "plank": "hk"}[over]
    for y in range(TILE):
        for x in range(TILE):
            here = inside[y + 1][x + 1]
            if here:
                edge = not (inside[y][x + 1] and inside[y + 1][x] and inside[y + 1][min(x + 2, TILE)])
                lower = not inside[y + 2][x + 1]
                p.dot(x, y, rim[1] if lower else rim[0] if edge else speckle(p, x, y, over))
            else:
                shade = inside[y][x + 1]
                deep = {"water": "1", "mud": "o", "grass": "g"}[under]
                p.dot(x, y, deep if shade else speckle(p, x, y, under))
    return p


def water(phase: int) -> Plate:
    p = Plate(TILE, TILE)
    for y in range(TILE):
        for x in range(TILE):
            p.dot(x, y, speckle(p, x, y, "water", phase))
    return p


def on(ground: Plate, x: int, y: int, rows: str) -> Plate:
    p = Plate(TILE, TILE)
    p.paste(ground, 0, 0)
    p.text(x, y, rows)
    return p


def loose(x: int, y: int, rows: str) -> Plate:
    return on(Plate(TILE, TILE), x, y, rows)


def reeds_in_water(seed: int, phase: int) -> Plate:
    p = water(phase)
    for i in range(7):
        x, foot = 1 + int(chance(i, 1, seed) * 14), 6 + int(chance(i, 2, seed) * 9)
        height = 5 + int(chance(i, 3, seed) * 4)
        sway = (phase + i) % 4 // 2
        for k in range(height):
            p.dot(
                x + (sway if k > height - 3 else 0),
                foot - k,
                "R" if k > height - 3 else "r" if k > 2 else "G",
            )
        p.dot(x - 1, foot + 1, "1")
        p.dot(x, foot + 1, "4")
        p.dot(x + 1, foot + 1, "1")
    return p


LILY = "..gGG...\n.GrrRG..\nGrrrrRGg\nGrrg.GrG\n.GrrGrG.\n..gggg.."
FLOWER = "..gGwG..\n.GrwZwG.\nGrrzwzGg\nGrrrwrrG\n.GrrrrG.\n..gggg.."
STONE = "...4444..\n.44bbbqk.\n4bbbqqqkd\nbbqqqkkkd\nqqkkkkkdd\n.ddddddd."
TUFT = "R...r...R\n.R.rR.R..\n.Rr.RrR.r\nrGrRGrGr.\n.gGGgGGg.\n..gggggg."
STUMP = "..hhhh..\n.hlbblh.\nhlbmmblk\nhbmhhmbk\nklbmmbkd\nmkkkkkmd\nmbmkmkmd\n.dmkdmd."
SHELLS = "h...z\n.l..y\n.....\n..h..\nl...z"


def marsh() -> Plate:
    """192 x 112 px: mud on water, grass on mud and a boardwalk on water, each with its 16 corners."""
    sheet = Plate(COLUMNS * TILE, ROWS * TILE)
    for block, (over, under) in enumerate((("mud", "water"), ("grass", "mud"), ("plank", "water"))):
        for row in range(4):
            for column in range(4):
                drawn = joined(BLOCK[row][column], over, under, 100 + block)
                sheet.paste(drawn, (block * 4 + column) * TILE, row * TILE)
    calm, mud, grass = water(0), joined(15, "mud", "water", 1), joined(15, "grass", "mud", 1)
    rows = [
        [water(i) for i in range(4)]
        + [reeds_in_water(9, i) for i in range(4)]
        + [on(calm, 4, 5, LILY), on(calm, 3, 4, FLOWER), on(calm, 3, 5, STONE), on(calm, 4, 4, STUMP)],
        [on(mud, 3, 5, STONE), on(mud, 4, 4, STUMP), on(mud, 5, 6, SHELLS), on(mud, 3, 6, TUFT)]
        + [
            on(grass, 3, 6, TUFT),
            on(grass, 3, 5, STONE),
            on(grass, 4, 4, STUMP),
            on(grass, 4, 5, "w...z\n.w.ZwZ\nwaw.z.\n.w...."),
        ],
        [loose(4, 5, LILY), loose(3, 4, FLOWER), loose(3, 5, STONE), loose(3, 6, TUFT), loose(4, 4, STUMP)],
    ]
    for j, line in enumerate(rows):
        for i, drawn in enumerate(line):
            sheet.paste(drawn, i * TILE, (4 + j) * TILE)
    return sheet
