"""Wrong bytes in pictures, textures, journals and shipped folders get a sentence, and harm nothing else."""

from __future__ import annotations

import contextlib
from pathlib import Path

import pytest

from rushweed.core.document.errors import StoreError
from rushweed.core.document.model.project import Project
from rushweed.core.level.levels import add_level
from rushweed.core.store.folder import Folder
from tests.attacks.bytes import attack_bytes, own_files
from tests.attacks.disk import Disk, Killed, faulty
from tests.attacks.test_disk_faults import small

__all__ = ["small"]  # the fixture


@pytest.mark.parametrize("seed", [11, 12, 13])
def test_wrong_bytes_do_no_harm(demo_master: Path, small: Path, seed: int) -> None:  # noqa: F811
    attack_bytes(demo_master, small, seed)


def test_a_spoilt_staged_text_does_not_take_the_place_of_a_healthy_file(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    folder.lock()
    changed, _made = add_level(folder.open(), "quay", (16, 16))
    kill = next(n for n in range(400) if _dies_with_a_promise(folder, changed, demo_folder, n))
    assert kill > 0
    folder.unlock()
    for staged in demo_folder.glob(".rushweed/staged-*"):
        staged.write_bytes(b"{" + staged.read_bytes()[7:])
    before, again = own_files(demo_folder), Folder(demo_folder)
    assert again.lock()
    with pytest.raises(StoreError, match="not as it was written"):
        again.open()
    assert own_files(demo_folder) == before
    (demo_folder / ".rushweed" / "promise.json").unlink()
    assert "quay" not in [level.name for level in again.open().levels]
    again.unlock()


def test_a_spoilt_promise_is_read_from_its_second_copy(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    folder.lock()
    changed, _made = add_level(folder.open(), "quay", (16, 16))
    next(n for n in range(400) if _dies_with_a_promise(folder, changed, demo_folder, n))
    folder.unlock()
    note, again = demo_folder / ".rushweed" / "promise.json", demo_folder / ".rushweed" / "promise-again.json"
    whole = note.read_bytes()
    spot = whole.index(b"levels/") + 8  # still JSON, but another name
    spoilt = whole[:spot] + bytes([whole[spot] ^ 1]) + whole[spot + 1 :]
    for broken in (spoilt, b"{" + whole[7:], whole[:-20]):
        note.write_bytes(broken)
        again.write_bytes(broken)
        with pytest.raises(StoreError, match=r"promise\.json"):
            Folder(demo_folder).open()
        again.write_bytes(whole)
        assert "quay" in [level.name for level in Folder(demo_folder).open().levels]  # without the lock
    mine = Folder(demo_folder)
    assert mine.lock() and "quay" in [level.name for level in mine.open().levels]
    assert not note.exists() and not again.exists()
    mine.unlock()


def _dies_with_a_promise(folder: Folder, project: Project, path: Path, call: int) -> bool:
    """Kill a save at a call to the disk; whether its promise was made and none of it done."""
    before = own_files(path)
    with faulty(Disk(call, kills=True)), contextlib.suppress(Killed):
        folder.save(project)
    return (path / ".rushweed" / "promise.json").exists() and own_files(path) == before
