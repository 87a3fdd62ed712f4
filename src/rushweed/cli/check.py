"""`rushweed check`: print the findings, for a person, a script or a server."""

from __future__ import annotations

import json
from typing import Annotated

import typer

from rushweed.cli.common import AsJson, ProjectPath, app, errors_told
from rushweed.core.document.errors import EditError
from rushweed.core.store.folder import Folder


@app.command()
def check(
    project: ProjectPath,
    as_json: AsJson = False,
    as_sarif: Annotated[bool, typer.Option("--sarif", help="Print SARIF 2.1.0 and nothing else.")] = False,
    as_junit: Annotated[bool, typer.Option("--junit", help="Print JUnit's XML and nothing else.")] = False,
    walk: Annotated[bool, typer.Option("--walk", help="Walk the levels too; takes a while.")] = False,
    strict: Annotated[bool, typer.Option("--strict", help="A hint is enough for exit code 1.")] = False,
) -> None:
    """Print the findings; exit 1 if one of them is a fault that is not left as it is."""
    from rushweed.core.findings import reports
    from rushweed.core.findings.check import check as find
    from rushweed.core.pixels.cache import PixelCache

    with errors_told():
        if as_json + as_sarif + as_junit > 1:
            raise EditError("Findings are printed in one form at a time.", "Use one of the options.")
        folder = Folder(project)
        opened = folder.open()
        found = find(opened, PixelCache(folder.path))
        if walk:
            from rushweed.core.findings.walk import of_levels

            found = sorted([*found, *of_levels(opened)], key=lambda f: f.weight != "fault")
        why = reports.reasons(opened, found)
        files = folder.files_of(opened)
    if as_json:
        print(json.dumps(reports.rows(opened, found, files), ensure_ascii=False))
    elif as_sarif:
        print(json.dumps(reports.sarif(opened, found, files), ensure_ascii=False, indent=1))
    elif as_junit:
        print(reports.junit(opened, found), end="")
    else:
        for f in found:
            print(f"{f.weight}: {f.text}" if f not in why else f"left as it is ({why[f]}): {f.text}")
        if not found:
            print("Nothing found.")
    if any(strict or f.weight == "fault" for f in found if f not in why):
        raise typer.Exit(1)
