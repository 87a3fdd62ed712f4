"""boardwalk.png: planks, posts, rails, ladders, mud banks, steps and small things, 16 px each."""

from __future__ import annotations

from rushweed.demo.boards import (
    TILE,
    brace,
    deck,
    deck_mossy,
    ladder,
    post,
    post_foot,
    post_rope,
    post_top,
    post_weed,
    rail,
    tile,
)
from rushweed.demo.earth import ROOTS, SHELL, bank, mud, mud_water, ramp
from rushweed.demo.plate import Plate, chance


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
    """Every tile by its name."""
    return _of_the_pier() | _of_the_shore() | _of_things()


def _of_the_pier() -> dict[str, Plate]:
    stair_up, brace_up = stair(), brace()
    return {
        "deck_left": deck(2, left=True),
        "deck_mid_a": deck(3),
        "deck_mid_b": deck(4),
        "deck_mid_c": deck_mossy(),
        "deck_gap": deck(6, missing=2),
        "deck_right": deck(8, right=True),
        "deck_short": deck(31, left=True, right=True),
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
        "step_mid": deck(21, y=7),
        "step_left": deck(22, left=True, y=7),
        "step_right": deck(23, right=True, y=7),
        "stair_up": stair_up,
        "stair_down": stair_up.mirrored(),
        "ledge_mid": ledge(),
        "ledge_left": ledge(left=True),
        "ledge_right": ledge(right=True),
    }


def _of_the_shore() -> dict[str, Plate]:
    return {
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
    }


def _of_things() -> dict[str, Plate]:
    return {
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
