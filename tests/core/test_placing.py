"""A shipment takes its place as one: kills, full disks, foreign files, other systems."""

import csv
import io
import json
import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from rushweed.core.document.edit import rename
from rushweed.core.document.errors import StoreError
from rushweed.core.document.model.project import Project
from rushweed.core.level.levels import duplicate_level
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship import placing
from rushweed.core.ship.build import ship
from rushweed.core.ship.placing import last_shipment
from rushweed.core.ship.read_back import check_shipment
from rushweed.core.ship.ways import DESKTOP, PLAIN
from tests.attacks.shipping import put

Demo = tuple[Project, PixelCache]


def held(out: Path) -> dict[str, bytes]:
    return {p.relative_to(out).as_posix(): p.read_bytes() for p in out.rglob("*") if p.is_file()}


def beside(out: Path) -> list[str]:
    return [p.name for p in out.parent.iterdir() if p.name != out.name]


@pytest.mark.parametrize("exchanges", [True, False])
def test_what_is_not_ours_stays_and_what_is_gone_goes(tmp_path: Path, monkeypatch, exchanges: bool) -> None:  # type: ignore[no-untyped-def]
    if not exchanges:
        monkeypatch.setattr(placing, "swap", cannot)
    out = tmp_path / "out"
    put(out, {"a.png": b"1", "levels/x.json": b"2", "levels/deep/y.png": b"3"})
    (out / "a.png.notes").write_text("mine")
    (out / "levels" / "mine.txt").write_text("mine")
    os.symlink("a.png", out / "link")
    inode = (out / "levels" / "mine.txt").stat().st_ino
    put(out, {"a.png": b"1", "b.png": b"4"})
    files = held(out)
    assert files.pop(placing.LIST)
    assert files == {
        "a.png": b"1",
        "b.png": b"4",
        "a.png.notes": b"mine",
        "levels/mine.txt": b"mine",
        "link": b"1",
    }
    assert (out / "link").is_symlink() and not (out / "levels" / "deep").exists()
    assert (out / "levels" / "mine.txt").stat().st_ino == inode
    assert beside(out) == []


def cannot(*_folders: Path) -> None:
    raise placing._CannotExchange


