"""`rushweed check`: print the findings; exit 1 if one of them is a fault."""

from __future__ import annotations

import json

import typer

from rushweed.cli.common import AsJson, ProjectPath, app, errors_told
from rushweed.core.store.folder import Folder


@app.command()
def check(project: ProjectPath, as_json: AsJson = False) -> None:
    """Print the findings; exit 1 if one of them is a fault."""
    from rushweed.core.findings.check import check as find
    from rushweed.core.pixels.stock import Stock

    with errors_told():
        folder = Folder(project)
        found = find(folder.open(), Stock(folder.path))
    if as_json:
        rows = [
            {"rule": f.rule, "weight": f.weight, "text": f.text, "fix": f.fix.label if f.fix else None}
            for f in found
        ]
        print(json.dumps(rows))
    else:
        for f in found:
            print(f"{f.weight}: {f.text}")
        if not found:
            print("Nothing found.")
    if any(f.weight == "fault" for f in found):
        raise typer.Exit(1)
