"""History, ids and the edits every stage shares."""

import gc

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.document import history as history_module
from rushweed.core.document.edit import remove_sheet, rename, rename_cell, set_credit, uses_of_sheet
from rushweed.core.document.errors import EditError
from rushweed.core.document.history import MOST_STEPS, History
from rushweed.core.document.ids import natural_key, new_id, unique_name, unique_names
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell
from tests.conftest import named, project_with, sheet_of_size


def test_undo_goes_back_to_the_very_same_value_and_redo_forward() -> None:
    first = project_with()
    history = History(first)
    second, third = replace(first, name="second"), replace(first, name="third")
    history.do("Two", second)
    history.do("Three", third)
    assert (history.undo_label, history.redo_label) == ("Three", None)
    assert history.undo() == "Three" and history.project is second
    assert history.undo() == "Two" and history.project is first
    assert history.undo() is None
    assert history.redo() == "Two" and history.project is second
    history.do("Other", first)
    assert history.redo_label is None


def test_steps_with_one_merge_key_become_one_until_sealed() -> None:
    start = project_with()
    history = History(start)
    for name in "abc":
        history.do("Type", replace(start, name=name), merge="name")
    history.seal()
    history.do("Type", replace(start, name="d"), merge="name")
    assert history.undo() and history.project.name == "c"
    assert history.undo() and history.project is start


def test_history_keeps_a_bounded_number_of_steps_and_ignores_no_change() -> None:
    project = project_with()
    history = History(project)
    assert not history.do("Nothing", project)
    for i in range(MOST_STEPS + 20):
        history.do("Step", replace(project, name=str(i)))
    steps = 0
    while history.undo():
        steps += 1
    assert steps == MOST_STEPS


@given(st.lists(st.sampled_from(["do", "undo", "redo"]), max_size=40))
def test_history_behaves_like_a_list_with_a_place_in_it(moves: list[str]) -> None:
    project = project_with()
    history, model, place = History(project), [project], 0
    for i, move in enumerate(moves):
        if move == "do":
            made = replace(project, name=str(i))
            history.do("Step", made)
            model[place + 1 :] = [made]
            place += 1
        elif move == "undo" and place:
            history.undo()
            place -= 1
        elif move == "redo" and place + 1 < len(model):
            history.redo()
            place += 1
        assert history.project is model[place]


@given(st.lists(st.sampled_from(["a", "b", "a_2", "a_3", "b_2"]), max_size=30))
def test_names_made_unique_are_unique_and_keep_their_stem(names: list[str]) -> None:
    made = unique_names(names)
    assert len(set(made)) == len(names)
    assert all(a.split("_")[0] == b.split("_")[0] for a, b in zip(names, made, strict=True))


def test_unique_name_counts_on() -> None:
    assert unique_name("reed", ["post"]) == "reed"
    assert unique_name("reed", ["reed", "reed_2"]) == "reed_3"


def test_natural_order_puts_2_before_10() -> None:
    names = ["run_10", "run_2", "Run_1", "run"]
    assert sorted(names, key=natural_key) == ["run", "Run_1", "run_2", "run_10"]


def test_ids_do_not_repeat() -> None:
    assert len({new_id() for _ in range(5000)}) == 5000


def test_renaming_a_cell_keeps_names_unique_and_others_shared() -> None:
    cells = tuple(Cell(i, i, (k * 8, 0, 8, 8), (0, 0)) for k, i in enumerate("abc"))
    project = project_with(sheet_of_size(24, 8, cells=cells))
    made = rename_cell(project, "a", "b")
    assert [c.name for c in made.sheets[0].cells] == ["b_2", "b", "c"]
    assert made.sheets[0].cells[1] is cells[1]
    assert rename_cell(project, "a", "a") is project
    with pytest.raises(EditError):
        rename_cell(project, "a", "  ")
    with pytest.raises(EditError):
        rename_cell(project, "zz", "name")


def test_a_removed_sheet_leaves_its_levels_and_is_named_as_used(demo: tuple[Project, object]) -> None:
    project, _stock = demo
    sheet = named(project, "boardwalk.png")
    assert uses_of_sheet(project, sheet.id) == ["pier"]
    assert uses_of_sheet(project, named(project, "sky.png").id) == ["pier"]
    less = remove_sheet(project, sheet.id)
    assert less.levels is project.levels and len(less.sheets) == len(project.sheets) - 1


def test_credit_and_names(demo: tuple[Project, object]) -> None:
    project, _stock = demo
    lamps, crate = named(project, "lamps.png"), named(project, "crate.png")
    made = set_credit(project, [lamps.id, crate.id], licence=" CC-BY-4.0 ")
    assert {named(made, n).credit.licence for n in ("lamps.png", "crate.png")} == {"CC-BY-4.0"}
    assert rename(project, lamps.id, "crate.png").sheets[3].name == "crate.png_2"
    assert rename(project, project.levels[0].id, "quay").levels[0].name == "quay"


def test_any_step_can_be_gone_to(monkeypatch: pytest.MonkeyPatch) -> None:
    history = History(Project("p", "start"))
    for name in ("a", "b", "c"):
        history.do(f"Call it {name}", replace(history.project, name=name))
    assert history.labels == ["Call it a", "Call it b", "Call it c"] and history.place == 3
    assert history.go_to(1) and history.project.name == "a" and history.place == 1
    assert history.labels == ["Call it a", "Call it b", "Call it c"]
    assert not history.go_to(1)
    assert history.go_to(99) and history.project.name == "c"
    assert history.go_to(-5) and history.project.name == "start" and history.undo_label is None
    history.go_to(2)
    history.do("Call it d", replace(history.project, name="d"))
    assert history.labels == ["Call it a", "Call it b", "Call it d"] and history.whole
    monkeypatch.setattr(history_module, "MOST_STEPS", 3)
    history.do("Call it e", replace(history.project, name="e"))
    assert not history.whole and history.labels == ["Call it b", "Call it d", "Call it e"]


def test_the_collector_of_garbage_does_not_look_at_what_a_project_holds(demo: tuple[Project, object]) -> None:
    project, _stock = demo
    cells = [cell for sheet in project.sheets for cell in sheet.cells]
    layers = [layer for level in project.levels for layer in level.layers]
    shapes = [shape for cell in cells for shape in cell.shapes]
    assert cells and layers and shapes
    assert not any(gc.is_tracked(part) for part in (project, *project.sheets, *cells, *layers, *shapes))
