"""`rushweed gather`: bring pictures into a project; a bad file is named and the rest go on."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated, Any

import typer

from rushweed.cli.common import AsJson, ProjectPath, app, changing, errors_told
from rushweed.core.store.saves import save_and_remember


@app.command()
def gather(
    project: ProjectPath,
    files: list[Path],
    as_json: AsJson = False,
    apart: Annotated[bool, typer.Option("--apart", help="Numbered pictures each by itself.")] = False,
    keep_key: Annotated[
        bool, typer.Option("--keep-key", help="Leave key colours opaque, also those that are sure.")
    ] = False,
) -> None:
    """Bring pictures into a project; a bad file is named and the rest go on."""
    from rushweed.core.cut.take import sheet_chance
    from rushweed.core.document.model.steps import KeyColour
    from rushweed.core.pixels.gather import Gathered, Gathering, add_gathered, files_in, with_sure_key
    from rushweed.core.tune.recipe import suited

    with errors_told(), changing(project) as (folder, value):
        gathering = Gathering(folder.path, value, sheet_chance)
        results: list[Gathered] = []
        for batch in gathering.batches(files_in(files, results), not apart):
            for one in gathering.take(batch):
                taken = suited(value, one if keep_key else with_sure_key(one))
                results.append(taken._replace(picture=None))
        value = add_gathered(value, results)
        save_and_remember(folder, value)
    faults = [r for r in results if r.fault]
    if as_json:
        report: dict[str, Any] = {
            "gathered": [r.sheet.name for r in results if r.sheet],
            "keyed": {
                r.sheet.name: step.colour
                for r in results
                if r.sheet
                for step in r.sheet.source.steps
                if isinstance(step, KeyColour)
            },
            "along": [{"file": str(r.path), "with": r.along, "as": r.note} for r in results if r.along],
            "same": [{"file": str(r.path), "as": r.same} for r in results if r.same],
            "unsure": sorted({str(path) for r in results for path in r.numbered}),
            "failed": [{"file": str(r.path), "problem": str(r.fault)} for r in faults],
        }
        print(json.dumps(report))
    else:
        for r in results:
            if r.sheet:
                note = f", {r.note}" if r.note else ""
                note += "; unsure, --apart parts them" if r.numbered and r.animation else ""
                print(f"{r.sheet.name}  {r.sheet.source.size[0]} x {r.sheet.source.size[1]} px{note}")
            elif r.along:
                print(f"{r.path.name} goes along with {r.along} as its {r.note}.")
            elif r.same:
                print(f"{r.path.name} is the same picture as {r.same}.")
    for r in faults:
        print(f"rushweed: {r.fault}", file=sys.stderr)
    if faults:
        raise typer.Exit(2)
