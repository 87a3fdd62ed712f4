"""Numbers and names as the window says them."""

from __future__ import annotations

from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.document.text import many as many


def shared(values: list[float]) -> float | None:
    """The value all have, or None where they differ."""
    return values[0] if values and all(v == values[0] for v in values) else None


def units(px: float, ppu: float) -> str:
    return f"{px / ppu:.2f}"


def short(text: str, most: int = 20) -> str:
    """A name that fits beside the title of a card."""
    return text if len(text) <= most else f"{text[: most - 1]}…"


def unbroken(*facts: str) -> str:
    """Facts side by side, in as many lines as they need: none is torn apart."""
    return "  ".join(fact.replace(" ", "\N{NO-BREAK SPACE}") for fact in facts)


def cell_title(sheet: Sheet | None, cells: list[Cell]) -> tuple[str, str]:
    """What is selected, and where the first of it is."""
    if sheet is None or not cells:
        return "nothing selected", ""
    number = next((f"{i} " for i, c in enumerate(sheet.cells) if c.id == cells[0].id), "")
    where = short(f"{number}{cells[0].name}") if len(cells) == 1 else ""
    return many(len(cells), "cell"), where
