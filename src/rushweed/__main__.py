"""`rushweed`: the window at once where that is all that is asked for, else the command line."""

from __future__ import annotations

import os
import sys
from pathlib import Path


def main() -> None:
    words = sys.argv[1:]
    if "" in words:
        print("rushweed: One of the words is empty. Give a folder, a file or a name.", file=sys.stderr)
        sys.exit(2)
    asked = words[1:] if words[:1] == ["open"] else words
    shows = words[:1] in ([], ["open"]) or os.sep in words[0]
    if shows and not any(word.startswith("-") for word in asked):
        from rushweed.ui.start import run  # and nothing of the command line

        sys.exit(run([Path(word) for word in asked]))
    from rushweed.command_line import main as carry_out

    carry_out()


if __name__ == "__main__":
    main()
