"""Project files with wild values get a sentence or are used as they are; nothing raises or takes long."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from rushweed.core.document.errors import RushweedError
from rushweed.core.store.folder import Folder
from tests.attacks.projects import attack, used


@pytest.mark.parametrize("seed", range(5))
def test_wild_values_in_project_files(demo_master: Path, seed: int) -> None:
    for n in range(3):
        attack(demo_master, 1000 * seed + n)


@pytest.mark.parametrize("seed", [736, 400025])
def test_seeds_that_found_something_once(demo_master: Path, seed: int) -> None:
    attack(demo_master, seed)


def test_a_picture_smaller_than_its_sheet_says_is_told_each_time(demo_folder: Path, tmp_path: Path) -> None:
    path = demo_folder / "sheets" / "heron.json"
    data = json.loads(path.read_text())
    data["source"]["crop"][2] -= 1
    path.write_text(json.dumps(data))
    used(demo_folder, tmp_path / "out")


def test_a_small_file_of_a_vast_level_is_refused_before_it_costs(demo_folder: Path) -> None:
    path = demo_folder / "levels" / "pier.json"
    data = json.loads(path.read_text())
    data["bounds"] = [0, 0, 16384, 16384]
    path.write_text(json.dumps(data))
    with pytest.raises(RushweedError, match="cells on 4 layers"):
        Folder(demo_folder).open()


def test_equal_parts_of_a_level_are_held_once(demo_folder: Path) -> None:
    path = demo_folder / "levels" / "pier.json"
    data = json.loads(path.read_text())
    layer = next(x for x in data["layers"] if x["kind"] == "tiles")
    data["bounds"], data["layers"], data["things"] = [0, 0, 4096, 4096], [layer], []
    layer["rows"] = ["4096x1"] * 4096
    path.write_text(json.dumps(data))
    chunks = Folder(demo_folder).open().levels[0].layers[0].tiles.chunks  # type: ignore[union-attr]
    assert len(chunks) == 128 * 128 and len({id(chunk) for chunk in chunks}) == 1
