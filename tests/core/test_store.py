"""The project folder: saved whole or not at all, one window at a time, nothing drawn is lost."""

import errno
import json
import os
import time
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.document.edit import remove_sheet, rename, rename_cell
from rushweed.core.document.errors import StoreError
from rushweed.core.document.model.level import Level, Thing, TileLayer, Tiles
from rushweed.core.document.model.project import FORMAT, Project
from rushweed.core.document.model.shape import Polygon
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.chunks import put, put_region, region
from rushweed.core.level.levels import add_level
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.store import files, form
from rushweed.core.store.files import keep_promise, write_file, write_new, write_together
from rushweed.core.store.folder import Folder
from rushweed.core.store.form import LevelFile, level_text
from rushweed.core.store.level_text import rows_of, tiles_of
from rushweed.core.store.reading import HEAD
from rushweed.core.walk.walkers import set_walker
from tests.conftest import named, project_with


def alike(a: Project, b: Project) -> bool:
    """Whether two projects hold the same, cell by cell."""
    if (a.id, a.name, a.sheets) != (b.id, b.name, b.sheets) or len(a.levels) != len(b.levels):
        return False
    return all(level_text(x) == level_text(y) for x, y in zip(a.levels, b.levels, strict=True))


@given(
    st.integers(0, 2**32 - 1),
    st.integers(-40, 40),
    st.integers(-40, 40),
    st.integers(1, 80),
    st.integers(1, 50),
)
def test_rows_of_text_hold_every_tile(seed: int, left: int, top: int, columns: int, rows: int) -> None:
    rng = np.random.default_rng(seed)
    cells = (rng.integers(0, 5, (rows, columns)) * (rng.random((rows, columns)) > 0.4)).astype(np.uint32)
    cells = np.where(cells > 0, cells * 8 + rng.integers(0, 8, cells.shape), 0).astype(np.uint32)
    bounds = (left, top, columns, rows)
    texts = rows_of(put_region(Tiles(), left, top, cells), bounds)
    back = tiles_of(texts, bounds, 5, "test")
    assert (region(back, *bounds) == cells).all()


numbers = st.one_of(st.integers(-999, 999).map(float), st.floats(-1e9, 1e9, width=32), st.just(-0.0))


@given(
    st.lists(st.tuples(numbers, numbers, st.sampled_from(["crate", "v1.0", "a.0,b", 'q".0]'])), max_size=9)
)
def test_many_are_written_as_each_by_itself(rows: list[tuple[float, float, str]]) -> None:
    things = tuple(
        Thing(f"t{n}", shows, (x, y), "near", pin=(y, x) if n % 2 else None, turn=x, tint=(n, 0, 255))
        for n, (x, y, shows) in enumerate(rows)
    )
    cells = tuple(
        Cell(f"c{n}", shows, (n, 0, 8, 8), pivot=(x, y), shapes=(Polygon(((x, y), (0.0, 8.0), (y, 0.5))),))
        for n, (x, y, shows) in enumerate(rows)
    )
    assert form._lines(things) == [form._line(thing) for thing in things]
    assert form._lines(cells) == [form._line(cell) for cell in cells]


@given(st.integers(0, 2**32 - 1), st.integers(-40, 40), st.integers(1, 90), st.data())
def test_rows_of_an_edited_layer_are_as_if_written_for_the_first_time(
    seed: int, left: int, columns: int, data: st.DataObject
) -> None:
    """What was written before is kept by its chunks, also where the level has grown or shrunk."""
    rng, bounds = np.random.default_rng(seed), (left, -7, columns, 80)
    tiles = put_region(Tiles(), -30, -7, rng.integers(0, 3, (80, 60)).astype(np.uint32) * 8)
    for _edit in range(4):
        xs, ys = rng.integers(-30, 30, 3), rng.integers(-7, 73, 3)
        tiles = put(tiles, xs, ys, rng.integers(0, 4, 3).astype(np.uint32) * 8)
        grown = data.draw(st.integers(-1, 1))
        bounds = (bounds[0] - grown, bounds[1], max(bounds[2] + grown, 1), bounds[3])
        back = tiles_of(rows_of(tiles, bounds), bounds, 5, "test")
        assert (region(back, *bounds) == region(tiles, *bounds)).all()


