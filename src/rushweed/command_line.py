"""The command line as a whole: the commands of `rushweed.cli`, and those that show the window."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import Annotated

import typer

from rushweed.cli import app, errors_told
from rushweed.cli.common import pair
from rushweed.core.document.errors import EditError


def _default_demo() -> Path:
    import platformdirs

    return Path(platformdirs.user_data_dir("rushweed")) / "tidelamp"


@app.command("open")
def open_window(
    what: Annotated[
        list[Path] | None,
        typer.Argument(
            metavar="[PROJECT | PICTURE ...]", help="A project, or pictures for the one opened last."
        ),
    ] = None,
    trace: Annotated[bool, typer.Option(help="Write every edit and job to the log, with its time.")] = False,
) -> None:
    """Open the window."""
    from rushweed.ui.start import run

    raise typer.Exit(run(what or [], trace))


@app.command()
def demo(
    folder: Annotated[Path | None, typer.Argument(metavar="DIR")] = None,
    headless: Annotated[bool, typer.Option(help="No window: build, ship and take pictures.")] = False,
) -> None:
    """Make the Tidelamp project and open it."""
    from rushweed.demo.project import build

    path = folder or _default_demo()
    with errors_told():
        if not (path / "rushweed.json").exists():
            print(f"Making Tidelamp in {path} ...")
            build(path)[0].unlock()
        if headless:
            _without_a_screen(path)
            return
    from rushweed.ui.start import run

    raise typer.Exit(run([path]))


def _without_a_screen(path: Path) -> None:
    from rushweed.core.findings.check import check
    from rushweed.core.pixels.cache import PixelCache
    from rushweed.core.ship.build import ship
    from rushweed.core.store.folder import Folder

    folder = Folder(path)
    project = folder.open()
    cells = sum(len(s.cells) for s in project.sheets)
    shaped = sum(1 for s in project.sheets for c in s.cells if c.shapes)
    print(f"{len(project.sheets)} sheets cut into {cells} cells, {shaped} with shapes.")
    for level in project.levels:
        print(f"Level {level.name}: {level.bounds[2]} x {level.bounds[3]} cells, {len(level.layers)} layers.")
    for finding in check(project, PixelCache(path)):
        print(f"  {finding.weight}: {finding.text}")
    done = ship(project, PixelCache(path), path.parent / f"{path.name}-shipped")
    print(f"Shipped {done.frames} frames to {done.folder}:")
    for file in done.files:
        print(f"  {file.relative_to(done.folder)}")
    pictures = _take_shots(path.parent / f"{path.name}-screenshots")
    print(f"There is no screen, so here are {len(pictures)} pictures of the window:")
    for picture in pictures:
        print(f"  {picture}")


@app.command()
def shots(
    folder: Annotated[Path, typer.Argument(metavar="DIR")],
    size: Annotated[str, typer.Option(metavar="WxH", help="Of the window, px.")] = "1280x800",
    theme: Annotated[str, typer.Option(help="day, dusk or stark.")] = "day",
) -> None:
    """Take pictures of the main views of the demo."""
    from rushweed.ui.kit.theme import THEMES

    with errors_told():
        if theme not in THEMES:
            raise EditError(f"There is no theme {theme!r}.", f"Use one of {', '.join(THEMES)}.")
        for picture in _take_shots(folder, pair(size, "The size"), theme):
            print(picture)


def _take_shots(folder: Path, size: tuple[int, int] = (1280, 800), theme: str = "day") -> list[Path]:
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from rushweed.ui.shots import take

    return take(folder, size, theme)


def main() -> None:
    """Carry out what the command line says."""
    known = {c.name or (c.callback.__name__ if c.callback else "") for c in app.registered_commands}
    known |= {str(group.name) for group in app.registered_groups}
    words = sys.argv[1:]
    if words[0] not in known and not words[0].startswith("-"):
        sys.argv.insert(1, "open")
    app(prog_name="rushweed")
