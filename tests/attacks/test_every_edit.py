"""What any edit takes is saved and opened again; what it does not take gets a sentence."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rushweed.core.pixels.cache import PixelCache
from rushweed.core.store.folder import Folder
from tests.attacks.edits import attack_edits, edit_functions


def test_the_edit_functions_are_found() -> None:
    found = edit_functions()
    assert len(found) > 100
    for name in (
        "cut.hand.join_cells",
        "level.edit.paint",
        "shape.groups.set_material",
        "tune.recipe.change",
    ):
        assert name in found


@given(seed=st.integers(0, 2**32))
@settings(max_examples=2, deadline=None)
def test_what_any_edit_takes_is_saved_and_opened_again(
    demo_master: Path, tmp_path_factory: pytest.TempPathFactory, seed: int
) -> None:
    path = tmp_path_factory.mktemp("edits") / "game"
    shutil.copytree(demo_master, path)
    folder = Folder(path)
    held, refused = attack_edits(folder, folder.open(), PixelCache(path), seed)
    assert held > 40 and refused > 5
