"""`rushweed ship`: write what a game needs, plain files, or a page, by the ways the project keeps."""

from __future__ import annotations

import json
import os
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from rushweed.cli.common import AsJson, ProjectPath, app, errors_told, grouped
from rushweed.core.document.errors import EditError, RushweedError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shipping import Way
from rushweed.core.store.folder import Folder, file_name

if TYPE_CHECKING:
    from rushweed.core.ship.build import Shipped

LOOK_S = 0.5  # between two looks at a project that is watched
Tell = Callable[[float, str], None]


@dataclass
class ShipOptions:
    """What is shipped, and how."""

    out: Annotated[
        Path | None, typer.Option("--out", metavar="DIR", help="Where it goes, if not where the way says.")
    ] = None
    way: Annotated[
        list[str] | None, typer.Option("--way", metavar="NAME", help="A way to ship; may be told again.")
    ] = None
    jobs: Annotated[int, typer.Option(min=1, max=64, help="Files made at a time.")] = os.cpu_count() or 2
    watch: Annotated[bool, typer.Option("--watch", help="Ship again after each save.")] = False
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Only tell what would be written.")] = False


@app.command()
@grouped
def ship(project: ProjectPath, told: ShipOptions, as_json: AsJson = False) -> None:
    """Ship: for a game, as plain files, or as a page to walk in."""

    from rushweed.core.pixels.cache import PixelCache
    from rushweed.core.ship.build import ship as build
    from rushweed.core.ship.build import would_ship

    def once() -> None:
        value = folder.open()
        made = []
        for one, place in _wanted(value, project, told.way or [], told.out):
            make = partial(would_ship if told.dry_run else build, jobs=told.jobs)
            with _progress(one.name, as_json) as tell:
                done = make(value, PixelCache(project), place, one, tell)
            made.append(_report(one, done, told.dry_run))
            if not as_json:
                _print(one, done, told.dry_run)
        if as_json:
            print(json.dumps({"shipped": made}, ensure_ascii=False), flush=True)

    with errors_told():
        folder = Folder(project)
        if not told.watch:
            once()
            return
        while True:
            seen = _state(folder)
            try:
                once()
            except RushweedError as error:  # told, and tried again after the next save
                print(f"rushweed: {error}", file=sys.stderr, flush=True)
            while _state(folder) == seen:
                time.sleep(LOOK_S)


def _wanted(project: Project, path: Path, names: list[str], out: Path | None) -> Iterator[tuple[Way, Path]]:
    """The ways and where each goes: those named, else all that have a folder, else the first into `out`."""
    from rushweed.core.ship.build import folder_of
    from rushweed.core.ship.ways import DESKTOP, way_named, way_of, ways_of

    if names:
        ways = [way_named(project, name) for name in names]
    elif out is not None:
        ways = [way_of(project, DESKTOP.id)]
    else:
        ways = [w for w in ways_of(project) if w.folder]
        if not ways:
            raise EditError("No way to ship has a folder.", "Name one with --out.")
    for one in ways:
        place = out / file_name(one.name) if out is not None and len(ways) > 1 else out
        yield one, folder_of(one, path, place)


@contextmanager
def _progress(name: str, quiet: bool) -> Iterator[Tell]:
    """A bar on stderr, where somebody is looking."""
    if quiet or not sys.stderr.isatty():
        yield lambda _share, _words: None
        return
    from rich.console import Console
    from rich.progress import BarColumn, Progress, TextColumn

    columns = (TextColumn(name), BarColumn(), TextColumn("{task.description}"))
    with Progress(*columns, console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task("", total=1.0)
        yield lambda share, words: bar.update(task, completed=share, description=words)


def _report(way: Way, done: Shipped, dry: bool) -> dict[str, Any]:
    return {
        "way": way.name, "folder": str(done.folder), "frames": done.frames, "pages": done.pages,
        "filled": round(done.filled, 4), "dry_run": dry, "made": list(done.made),
        "removed": list(done.removed),
        "files": {n: {"bytes": one.bytes, "sha256": one.sha256} for n, one in sorted(done.listed.items())},
    }  # fmt: skip


def _print(way: Way, done: Shipped, dry: bool) -> None:
    if dry:
        for name in done.made:
            print(f"would write {done.folder / name}")
        for name in done.removed:
            print(f"would remove {done.folder / name}")
        print(f"{way.name}: {len(done.made)} of {len(done.files)} files would be written.")
        return
    pages = "1 page" if done.pages == 1 else f"{done.pages} pages"
    size = sum(one.bytes for one in done.listed.values())
    print(
        f"Shipped {done.frames} frames on {pages} to {done.folder}, {len(done.files)} files, "
        f"{size:,} bytes; {len(done.made)} made anew.",
        flush=True,
    )


def _state(folder: Folder) -> list[tuple[str, int, int]]:
    """Size and time of all files of a project that are not its own notes."""
    found = []
    for home, folders, files in os.walk(folder.path):
        folders[:] = [name for name in folders if not name.startswith(".")]
        for name in files:
            try:
                state = os.stat(os.path.join(home, name))
            except OSError:
                continue
            found.append((os.path.join(home, name), state.st_size, state.st_mtime_ns))
    return sorted(found)
