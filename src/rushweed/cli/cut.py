"""`rushweed cut`: cut a sheet by a grid or into pieces; what it leaves over is told."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

import typer

from rushweed.cli.common import ProjectPath, app, changing, errors_told, find_sheet, grouped, pair
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.cut import CountCut, Cut, GridCut, PiecesCut
from rushweed.core.store.saves import save_and_remember


@dataclass
class CutOptions:
    """How a sheet is cut."""

    grid: Annotated[str, typer.Option(metavar="WxH", help="Size of a cell in px.")] = ""
    count: Annotated[str, typer.Option(metavar="CxR", help="Columns and rows.")] = ""
    margin: Annotated[str, typer.Option(metavar="X,Y", help="Px before the first cell.")] = "0"
    spacing: Annotated[str, typer.Option(metavar="X,Y", help="Px between cells.")] = "0"
    pieces: Annotated[bool, typer.Option("--pieces", help="Cut into free-form pieces.")] = False
    join: Annotated[int | None, typer.Option(min=0, help="Px within which parts are one piece.")] = None
    auto: Annotated[bool, typer.Option("--auto", help="Take the first proposal.")] = False
    keep_empty: Annotated[bool, typer.Option(help="Keep cells without art.")] = False


@app.command()
@grouped
def cut(project: ProjectPath, sheet: str, told: CutOptions) -> None:
    """Cut a sheet by a grid or into pieces; what it leaves over is told."""
    from rushweed.core.cut.edit import cut_sheet
    from rushweed.core.cut.grid import grid_of
    from rushweed.core.cut.islands import propose_join
    from rushweed.core.cut.propose import ink_of
    from rushweed.core.cut.take import choices
    from rushweed.core.pixels.cache import PixelCache

    with errors_told(), changing(project) as (folder, value):
        if sum((bool(told.grid), bool(told.count), told.pieces, told.auto)) != 1:
            raise EditError(
                "cut needs one of --grid, --count, --pieces or --auto.", "For example --grid 16x16."
            )
        found = find_sheet(value, sheet)
        pixels = PixelCache(folder.path).pixels(found)
        room = (pair(told.margin, "--margin"), pair(told.spacing, "--spacing"))
        how: Cut
        if told.grid:
            how = GridCut(pair(told.grid, "--grid"), *room, leave_out_empty=not told.keep_empty)
        elif told.count:
            how = CountCut(*pair(told.count, "--count"), *room, leave_out_empty=not told.keep_empty)
        elif told.pieces:
            how = PiecesCut(told.join if told.join is not None else propose_join(ink_of(pixels)[0]))
        else:
            how = choices(pixels).best
        value = cut_sheet(value, found.id, how, pixels)
        save_and_remember(folder, value)
        cells = find_sheet(value, found.id).cells
    if not isinstance(how, (GridCut, CountCut)):
        within = how.join if isinstance(how, PiecesCut) else 0
        print(f"{found.name}: {len(cells)} pieces, parts within {within} px joined.")
        return
    lines = grid_of(how, found.source.size, found.name)
    empty = lines.columns * lines.rows - len(cells)
    print(
        f"{found.name}: {len(cells)} cells of {lines.cell[0]} x {lines.cell[1]} px, {empty} empty left out."
    )
    if any(lines.left_over):
        print(f"{lines.left_over[0]} px are left over on the right, {lines.left_over[1]} px below.")
