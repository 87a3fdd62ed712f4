"""The rest of the pack: loose lamps, the eel, the heron, a panel, a crate and the dusk sky."""

from __future__ import annotations

import math

import numpy as np

from rushweed.demo.boardwalk import crate as crate_tile
from rushweed.demo.boardwalk import lamp
from rushweed.demo.plate import Plate, chance

MAGENTA = (255, 0, 255)


def lamps() -> Plate:
    """128 x 96 px of free-form pieces; each spark is three blobs that belong together."""
    p = Plate(128, 96)
    p.paste(lamp(True), 4, 5)
    p.paste(lamp(False), 25, 7)
    tall = Plate(14, 42)
    tall.paste(lamp(True), -1, 0)
    for y in range(16, 40):
        tall.text(6, y, "bk" if y % 6 else "lm")
    tall.text(2, 39, "..mbbmk...\n.kmmmmkkd.\n.dddddddd.")
    p.paste(tall, 50, 3)
    hook = Plate(22, 30)
    hook.text(2, 0, "..bbbbbbbbbbk.\n.bk........bk.\n.b.........k..")
    for y in range(3, 30):
        hook.text(2, y, "bk")
    hook.paste(lamp(True), 6, 3)
    hook.box(13, 13, 2, 7, ".")
    p.paste(hook, 72, 4)
    p.text(
        102,
        8,
        "....aa....\n...aZZa...\n..aZZZZa..\n..aZaaZa..\n.caZaaZac.\n.caaccaac.\n..ccaacc..\n...cccc...",
    )
    for i, (x, y) in enumerate(((8, 56), (34, 60), (62, 55))):
        p.text(x, y, ".a.\naZa\n.a.")
        p.text(x + 6 + i, y + 5, "cc\nca")
        p.text(x + 2, y + 9, "x\nc")
    p.text(90, 52, "nnnnnnnnn\nnmbbbbbkn\nnmaZZaakn\nnmaZZaakn\nnmcaaackn\nnmkkkkkkn\nnnnnnnnnn")
    p.text(
        108,
        50,
        "...kk...\n..kbbk..\n.k....k.\n.k....k.\nkmbbbbmk\nkblllbmk\nkblllbmk\nkbllbbmk\nkmmmmmmk\n.kkkkkk.",
    )
    p.text(6, 76, "nnnnnnnnnnnnnnnnnn\nnhhlhlhhlhlhhllhln\nnlbbmbbbmbbbmbbmbn\nnnnnnnnnnnnnnnnnnn")
    return p


def eel_frame(phase: int) -> Plate:
    p = Plate(30, 14)
    for x in range(28):
        y = 6 + math.sin((x / 28) * 2 * math.pi + phase * math.pi / 3) * 3.2 * (0.35 + 0.65 * (27 - x) / 27)
        thick = 2 if 5 < x < 22 else 1
        if x > 21:
            thick = 2
        row = round(y)
        for k in range(-thick, thick + 1):
            p.dot(x, row + k, "n" if abs(k) == thick else "2" if k < 0 else "3" if k == 0 else "4")
        if x % 4 == 1 and 4 < x < 22:
            p.dot(x, row - thick - 1, "u")
    head = round(6 + math.sin(2 * math.pi * 27 / 28 + phase * math.pi / 3) * 3.2 * 0.35)
    p.text(25, head - 2, ".nnn\n2233n\n3a34n\n444n\n.nn")
    return p


def eel() -> np.ndarray:
    """160 x 96 px, uint8 (h, w, 3): opaque magenta behind two rows that are a little off."""
    p = Plate(160, 96)
    for i in range(6):
        column, row = i % 3, i // 3
        p.paste(eel_frame(i), 8 + column * 50 + (0, 2, 1)[column] * row, 14 + row * 44 + (0, 3, 1)[column])
    rgba = p.rgba()
    return np.where(rgba[..., 3:] > 0, rgba[..., :3], np.array(MAGENTA, np.uint8)).astype(np.uint8)


