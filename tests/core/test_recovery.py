"""Edits left behind wait in a place of their own."""

from __future__ import annotations

import os
import time
from pathlib import Path

import msgspec

from rushweed.core.document.edit import rename
from rushweed.core.store.folder import Folder
from rushweed.core.store.recovery import KEPT_S, answer, put_away, recover, recovered


def crashed(path: Path, name: str, edits: int = 2) -> Folder:
    folder = Folder(path)
    project = folder.open()
    folder.keep(rename(project, project.levels[0].id, name), edits)
    return folder


def test_what_a_crash_left_is_moved_away_whole_and_waits_until_it_is_answered(demo_folder: Path) -> None:
    crashed(demo_folder, "quay")
    folder = Folder(demo_folder)
    project = folder.open()
    (one,) = recover(folder)
    assert (one.edits, one.answer) == (2, "") and one.project().levels[0].name == "quay"
    assert folder.kept() is None
    folder.save(rename(project, project.levels[0].id, "wharf"))
    crashed(demo_folder, "slip", 5)
    later = Folder(demo_folder)
    later.open()
    assert [r.edits for r in recover(later)] == [5, 2]
    assert recover(later)[1].project().levels[0].name == "quay", "whatever was saved since"
    answer(recover(later)[0], "taken")
    assert [r.edits for r in recover(later)] == [2] and len(recovered(later)) == 2


def test_answered_edits_go_after_thirty_days_and_others_never(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    long_ago = time.time() - KEPT_S - 60
    put_away(folder, project, 1, long_ago)
    put_away(folder, project, 2, long_ago, "discarded")
    put_away(folder, project, 3, answer="discarded")
    two = next(r for r in recovered(folder) if r.edits == 2)
    note = msgspec.json.decode((two.path / "recovered.json").read_bytes())
    (two.path / "recovered.json").write_bytes(msgspec.json.encode({**note, "answered": long_ago}))
    (two.path.parent / ".x.half").mkdir()
    assert [r.edits for r in recover(folder)] == [1]
    assert sorted(r.edits for r in recovered(folder)) == [1, 3]
    assert sorted(os.listdir(two.path.parent)) == sorted(r.path.name for r in recovered(folder))
