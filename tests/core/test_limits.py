"""What an edit takes can be saved and opened again; what could not is refused in a sentence."""

from __future__ import annotations

import math
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rushweed.core.animate import timeline
from rushweed.core.document.edit import rename, set_credit, set_group
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.limits import check_values
from rushweed.core.document.model import Path as Track
from rushweed.core.document.model import Project
from rushweed.core.level.edit import add_level, change_layer, set_start
from rushweed.core.level.things import place_thing
from rushweed.core.store.folder import Folder
from rushweed.core.store.form import animation_text, level_text, sheet_text
from rushweed.core.tune import recipe
from rushweed.core.tune.edit import set_pivot_px, tune_sheets

NUMBERS = st.one_of(
    st.floats(), st.integers(-(10**12), 10**12), st.sampled_from([math.nan, math.inf, -0.0, 1e300, 5e-324])
)
TEXTS = st.one_of(
    st.text(max_size=40), st.sampled_from(["\ud800", "²", "a\nb", "\0", "", " ", "../x", "x" * 20_000, "ß²①"])
)


def edits(base: Project, number: float, text: str):  # type: ignore[no-untyped-def]
    """One edit of each kind with a wild number or text."""
    sheet, level, moving = base.sheets[0], base.levels[0], base.animations[0]
    cell, layer = sheet.cells[0], level.layers[-1]
    whole = int(number) if math.isfinite(number) else 0
    yield lambda: add_level(base, text, (whole, whole))[0]
    yield lambda: timeline.set_ms(base, moving.id, whole)
    yield lambda: timeline.set_rate(base, moving.id, number)
    yield lambda: timeline.set_path(base, moving.id, Track((number, 1.0), whole))
    yield lambda: timeline.set_state(base, sheet.id, text, moving.id)
    yield lambda: set_start(base, level.id, number, number)
    yield lambda: change_layer(base, level.id, layer.id, opacity_percent=number, name=text)
    yield lambda: place_thing(base, level.id, cell.id, (number, number), layer.id)[0]
    yield lambda: rename(base, level.id, text)
    yield lambda: rename(base, sheet.id, text)
    yield lambda: set_group(base, [sheet.id], text)
    yield lambda: set_credit(base, sheet.id, author=text, licence=text)
    yield lambda: tune_sheets(base, [sheet.id], ppu=number, gutter=whole, limit=whole, group=text)
    yield lambda: set_pivot_px(base, [cell.id], number, number)
    yield lambda: recipe.change(base, "smooth", gutter=whole, name=text)


def texts(project: Project) -> list[bytes]:
    parts = (*map(sheet_text, project.sheets), *map(level_text, project.levels))
    return [*parts, *map(animation_text, project.animations)]


@pytest.fixture(scope="module")
def opened(demo_master: Path) -> Project:
    return Folder(demo_master).open()


@given(number=NUMBERS, text=TEXTS)
@settings(max_examples=10)
def test_what_an_edit_takes_is_saved_and_opened_again(
    opened: Project, tmp_path_factory: pytest.TempPathFactory, number: float, text: str
) -> None:
    for edit in edits(opened, number, text):
        try:
            made = edit()
            check_values(opened, made)
        except RushweedError as error:
            assert str(error).isprintable() and len(str(error)) < 1200
            continue
        path = tmp_path_factory.mktemp("held") / "game"
        folder = Folder(path)
        path.mkdir()
        folder.save(made)
        assert texts(Folder(path).open()) == texts(made)


def test_half_a_letter_is_refused_by_the_folder_too(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    bad = rename(project, project.levels[0].id, "a\ud800")
    for work in (lambda: folder.save(bad), lambda: folder.keep(bad, 1)):
        with pytest.raises(RushweedError, match="half a letter"):
            work()
    assert texts(Folder(demo_folder).open()) == texts(project)
