"""Folders made to harm: links out of the project, pipes, files that are far too large, wild names."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from rushweed.core.document.edit import rename
from rushweed.core.document.errors import RushweedError, StoreError
from rushweed.core.store.folder import Folder
from rushweed.core.store.recovery import recover


@pytest.fixture
def precious(tmp_path: Path) -> Path:
    """A folder of somebody's own outside the project; whatever happens, it stays as it is."""
    home = tmp_path / "precious"
    home.mkdir()
    for name in ("a.json", "abcdefghijkl.json", "00000", ".x.1.tmp", "letter.txt"):
        (home / name).write_text("mine")
    return home


def untouched(home: Path) -> bool:
    return sorted((p.name, p.read_text()) for p in home.iterdir()) == [
        (".x.1.tmp", "mine"), ("00000", "mine"), ("a.json", "mine"), ("abcdefghijkl.json", "mine"),
        ("letter.txt", "mine"),
    ]  # fmt: skip


def worked_on(path: Path) -> None:
    """Open, keep an edit, save, recover: whatever of it is refused is refused in a sentence."""
    folder = Folder(path)
    try:
        folder.lock()
        project = folder.open()
        recover(folder)
        for change in (1, 2):
            project = rename(project, project.levels[0].id, f"quay {change}")
            for work in (lambda p=project: folder.keep(p, 1), lambda p=project: folder.save(p)):
                try:
                    work()
                except RushweedError as error:
                    assert "\n" not in str(error)
    except RushweedError as error:
        assert "\n" not in str(error)
    finally:
        folder.unlock()


@pytest.mark.parametrize(
    "name", ["lock", "kept", "staged", "staged-abc", "recovered", "kept.json", "promise.json"]
)
def test_links_in_our_own_folder_lead_nowhere(demo_folder: Path, precious: Path, name: str) -> None:
    work = demo_folder / ".rushweed"
    target = precious / "letter.txt" if name in ("lock", "kept.json", "promise.json") else precious
    work.mkdir(exist_ok=True)
    (work / name).unlink(missing_ok=True)
    (work / name).symlink_to(target)
    worked_on(demo_folder)
    assert untouched(precious)


def test_our_own_folder_may_not_be_a_link(demo_folder: Path, precious: Path) -> None:
    work = demo_folder / ".rushweed"
    for path in work.iterdir():
        path.unlink() if path.is_file() else subprocess.run(["rm", "-r", path], check=True)
    work.rmdir()
    work.symlink_to(precious)
    worked_on(demo_folder)
    assert untouched(precious)


@pytest.mark.parametrize("kind", ["sheets", "levels"])
def test_a_linked_folder_is_refused_before_anything_is_written(
    demo_folder: Path, tmp_path: Path, kind: str
) -> None:
    elsewhere = tmp_path / "elsewhere"
    os.rename(demo_folder / kind, elsewhere)
    (demo_folder / kind).symlink_to(elsewhere)
    before = {p.name: p.read_bytes() for p in elsewhere.iterdir()}
    folder = Folder(demo_folder)
    assert folder.lock()
    project = folder.open()
    changed = rename(rename(project, project.levels[0].id, "quay"), project.sheets[0].id, "planks.png")
    with pytest.raises(StoreError, match=f"{kind} .*is a link"):
        folder.save(changed)
    folder.unlock()
    assert {p.name: p.read_bytes() for p in elsewhere.iterdir()} == before
    assert Folder(demo_folder).open().levels[0].name == project.levels[0].name
    assert not (demo_folder / ".rushweed" / "promise.json").exists()


def test_a_linked_file_is_replaced_and_what_it_led_to_stays(demo_folder: Path, tmp_path: Path) -> None:
    shared = tmp_path / "pier.json"
    os.rename(demo_folder / "levels/pier.json", shared)
    (demo_folder / "levels/pier.json").symlink_to(shared)
    before = shared.read_bytes()
    folder = Folder(demo_folder)
    project = folder.open()
    folder.save(rename(project, project.levels[0].id, "quay"))
    assert shared.read_bytes() == before and not (demo_folder / "levels/pier.json").is_symlink()
    assert Folder(demo_folder).open().levels[0].name == "quay"


