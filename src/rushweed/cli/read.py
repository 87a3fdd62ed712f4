"""`rushweed read`: look at what was shipped, or bring it back as a project."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer

from rushweed.cli.common import AsJson, app, errors_told


@app.command()
def read(
    folder: Annotated[Path, typer.Argument(metavar="DIR", help="A folder that was shipped for a game.")],
    into: Annotated[
        Path | None, typer.Option("--into", metavar="PROJECT", help="Make a project of it there.")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Check what was shipped, whole; exit 1 if something is wrong."""
    from rushweed.core.ship.bring_back import bring_back
    from rushweed.core.ship.read_back import check_shipment, report

    with errors_told():
        checked = check_shipment(folder)
        if into is not None:
            bring_back(checked, into)[0].unlock()
        told = report(checked)
    if as_json:
        print(json.dumps(told, ensure_ascii=False))
    else:
        for problem in checked.problems:
            print(problem)
        print(
            f"{told['project']}: {told['frames']} frames on {told['pages']} pages, "
            f"{len(told['levels'])} levels, {told['files']} files, {len(checked.problems) or 'no'} problems."
        )
        if into is not None:
            print(f"Made a project of it in {into}.")
    if checked.problems:
        raise typer.Exit(1)
