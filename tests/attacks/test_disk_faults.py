"""What was told saved or kept safe is there, whichever call to the disk fails, and whatever is done next."""

from __future__ import annotations

import random
import shutil
from pathlib import Path

import pytest

from rushweed.core.document.edit import rename
from rushweed.core.document.errors import StoreError
from rushweed.core.document.model.project import Project
from rushweed.core.level.levels import add_level
from rushweed.core.store.folder import ChangedOutside, Folder
from rushweed.core.store.form import animation_text, level_text, sheet_text
from tests.attacks.disk import Disk, Killed, faulty


@pytest.fixture(scope="module")
def small(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A saved project of three levels."""
    path = tmp_path_factory.mktemp("small") / "game"
    folder, project = Folder.create(path, "Game")
    for name in ("pier", "marsh", "quay"):
        project, _made = add_level(project, name, (8, 8))
    folder.save(project)
    return path


def text_of(project: Project) -> list[bytes]:
    sheets, levels = map(sheet_text, project.sheets), map(level_text, project.levels)
    return [*sheets, *levels, *map(animation_text, project.animations)]


class Work:
    """A person at work on a project: it remembers all states, and which was last told to be safe."""

    def __init__(self, path: Path) -> None:
        self.folder = Folder(path)
        assert self.folder.lock()
        self.states = [self.folder.open()]
        self.safe = 0  # the place of the state last told to be safe
        self.edits = 0

    @property
    def project(self) -> Project:
        return self.states[-1]

    def edit(self, name: str) -> None:
        self.edits += 1
        level = self.project.levels[self.edits % len(self.project.levels)]
        project = rename(self.project, level.id, name)
        if self.edits % 3 == 0:
            project, _made = add_level(project, f"new {self.edits}", (8, 8))
        self.states.append(project)

    def undo(self, to: int = 0) -> None:
        self.edits += 1
        self.states.append(self.states[to])

    def keep(self) -> bool:
        return self._told(lambda: self.folder.keep(self.project, self.edits))

    def save(self) -> bool:
        return self._told(lambda: self.folder.save(self.project))

    def _told(self, work) -> bool:  # type: ignore[no-untyped-def]
        try:
            work()
        except StoreError:
            return False
        self.safe = len(self.states) - 1
        return True

    def kill(self) -> None:
        self.folder.unlock()

    def nothing_is_missing(self) -> None:
        """Open it anew: what is found is the state last told to be safe, or a later one."""
        again = Folder(self.folder.path)
        assert again.lock()
        opened = again.open()
        kept = again.kept()
        found = text_of(kept.project if kept else opened)
        again.unlock()
        assert any(found == text_of(state) for state in self.states[self.safe :]), (
            f"told safe: state {self.safe} of {len(self.states) - 1}"
        )


def calls_of(path: Path, steps) -> int:  # type: ignore[no-untyped-def]
    work = Work(path)
    with faulty(Disk()) as disk:
        steps(work)
    work.kill()
    return disk.calls


def save_once(work: Work) -> None:
    for n in range(4):
        work.edit(f"first {n}")
        work.keep()
    work.save()


def fresh(small: Path, tmp_path: Path, n: int) -> Path:
    path = tmp_path / f"run{n}" / "game"
    shutil.copytree(small, path)
    return path


@pytest.mark.parametrize("then", ["edits", "undo and save", "save", "nothing"])
@pytest.mark.parametrize("lasting", [0, 2, 40])
def test_a_disk_fault_at_any_call_and_work_after_it_loses_nothing(
    small: Path, tmp_path: Path, then: str, lasting: int
) -> None:
    whole = calls_of(fresh(small, tmp_path, -1), save_once)
    assert whole > 30
    for n in range(0, whole, 3 if lasting else 1):
        work = Work(fresh(small, tmp_path, n))
        with faulty(Disk(n, n + lasting)):
            save_once(work)
            if then == "edits":
                for k in range(5):
                    work.edit(f"later {k}")
                    work.keep()
            elif then == "undo and save":
                work.undo()
                work.save()
            elif then == "save":
                work.edit("later")
                work.save()
        work.kill()
        work.nothing_is_missing()
        shutil.rmtree(tmp_path / f"run{n}")


def test_a_power_cut_after_a_failed_save_loses_nothing(small: Path, tmp_path: Path) -> None:
    """One call fails, work goes on, and then the power goes at some later call."""
    rng = random.Random(4)
    whole = calls_of(fresh(small, tmp_path, -1), save_once)
    for n in range(25):
        work = Work(fresh(small, tmp_path, n))
        with faulty(Disk(rng.randrange(whole))):
            save_once(work)
        with faulty(Disk(rng.randrange(2 * whole), kills=True)):
            try:
                for k in range(3):
                    work.edit(f"later {k}")
                    work.keep()
                work.undo(rng.randrange(len(work.states)))
                work.save()
                work.edit("last")
                work.save()
            except Killed:
                pass
        work.kill()
        work.nothing_is_missing()
        shutil.rmtree(tmp_path / f"run{n}")


def test_after_a_failed_save_the_next_one_is_whole(small: Path, tmp_path: Path) -> None:
    """Every call of the save fails once; the save after it, told as saved, is what is found."""
    for n in range(calls_of(fresh(small, tmp_path, -1), save_once)):
        work = Work(fresh(small, tmp_path, n))
        with faulty(Disk(n)):
            save_once(work)
        work.edit("again")
        assert work.save(), "the disk works again"
        work.kill()
        again = Folder(work.folder.path)
        assert again.lock()
        assert text_of(again.open()) == text_of(work.project) and again.kept() is None
        again.unlock()
        left = {p.name for p in (work.folder.path / ".rushweed").iterdir()} - {"lock", "kept"}
        assert not left, left
        shutil.rmtree(tmp_path / f"run{n}")


def disk_fault(small: Path, home: Path, rng: random.Random) -> None:
    """A fault or a power cut at some call, work after it, perhaps another one, and nothing may be missing."""
    path = home / "game"
    shutil.rmtree(path, ignore_errors=True)
    shutil.copytree(small, path)
    work = Work(path)
    for _ in range(rng.randint(1, 3)):
        first = rng.randrange(160)
        disk = Disk(first, first + rng.choice((0, 1, 5, 60)), kills=rng.random() < 0.5)
        try:
            with faulty(disk):
                for n in range(rng.randint(1, 8)):
                    work.edit(f"edit {n}") if rng.random() < 0.8 else work.undo(
                        rng.randrange(len(work.states))
                    )
                    work.keep() if rng.random() < 0.7 else work.save()
        except Killed:
            break
    work.kill()
    work.nothing_is_missing()


def test_a_change_from_outside_after_a_failed_save_is_not_overwritten(small: Path, tmp_path: Path) -> None:
    """A save fails at any call, then another program changes a level: the next save asks first."""
    for n in range(0, calls_of(fresh(small, tmp_path, -1), save_once), 3):
        work = Work(fresh(small, tmp_path, n))
        with faulty(Disk(n)):
            save_once(work)
        path = work.folder.path / "levels" / "quay.json"
        path.write_bytes(path.read_bytes().replace(b'"view": "side"', b'"view":  "top"'))
        work.edit("again")
        with pytest.raises(ChangedOutside, match="quay"):
            work.folder.save(work.project)
        assert b'"view":  "top"' in path.read_bytes()
        work.kill()
        shutil.rmtree(tmp_path / f"run{n}")


@pytest.mark.parametrize("seed", [92608, *range(20)])
def test_work_at_random_on_a_failing_disk_loses_nothing(small: Path, tmp_path: Path, seed: int) -> None:
    disk_fault(small, tmp_path, random.Random(seed))
