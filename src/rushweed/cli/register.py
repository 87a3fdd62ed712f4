"""`rushweed register`: put the frames of an animation on one another."""

from __future__ import annotations

from typing import Annotated

import typer

from rushweed.cli.common import ProjectPath, app, changing, errors_told, find_animation
from rushweed.core.document.errors import EditError
from rushweed.core.store.saves import save_and_remember

MOVES = {"feet": "ground", "sideways": "sideways", "both": "both"}


@app.command()
def register(
    project: ProjectPath,
    animation: str,
    by: Annotated[str, typer.Option(metavar="feet|centre|outline|match|none", help="What is laid together.")],
    move: Annotated[
        str, typer.Option(metavar="feet|sideways|both", help="feet keeps them on the ground.")
    ] = "feet",
) -> None:
    """Register the frames of an animation; `--by none` takes every shift away."""
    from rushweed.core.animate.register import (
        as_drawn,
        drift_of,
        pixels_of_cell,
        set_shifts,
        shifts_for,
        spread,
    )
    from rushweed.core.document.edit import cell_homes
    from rushweed.core.pixels.cache import PixelCache

    with errors_told(), changing(project) as (folder, value):
        if by not in ("feet", "centre", "outline", "match", "none") or move not in MOVES:
            raise EditError(f"{by}, {move} is no way to register.", "See rushweed register --help.")
        found, stock = find_animation(value, animation), PixelCache(folder.path)
        ids = list(dict.fromkeys(frame.cell for frame in found.frames))

        def held() -> list:
            cells = cell_homes(value)
            return [(c, pixels_of_cell(stock.pixels(s), c)) for s, c in (cells[i] for i in ids if i in cells)]

        if by == "none":
            value = as_drawn(value, ids)
        else:
            value = set_shifts(value, shifts_for(held(), by, MOVES[move]))  # type: ignore[arg-type]
        save_and_remember(folder, value)
        drifts = [drift_of(pixels, cell) for cell, pixels in held()]
    feet, middle = spread([d.feet for d in drifts]), spread([d.middle for d in drifts])
    print(f"{found.name}: feet drift by {feet:g} px, the middle by {middle:g} px now.")
