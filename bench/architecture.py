"""Draws docs/architecture.svg, the rooms and who imports whom: `python -m bench.architecture`."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

import grimp

TARGET = Path(__file__).parent.parent / "docs" / "architecture.svg"
FLOORS = (
    ("ui.window", "cli"),
    ("ui.stages",),
    ("ui.panels",),
    ("ui.desk", "ui.commands"),
    ("ui.session", "ui.kit"),
    ("core.ship", "core.findings"),
    ("core.walk",),
    ("core.level",),
    ("core.cut", "core.tune", "core.animate", "core.shape"),
    ("core.pixels", "core.store"),
    ("core.document",),
)
WIDE, HIGH, ROOM, TALL = 900, 70, 150, 38
INK, PAPER, REED, RULE = "#26302A", "#F3EEE2", "#3C6E53", "#A67F1C"


def imports() -> Counter[tuple[str, str]]:
    """How many imports lead from one room to another."""
    graph = grimp.build_graph("rushweed")
    rooms = [room for floor in FLOORS for room in floor]

    def room_of(module: str) -> str | None:
        name = module.removeprefix("rushweed.")
        return next((r for r in rooms if name == r or name.startswith(r + ".")), None)

    found: Counter[tuple[str, str]] = Counter()
    for module in graph.modules:
        for other in graph.find_modules_directly_imported_by(module):
            pair = room_of(module), room_of(other)
            if pair[0] and pair[1] and pair[0] != pair[1]:
                found[pair[0], pair[1]] += 1
    return found


def drawn() -> str:
    """The picture: floors from the window down to the document; the more imports, the wider the line."""
    places = {}
    for n, floor in enumerate(FLOORS):
        for i, room in enumerate(floor):
            places[room] = (WIDE * (i + 1) / (len(floor) + 1), 40 + n * HIGH)
    height = 40 + len(FLOORS) * HIGH
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE} {height}" font-family="sans-serif">',
        f'<rect width="{WIDE}" height="{height}" fill="{PAPER}"/>',
    ]
    for (one, two), count in sorted(imports().items()):
        (x0, y0), (x1, y1) = places[one], places[two]
        wide = (count.bit_length() + 1) // 2  # coarse: the picture stays while imports come and go
        colour = REED if one.split(".")[0] == two.split(".")[0] else RULE
        lines.append(
            f'<path d="M{x0:.0f} {y0 + TALL / 2:.0f} L{x1:.0f} {y1 - TALL / 2:.0f}" stroke="{colour}" '
            f'stroke-width="{wide}" stroke-opacity="0.35" fill="none"/>'
        )
    for room, (x, y) in places.items():
        left, top = x - ROOM / 2, y - TALL / 2
        lines.append(
            f'<rect x="{left:.0f}" y="{top:.0f}" width="{ROOM}" height="{TALL}" '
            f'fill="{PAPER}" stroke="{INK}"/>'
            f'<text x="{x:.0f}" y="{y + 5:.0f}" text-anchor="middle" fill="{INK}">{room}</text>'
        )
    return "\n".join([*lines, "</svg>", ""])


if __name__ == "__main__":
    TARGET.write_text(drawn())
