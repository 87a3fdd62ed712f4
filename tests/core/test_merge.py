"""Two versions of a project that come from a third are brought together, also through real git."""

from __future__ import annotations

import subprocess
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace

from rushweed.core.document.edit import rename
from rushweed.core.document.model.project import Project
from rushweed.core.level.chunks import cell_at
from rushweed.core.level.edit import erase, paint
from rushweed.core.level.levels import add_level
from rushweed.core.level.merge import merge
from rushweed.core.level.stamp import Stamp
from rushweed.core.store.folder import ChangedOutside, Folder
from rushweed.core.tune.edit import tune_sheets
from tests.conftest import named


def tile_layer(project: Project):  # type: ignore[no-untyped-def]
    level = project.levels[0]
    return level, next(x for x in level.layers if hasattr(x, "tiles"))


def with_tile(project: Project, x: int, y: int, cell: str) -> Project:
    level, layer = tile_layer(project)
    stamp = Stamp((cell,), np.array([[1]]), np.array([[0]]))
    return paint(project, level.id, layer.id, stamp, (np.array([x]), np.array([y])))


def tile_at(project: Project, x: int, y: int) -> str:
    level, layer = tile_layer(project)
    value = cell_at(layer.tiles, x, y)
    return level.table[(value >> 3) - 1] if value else ""


@pytest.fixture
def base(demo_folder: Path) -> Project:
    return Folder(demo_folder).open()


def test_different_parts_come_together_and_nothing_clashes(base: Project) -> None:
    wren, crate = named(base, "wren.png"), named(base, "crate.png")
    ours, made = add_level(tune_sheets(base, [wren.id], ppu=32), "mine", (8, 8))
    theirs, new = add_level(tune_sheets(base, [crate.id], gutter=3), "theirs", (8, 8))
    theirs = rename(theirs, base.levels[0].id, "quay")
    found = merge(base, ours, theirs)
    assert not found.clashes
    assert (
        named(found.project, "wren.png").tune.ppu == 32 and named(found.project, "crate.png").tune.gutter == 3
    )
    assert {made, new} <= {v.id for v in found.project.levels} and found.project.levels[0].name == "quay"
    assert merge(base, ours, base).project is ours and "quay" in found.brought


def test_one_sheet_changed_on_both_sides_field_by_field(base: Project) -> None:
    wren = named(base, "wren.png")
    ours, theirs = tune_sheets(base, [wren.id], ppu=32), tune_sheets(base, [wren.id], filter="linear")
    both = named(merge(base, ours, theirs).project, "wren.png").tune
    assert (both.ppu, both.filter) == (32, "linear")
    clash = merge(base, ours, tune_sheets(base, [wren.id], ppu=8))
    assert clash.clashing == ("wren.png",) and named(clash.project, "wren.png").tune.ppu == 32
    taken = merge(base, ours, tune_sheets(base, [wren.id], ppu=8), prefer_theirs={wren.id})
    assert named(taken.project, "wren.png").tune.ppu == 8


def test_one_layer_painted_on_both_sides_cell_by_cell(base: Project) -> None:
    level = base.levels[0]
    unused = [c.id for c in named(base, "boardwalk.png").cells if c.id not in level.table][:2]
    ours, theirs = with_tile(base, 3, 3, unused[0]), with_tile(base, 40, 70, unused[1])
    level, layer = tile_layer(theirs)
    theirs = erase(theirs, level.id, layer.id, (np.array([5]), np.array([9])))
    found = merge(base, ours, theirs)
    assert not found.clashes
    assert (tile_at(found.project, 3, 3), tile_at(found.project, 40, 70)) == (unused[0], unused[1])
    assert tile_at(found.project, 5, 9) == ""
    left, top, columns, rows = found.project.levels[0].bounds
    assert top + rows > 70 and left <= 3
    for x, y in ((0, 10), (8, 11), (20, 9)):
        assert tile_at(found.project, x, y) == tile_at(base, x, y)
    clash = merge(base, ours, with_tile(base, 3, 3, unused[1]))
    assert clash.clashes and tile_at(clash.project, 3, 3) == unused[0]


def test_a_part_removed_there_goes_unless_it_was_changed_here(base: Project) -> None:
    level = base.levels[0]
    theirs = replace(base, levels=base.levels[1:])
    assert level.id not in {v.id for v in merge(base, base, theirs).project.levels}
    kept = merge(base, rename(base, level.id, "mine"), theirs)
    assert kept.clashing == ("mine",) and level.id in {v.id for v in kept.project.levels}


def git(folder: Path, *words: str) -> str:
    ran = subprocess.run(
        ["git", "-c", "user.name=A", "-c", "user.email=a@b.c", *words],
        cwd=folder,
        capture_output=True,
        text=True,
    )
    assert ran.returncode == 0, ran.stderr
    return ran.stdout


def test_a_branch_switched_and_merged_while_the_project_is_open(demo_folder: Path) -> None:
    git(demo_folder, "init", "-q", "-b", "main")
    (demo_folder / ".gitignore").write_text(".rushweed/\n")
    git(demo_folder, "add", ".")
    git(demo_folder, "commit", "-qm", "start")
    git(demo_folder, "checkout", "-qb", "other")
    other = Folder(demo_folder)
    project = other.open()
    other.save(rename(project, project.levels[0].id, "harbour"))
    git(demo_folder, "commit", "-qam", "harbour")
    git(demo_folder, "checkout", "-q", "main")

    window = Folder(demo_folder)
    assert window.lock()
    project = window.open()
    git(demo_folder, "merge", "-q", "other")
    ours = tune_sheets(project, [named(project, "wren.png").id], ppu=48)
    with pytest.raises(ChangedOutside, match="pier"):
        window.save(ours)
    again = Folder(demo_folder)
    found = merge(project, ours, again.open())
    window.take_up(again)
    window.save(found.project)
    saved = Folder(demo_folder).open()
    assert saved.levels[0].name == "harbour" and named(saved, "wren.png").tune.ppu == 48
    assert sorted(git(demo_folder, "diff", "--name-only").split()) == ["sheets/wren.json"]
    git(demo_folder, "clean", "-xdfq")  # takes the lock's file away
    window.save(rename(found.project, found.project.levels[0].id, "again"))
    assert not Folder(demo_folder).lock(), "the lock has been taken anew"
    window.unlock()
