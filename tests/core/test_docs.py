"""What the docs name is there."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src" / "rushweed"
DOCS = ("architecture.md", "recipes.md", "safety.md")


@pytest.mark.parametrize("name", DOCS)
def test_every_file_that_is_named_exists(name: str) -> None:
    known = {p.name for p in ROOT.rglob("*") if ".venv" not in p.parts and ".git" not in p.parts}
    for named in re.findall(r"`([\w./]+\.(?:py|json|md))`", (ROOT / "docs" / name).read_text()):
        place = any((base / named).exists() for base in (ROOT, SOURCE, ROOT / "docs", SOURCE / "ui"))
        assert place or ("/" not in named and named in known), named


def test_links_of_the_readme_and_the_docs_lead_somewhere() -> None:
    for page in (ROOT / "README.md", ROOT / "CONTRIBUTING.md", *(ROOT / "docs").glob("*.md")):
        for link in re.findall(r"\]\(([^)#:]+)\)", page.read_text()):
            assert (page.parent / link).exists(), f"{page.name}: {link}"


def test_the_picture_of_the_rooms_shows_the_imports_as_they_are() -> None:
    from bench.architecture import TARGET, drawn

    assert TARGET.read_text() == drawn(), "draw it anew: python -m bench.architecture"