@pytest.mark.parametrize(
    "name",
    [
        "rushweed.json",
        "levels/pier.json",
        "sheets/wren.json",
        ".rushweed/kept.json",
        ".rushweed/promise.json",
    ],
)
@pytest.mark.parametrize("what", ["pipe", "device", "folder", "large"])
def test_what_is_no_plain_file_is_not_waited_for(demo_folder: Path, name: str, what: str) -> None:
    path = demo_folder / name
    path.unlink(missing_ok=True)
    if what == "pipe":
        os.mkfifo(path)
    elif what == "device":
        path.symlink_to("/dev/zero")
    elif what == "folder":
        path.mkdir()
    else:
        with open(path, "wb") as file:
            file.truncate(3 * 1024**3)
    script = (
        "import sys, resource\nfrom pathlib import Path\n"
        "resource.setrlimit(resource.RLIMIT_AS, (2 * 1024**3, 2 * 1024**3))\n"
        "from rushweed.core.store.folder import Folder\n"
        "from rushweed.core.document.errors import RushweedError\n"
        "folder = Folder(Path(sys.argv[1]))\n"
        "try:\n    folder.open(); folder.kept(); print('opened')\n"
        "except RushweedError as error:\n    print(error)\n"
    )
    ran = subprocess.run(
        [sys.executable, "-c", script, str(demo_folder)], capture_output=True, text=True, timeout=20
    )
    assert ran.returncode == 0, ran.stderr
    if name == ".rushweed/kept.json":
        assert "opened" in ran.stdout
    else:
        assert path.name in ran.stdout or "could not be" in ran.stdout


@pytest.mark.parametrize(
    "path", ["levels/a\0b.json", "levels/\ud800.json", "../x.json", "levels/" + "x" * 5000 + ".json"]
)
def test_wild_paths_get_a_short_sentence(demo_folder: Path, path: str) -> None:
    head = json.loads((demo_folder / "rushweed.json").read_text())
    head["levels"].append(path)
    (demo_folder / "rushweed.json").write_text(json.dumps(head))
    with pytest.raises(RushweedError) as error:
        Folder(demo_folder).open()
    assert len(str(error.value)) < 1000 and str(error.value).isprintable()


def test_a_folder_moved_or_exchanged_while_open_is_not_written(demo_folder: Path, tmp_path: Path) -> None:
    folder = Folder(demo_folder)
    assert folder.lock()
    project = folder.open()
    changed = rename(project, project.levels[0].id, "quay")
    os.rename(demo_folder, tmp_path / "moved")
    for work in (lambda: folder.save(changed), lambda: folder.keep(changed, 1)):
        with pytest.raises(StoreError, match="gone"):
            work()
    assert not demo_folder.exists(), "nothing was made where the folder was"
    Folder.create(demo_folder, "Another")
    with pytest.raises(StoreError, match="Another folder"):
        folder.save(changed)
    subprocess.run(["rm", "-r", demo_folder], check=True)
    os.rename(tmp_path / "moved", demo_folder)
    folder.save(changed)
    assert Folder(demo_folder).open().levels[0].name == "quay"
    folder.unlock()


def test_a_file_removed_outside_is_written_again(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    (demo_folder / "sheets/wren.json").unlink()
    assert folder.save(project) == 1
    assert len(Folder(demo_folder).open().sheets) == len(project.sheets)


def test_what_kills_left_half_written_is_cleaned_at_opening(demo_folder: Path) -> None:
    left = [demo_folder / "levels/.pier.json.123.tmp", demo_folder / ".rushweed/.promise.json.9.tmp"]
    staging = demo_folder / ".rushweed/staged-abcd"
    staging.mkdir(parents=True)
    left.append(demo_folder / ".rushweed/staged-abcd1234-00007")
    for path in (*left, staging / "00000"):
        path.write_text("half")
    (demo_folder / "levels/notes.tmp").write_text("mine")
    folder = Folder(demo_folder)
    assert folder.lock()
    folder.open()
    assert not any(path.exists() for path in (*left, staging)) and (demo_folder / "levels/notes.tmp").exists()
    folder.unlock()
