"""`rushweed new`: make a new, empty project."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from rushweed.cli.common import app, errors_told
from rushweed.core.store.folder import Folder


@app.command()
def new(
    folder: Annotated[Path, typer.Argument(metavar="DIR")],
    name: Annotated[str, typer.Option(help="What the project is called; else the folder's name.")] = "",
) -> None:
    """Make a new, empty project."""
    with errors_told():
        Folder.create(folder, name or folder.resolve().name)
        print(f"Made {folder}.")
