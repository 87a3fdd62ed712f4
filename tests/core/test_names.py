"""Names for many cells at once."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rushweed.core.cut.names import name_cells, replace_in_names
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell
from rushweed.core.pixels.cache import PixelCache
from tests.conftest import named, project_with, sheet_of_size

Demo = tuple[Project, PixelCache]


def names(project: Project, sheet: str) -> list[str]:
    return [c.name for c in named(project, sheet).cells]


def test_a_pattern_counts_the_selected_cells_in_the_sheets_order(demo: Demo) -> None:
    project, _ = demo
    sheet = named(project, "wren.png")
    ids = [c.id for c in reversed(sheet.cells[4:12])]
    made = name_cells(project, sheet.id, ids, "stroll_{n:02}")
    assert names(made, "wren.png")[4:12] == [f"stroll_{n:02}" for n in range(8)]
    assert named(made, "wren.png").cells[0] is sheet.cells[0]


def test_rows_columns_sheet_and_old_names_can_stand_in_a_pattern(demo: Demo) -> None:
    project, _ = demo
    sheet = named(project, "wren.png")
    made = name_cells(project, sheet.id, [c.id for c in sheet.cells], "{sheet}_{row}_{col}")
    assert names(made, "wren.png")[5] == "wren_1_1" and names(made, "wren.png")[-1] == "wren_3_5"
    made = name_cells(project, sheet.id, [sheet.cells[2].id], "old {name} {i:03}")
    assert names(made, "wren.png")[2] == "old idle_2 002"


def test_a_pattern_without_a_number_still_gives_each_its_own_name(demo: Demo) -> None:
    project, _ = demo
    sheet = named(project, "wren.png")
    made = name_cells(project, sheet.id, [c.id for c in sheet.cells[:3]], "rest")
    assert names(made, "wren.png")[:3] == ["rest_0", "rest_1", "rest_2"]
    made = name_cells(project, sheet.id, [sheet.cells[0].id], "walk_0")
    assert names(made, "wren.png")[0] == "walk_2" or names(made, "wren.png")[0].startswith("walk_")
    assert len(set(names(made, "wren.png"))) == 22


@pytest.mark.parametrize("pattern", ["{colour}", "", "   ", "{n}{what}"])
def test_unknown_tokens_and_empty_names_are_refused(demo: Demo, pattern: str) -> None:
    project, _ = demo
    sheet = named(project, "wren.png")
    with pytest.raises(EditError) as error:
        name_cells(project, sheet.id, [sheet.cells[0].id], pattern)
    assert error.value.cure


def test_nothing_selected_is_refused_and_the_same_names_change_nothing(demo: Demo) -> None:
    project, _ = demo
    sheet = named(project, "wren.png")
    with pytest.raises(EditError):
        name_cells(project, sheet.id, [], "x_{n}")
    assert name_cells(project, sheet.id, [c.id for c in sheet.cells], "{name}") is project


def test_words_are_replaced_only_in_the_names_that_hold_them(demo: Demo) -> None:
    project, _ = demo
    sheet = named(project, "wren.png")
    ids = [c.id for c in sheet.cells]
    made = replace_in_names(project, sheet.id, ids, "walk", "stride")
    assert sum(n.startswith("stride_") for n in names(made, "wren.png")) == 8
    assert named(made, "wren.png").cells[0] is sheet.cells[0]
    assert replace_in_names(project, sheet.id, ids, "nowhere", "x") is project
    with pytest.raises(EditError):
        replace_in_names(project, sheet.id, ids, "", "x")
    with pytest.raises(EditError):
        replace_in_names(project, sheet.id, [ids[0]], "idle_0", " ")


@given(st.lists(st.text("ab_0{}n", min_size=1, max_size=6), min_size=2, max_size=6), st.data())
def test_names_are_unique_whatever_the_pattern(old: list[str], data: st.DataObject) -> None:
    cells = tuple(Cell(f"c{i}", f"{name}{i}", (i * 8, 0, 8, 8), (0, 0)) for i, name in enumerate(old))
    project = project_with(sheet_of_size(64, 8, cells=cells))
    pattern = data.draw(st.sampled_from(["a", "a_{n}", "{name}", "{row}", "b{i:02}", "{sheet}"]))
    ids = data.draw(st.lists(st.sampled_from([c.id for c in cells]), min_size=1, unique=True))
    made = name_cells(project, "sheet1", ids, pattern).sheets[0].cells
    assert len({c.name for c in made}) == len(cells)
    assert all(a is b for a, b in zip(made, cells, strict=True) if a.id not in ids)
