"""`rushweed animate`: make animations of cells, rows or names, and set how they play."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

import typer

from rushweed.cli.common import ProjectPath, app, changing, errors_told, find_cells, find_sheet, grouped
from rushweed.core.document.errors import EditError
from rushweed.core.store.saves import save_and_remember


@dataclass
class AnimateOptions:
    """Which animations are made, and how they play."""

    cells: Annotated[str, typer.Option(metavar="NAMES", help="Cells in order, such as walk_*.")] = ""
    rows: Annotated[bool, typer.Option("--rows", help="One of each row of the sheet.")] = False
    stems: Annotated[bool, typer.Option("--stems", help="One of each stem: walk_0, walk_1 ...")] = False
    name: Annotated[str, typer.Option(help="What it is called; for one made of --cells.")] = ""
    fps: Annotated[float | None, typer.Option(help="Frames per second.")] = None
    play: Annotated[str, typer.Option(metavar="loop|once|there-and-back")] = ""
    state: Annotated[str, typer.Option(help="The game's word for it.")] = ""


@app.command()
@grouped
def animate(project: ProjectPath, sheet: str, told: AnimateOptions) -> None:
    """Make animations of a sheet's cells."""
    from rushweed.core.animate import timeline

    with errors_told(), changing(project) as (folder, value):
        if sum((bool(told.cells), told.rows, told.stems)) != 1:
            raise EditError("animate needs one of --cells, --rows or --stems.", "For example --stems.")
        if told.play not in ("", "loop", "once", "there-and-back"):
            raise EditError(f"{told.play!r} is no way to play.", "Use loop, once or there-and-back.")
        home = find_sheet(value, sheet)
        made: tuple[str, ...]
        if told.rows:
            value, made = timeline.animate_rows(value, home.id)
        elif told.stems:
            value, made = timeline.animate_stems(value, home.id)
        else:
            value, one = timeline.animate(
                value, [c.id for c in find_cells(value, told.cells, home)], told.name
            )
            made = (one,)
        for one in made:
            if told.fps is not None:
                value = timeline.set_rate(value, one, told.fps)
            if told.play:
                value = timeline.set_play(value, one, told.play)  # type: ignore[arg-type]
        if told.state:
            value = timeline.set_state(value, home.id, told.state, made[0])
        save_and_remember(folder, value)
    for one in made:
        found = timeline.animation_of(value, one)
        print(f"{found.name}: {len(found.frames)} frames")
