"""boardwalk.png: planks, posts, rails, ladders, mud banks, steps and small things, 16 px each."""

from __future__ import annotations

from collections.abc import Callable

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


def stair() -> Plate:
    p = tile()
    for step in range(4):
        y, x = 12 - step * 4, step * 4
        p.box(x, y + 1, 16 - x, 15 - y, "k")
        p.box(x, y, 16 - x if step == 3 else 5, 1, "h")
        p.box(x, y + 1, 16 - x if step == 3 else 5, 1, "l")
        p.box(x + 1, y + 2, 15 - x, 1, "d")
        p.box(x + 1, y + 3, 15 - x, 1, "m")
    p.line(0, 15, 15, 15, "d")
    for x in range(3, 16):
        y = 17 - x
        p.dot(x, y, "m")
        p.dot(x, y + 1, "b")
    return p


def ledge(left: bool = False, right: bool = False) -> Plate:
    p = tile()
    for x in range(TILE):
        p.text(x, 0, "h\nl\nb\nd" if x % 6 else "l\nb\nm\nd")
        if chance(x, 2, 17) > 0.6:
            p.dot(x, 2, "m")
    if left or right:
        p.box(0, 0, 1, 4, ".")
        p.text(1, 4, "dmk\nkd.\nkk.\nk..\nk..\nk..")
    return p.mirrored() if right else p


def crate() -> Plate:
    p = tile()
    p.box(1, 3, 14, 13, "d")
    p.box(2, 3, 12, 1, "h")
    p.box(1, 4, 14, 1, "l")
    p.box(2, 5, 12, 9, "m")
    p.box(4, 7, 8, 6, "k")
    for y in range(5, 14):
        p.dot(2, y, "l")
        p.dot(3, y, "b")
        p.dot(13, y, "k")
    p.box(3, 13, 10, 1, "m")
    p.box(2, 14, 12, 1, "k")
    for i in range(7):
        p.text(5 + i, 12 - i, "h" if i % 3 else "l")
        p.text(6 + i, 12 - i, "b")
    p.text(2, 4, "d")
    p.text(13, 4, "d")
    return p


def barrel() -> Plate:
    p = tile()
    for x in range(1, 15):
        p.box(x, 1, 1, 14, "mbllbmkmbbmkkd"[x - 1])
        if x % 4 == 1:
            p.box(x, 2, 1, 13, "d")
    p.text(1, 0, "hhlhllhllhllkk")
    for y in (3, 11):
        p.text(1, y, "hhhlhhllhlbbkk\nddddddddddddddd"[:29])
    p.text(1, 13, "gGmgmmgmmgmkgd\ndddddddddddddd")
    return p


def lamp(lit: bool) -> Plate:
    p = tile()
    glass = ("caaZac", "caZZac", "ccaacc") if lit else ("443222", "432212", "322111")
    p.text(4, 0, "...kb...\n..kbmk..\n.dbmmkd.\ndddddddd")
    for y in range(4, 9):
        row = glass[0] if y == 4 else glass[1] if y < 8 else glass[2]
        p.text(4, y, "d" + row + "d")
    p.text(4, 9, "kmddddmk\n.dddddd.\n...bk...\n...bk...\n...lk...\n...bk...\n...bk...")
    return p


def rope_coil() -> Plate:
    p = tile()
    p.text(
        2,
        9,
        "....hllb....\n..hldddkbk..\n.hlhlkbblbk.\nlhblhlblbbbk\nblhlblhlblbk\nmlbmlbmlbmkh\ndddddddddd.l",
    )
    return p


def sign() -> Plate:
    p = tile()
    p.text(
        2, 2, "hhlhhlllhlll..\nhbbbbbbbbbbmk.\nlbddkdddbdkmkd\nlbkddbkddkbmkk\nbbbbbbbbbbbmk.\nkkkkkkkkkkkkd."
    )
    for y in range(8, TILE):
        p.text(7, y, "bk")
    return p


def reeds(seed: int, count: int, heads: bool, height: int) -> Plate:
    p = tile()
    for i in range(count):
        x = 1 + i * 14 // count + int(chance(i, 1, seed) * 2)
        top = 16 - height + int(chance(i, 2, seed) * 5)
        lean = int(chance(i, 3, seed) * 3) - 1
        for y in range(top, TILE):
            dx = lean if y < top + 5 else 0
            colour = "g" if y > 12 else ("R" if i % 3 == 0 else "r" if i % 3 == 1 else "G")
            p.dot(x + dx, y, colour)
            if y > 10:
                p.dot(x + 1, y, "g" if y > 13 else "G")
        if heads and i % 2:
            p.box(x + lean, top - 2, 1, 4, "m")
            p.dot(x + lean, top - 2, "b")
    return p


