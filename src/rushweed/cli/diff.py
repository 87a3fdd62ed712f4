"""rushweed diff: what differs between two versions of a project."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rushweed.cli.common import AsJson, app, errors_told
from rushweed.core.document.model.project import Project
from rushweed.core.store.folder import Folder

if TYPE_CHECKING:
    from rushweed.core.level.compare import Difference


@app.command()
def diff(
    before: Annotated[Path, typer.Argument(metavar="PROJECT", help="The folder of the older version.")],
    after: Annotated[
        Path | None, typer.Argument(metavar="[OTHER]", help="The folder of the newer one.")
    ] = None,
    since: Annotated[
        str, typer.Option(metavar="REVISION", help="Compare PROJECT with itself at a revision of git.")
    ] = "",
    until: Annotated[
        str, typer.Option(metavar="REVISION", help="With --since: not as it is now, but at this revision.")
    ] = "",
    pictures: Annotated[
        Path | None,
        typer.Option(metavar="FOLDER", help="Write a picture of each level and sheet, both ways."),
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Say in words what differs: levels, sheets, animations. Exit code 1 if anything does."""
    from rushweed.core.document.errors import EditError
    from rushweed.core.level.compare import compare
    from rushweed.core.store.revision import export_revision

    with errors_told(), tempfile.TemporaryDirectory(prefix="rushweed-diff-") as scratch:
        if (after is None) == (not since) or until and not since:
            raise EditError(
                "diff needs two folders, or one with --since.",
                "For example rushweed diff marsh --since HEAD.",
            )
        places = [before, after or before]
        for n, revision in enumerate((since, until)):
            if revision:
                home = Path(scratch) / str(n)
                home.mkdir()
                places[n] = export_revision(before, revision, home)
        old, new = Folder(places[0]).open(), Folder(places[1]).open()
        found = compare(old, new)
        written = _write_pictures(pictures, (old, new), (places[0], places[1]), found) if pictures else {}
    if as_json:
        rows = [
            {"kind": d.kind, "name": d.name, "facts": d.facts, "area": d.area, "picture": written.get(d.id)}
            for d in found
        ]
        print(json.dumps(rows, indent=2))
    else:
        for difference in found:
            print(f"{difference.kind} {difference.text()}")
        if not found:
            print("Nothing differs.")
    if found:
        raise typer.Exit(1)


def _write_pictures(
    folder: Path, projects: tuple[Project, Project], places: tuple[Path, Path], found: list[Difference]
) -> dict[str, str]:
    """One picture for each difference that has one, as it was beside as it is; returns their names by id."""
    from rushweed.core.level.compare import difference_pictures, side_by_side
    from rushweed.core.pixels.cache import PixelCache
    from rushweed.core.store.files import write_file
    from rushweed.core.store.folder import file_name
    from rushweed.core.tune.codec.compress import png_bytes

    stocks = [PixelCache(place) for place in places]
    written: dict[str, str] = {}
    for difference in found:
        pair = difference_pictures(
            *projects, difference, stocks[0].pixels_or_blank, stocks[1].pixels_or_blank
        )
        picture = side_by_side(*pair)
        if picture is not None:
            name = f"{difference.kind}-{file_name(difference.name)}-{difference.id[:6]}.png"
            write_file(folder / name, png_bytes(picture))
            written[difference.id] = name
    return written