def test_a_file_that_stands_in_the_way_is_never_overwritten(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    (tmp_path / "manifest.json").write_text("somebody's")
    with pytest.raises(StoreError, match="manifest.json already, which was not shipped"):
        ship(project, stock, tmp_path)
    assert held(tmp_path / "tidelamp") and (tmp_path / "manifest.json").read_text() == "somebody's"


def test_somebody_elses_folder_stays_itself(tmp_path: Path) -> None:
    """Such as a project that lies in the folder it is shipped to."""
    out = tmp_path / "out"
    put(out, {"a.png": b"1"})
    (out / "theirs" / "deep").mkdir(parents=True)
    (out / "theirs" / "deep" / "x").write_text("mine")
    inodes = [p.stat().st_ino for p in (out, out / "theirs", out / "theirs" / "deep")]
    put(out, {"a.png": b"2", "levels/b": b"3"})
    assert inodes == [p.stat().st_ino for p in (out, out / "theirs", out / "theirs" / "deep")]
    assert held(out)["a.png"] == b"2" and held(out)["theirs/deep/x"] == b"mine" and beside(out) == []


def test_what_an_earlier_version_shipped_is_replaced(tmp_path: Path) -> None:
    out = tmp_path / "out"
    out.mkdir()
    for name in ("a.png", "old.png", "touched.png"):
        (out / name).write_bytes(b"1")
    states = {
        n: (s.st_size, s.st_mtime_ns) for n in ("a.png", "old.png", "touched.png") for s in [(out / n).stat()]
    }
    (out / placing.FORMER_LIST).write_text(json.dumps({"key": "x", "files": states}))
    (out / "touched.png").write_bytes(b"mine")
    put(out, {"a.png": b"2"})
    files = held(out)
    assert files.pop(placing.LIST) and files == {"a.png": b"2", "touched.png": b"mine"}


def test_a_file_put_among_what_was_shipped_is_not_overwritten_either(demo: Demo, tmp_path: Path) -> None:
    """By a file that is new in a later shipment; nor where the list can no longer be read."""
    project, stock = demo
    out = tmp_path / "out"
    ship(project, stock, out)
    (out / "levels" / "third.json").write_text("mine")
    more, _id = duplicate_level(project, project.levels[1].id)
    more = rename(more, more.levels[-1].id, "third")
    before = held(out)
    with pytest.raises(StoreError, match="levels/third.json already, which was not shipped"):
        ship(more, stock, out)
    assert held(out) == before and beside(out) == [stock.folder.name]
    (out / placing.LIST).write_text("{")
    with pytest.raises(StoreError, match="already, which was not shipped"):
        ship(project, stock, out)


def test_a_change_left_half_done_is_finished_before_anything_is_compared(
    demo: Demo, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Where folders cannot be exchanged: killed once its promise is written, and shipped otherwise then."""
    project, stock = demo
    out = tmp_path / "out"
    monkeypatch.setattr(placing, "swap", cannot)
    ship(project, stock, out)
    second = rename(project, project.levels[0].id, "second")
    with monkeypatch.context() as patch:
        patch.setattr("rushweed.core.store.files.keep_promise", killed)
        with pytest.raises(KeyboardInterrupt):
            ship(second, stock, out)
    ship(rename(project, project.levels[1].id, "third"), stock, out)
    assert check_shipment(out).problems == []


def killed(root: Path, work: Path, is_fresh: bool = False) -> bool:
    if (work / "promise.json").exists():
        raise KeyboardInterrupt
    return False


def test_a_full_disk_leaves_the_last_shipment(tmp_path: Path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    out = tmp_path / "out"
    put(out, {"a": b"1", "b": b"2"})
    before = held(out)
    write, count = placing.write_beside, [0]

    def full(path: Path, data: bytes) -> None:
        count[0] += 1
        if count[0] == 3:
            raise OSError(28, "No space left on device", str(path))
        write(path, data)

    monkeypatch.setattr(placing, "write_beside", full)
    with pytest.raises(StoreError, match="could not be written"):
        put(out, {"a": b"3", "b": b"4", "c": b"5"})
    assert held(out) == before and beside(out) == []
    monkeypatch.setattr(placing, "write_beside", write)
    put(out, {"a": b"3", "b": b"4", "c": b"5"})
    assert held(out)["c"] == b"5"


def test_what_is_put_there_while_it_is_exchanged_is_kept(tmp_path: Path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    out = tmp_path / "out"
    put(out, {"a": b"1"})
    swap = placing.swap

    def late(one: Path, other: Path) -> None:
        (out / "late.txt").write_text("mine")
        swap(one, other)

    monkeypatch.setattr(placing, "swap", late)
    put(out, {"a": b"2"})
    assert (out / "late.txt").read_text() == "mine" and held(out)["a"] == b"2" and beside(out) == []


def test_the_folder_one_works_in_stays_the_same(tmp_path: Path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    out = tmp_path / "out"
    put(out, {"a": b"1"})
    monkeypatch.chdir(out)
    inode = out.stat().st_ino
    put(out, {"a": b"2"})
    assert out.stat().st_ino == inode and held(out)["a"] == b"2"


def test_two_do_not_ship_into_one_folder_at_once(tmp_path: Path) -> None:
    out = tmp_path / "out"
    out.mkdir()
    with placing.alone(out), pytest.raises(StoreError, match="Another Rushweed"):
        put(out, {"a": b"1"})


KILLED = """
import sys
from pathlib import Path
sys.path.insert(0, {tests!r})
from tests.attacks.shipping import put
out, number = Path(sys.argv[1]), 0
print("begun", flush=True)
while True:
    number += 1
    put(out, {{f"file_{{n}}": bytes([number % 256]) * 3000 for n in range(12)}}, str(number))
"""


def test_a_kill_at_any_moment_leaves_a_whole_shipment(tmp_path: Path) -> None:
    """Twelve files of one number, shipped again and again; killed at any moment they are of one number."""
    out, rng = tmp_path / "out", random.Random(1)
    put(out, {f"file_{n}": b"\0" * 3000 for n in range(12)}, "0")
    script = KILLED.format(tests=str(Path(__file__).parents[2]))
    for _ in range(5):
        process = subprocess.Popen([sys.executable, "-c", script, str(out)], stdout=subprocess.PIPE)
        assert process.stdout is not None and process.stdout.readline()
        time.sleep(rng.random() * 0.08)
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
        shipment = last_shipment(out)
        assert shipment is not None and len(shipment.files) == 12
        files = {n: data for n, data in held(out).items() if n != placing.LIST}
        assert len({data[0] for data in files.values()}) == 1 and set(files) == set(shipment.files)
        assert all(placing.stands(out, name, one) for name, one in shipment.files.items())
    put(out, {"last": b"1"})
    assert set(held(out)) == {"last", placing.LIST} and beside(out) == []


def test_no_name_becomes_a_formula_or_leads_out(demo: Demo, tmp_path: Path) -> None:
    from msgspec.structs import replace

    project, stock = demo
    sheet = project.sheets[0]
    names = ("=HYPERLINK(1)", "../../out", "+1", "@x", "-2")
    cells = tuple(replace(c, name=name) for c, name in zip(sheet.cells, names, strict=False))
    evil = replace(sheet, name="../evil.png", cells=(*cells, *sheet.cells[len(names) :]))
    level = replace(project.levels[0], name="/etc/level")
    project = replace(project, sheets=(evil, *project.sheets[1:]), levels=(level,))
    for way in (PLAIN, DESKTOP):
        out = tmp_path / way.id / "out"
        done = ship(project, stock, out, way)
        assert all(p.resolve().is_relative_to(out) for p in done.files)
        assert [p.name for p in out.parent.iterdir()] == ["out"]
    for table in (tmp_path / "plain" / "out").rglob("*.csv"):
        for line in csv.reader(io.StringIO(table.read_text(), newline="")):
            assert not any(f[:1] in "=+@" and f[:1] for f in line), table


def test_plain_files_of_one_name_do_not_meet(demo: Demo, tmp_path: Path) -> None:
    """Levels, layers and cells whose names differ by case only, or not at all as files."""
    from msgspec.structs import replace

    project, stock = demo
    sheet = project.sheets[0]
    cells = tuple(
        replace(c, name=name) for c, name in zip(sheet.cells, ("A/b", "a b", "A_B", "a:b"), strict=False)
    )
    project = replace(project, sheets=(replace(sheet, cells=(*cells, *sheet.cells[4:])), *project.sheets[1:]))
    done = ship(project, stock, tmp_path / "out", PLAIN)
    names = [p.relative_to(tmp_path / "out").as_posix().casefold() for p in done.files]
    assert len(names) == len(set(names)) and all(p.is_file() for p in done.files)
