"""`rushweed ship`: write atlas, manifest, levels and credits."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from rushweed.cli.common import ProjectPath, app, errors_told
from rushweed.core.store.folder import Folder


@app.command()
def ship(
    project: ProjectPath,
    out: Annotated[Path, typer.Option("--out", metavar="DIR", help="Where the game's files go.")],
    gutter: Annotated[int, typer.Option(min=0, max=16, help="Px of repeated edge around frames.")] = 2,
    page: Annotated[int, typer.Option(min=64, max=16384, help="Largest side of an atlas page.")] = 2048,
    any_size: Annotated[bool, typer.Option(help="Pages need not be powers of two.")] = False,
    jobs: Annotated[int, typer.Option(min=1, max=64, help="Files encoded at a time.")] = 2,
    whole_cells: Annotated[bool, typer.Option(help="Do not trim clear borders.")] = False,
) -> None:
    """Write atlas, manifest, levels and credits."""
    from rushweed.core.pixels.stock import Stock
    from rushweed.core.ship.atlas import AtlasSettings
    from rushweed.core.ship.build import ship as build

    with errors_told():
        folder = Folder(project)
        settings = AtlasSettings(gutter, page, not any_size, not whole_cells)
        done = build(folder.open(), Stock(folder.path), out, settings, jobs=jobs)
    pages = "1 page" if done.pages == 1 else f"{done.pages} pages"
    print(f"Shipped {done.frames} frames on {pages} to {out}, {len(done.files)} files.")