def ramp(first: int, last: int) -> Callable[[int], float]:
    return lambda x: first + (last - first) * (x + 0.5) / TILE - 0.5


NAMES = [
    "deck_left",
    "deck_mid_a",
    "deck_mid_b",
    "deck_mid_c",
    "deck_gap",
    "deck_right",
    "deck_short",
    "rail_left",
    "rail_mid",
    "rail_right",
    "post_top",
    "post",
    "post_rope",
    "post_weed",
    "post_foot",
    "brace_up",
    "brace_down",
    "ladder_top",
    "ladder",
    "ladder_weed",
    "bank_left",
    "bank_top_a",
    "bank_top_b",
    "bank_top_c",
    "bank_right",
    "ramp_up_a",
    "ramp_up_b",
    "ramp_down_a",
    "slope_up",
    "slope_down",
    "mud_left",
    "mud_a",
    "mud_b",
    "mud_roots",
    "mud_right",
    "mud_c",
    "mud_d",
    "mud_deep",
    "mud_water",
    "ramp_down_b",
    "step_mid",
    "step_left",
    "step_right",
    "stair_up",
    "stair_down",
    "ledge_mid",
    "ledge_left",
    "ledge_right",
    "barrel",
    "-",
    "crate",
    "lamp_dark",
    "lamp_lit",
    "rope_coil",
    "sign",
    "reed_tall",
    "reed_thin",
    "reed_low",
    "-",
    "-",
]


def tiles() -> dict[str, Plate]:
    short = deck(31, left=True, right=True)
    stair_up = stair()
    brace_up = brace()
    return {
        "deck_left": deck(2, left=True),
        "deck_mid_a": deck(3),
        "deck_mid_b": deck(4),
        "deck_mid_c": deck_mossy(),
        "deck_gap": deck(6, missing=2),
        "deck_right": deck(8, right=True),
        "deck_short": short,
        "rail_left": rail("left"),
        "rail_mid": rail("mid"),
        "rail_right": rail("right"),
        "post_top": post_top(),
        "post": post(5),
        "post_rope": post_rope(),
        "post_weed": post_weed(),
        "post_foot": post_foot(),
        "brace_up": brace_up,
        "brace_down": brace_up.mirrored(),
        "ladder_top": ladder(top=True),
        "ladder": ladder(),
        "ladder_weed": ladder(weed=True),
        "bank_left": bank(41, left=True),
        "bank_top_a": bank(42),
        "bank_top_b": bank(43),
        "bank_top_c": bank(44),
        "bank_right": bank(45, right=True),
        "ramp_up_a": bank(46, ramp(16, 8)),
        "ramp_up_b": bank(47, ramp(8, 0)),
        "ramp_down_a": bank(48, ramp(0, 8)),
        "slope_up": bank(49, ramp(16, 0)),
        "slope_down": bank(50, ramp(0, 16)),
        "mud_left": mud(51, left=True),
        "mud_a": mud(52),
        "mud_b": mud(53, extra=SHELL),
        "mud_roots": mud(54, extra=ROOTS),
        "mud_right": mud(55, right=True),
        "mud_c": mud(56),
        "mud_d": mud(57),
        "mud_deep": mud(58, dark=True),
        "mud_water": mud_water(),
        "ramp_down_b": bank(59, ramp(8, 16)),
        "step_mid": deck(21, y=7),
        "step_left": deck(22, left=True, y=7),
        "step_right": deck(23, right=True, y=7),
        "stair_up": stair_up,
        "stair_down": stair_up.mirrored(),
        "ledge_mid": ledge(),
        "ledge_left": ledge(left=True),
        "ledge_right": ledge(right=True),
        "barrel": barrel(),
        "crate": crate(),
        "lamp_dark": lamp(False),
        "lamp_lit": lamp(True),
        "rope_coil": rope_coil(),
        "sign": sign(),
        "reed_tall": reeds(71, 7, True, 13),
        "reed_thin": reeds(73, 5, True, 12),
        "reed_low": reeds(75, 8, False, 6),
    }


def boardwalk() -> Plate:
    """171 x 112 px: ten columns, six rows, margin 1, spacing 1, a strip of swatches left over below."""
    drawn = tiles()
    sheet = Plate(171, 112)
    for i, name in enumerate(NAMES):
        if name != "-":
            sheet.paste(drawn[name], 1 + i % 10 * 17, 1 + i // 10 * 17)
    for i, letter in enumerate("stuvwxyzZaodkmblhefqgGrR1234c"):
        sheet.box(1 + i * 5, 105, 5, 6, letter)
    return sheet
