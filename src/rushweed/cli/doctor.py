"""`rushweed doctor`: whether all it needs is here, and what to do where it is not."""

from __future__ import annotations

import json

import typer

from rushweed.app.doctor import look
from rushweed.cli.common import AsJson, app


@app.command()
def doctor(as_json: AsJson = False) -> None:
    """Look at what Rushweed needs on this machine; exit 1 if something is wrong."""
    found = look()
    if as_json:
        print(json.dumps([answer._asdict() for answer in found], ensure_ascii=False))
    else:
        wide = max(len(answer.name) for answer in found)
        for answer in found:
            print(f"{answer.name:{wide}}  {answer.found}")
            if answer.cure:
                print(f"{'':{wide}}  -> {answer.cure}")
    if any(answer.cure for answer in found):
        raise typer.Exit(1)