@pytest.mark.parametrize("row", ["12", "x", "0x1", "3x", "1.9", "99999999x1", "1  2", "-1", "4x1 5x1"])
def test_rows_edited_into_nonsense_are_refused(row: str) -> None:
    with pytest.raises(StoreError, match="row 0"):
        tiles_of([row], (0, 0, 8, 1), 5, "levels/pier.json, layer Bank")


def test_saving_and_opening_gives_the_same(demo_folder: Path) -> None:
    project = Folder(demo_folder).open()
    again = demo_folder.parent / "again"
    folder, _ = Folder.create(again, "x")
    folder.save(project)
    assert alike(Folder(again).open(), project)


def test_an_edit_of_one_cell_changes_one_line(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    before = {p: p.read_text().splitlines() for p in demo_folder.rglob("*.json")}
    cell = named(project, "boardwalk.png").cells[7]
    assert folder.save(rename_cell(project, cell.id, "handrail")) == 1
    pairs = [
        pair for p, lines in before.items() for pair in zip(lines, p.read_text().splitlines(), strict=True)
    ]
    changed = [(a, b) for a, b in pairs if a != b]
    assert len(changed) == 1 and "handrail" in changed[0][1]


def test_whole_numbers_stay_whole_and_nothing_is_written_twice(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    assert ".0," not in (demo_folder / "sheets/wren.json").read_text()
    assert folder.save(project) == 0


def test_removed_parts_lose_their_file_and_renamed_ones_keep_it(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    project = rename(project, project.levels[0].id, "quay")
    project = remove_sheet(project, named(project, "crate.png").id)
    folder.save(project)
    assert not (demo_folder / "sheets/crate.json").exists()
    assert (demo_folder / "levels/pier.json").exists()
    assert [v.name for v in Folder(demo_folder).open().levels] == ["quay", "saltings"]


def damage(path: Path, change: object) -> None:
    data = json.loads(path.read_text())
    change(data)  # type: ignore[operator]
    path.write_text(json.dumps(data))


NONSENSE = {
    "a cell outside": ("sheets/wren.json", lambda d: d["cells"][0].update(rect=[180, 0, 24, 32])),
    "no cell size": ("sheets/wren.json", lambda d: d["cells"][0].update(rect=[0, 0, 0, 32])),
    "a word for a number": ("sheets/wren.json", lambda d: d.update(tune={"ppu": "many"})),
    "ppu of zero": ("sheets/wren.json", lambda d: d.update(tune={"ppu": 0})),
    "an unknown field": ("sheets/wren.json", lambda d: d.update(colour="blue")),
    "the same id twice": ("sheets/wren.json", lambda d: d["cells"][1].update(id=d["cells"][0]["id"])),
    "a picture elsewhere": ("sheets/wren.json", lambda d: d["source"].update(path="../../etc/passwd")),
    "a level too wide": ("levels/pier.json", lambda d: d.update(bounds=[0, 0, 99999, 20])),
    "a level far away": ("levels/pier.json", lambda d: d.update(bounds=[9999999, 0, 10, 20])),
    "an unknown view": ("levels/pier.json", lambda d: d.update(view="sideways")),
    "a tile not in the table": ("levels/pier.json", lambda d: d["layers"][2]["rows"].__setitem__(8, "999")),
    "a list for a name": ("levels/pier.json", lambda d: d.update(name=[1])),
    "a file that is not there": (HEAD, lambda d: d["sheets"].append("sheets/none.json")),
    "a file outside": (HEAD, lambda d: d["sheets"].append("../x.json")),
    "a newer format with more in it": (HEAD, lambda d: d.update(format=99, sheets="many")),
    "format 0": (HEAD, lambda d: d.update(format=0)),
    "a format below 0": (HEAD, lambda d: d.update(format=-1)),
    "no format": (HEAD, lambda d: d.pop("format")),
}


@pytest.mark.parametrize("case", NONSENSE)
def test_files_edited_into_nonsense_get_one_sentence_and_stay(demo_folder: Path, case: str) -> None:
    name, change = NONSENSE[case]
    damage(demo_folder / name, change)
    before = {p: p.read_bytes() for p in demo_folder.rglob("*.json")}
    with pytest.raises(StoreError) as error:
        Folder(demo_folder).open()
    assert error.value.cure and "\n" not in str(error.value) and "Traceback" not in str(error.value)
    assert before == {p: p.read_bytes() for p in demo_folder.rglob("*.json")}


@pytest.mark.parametrize("name", [HEAD, "sheets/wren.json", "levels/pier.json"])
@pytest.mark.parametrize("content", ["cut", "", "words", "[" * 4000, '{"format": 1', "\xff\xfe"])
def test_broken_project_files_are_named(demo_folder: Path, name: str, content: str) -> None:
    path = demo_folder / name
    text = path.read_bytes()
    path.write_bytes(text[: len(text) // 2] if content == "cut" else content.encode("latin-1"))
    with pytest.raises(StoreError) as error:
        Folder(demo_folder).open()
    assert name in error.value.problem


def test_two_files_that_claim_one_id_are_refused(demo_folder: Path) -> None:
    text = (demo_folder / "sheets/wren.json").read_text()
    (demo_folder / "sheets/copy.json").write_text(text)
    damage(demo_folder / HEAD, lambda d: d["sheets"].append("sheets/copy.json"))
    with pytest.raises(StoreError, match="stands for both"):
        Folder(demo_folder).open()


def test_places_that_are_no_project(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    for path in (tmp_path / "file", tmp_path / "none", tmp_path):
        with pytest.raises(StoreError):
            Folder(path).open()
    with pytest.raises(StoreError):
        Folder.create(tmp_path / "file", "x")
    Folder.create(tmp_path / "p", "x")
    with pytest.raises(StoreError, match="already holds"):
        Folder.create(tmp_path / "p", "x")


def test_a_second_window_is_told_and_the_first_keeps_its_lock(demo_folder: Path) -> None:
    first, second = Folder(demo_folder), Folder(demo_folder)
    assert first.lock() and first.lock() and not second.lock()
    first.unlock()
    assert second.lock()
    second.unlock()


@pytest.mark.parametrize("fault", [errno.ENOSPC, errno.EROFS, errno.EACCES])
def test_a_full_or_read_only_disk_leaves_the_saved_project(
    demo_folder: Path, monkeypatch: pytest.MonkeyPatch, fault: int
) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    changed = rename(project, project.levels[0].id, "quay")

    def refuse(_handle: int) -> None:
        raise OSError(fault, os.strerror(fault))

    monkeypatch.setattr(files.os, "fsync", refuse)
    with pytest.raises(StoreError) as error:
        folder.save(changed)
    assert "disk" in str(error.value) or "may not" in str(error.value)
    with pytest.raises(StoreError):
        folder.keep(changed, 1)
    monkeypatch.undo()
    assert alike(Folder(demo_folder).open(), project)
    folder.save(changed)
    assert Folder(demo_folder).open().levels[0].name == "quay"


def test_a_promise_made_is_kept_at_the_next_opening(
    demo_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The power goes after the promise and before the first file is moved."""
    folder = Folder(demo_folder)
    project = folder.open()
    changed = rename(rename(project, project.levels[0].id, "quay"), project.sheets[0].id, "planks.png")
    monkeypatch.setattr("rushweed.core.store.files.keep_promise", lambda *_args, **_named: False)
    folder.save(changed)
    monkeypatch.undo()
    assert (demo_folder / ".rushweed" / "promise.json").exists()
    assert alike(Folder(demo_folder).open(), changed), "read as the save would leave it, and nothing written"
    assert (demo_folder / ".rushweed" / "promise.json").exists()
    again = Folder(demo_folder)
    assert again.lock() and alike(again.open(), changed)
    assert not (demo_folder / ".rushweed" / "promise.json").exists()
    again.unlock()


@given(st.integers(0, 5))
def test_a_promise_broken_off_anywhere_is_finished(moved: int) -> None:
    import tempfile

    with tempfile.TemporaryDirectory() as name:
        root = Path(name)
        texts = {f"f{i}.txt": str(i).encode() for i in range(5)}
        write_together(root, root / "work", dict(texts))
        staging = root / "work" / "staged"
        staging.mkdir()
        moves = []
        for i in range(5):
            (staging / f"{i:05d}").write_bytes(f"new {i}".encode())
            moves.append(files.Move(f"f{i}.txt", f"work/staged/{i:05d}"))
        write_file(root / "work" / "promise.json", msgspec.json.encode(files.Journal(tuple(moves))))
        for move in moves[:moved]:
            os.replace(root / (move.staged or ""), root / move.path)
        assert keep_promise(root, root / "work") and not keep_promise(root, root / "work")
        assert [(root / f"f{i}.txt").read_text() for i in range(5)] == [f"new {i}" for i in range(5)]


def test_a_promise_edited_by_hand_is_named(demo_folder: Path) -> None:
    (demo_folder / ".rushweed" / "promise.json").write_text("{")
    with pytest.raises(StoreError, match="promise.json"):
        Folder(demo_folder).open()


@pytest.mark.parametrize("path", ["../outside.txt", "a/../../outside.txt", "/tmp/rushweed-outside.txt"])
def test_a_hostile_promise_writes_nothing_outside_the_project(
    demo_folder: Path, path: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    staged = demo_folder / ".rushweed" / "staged"
    staged.mkdir(parents=True, exist_ok=True)
    (staged / "00000").write_text("harm")
    promise = files.Journal((files.Move(path, ".rushweed/staged/00000"),))
    (demo_folder / ".rushweed" / "promise.json").write_bytes(msgspec.json.encode(promise))
    monkeypatch.chdir(demo_folder.parent)
    for folder in (Folder(demo_folder), Folder(Path(demo_folder.name))):
        with pytest.raises(StoreError, match="outside"):
            folder.open()
    assert not (demo_folder.parent / "outside.txt").exists()
    assert not Path("/tmp/rushweed-outside.txt").exists()


def test_kept_edits_that_point_elsewhere_are_not_taken(demo_folder: Path) -> None:
    note = {"edits": 1, "when": 0, "files": {"sheets/wren.json": "../../art/wren.png"}}
    (demo_folder / ".rushweed" / "kept.json").write_text(json.dumps(note))
    folder = Folder(demo_folder)
    folder.open()
    assert folder.kept() is None


def test_unsaved_edits_are_kept_and_offered_until_saved(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    one = rename(project, project.levels[0].id, "quay")
    two, made = add_level(one, "new", (8, 8))
    two = remove_sheet(two, named(two, "crate.png").id)
    folder.keep(one, 1)
    folder.keep(two, 3)
    other = Folder(demo_folder)
    assert alike(other.open(), project)
    kept = other.kept()
    assert kept is not None and kept.edits == 3 and alike(kept.project, two)
    assert made in {v.id for v in kept.project.levels}
    other.save(kept.project)
    assert other.kept() is None and alike(Folder(demo_folder).open(), two)


def with_a_kept_edit(path: Path) -> tuple[Folder, Project, Path]:
    """A project whose first level was renamed to quay, and where the text of that is kept."""
    folder = Folder(path)
    project = folder.open()
    project = rename(project, project.levels[0].id, "quay")
    folder.keep(project, 1)
    (kept,) = (path / ".rushweed" / "kept").iterdir()
    return folder, project, kept


def test_what_was_kept_is_saved_without_being_written_again(
    demo_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder, project, _kept = with_a_kept_edit(demo_folder)
    time.sleep(0.05)
    begun = time.time_ns()
    written: list[bytes] = []
    monkeypatch.setattr(files, "write_new", lambda path, data: (written.append(data), write_new(path, data)))
    folder.save(project)
    saved = demo_folder / folder.files_of(project)[project.levels[0].id]
    assert saved.read_bytes() == level_text(project.levels[0]) not in written
    assert saved.stat().st_mtime_ns >= begun - 10_000_000, "it was saved now"
    assert saved.stat().st_nlink == 1 and Folder(demo_folder).open().levels[0].name == "quay"


@pytest.mark.parametrize("fault", ["altered", "gone", "a link", "no second name"])
def test_what_was_kept_is_written_where_it_cannot_be_taken(
    demo_folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, fault: str
) -> None:
    folder, project, kept = with_a_kept_edit(demo_folder)
    if fault == "no second name":

        def refuse(*_words: object, **_named: object) -> None:
            raise PermissionError("no links here")

        monkeypatch.setattr(os, "link", refuse)
    elif fault == "altered":
        kept.write_bytes(b"{}")
    else:
        elsewhere = tmp_path / "elsewhere.json"
        kept.rename(elsewhere)
        if fault == "a link":
            kept.symlink_to(elsewhere)
    folder.save(project)
    saved = demo_folder / folder.files_of(project)[project.levels[0].id]
    assert saved.read_bytes() == level_text(project.levels[0]) and not saved.is_symlink()
    assert Folder(demo_folder).open().levels[0].name == "quay"


def test_kept_edits_that_cannot_be_read_do_not_stop_the_opening(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    folder.keep(rename(project, project.levels[0].id, "quay"), 1)
    for path in (demo_folder / ".rushweed" / "kept").iterdir():
        path.write_text("{")
    other = Folder(demo_folder)
    assert other.open().levels[0].name == "pier" and other.kept() is None


def test_a_large_level_keeps_its_layers_apart(tmp_path: Path) -> None:
    folder, project = Folder.create(tmp_path / "p", "Large")
    project, level_id = add_level(project_with(), "wide", (8, 8), size=(200, 100))
    level = project.levels[0]
    tiles = put_region(Tiles(), 0, 0, np.full((100, 200), 8, np.uint32))
    layer = level.layers[0]
    assert isinstance(layer, TileLayer)
    level = replace(level, table=("aaaa",), layers=(replace(layer, tiles=tiles), TileLayer("empty", "Empty")))
    folder.save(replace(project, levels=(level,)))
    opened = Folder(tmp_path / "p").open().levels[0]
    first, second = opened.layers
    assert isinstance(first, TileLayer) and isinstance(second, TileLayer)
    assert (region(first.tiles, 0, 0, 200, 100) == 8).all() and second.tiles.columns == 0
    assert level_id == opened.id and PixelCache(tmp_path)


def test_an_older_format_is_copied_before_it_is_written_anew(demo_folder: Path) -> None:
    head = demo_folder / HEAD
    head.write_text(head.read_text().replace(f'"format": {FORMAT}', '"format": 1'))
    before = {p.relative_to(demo_folder): p.read_bytes() for p in demo_folder.glob("*/*.json")}
    folder = Folder(demo_folder)
    project = folder.open()
    backup = demo_folder / ".rushweed" / f"before-format-{FORMAT}"
    assert '"format": 1' in head.read_text() and not backup.exists(), "opening changes nothing"
    folder.save(rename(project, project.levels[0].id, "quay"))
    assert f'"format": {FORMAT}' in head.read_text()
    assert '"format": 1' in (backup / HEAD).read_text()
    assert all((backup / path).read_bytes() == data for path, data in before.items())
    old = Folder(backup).open()
    assert old.levels[0].name == "pier" and Folder(demo_folder).open().levels[0].name == "quay"


def test_a_newer_format_that_can_be_read_is_looked_at_only(demo_folder: Path) -> None:
    head = demo_folder / HEAD
    text = head.read_text().replace(f'"format": {FORMAT}', f'"format": {FORMAT + 1}')
    head.write_text(text)
    folder = Folder(demo_folder)
    project = folder.open()
    assert folder.newer and project.levels[0].name == "pier"
    with pytest.raises(StoreError, match="newer format"):
        folder.save(rename(project, project.levels[0].id, "quay"))
    assert head.read_text() == text


def test_every_field_of_a_level_is_on_disk() -> None:
    """A field that the file lacks would be lost by every save."""
    assert set(LevelFile.__struct_fields__) == set(Level.__struct_fields__)


def test_a_walker_and_runs_are_saved_and_opened(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = set_walker(
        folder.open(), folder.open().levels[0].id, jump=3.5, eight=True, body=(-4, -20, 8, 20)
    )
    folder.save(project)
    level = Folder(demo_folder).open().levels[0]
    assert level.walker == project.levels[0].walker and level.runs == project.levels[0].runs and level.runs
