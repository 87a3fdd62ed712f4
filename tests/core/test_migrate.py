"""Projects of formats whose fields had other names: read as they are, written anew by their present names."""

from __future__ import annotations

import shutil
from pathlib import Path

import msgspec
from msgspec.structs import replace

from rushweed.core.document.edit import change_cells, rename
from rushweed.core.document.model.project import FORMAT, Project
from rushweed.core.level.many_things import change_things
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.edit import give_common
from rushweed.core.ship.build import ship
from rushweed.core.ship.read_back import check_shipment
from rushweed.core.store.folder import HEAD, Folder
from rushweed.core.store.form import animation_text, head_text, level_text, sheet_text
from rushweed.core.store.migrate import RENAMED, has_old_names, present_names

NAMES = {old: new for old, new, _owner in RENAMED}


def with_old_names(text: str) -> str:
    for old, new in NAMES.items():
        if new != "layer":
            text = text.replace(f'"{new}":', f'"{old}":')
    return text


def made_old(root: Path) -> None:
    """The files of a project as format 6 wrote them."""
    for path in (root / HEAD, *root.glob("sheets/*.json"), *root.glob("levels/*.json")):
        text = with_old_names(path.read_text())
        if path.parent.name == "levels":  # of things alone
            text = "\n".join(
                line.replace('"layer":', '"over":') if '"shows":' in line else line
                for line in text.split("\n")
            )
        path.write_text(text.replace(f'"format": {FORMAT}', '"format": 6'))


def texts(project: Project) -> list[bytes]:
    """All that a project holds, as its files say it."""
    parts = [*map(sheet_text, project.sheets), *map(level_text, project.levels)]
    return [head_text(project, {}), *parts, *map(animation_text, project.animations)]


def names_in(root: Path) -> set[str]:
    return {
        old
        for path in (root / HEAD, *root.glob("*/*.json"))
        for old in NAMES
        if f'"{old}":' in path.read_text()
    }


def test_what_format_6_wrote_is_read_as_it_was_meant_and_written_by_the_present_names(
    demo_folder: Path,
) -> None:
    first = Folder(demo_folder)
    project = first.open()
    sheet = project.sheets[0]
    project = change_cells(
        project, [sheet.cells[1].id], lambda cell: replace(cell, copy_of=sheet.cells[0].id)
    )
    present = give_common(project, [sheet.cells[0].id], "top half", "one-way", "left")
    first.save(present)
    made_old(demo_folder)
    assert names_in(demo_folder) == NAMES.keys()
    folder = Folder(demo_folder)
    opened = folder.open()
    assert texts(opened) == texts(present)
    folder.save(rename(opened, opened.levels[0].id, "quay"))
    assert names_in(demo_folder) == set() and f'"format": {FORMAT}' in (demo_folder / HEAD).read_text()
    backup = demo_folder / ".rushweed" / f"before-format-{FORMAT}"
    assert names_in(backup) == NAMES.keys() and texts(Folder(backup).open()) == texts(present)
    assert folder.save(folder.on_disk) == 0, "all of it is written anew once"


def test_each_name_is_changed_where_it_is_a_field_and_nowhere_else() -> None:
    old = {
        "cells": [{"rect": [0, 0, 1, 1], "like": "x", "shapes": [{"form": "box", "stops": "left"}]}],
        "groups": [{"id": "g", "name": "misses", "misses": ["over"]}],
        "things": [{"shows": "a", "over": "b"}],
        "notes": {"over": 1, "like": 2},
    }
    new = msgspec.json.decode(present_names(msgspec.json.encode(old)))
    assert new == {
        "cells": [{"rect": [0, 0, 1, 1], "copy_of": "x", "shapes": [{"form": "box", "blocks_from": "left"}]}],
        "groups": [{"id": "g", "name": "misses", "ignores": ["over"]}],
        "things": [{"shows": "a", "layer": "b"}],
        "notes": {"over": 1, "like": 2},
    }
    assert not has_old_names(b'{"name": "over", "is": "like"}')
    for broken in (b'{"over": [', b'{"over": ' + b"[" * 600 + b"]" * 600 + b"}", b'{"over": "\xff"}'):
        assert present_names(broken) == broken


def test_edits_that_format_6_kept_are_not_lost(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    level = project.levels[0]
    moved = change_things(project, level.id, [t.id for t in level.things], turn=33.0)
    folder.keep(moved, 1)
    made_old(demo_folder)
    for path in (demo_folder / ".rushweed").rglob("*.json"):
        path.write_text("\n".join(
            line.replace('"layer":', '"over":') if '"shows":' in line else line
            for line in with_old_names(path.read_text()).split("\n")
        ))  # fmt: skip
    again = Folder(demo_folder)
    again.open()
    kept = again.kept()
    assert kept is not None and kept.project.levels[0].things == moved.levels[0].things


def test_a_shipment_of_manifest_format_2_is_read_back(demo_folder: Path, tmp_path: Path) -> None:
    project, out = Folder(demo_folder).open(), tmp_path / "out"
    ship(project, PixelCache(demo_folder), out)
    now = check_shipment(out)
    old = tmp_path / "old"
    shutil.copytree(out, old)
    for path in (old / "manifest.json", *old.glob("levels/*.json")):
        path.write_text(with_old_names(path.read_text()).replace('"format": 3', '"format": 2'))
    assert '"stops":' in (old / "manifest.json").read_text()
    before = check_shipment(old)
    assert before.levels.keys() == now.levels.keys()
    assert before.manifest.sheets == now.manifest.sheets and before.manifest.groups == now.manifest.groups
