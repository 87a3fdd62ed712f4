"""`rushweed export`: an animation as a moving picture, or its frames in a row."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from rushweed.cli.common import ProjectPath, app, errors_told, find_animation
from rushweed.core.document.errors import EditError
from rushweed.core.store.folder import Folder

FORMS = {".gif": "gif", ".png": "apng", ".apng": "apng", ".webp": "webp"}


@app.command()
def export(
    project: ProjectPath,
    animation: str,
    out: Annotated[Path, typer.Option("--out", metavar="FILE", help="A .gif, .png (APNG) or .webp file.")],
    scale: Annotated[int, typer.Option(min=1, max=64, help="So many times as large.")] = 1,
    row: Annotated[bool, typer.Option("--row", help="The frames side by side in a PNG.")] = False,
) -> None:
    """Write an animation as a picture that moves."""
    from rushweed.core.animate.export import written
    from rushweed.core.pixels.cache import PixelCache
    from rushweed.core.store.files import write_file

    with errors_told():
        form = "row" if row else FORMS.get(out.suffix.lower())
        if form is None or (row and out.suffix.lower() != ".png"):
            raise EditError(
                f"{out.name} is no file an animation is written as.", "End it on .gif, .png or .webp."
            )
        folder = Folder(project)
        value = folder.open()
        data = written(value, find_animation(value, animation), PixelCache(folder.path), form, scale)  # type: ignore[arg-type]
        write_file(out, data)
    print(f"{out}: {len(data)} bytes")
