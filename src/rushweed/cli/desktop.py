"""`rushweed desktop`: take a place among a person's applications, and leave it again."""

from __future__ import annotations

from typing import Annotated

import typer

from rushweed.app.desktop import Command, Option, install, remove
from rushweed.cli.common import app, errors_told
from rushweed.core.document.errors import EditError


@app.command()
def desktop(
    put_in: Annotated[
        bool, typer.Option("--install", help="Menu entry, icon, man page, completions.")
    ] = False,
    take_out: Annotated[bool, typer.Option("--remove", help="Take all of it out again.")] = False,
) -> None:
    """Put Rushweed among this user's applications, or take it out."""
    with errors_told():
        if put_in == take_out:
            raise EditError("Nothing is said to be done.", "Use --install or --remove.")
        for path in (install if put_in else remove)(described()):
            print(path)


def described() -> list[Command]:
    """Every command with its arguments and options, by name."""
    found: list[Command] = []
    for name, command in sorted(typer.main.get_command(app).commands.items()):  # type: ignore[attr-defined]
        options, arguments = [], []
        for part in command.params:
            if part.param_type_name == "option":
                options.append(Option((*part.opts, *part.secondary_opts), part.help or ""))
            else:
                arguments.append(str(part.metavar or part.name.upper()))
        for sub, below in sorted(getattr(command, "commands", {}).items()):
            options.append(Option((sub,), " ".join((below.help or "").split())))
        words = " ".join((command.help or "").split("\n\n")[0].split())
        found.append(Command(name, words, tuple(arguments), tuple(options)))
    return found
