"""What the docs name is there."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from bench import results

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


def test_the_page_of_speed_tells_what_was_measured() -> None:
    kept = results.read()
    assert results.PAGE.read_text() == results.page(kept), "run: ./run bench"
    assert results.CHART.read_text() == results.chart(kept["growth"]), "run: ./run bench growth"
    assert set(kept["growth"]) >= {"read a PNG", "propose grids", "BC7", "ETC2"} and kept["machine"]["cores"]


def test_growth_is_told_as_a_power_of_the_px() -> None:
    measured = {
        "as the px": {"256": 0.02, "512": 0.08, "1024": 0.32}, "square": {"512": 0.1, "1024": 1.6},
        "too quick to say": {"256": 0.001, "512": 0.002},
    }  # fmt: skip
    found = results.growths(measured)
    assert round(found["as the px"], 3) == 1 and round(found["square"], 3) == 2 and len(found) == 2
