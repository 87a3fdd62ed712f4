"""The whole level small, and where levels stand beside each other."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace

from rushweed.core.document.edit import level_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.level import TileLayer
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.edit import paint
from rushweed.core.level.levels import add_level, board_places, change_level, is_empty, set_cell
from rushweed.core.level.overview import mean_colours, overview
from rushweed.core.level.stamp import from_grid, single
from tests.conftest import project_with, sheet_of_size

CELLS = tuple(Cell(f"c{i}", f"c{i}", (i * 4, 0, 4, 4), (0, 0)) for i in range(3))
SHEET = np.zeros((4, 12, 4), np.uint8)
SHEET[:, :4] = (200, 100, 0, 255)
SHEET[:2, 4:8] = (0, 0, 250, 255)  # half of it is clear


def test_each_cell_is_the_mean_of_its_tile_and_large_levels_are_thinned_out() -> None:
    project, level_id = add_level(
        project_with(sheet_of_size(12, 4, cells=CELLS)), "quay", (4, 4), size=(6, 4)
    )
    layer = level_of(project, level_id).layers[0].id
    stamp = from_grid([["c0", "c1", "c2"]])
    project = paint(project, level_id, layer, stamp, (np.array([0]), np.array([0])))
    level = level_of(project, level_id)
    colours = mean_colours(project, level, lambda _s: SHEET)
    assert colours.tolist() == [[0, 0, 0, 0], [200, 100, 0, 255], [0, 0, 250, 128], [0, 0, 0, 0]]
    small = overview(level, colours, (100, 100))
    assert small.step == 1 and small.rgba.shape == (4, 6, 4)
    assert small.rgba[0, :3].tolist() == colours[1:].tolist() and not small.rgba[1:].any()
    thin = overview(level, colours, (3, 3))
    assert thin.step == 2 and thin.rgba.shape == (2, 3, 4) and thin.rgba[0, 0].tolist() == [200, 100, 0, 255]
    ground = level.layers[0]
    assert isinstance(ground, TileLayer)
    hidden = replace(level, layers=(replace(ground, shown=False),))
    assert not overview(hidden, colours, (100, 100)).rgba.any()


def test_levels_that_were_not_placed_stand_in_a_row_at_the_right() -> None:
    project, one = add_level(project_with(), "one", (8, 8), size=(10, 5))
    project, two = add_level(project, "two", (16, 16), size=(4, 4))
    project, three = add_level(project, "three", (8, 8), size=(2, 2))
    assert board_places(project) == {one: (0, 0), two: (80 + 32, 0), three: (112 + 64 + 16, 0)}
    project = change_level(project, two, board=(-64, 24))
    assert board_places(project) == {two: (-64, 24), one: (0 + 16, 24), three: (16 + 80 + 16, 24)}


def test_only_an_empty_level_takes_another_cell_size() -> None:
    project, level_id = add_level(project_with(sheet_of_size(12, 4, cells=CELLS)), "quay", (8, 8))
    made = set_cell(project, level_id, (4, 4))
    level = level_of(made, level_id)
    assert level.cell == (4, 4) and level.start == tuple(v / 2 for v in level_of(project, level_id).start)
    assert set_cell(made, level_id, (4, 4)) is made
    painted = paint(made, level_id, level.layers[0].id, single("c0"), (np.array([0]), np.array([0])))
    assert is_empty(level) and not is_empty(level_of(painted, level_id))
    with pytest.raises(EditError, match="holds tiles"):
        set_cell(painted, level_id, (8, 8))
    with pytest.raises(EditError, match="cannot have cells"):
        set_cell(project, level_id, (0, 8))
