"""`rushweed tune`: set pixels per unit, pivot, filter, compression and the rest of sheets."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

import typer

from rushweed.cli.common import (
    ProjectPath,
    app,
    changing,
    errors_told,
    find_sheet,
    grouped,
    told_of,
    transfer_named,
)
from rushweed.core.document.errors import EditError
from rushweed.core.store.saves import save_and_remember


@dataclass
class TuneOptions:
    """What is set."""

    ppu: Annotated[float | None, typer.Option(help="Pixels per unit.")] = None
    pivot: Annotated[str, typer.Option(metavar="NAME|X,Y", help="A place such as bottom, or px.")] = ""
    filter: Annotated[str, typer.Option(metavar="nearest|linear")] = ""
    codec: Annotated[str, typer.Option(metavar="NAME", help="none, indexed, bc1, bc3, bc7 or etc2.")] = ""
    mipmaps: Annotated[bool | None, typer.Option("--mipmaps/--no-mipmaps", help="With mipmaps.")] = None
    gutter: Annotated[int | None, typer.Option(metavar="PX", help="Px of repeated edge a cell.")] = None
    transfer: Annotated[str, typer.Option(metavar="NAME", help="Values of the texture: srgb, linear.")] = ""
    recipe: Annotated[str, typer.Option(metavar="NAME", help="Follow a recipe; fit: the fitting one.")] = ""


@app.command()
@grouped
def tune(project: ProjectPath, sheets: list[str], told: TuneOptions) -> None:
    """Set pixels per unit, pivot, filter, compression and the rest of sheets."""
    from rushweed.core.pixels.cache import PixelCache
    from rushweed.core.tune.codec.compress import codec_named
    from rushweed.core.tune.edit import parse_pivot, set_pivot_px, tune_sheets
    from rushweed.core.tune.recipe import fitting, give, recipes_of

    with errors_told(), changing(project) as (folder, value):
        if told.filter not in ("", "nearest", "linear"):
            raise EditError(f"{told.filter!r} is no filter.", "Use nearest or linear.")
        ids = [find_sheet(value, name).id for name in sheets]
        share = None
        if told.pivot:
            point, is_share = parse_pivot(told.pivot)
            if is_share:
                share = point
            else:
                cells = [c.id for s in value.sheets if s.id in ids for c in s.cells]
                value = set_pivot_px(value, cells, *point)
        if told.recipe == "fit":
            stock = PixelCache(folder.path)
            for name in sheets:
                found = find_sheet(value, name)
                fit, why = fitting(stock.pixels(found))
                value = give(value, [found.id], fit.id)
                print(f"{found.name}: {fit.name}, {why}")
        elif told.recipe:
            chosen = next((r.id for r in recipes_of(value) if told.recipe in (r.id, r.name)), None)
            if chosen is None:
                known = ", ".join(r.name for r in recipes_of(value))
                raise EditError(f"There is no recipe {told.recipe!r}.", f"Use fit or one of {known}.")
            value = give(value, ids, chosen)
        fields = told_of(told, "ppu", "mipmaps", "gutter")
        if told.filter:
            fields["filter"] = told.filter
        if told.codec:
            fields["codec"] = codec_named(told.codec)
        if told.transfer:
            fields["transfer"] = transfer_named(told.transfer)
        value = tune_sheets(value, ids, share, **fields)
        save_and_remember(folder, value)
    print(f"Tuned {len(ids)} {'sheet' if len(ids) == 1 else 'sheets'}.")
