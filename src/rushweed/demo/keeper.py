"""wren.png: the lamp keeper, 24 x 32 px a frame; eight columns, rows idle, walk, climb and light."""

from __future__ import annotations

from rushweed.demo.plate import Plate, chance

WIDTH, HEIGHT, COLUMNS = 24, 32, 8
FEET = 31  # the row the boots stand on

HEAD = """
....kkkkk...
...kbmmmmk..
...kbmmmmk..
.kkkwwwwwkk.
kbbmmmmmmmkk
...nnyyyynn.
...nyxyynyy.
...nyxyyyyyy
....xxyyyy..
"""
HEAD_BACK = """
....kkkkk...
...kbmmmmk..
...kbmmmmk..
.kkkwwwwwkk.
kbbmmmmmmmkk
...nnnnnnnn.
...nnknnnnn.
....nnnnnn..
....xnnnx...
"""
SCARF = """
...wwxwxww..
..wwwwwwwww.
..wvwwwwwvw.
"""
COAT = """
.n322www22n.
.n322w2222n.
n3222222221n
n3222222221n
n3222222221n
n3222222211n
n3222222211n
.n222222221n
.n222222211n
.n222222211n
.n222222121n
.n2222222s1n
.nn22222ssnn
...ssssss...
"""
LANTERN = """
.nnn.
naaan
naZan
naaan
ncccn
.nnn.
"""


def staff(p: Plate, x: int, top: int, foot: int, glow: int = 0) -> None:
    """The keeper's pole with its hook and lantern to the right; `glow` 0..3 adds light."""
    for y in range(top + 1, foot):
        p.dot(x, y, "b" if y % 5 else "m")
    p.text(x, top, "bbbb")
    p.dot(x + 4, top + 1, "k")
    p.text(x + 2, top + 2, LANTERN)
    if glow:
        p.box(x + 3, top + 3, 3, 3, "Z")
    rays = [(1, 5), (7, 4), (4, 9), (0, 2), (8, 7), (7, 1), (1, 8)]
    for i, (dx, dy) in enumerate(rays[: glow * 2]):
        p.dot(x + dx, top + dy, "a" if i % 2 else "c")


def leg(p: Plate, hip: int, foot: int, lift: int, front: bool) -> None:
    """A leg from the coat to a boot at column `foot`, raised by `lift` px."""
    end = FEET - lift
    for y in range(26, end):
        x = round(hip + (foot - hip) * (y - 26) / max(end - 26, 1))
        p.text(x, y, "km" if front else "nk")
        p.dot(x + 2, y, "k" if front else "n")
    p.text(foot, end - 1, "nkkn" if front else "nnnn")
    p.text(foot, end, "nnnnn" if front else "nnnn")


def arm(p: Plate, x: int, y: int, reach: int, drop: int) -> None:
    """The near arm from the shoulder towards a hand `reach` px right and `drop` px down."""
    steps = max(abs(reach), abs(drop), 1)
    for i in range(steps + 1):
        ax, ay = x + round(reach * i / steps), y + round(drop * i / steps)
        p.text(ax, ay, "32\n21\nnn")
    hx, hy = x + reach, y + drop
    p.text(hx, hy, "yy\nyx")


def upright(head: str, bob: int, sway: int = 0) -> Plate:
    p = Plate(WIDTH, HEIGHT)
    p.text(2, 13 + bob, COAT)
    p.text(2 + sway, 10 + bob, SCARF)
    p.text(2 + sway, 2 + bob, head)
    return p


def idle(frame: int) -> Plate:
    bob = (0, 0, 1, 1)[frame]
    p = Plate(WIDTH, HEIGHT)
    leg(p, 4, 4, 0, False)
    leg(p, 8, 8, 0, True)
    p.paste(upright(HEAD, bob), 0, 0)
    staff(p, 15, 0 + bob, 27)
    arm(p, 10, 15 + bob, 4, 3)
    p.text(2, 16 + bob, "n3\nn3\nn3\nn3\nn2\nny\nnx")
    return p


# Feet of one step: column of the near boot, its lift, column of the far boot, its lift, the bob.
STRIDE = (
    (11, 0, 2, 1, 1),
    (10, 0, 3, 2, 1),
    (8, 0, 5, 2, 0),
    (6, 0, 8, 1, 0),
    (2, 1, 11, 0, 1),
    (3, 2, 10, 0, 1),
    (5, 2, 8, 0, 0),
    (8, 1, 6, 0, 0),
)
# How far each drawn walk frame is off its place: the fault that registering puts right.
DRIFT = ((0, 0), (1, -1), (1, 0), (2, 0), (0, -1), (-1, -1), (-1, 0), (1, 0))


def walk(frame: int) -> Plate:
    near, near_lift, far, far_lift, bob = STRIDE[frame]
    p = Plate(WIDTH, HEIGHT)
    leg(p, 6, far, far_lift, False)
    leg(p, 7, near, near_lift, True)
    p.paste(upright(HEAD, bob, sway=0), 0, 0)
    p.text(1, 11 + bob, ("ww.\nvw.", ".w.\nww.", "ww.\n.v.", ".ww\nvw.")[frame % 4])
    staff(p, 15, 0 + bob, 27)
    arm(p, 10, 15 + bob, 4, 3)
    swing = (-1, 0, 1, 2, 3, 2, 1, 0)[frame]
    p.text(2 + swing, 16 + bob, "n3\nn3\nn3\nn2\nn2\nny\nnx")
    moved = Plate(WIDTH, HEIGHT)
    moved.paste(p, *DRIFT[frame])
    return moved


def climb(frame: int) -> Plate:
    side = frame % 2
    bob = (0, -1)[side]
    p = Plate(WIDTH, HEIGHT)
    for column, lift in ((5, 3 * side), (10, 3 * (1 - side))):
        p.text(column, 25, "\n".join(["nkk"] * (5 - lift)) or "nkk")
        p.text(column, 30 - lift, "nnnn\nnnnn")
    p.paste(upright(HEAD_BACK, bob + 1), 0, 0)
    for column, top in ((1, 7 + 4 * side), (13, 11 - 4 * side)):
        p.text(column, top, "yy.\nyx.")
        for y in range(top + 2, 18 + bob):
            p.text(column, y, "322" if column < 6 else "221")
            p.dot(column + (3 if column > 6 else -1), y, "n")
    if frame > 1:
        p.text(4, 12 + bob, "ww\n.v")
    return p


def light(frame: int) -> Plate:
    raise_by = (0, 2, 4, 5, 5, 3)[frame]
    glow = (0, 0, 1, 2, 3, 1)[frame]
    p = Plate(WIDTH, HEIGHT)
    leg(p, 4, 3, 0, False)
    leg(p, 8, 9, 0, True)
    p.paste(upright(HEAD, 1 if raise_by > 3 else 0), 0, 0)
    staff(p, 15, 0, 27 - raise_by, glow)
    arm(p, 10, 15, 4, 3 - raise_by)
    p.text(2, 17, "n3\nn3\nn3\nn2\nny\nnx")
    if glow > 1:
        for y in range(13, 24):
            if chance(frame, y, 3) > 0.35:
                p.dot(12, y, "3")
    return p


def wren() -> Plate:
    """192 x 128 px: four idle, eight walk, four climb and six light frames."""
    sheet = Plate(WIDTH * COLUMNS, HEIGHT * 4)
    for row, (draw, count) in enumerate(((idle, 4), (walk, 8), (climb, 4), (light, 6))):
        for column in range(count):
            sheet.paste(draw(column), column * WIDTH, row * HEIGHT)
    return sheet
