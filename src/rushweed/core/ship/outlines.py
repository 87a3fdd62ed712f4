"""Collision shapes as SVG, and drawn over pictures of levels.

Source: W3C Scalable Vector Graphics (SVG) 1.1, Second Edition. One layer (a `g` with an id) a role; a user
unit is a px of the art, and a comment tells how many make a unit of the game.
"""

from __future__ import annotations

from xml.sax.saxutils import escape, quoteattr

import numpy as np

from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Circle, Role, Shape
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.outline import outline
from rushweed.core.level.outline_edges import Ring
from rushweed.core.shape.primitives import corners
from rushweed.core.tune.units import size_units
from rushweed.core.walk.walkers import units_of

ROLES: tuple[Role, ...] = ("solid", "one-way", "sensor")
DRAWN: dict[Role, tuple[str, str]] = {
    "solid": ("#FBF8F0", ""),
    "one-way": ("#F4D27E", "4 2"),
    "sensor": ("#B5DCC4", "1 2"),
}
CASING = (30, 30, 30, 255)
Box = tuple[int, int, int, int]


def cell_svg(cell: Cell, ppu: float) -> bytes:
    """The shapes of a cell; origin at its top left."""
    layers: dict[Role, list[str]] = {role: [] for role in ROLES}
    for n, shape in enumerate(cell.shapes):
        layers[shape.role].append(_shape(shape, f"{shape.role}-{n}"))
    return _document(cell.name, (0, 0, cell.rect[2], cell.rect[3]), ppu, layers)


def level_svg(project: Project, level: Level) -> bytes:
    """The merged outline of a level; origin at the level's."""
    layers: dict[Role, list[str]] = {role: [] for role in ROLES}
    for kind, rings in _by_kind(outline(project, level)).items():
        role = _role(rings[0])
        path = " ".join(_path(ring.points.tolist(), ring.closed) for ring in rings)
        extra = f' class="blocks-from-{rings[0].kind.blocks_from}"' if role == "one-way" else ""
        layers[role].append(f'<path id="{role}-{kind}" d="{path}"{extra}/>')
    x, y, columns, rows = level.bounds
    cw, ch = level.cell
    return _document(level.name, (x * cw, y * ch, columns * cw, rows * ch), units_of(project, level), layers)


def _role(ring: Ring) -> Role:
    return "solid" if ring.kind.role == "solid" else "one-way"


def _by_kind(rings: list[Ring]) -> dict[int, list[Ring]]:
    kinds: dict[object, list[Ring]] = {}
    for ring in rings:
        kinds.setdefault(ring.kind, []).append(ring)
    return dict(enumerate(kinds.values()))


def _shape(shape: Shape, name: str) -> str:
    extra = f' class="blocks-from-{shape.blocks_from}"' if shape.role == "one-way" else ""
    if isinstance(shape, Circle):
        return f'<circle id="{name}" cx="{_n(shape.x)}" cy="{_n(shape.y)}" r="{_n(shape.radius)}"{extra}/>'
    return f'<path id="{name}" d="{_path(list(corners(shape)), True)}"{extra}/>'


def _path(points: list[tuple[float, float]], closed: bool) -> str:
    told = " ".join(f"{_n(x)},{_n(y)}" for x, y in points)
    return f"M {told} Z" if closed else f"M {told}"


def _n(value: float) -> str:
    return f"{value:.4f}".rstrip("0").rstrip(".")


def _document(name: str, box: Box, ppu: float, layers: dict[Role, list[str]]) -> bytes:
    x, y, w, h = box
    units = size_units((w, h), ppu)
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd">',
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{w}px" height="{h}px" '
        f'viewBox="{x} {y} {w} {h}">',
        f"  <title>{escape(_words(name))}</title>",
        f"  <desc>{w} x {h} px, {_n(ppu)} px a unit, {_n(units[0])} x {_n(units[1])} units; "
        "x right, y down</desc>",
    ]
    for role, parts in layers.items():
        colour, dashes = DRAWN[role]
        dash = f' stroke-dasharray="{dashes}"' if dashes else ""
        fill = colour if role == "solid" else "none"
        lines.append(
            f'  <g id={quoteattr(role)} fill="{fill}" fill-opacity="0.4" fill-rule="evenodd" '
            f'stroke="{colour}" stroke-width="0.5"{dash}>'
        )
        lines += [f"    {part}" for part in parts]
        lines.append("  </g>")
    return ("\n".join([*lines, "</svg>"]) + "\n").encode()


def _words(text: str) -> str:
    """Text without the letters that XML cannot hold."""
    return "".join(c for c in text if c >= " " and not 0xD800 <= ord(c) <= 0xDFFF and c not in "\ufffe\uffff")


# -- over a picture ----------------------------------------------------------------------------------------


def with_outlines(project: Project, level: Level, px: np.ndarray, part: Box, scale: int) -> np.ndarray:
    """A part of a level (left, top, columns, rows in cells) as uint8 RGBA, `scale` times as large, with its
    merged outline: solid lines pale on dark, one-way lines straw with teeth on the side that lets through."""
    from PIL import Image, ImageDraw

    large = px.repeat(scale, axis=0).repeat(scale, axis=1)
    picture = Image.fromarray(large)
    draw = ImageDraw.Draw(picture)
    left, top = part[0] * level.cell[0], part[1] * level.cell[1]
    rings = outline(project, level)
    for wide, pale in ((scale + 2, False), (scale, True)):
        for ring in rings:
            points = [((x - left) * scale, (y - top) * scale) for x, y in ring.points.tolist()]
            points = [*points, points[0]] if ring.closed else points
            colour = _rgba(DRAWN[_role(ring)][0]) if pale else CASING
            draw.line(points, colour, wide)
            if ring.kind.role == "one-way":
                _teeth(draw, points, ring.kind.blocks_from or "top", scale, colour, wide)
    return np.array(picture)


def _teeth(
    draw: object, points: list[tuple[float, float]], blocks_from: str, scale: int, colour: object, wide: int
) -> None:
    across = {"top": (0, 3), "bottom": (0, -3), "left": (3, 0), "right": (-3, 0)}[blocks_from]
    for (x0, y0), (x1, y1) in zip(points, points[1:], strict=False):
        count = int(max(abs(x1 - x0), abs(y1 - y0)) // (4 * scale))
        for n in range(count + 1):
            x, y = x0 + (x1 - x0) * n / max(count, 1), y0 + (y1 - y0) * n / max(count, 1)
            draw.line([(x, y), (x + across[0] * scale, y + across[1] * scale)], colour, wide)  # type: ignore[attr-defined]


def _rgba(colour: str) -> tuple[int, int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16), 255
