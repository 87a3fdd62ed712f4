"""`rushweed autotile`: a set of tiles that choose themselves, laid on a sheet by the template."""

from __future__ import annotations

from typing import Annotated

import typer

from rushweed.cli.common import ProjectPath, app, changing, errors_told, find_cells, find_sheet, pair
from rushweed.core.document.errors import EditError
from rushweed.core.store.saves import save_and_remember


@app.command()
def autotile(
    project: ProjectPath,
    name: str,
    sheet: str,
    by: Annotated[str, typer.Option(metavar="edges|corners|both", help="What joins.")] = "edges",
    first: Annotated[str, typer.Option(metavar="CELL", help="Under the template's upper left place.")] = "",
    size: Annotated[str, typer.Option(metavar="CxR", help="Columns and rows of the template.")] = "",
) -> None:
    """Make an auto-tile set, or lay its template anew; cases without a tile are told, with exit code 1."""
    from rushweed.core.shape.autotile import add_set, case_words, change_set, gaps, lay_template, set_of

    with errors_told(), changing(project) as (folder, value):
        if by not in ("edges", "corners", "both"):
            raise EditError(f"{by!r} is no way to join.", "Use edges, corners or both.")
        home = find_sheet(value, sheet)
        if not home.cells:
            raise EditError(f"{home.name} has no cells.", "Cut it first.")
        made = next((s for s in value.autosets if s.name == name), None)
        if made is None:
            value, made = add_set(value, name, by)  # type: ignore[arg-type]
        else:
            value = change_set(value, made.id, by=by)
        begin = find_cells(value, first, home)[0] if first else home.cells[0]
        value = lay_template(value, made.id, home, begin.id, pair(size, "--size") if size else None)
        save_and_remember(folder, value)
        made = set_of(value, made.id)
        missing = gaps(made)
    print(f"{made.name}: {len(made.tiles)} tiles, {len(missing)} cases without one.")
    for case in missing:
        print(f"  joins {case_words(case, made.by)}")
    if missing:
        raise typer.Exit(1)
