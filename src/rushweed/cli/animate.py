"""`rushweed animate`: make animations of cells, rows or names, and set how they play."""

from __future__ import annotations

from typing import Annotated

import typer

from rushweed.cli.common import ProjectPath, app, changing, errors_told, find_cells, find_sheet
from rushweed.core.document.errors import EditError
from rushweed.core.store.saves import save_and_remember


@app.command()
def animate(
    project: ProjectPath,
    sheet: str,
    cells: Annotated[str, typer.Option(metavar="NAMES", help="Cells in order, such as walk_*.")] = "",
    rows: Annotated[bool, typer.Option("--rows", help="One of each row of the sheet.")] = False,
    stems: Annotated[bool, typer.Option("--stems", help="One of each stem: walk_0, walk_1 ...")] = False,
    name: Annotated[str, typer.Option(help="What it is called; for one made of --cells.")] = "",
    fps: Annotated[float | None, typer.Option(help="Frames per second.")] = None,
    play: Annotated[str, typer.Option(metavar="loop|once|there-and-back")] = "",
    state: Annotated[str, typer.Option(help="The game's word for it.")] = "",
) -> None:
    """Make animations of a sheet's cells."""
    from rushweed.core.animate import timeline

    with errors_told(), changing(project) as (folder, value):
        if sum((bool(cells), rows, stems)) != 1:
            raise EditError("animate needs one of --cells, --rows or --stems.", "For example --stems.")
        if play not in ("", "loop", "once", "there-and-back"):
            raise EditError(f"{play!r} is no way to play.", "Use loop, once or there-and-back.")
        home = find_sheet(value, sheet)
        made: tuple[str, ...]
        if rows:
            value, made = timeline.animate_rows(value, home.id)
        elif stems:
            value, made = timeline.animate_stems(value, home.id)
        else:
            value, one = timeline.animate(value, [c.id for c in find_cells(value, cells, home)], name)
            made = (one,)
        for one in made:
            if fps is not None:
                value = timeline.set_rate(value, one, fps)
            if play:
                value = timeline.set_play(value, one, play)  # type: ignore[arg-type]
        if state:
            value = timeline.set_state(value, home.id, state, made[0])
        save_and_remember(folder, value)
    for one in made:
        found = timeline.animation_of(value, one)
        print(f"{found.name}: {len(found.frames)} frames")
