"""What all commands share: the app, how errors are told, how words become numbers."""

from __future__ import annotations

import inspect
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import fields, is_dataclass
from fnmatch import fnmatchcase
from functools import wraps
from pathlib import Path
from typing import Annotated, Any, TypeVar, get_args

import typer

from rushweed import __version__
from rushweed.core.document.errors import EditError, RushweedError, file_reason
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Layer, Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet, Transfer
from rushweed.core.store.folder import Folder

Part = TypeVar("Part", Animation, Level)

app = typer.Typer(add_completion=False, no_args_is_help=False, pretty_exceptions_enable=False)


def _print_version(wanted: bool) -> None:
    if wanted:
        print(f"rushweed {__version__}")
        raise typer.Exit


@app.callback()
def options(
    version: Annotated[
        bool, typer.Option("--version", help="Print the version.", callback=_print_version, is_eager=True)
    ] = False,
) -> None:
    """From a picture to a level that ships: the window, and the same work from a script."""


def grouped(command: Callable[..., None]) -> Callable[..., None]:
    """For a command with many options: each field of a parameter that is a dataclass becomes an option of its
    own, declared as a parameter would be."""
    declared = inspect.signature(command, eval_str=True).parameters.values()
    groups: dict[str, Any] = {one.name: one.annotation for one in declared if is_dataclass(one.annotation)}
    options: list[inspect.Parameter] = []
    for one in declared:
        alone = one.name not in groups
        parts = [one] if alone else inspect.signature(groups[one.name], eval_str=True).parameters.values()
        options += [part.replace(kind=inspect.Parameter.KEYWORD_ONLY) for part in parts]

    @wraps(command)
    def called(**given: Any) -> None:
        made = {
            name: group(**{field.name: given.pop(field.name) for field in fields(group)})
            for name, group in groups.items()
        }
        command(**given, **made)

    called.__annotations__ = {one.name: one.annotation for one in options}
    called.__signature__ = inspect.Signature(options)  # type: ignore[attr-defined]
    return called


def told_of(options: Any, *names: str) -> dict[str, Any]:
    """What was told of a group of options: those that are not None, of these names or of all."""
    return {
        field.name: getattr(options, field.name)
        for field in fields(options)
        if getattr(options, field.name) is not None and (not names or field.name in names)
    }


ProjectPath = Annotated[Path, typer.Argument(metavar="PROJECT", help="The project's folder.")]
AsJson = Annotated[bool, typer.Option("--json", help="Print JSON and nothing else.")]


def fail(error: RushweedError) -> None:
    print(f"rushweed: {error}", file=sys.stderr)
    raise typer.Exit(2)


@contextmanager
def errors_told() -> Iterator[None]:
    """A RushweedError inside becomes its sentence on stderr and exit code 2, and so does what the system
    says of a file."""
    try:
        yield
    except RushweedError as error:
        fail(error)
    except OSError as error:
        name = f"{error.filename} could not be used" if error.filename else "A file could not be used"
        fail(EditError(f"{name}: {file_reason(error)}.", "Check the path."))


@contextmanager
def changing(path: Path) -> Iterator[tuple[Folder, Project]]:
    """Open a project for writing; refused while a window has it."""
    folder = Folder(path)
    if not folder.is_project:
        folder.open()  # tells what is wrong
    if not folder.lock():
        raise EditError(f"{path} is open in another Rushweed.", "Close it there, then run this again.")
    try:
        project = folder.open()
        kept = folder.kept()
        if kept is not None:
            raise EditError(
                f"{path} holds {kept.edits} unsaved edits of a window that did not close.",
                "Open it once to take them back or discard them.",
            )
        yield folder, project
    finally:
        folder.unlock()


def find_sheet(project: Project, name: str) -> Sheet:
    """A sheet by name, id or name without its ending."""
    for sheet in project.sheets:
        if name in (sheet.name, sheet.id, Path(sheet.name).stem):
            return sheet
    raise EditError(
        f"The project has no sheet {name}.", f"It has: {', '.join(s.name for s in project.sheets) or 'none'}."
    )


def pair(text: str, what: str, marks: str = "x,") -> tuple[int, int]:
    """Two whole numbers such as 16x16 or 1,2; one number stands for both."""
    for mark in marks:
        text = text.replace(mark, " ")
    try:
        numbers = [int(part) for part in text.split()]
    except ValueError:
        numbers = []
    if len(numbers) == 1:
        numbers *= 2
    if len(numbers) != 2:
        raise EditError(f"{what} {text!r} is not two whole numbers.", "Write it as 16x16 or 1,1.")
    return numbers[0], numbers[1]


def transfer_named(name: str) -> Transfer:
    """How values are meant, by name. Raises EditError."""
    for transfer in get_args(Transfer):
        if name.lower() == transfer:
            return transfer  # type: ignore[no-any-return]
    raise EditError(f"There is no transfer {name!r}.", "Use srgb or linear.")


def four(text: str, what: str) -> tuple[int, int, int, int]:
    """Four whole numbers such as 0,0,16,16."""
    try:
        x, y, w, h = (int(part) for part in text.replace(",", " ").split())
    except ValueError:
        raise EditError(f"{what} {text!r} is not four whole numbers.", "Write it as 0,0,16,16.") from None
    return x, y, w, h


def find_animation(project: Project, name: str) -> Animation:
    """An animation by name or id."""
    return _named(project.animations, name, "animation")


def find_level(project: Project, name: str) -> Level:
    """A level by name or id."""
    return _named(project.levels, name, "level")


def _named(parts: tuple[Part, ...], name: str, what: str) -> Part:
    for part in parts:
        if name in (part.name, part.id):
            return part
    known = ", ".join(part.name for part in parts) or "none"
    raise EditError(f"The project has no {what} {name}.", f"It has: {known}.")


def find_layer(level: Level, name: str) -> Layer:
    """A layer of a level by name or id; the only one if no name is given."""
    if not name and len(level.layers) == 1:
        return level.layers[0]
    for layer in level.layers:
        if name and name in (layer.name, layer.id):
            return layer
    known = ", ".join(layer.name for layer in level.layers)
    raise EditError(f"{level.name} has no layer {name or 'without a name'}.", f"It has: {known}.")


def find_cells(project: Project, words: str, sheet: Sheet | None = None) -> list[Cell]:
    """Cells by their names, parted by commas; * stands for any letters. All of the sheet if empty."""
    sheets = [sheet] if sheet is not None else list(project.sheets)
    cells = [cell for s in sheets for cell in s.cells]
    if not words:
        return cells
    found: list[Cell] = []
    for word in words.split(","):
        mine = [c for c in cells if c.id == word or fnmatchcase(c.name, word.strip())]
        if not mine:
            where = sheet.name if sheet is not None else "the project"
            raise EditError(f"No cell of {where} is called {word.strip()}.", "Use names as in the Strip.")
        found += mine
    return list({cell.id: cell for cell in found}.values())


def find_tile(project: Project, name: str) -> Cell:
    """One cell by its very name or id; of several with one name the sheet says which, as sheet.png:name."""
    cells = [(sheet, cell) for sheet in project.sheets for cell in sheet.cells]
    found = [cell for _sheet, cell in cells if name in (cell.name, cell.id)]
    if not found:
        found = [cell for sheet, cell in cells if name == f"{sheet.name}:{cell.name}"]
    if not found:
        raise EditError(f"No cell is called {name}.", "Use a name as in the Strip.")
    if len(found) > 1:
        raise EditError(f"{len(found)} cells are called {name}.", "Say which, as in tiles.png:grass.")
    return found[0]
