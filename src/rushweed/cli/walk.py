"""`rushweed walk`: walk a run in a level, or tell what can be reached in it."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
import typer

from rushweed.cli.common import AsJson, ProjectPath, app, errors_told, find_level
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.level import Level, Run
from rushweed.core.store.folder import Folder

if TYPE_CHECKING:
    from rushweed.core.walk.record import Walk
    from rushweed.core.walk.world import World


@app.command()
def walk(
    project: ProjectPath,
    level: str,
    run: Annotated[
        str, typer.Option("--run", metavar="FILE|NAME", help="A run in a file, or one kept with the level.")
    ] = "",
    reach: Annotated[
        bool, typer.Option("--reach", help="What can be reached from the start, and where a walk catches.")
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Walk the runs of a level, or one; exit 1 if a run that must arrive does not."""
    from rushweed.core.walk.runs import arrives, replay
    from rushweed.core.walk.walkers import walker_of
    from rushweed.core.walk.world import World

    with errors_told():
        value = Folder(project).open()
        found = find_level(value, level)
        if reach:
            _tell_reach(World.of(value, found, walker_of(found).group), as_json)
            return
        runs = [_run(found, run)] if run else list(found.runs)
        if not runs:
            raise EditError(f"{found.name} has no runs.", "Keep one in Walk, or name a file: --run FILE.")
        world = World.of(value, found, walker_of(found).group)
        rows: list[dict[str, Any]] = []
        for one in runs:
            walked = replay(world, one)
            rows.append({**_row(walked, one), "arrives": arrives(walked, one), "must": one.must})
    if as_json:
        print(json.dumps(rows))
    else:
        for row in rows:
            x, y = row["end_units"]
            word = "arrives" if row["arrives"] else "does not arrive"
            told = f" ({word}{', and must' if row['must'] else ''})"
            print(f"{row['run']}: ends at {x:.2f}, {y:.2f} u after {row['seconds']:.2f} s{told}")
            for event in row["events"]:
                what = f" {event['what']}" if event["what"] else ""
                print(f"  {event['seconds']:7.2f} s  {event['kind']}{what}")
    if any(row["must"] and not row["arrives"] for row in rows):
        raise typer.Exit(1)


def _tell_reach(world: World, as_json: bool) -> None:
    """Print what can be reached; exit 1 if a thing or sensor cannot."""
    from rushweed.core.walk.catches import catches
    from rushweed.core.walk.reach import reach as search

    found, caught = search(world), catches(world)
    if as_json:
        print(json.dumps({
            "places": [{"at": [p.x, p.y], "way_back": p.back} for p in found.places],
            "never": [list(at) for at in found.never],
            "missed": [{"kind": m.kind, "name": m.name, "cell": list(m.spot)} for m in found.missed],
            "catches": [{"kind": c.kind, "at": list(c.at)} for c in caught],
        }))  # fmt: skip
    else:
        print(f"{len(found.places)} places reached, {found.no_way_back} without a way back, "
              f"{len(found.never)} never reached.")  # fmt: skip
        for missed in found.missed:
            print(
                f"  {missed.kind} {missed.name} at cell {missed.spot[0]}, {missed.spot[1]} cannot be touched"
            )
        for catch in caught:
            print(f"  a {catch.kind} at {catch.at[0]:g}, {catch.at[1]:g} px catches")
    if found.missed or caught:
        raise typer.Exit(1)


def _run(level: Level, named: str) -> Run:
    """The run of that name, else the one in the file. Raises EditError if it is neither."""
    kept = next((r for r in level.runs if r.name == named), None)
    if kept is not None:
        return kept
    path = Path(named)
    if not path.is_file():
        raise EditError(f"{level.name} has no run {named!r}, and there is no such file.", "Check the name.")
    if path.stat().st_size > 64 << 20:
        raise EditError(f"{path.name} is too large for a run.", "Choose another file.")
    try:
        return msgspec.json.decode(path.read_bytes(), type=Run)
    except msgspec.DecodeError as error:
        raise EditError(f"{path.name} is no run: {error}.", "docs/formats.md says what one holds.") from error


def _row(walked: Walk, run: Run) -> dict[str, Any]:
    from rushweed.core.walk.terms import STEPS

    x, y = walked.feet
    return {
        "run": run.name,
        "end": [x, y],
        "end_units": [round(x / walked.ppu, 4), round(y / walked.ppu, 4)],
        "seconds": walked.step / STEPS,
        "falls": walked.falls,
        "events": [
            {"seconds": round(e.step / STEPS, 4), "kind": e.kind, "what": e.what,
             "at": [round(v, 3) for v in e.at]}
            for e in walked.events
        ],
    }  # fmt: skip
