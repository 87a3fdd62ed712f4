"""`python -m bench.guide`: the guide of docs/ as the HTML that the window shows, into the package."""

from __future__ import annotations

import re
from pathlib import Path

from markdown_it import MarkdownIt

HERE = Path(__file__).parents[1]
GUIDE = HERE / "docs" / "guide.md"
PAGE = HERE / "src" / "rushweed" / "assets" / "guide.html"


def made() -> str:
    """The guide with a place to go to at each head; pictures and links to other files are left out."""
    text = GUIDE.read_text(encoding="utf-8")
    text = re.sub(r"!\[[^\]]*\]\([^)]*\)\s*", "", text)
    text = re.sub(r"\[([^\]]+)\]\((?!#)[^)]*\)", r"\1", text)
    html = str(MarkdownIt("commonmark").enable("table").render(text))
    return re.sub(r"<h([12])>(.*?)</h\1>", _with_place, html)


def _with_place(found: re.Match[str]) -> str:
    level, words = found.groups()
    place = re.sub(r"[^a-z]+", "-", words.lower()).strip("-")
    return f'<h{level}><a name="{place}"></a>{words}</h{level}>'


if __name__ == "__main__":
    PAGE.write_text(made(), encoding="utf-8")
    print(PAGE)
