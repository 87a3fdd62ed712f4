"""The last ten saves are kept whole and share what did not change."""

from __future__ import annotations

import os
from pathlib import Path

from msgspec.structs import replace

from rushweed.core.document.edit import rename
from rushweed.core.document.model.sheet import Sheet, Source
from rushweed.core.store.folder import Folder
from rushweed.core.store.saves import MOST, remember, saves_of, what_changed


def test_ten_saves_are_kept_and_share_their_files(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    level = project.levels[0]
    for n in range(13):
        project = rename(project, level.id, f"pier {n}")
        folder.save(project)
        remember(folder, folder.texts(), 1_700_000_000 + 60 * n)
    kept = saves_of(folder)
    assert len(kept) == MOST and [s.project().levels[0].name for s in kept[:2]] == ["pier 12", "pier 11"]
    assert what_changed(kept[0], kept[1]) == "pier" and what_changed(kept[-1], None) == "the first one kept"
    inodes = {os.stat(s.path / "sheets" / "wren.json").st_ino for s in kept}
    assert len(inodes) == 1, "what did not change is there once"
    assert os.stat(demo_folder / "sheets" / "wren.json").st_ino not in inodes, "never the project's own file"
    before = kept[1].project()
    (demo_folder / "levels" / "pier.json").write_text("spoilt in place")
    assert kept[0].project().levels[0].name == "pier 12" and before.levels[0].name == "pier 11"


def test_a_linked_place_is_left_alone_and_a_save_stands_without_it(demo_folder: Path, tmp_path: Path) -> None:
    (tmp_path / "elsewhere").mkdir()
    (demo_folder / ".rushweed" / "saves").symlink_to(tmp_path / "elsewhere")
    folder = Folder(demo_folder)
    folder.open()
    assert remember(folder, folder.texts()) is None and saves_of(folder) == []
    assert list((tmp_path / "elsewhere").iterdir()) == []


def test_very_many_files_are_looked_at_a_hundred_at_a_time(tmp_path: Path) -> None:
    folder, project = Folder.create(tmp_path / "p", "P")
    sheets = tuple(Sheet(f"s{n}", f"s{n}.png", Source(f"art/{n}.png", "0" * 64, (8, 8))) for n in range(250))
    folder.save(replace(project, sheets=sheets))
    assert not any(folder.looks_changed() for _ in range(6))
    last = folder.path / "sheets" / "s249.json"
    last.write_bytes(last.read_bytes() + b" ")
    seen = [folder.looks_changed() for _ in range(6)]
    assert any(seen[:3]) and any(seen[3:])