def heron(frame: int) -> Plate:
    """One of twelve frames of a heron stalking, 40 x 40 px."""
    p = Plate(40, 40)
    step = frame / 12 * 2 * math.pi
    bob = round(math.sin(step * 2) * 1)
    reach = round(math.cos(step) * 3)
    for side, colour in ((math.pi, "k"), (0.0, "m")):
        foot = 17 + round(math.cos(step + side) * 5)
        lift = max(0, round(math.sin(step + side) * 4))
        knee = (17 + foot) // 2 - 2 + lift // 2
        p.line(17, 23 + bob, knee, 31 - lift // 2, colour)
        p.line(knee, 31 - lift // 2, foot, 38 - lift, colour)
        p.line(foot, 38 - lift, foot + 3, 38 - lift, colour)
    p.text(
        7,
        16 + bob,
        "..........4444....\n.......444zz44v...\n....4444zzzz44u...\n..444vvv44444vu...\n.4vvuuvvvv44vvu...\nvvuuttuuuvvvvu....\n.uttttttuuuuu.....\n...ttttttt........\n",
    )
    hx, hy = 27 + reach, 7 + bob
    for i in range(11):
        s = i / 10
        x = round(19 + (hx - 19) * s + math.sin(s * math.pi) * 3)
        y = round(18 + bob + (hy + 3 - 18 - bob) * s)
        p.text(x - 1, y, "4zv")
    p.text(hx - 3, hy - 1, "nn.444...\n.nnzzz4..\n...znzzaa\n...zzzccc\n....zz...")
    return p


def panel() -> Plate:
    """48 x 48 px frame with 16 px nine-slice margins: rope corners on a plank border."""
    p = Plate(48, 48)
    p.box(1, 1, 46, 46, "d")
    p.box(2, 2, 44, 44, "b")
    p.box(2, 2, 44, 1, "h")
    p.box(2, 3, 44, 2, "l")
    p.box(2, 2, 2, 43, "l")
    p.box(44, 4, 2, 42, "m")
    p.box(4, 43, 42, 3, "m")
    p.box(6, 6, 36, 36, "k")
    p.box(7, 7, 34, 34, "s")
    p.box(8, 8, 32, 32, "t")
    for i in range(2, 46):
        if chance(i, 1, 9) > 0.8:
            p.dot(i, 4, "m")
            p.dot(i, 44, "k")
    corner = Plate(14, 14)
    corner.text(
        0,
        0,
        ".hlbhlbhlb....\nhlbdlbdlbdk...\nlbdhlbhlbhbk..\nbdhhaah.hlbk..\nhlbaZZa..lbd..\nlbdaZZab.hbk..\nbhl.aa...lbd..\nhlbh..k..bkd..\nlbdlhb.kbkd...\nbhlblbdbkd....\n.kbkbdkbd.....\n..kkddkd......\n",
    )
    p.paste(corner, 1, 1)
    p.paste(corner, 33, 1, mirrored=True)
    flipped = Plate(14, 14)
    flipped.ink = corner.ink[::-1].copy()
    p.paste(flipped, 1, 33)
    p.paste(flipped, 33, 33, mirrored=True)
    return p


def crate() -> Plate:
    return crate_tile()


def sky() -> Plate:
    """512 x 336 px of dusk: dithered bands, cloud bars, a sun, far marsh and still water; repeats across."""
    p = Plate(512, 336)
    stops = "sstuvwxyz"
    edges = [0, 26, 62, 96, 124, 148, 168, 186, 200]
    for y in range(200):
        band = max(i for i in range(len(edges)) if edges[i] <= y)
        nxt = edges[band + 1] if band + 1 < len(edges) else 210
        share = (y - edges[band]) / (nxt - edges[band])
        for x in range(512):
            up = band + 1 < len(stops) and share > 0.55 and _dither(x, y) < (share - 0.55) / 0.6
            p.dot(x, y, stops[min(band + up, len(stops) - 1)])
    for i in range(46):
        x, y = int(chance(i, 1, 3) * 512), int(chance(i, 2, 3) ** 2 * 90)
        p.dot(x, y, "w" if i % 3 else "z")
    _sun(p, 372, 196, 26)
    for i, (x, y, w) in enumerate(
        (
            (20, 34, 150),
            (300, 44, 180),
            (150, 78, 190),
            (420, 84, 130),
            (40, 118, 170),
            (260, 126, 200),
            (470, 146, 120),
            (120, 152, 140),
        )
    ):
        _cloud(p, x, y, w, i)
    for x in range(512):
        ridge = 6 + 5 * math.sin(x * 2 * math.pi / 512 * 3) + 4 * math.sin(x * 2 * math.pi / 512 * 7 + 1)
        spike = int(chance(x // 2, 1, 8) * 6) if chance(x // 24, 2, 8) > 0.45 else 0
        near_sun = min(max((abs(x - 372) - 24) / 60, 0), 1)  # the sun goes down in a gap of the hills
        top = 198 - int((max(ridge, 0) + spike) * near_sun)
        p.box(x, top, 1, 206 - top, "v")
        low = 201 - int(chance(x // 3, 4, 8) * 4 * (0.5 + 0.5 * math.sin(x * 2 * math.pi / 512 * 5)))
        p.box(x, low, 1, 206 - low, "u")
    _windmill(p, 96, 196)
    _water(p, 206, 336)
    return p


BAYER = ((0, 8, 2, 10), (12, 4, 14, 6), (3, 11, 1, 9), (15, 7, 13, 5))


def _dither(x: int, y: int) -> float:
    return (BAYER[y % 4][x % 4] + 0.5) / 16


def _sun(p: Plate, cx: int, cy: int, radius: int) -> None:
    for y in range(cy - radius - 8, cy + 4):
        for x in range(cx - radius - 8, cx + radius + 9):
            far = math.hypot(x - cx, (y - cy))
            if far < radius:
                p.dot(x, y, "Z")
            elif far < radius + 7 and _dither(x, y) > (far - radius) / 7:
                p.dot(x, y, "z")


def _cloud(p: Plate, x0: int, y: int, width: int, seed: int) -> None:
    """A bar of cloud a shade darker than the sky behind it, lit along its lower edge."""
    darker = {"s": "s", "t": "s", "u": "t", "v": "u", "w": "v", "x": "v", "y": "w", "z": "x"}
    lit = {"s": "t", "t": "v", "u": "w", "v": "x", "w": "y", "x": "z", "y": "z", "z": "Z"}
    for i in range(width):
        x = (x0 + i) % 512
        along = min(i, width - i) / width * 2
        rise = int(along * 4 + chance(i // 9, seed, 4) * 5 * along)
        for k in range(rise + 1):
            here = p.at(x, y - k)
            if here in darker:
                p.dot(x, y - k, darker[here])
        under = p.at(x, y + 1)
        if chance(i // 5, seed, 6) > 0.2 and under in lit:
            p.dot(x, y + 1, lit[under])


def _windmill(p: Plate, x: int, foot: int) -> None:
    for k in range(22):
        half = 2 + (22 - (22 - k)) // 6
        p.box(x - half, foot - 22 + k, half * 2, 1, "u")
    for dx, dy in ((11, -6), (-11, 6), (6, 11), (-6, -11)):
        p.line(x, foot - 22, x + dx, foot - 22 + dy, "u")
        p.line(x + 1, foot - 22, x + dx + 1, foot - 22 + dy, "u")


def _water(p: Plate, top: int, bottom: int) -> None:
    bands = "yxwvu2211"
    for y in range(top, bottom):
        share = (y - top) / (bottom - top) * (len(bands) - 1)
        band = int(share)
        for x in range(512):
            step = share - band > 0.5 and _dither(x, y) < (share - band - 0.5) * 1.6
            p.dot(x, y, bands[min(band + step, len(bands) - 1)])
    for i in range(260):
        y = top + int(chance(i, 1, 12) * (bottom - top))
        x = int(chance(i, 2, 12) * 512)
        length = 3 + int(chance(i, 3, 12) * 14)
        shade = bands[min(int((y - top) / (bottom - top) * (len(bands) - 1)), len(bands) - 1)]
        glint = {"y": "z", "x": "y", "w": "x", "v": "w", "u": "3", "2": "3", "1": "2"}[shade]
        for k in range(length):
            p.dot((x + k) % 512, y, glint)
    for i in range(60):
        y = top + int(chance(i, 5, 13) * 60)
        half = 4 + int((y - top) * 0.25 * chance(i, 6, 13))
        x = 372 + int((chance(i, 7, 13) - 0.5) * (20 + (y - top) * 0.4))
        p.box(x - half, y, half * 2, 1, "Z" if i % 3 else "z")
