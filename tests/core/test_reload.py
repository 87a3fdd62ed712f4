"""Pictures that other programs change: while the project is open or closed, in their px and in their size."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

from rushweed.core.cut.aside import drop_aside
from rushweed.core.cut.reload import refresh, reread, take_up
from rushweed.core.document.edit import put_sheet
from rushweed.core.document.errors import PictureError
from rushweed.core.document.model.project import Project
from rushweed.core.findings.check import check
from rushweed.core.findings.finding import Finding
from rushweed.core.level.edit import erase_gone, gone_tiles
from rushweed.core.level.losses import aside_words
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.build import ship
from rushweed.core.store.folder import Folder
from tests.conftest import named


@pytest.fixture
def opened(demo_folder: Path) -> tuple[Folder, Project, PixelCache]:
    folder = Folder(demo_folder)
    return folder, folder.open(), PixelCache(demo_folder)


def rewrite(folder: Folder, project: Project, name: str, rgba: np.ndarray) -> None:
    Image.fromarray(rgba).save(folder.path / named(project, name).source.path)


def pixels(folder: Folder, project: Project, name: str) -> np.ndarray:
    return np.array(Image.open(folder.path / named(project, name).source.path).convert("RGBA"))


def found(project: Project, stock: PixelCache, rule: str) -> list[Finding]:
    return [f for f in check(project, stock) if f.rule == rule]


def test_a_picture_enlarged_while_the_project_was_closed_takes_its_cells_along(opened) -> None:  # type: ignore[no-untyped-def]
    folder, project, stock = opened
    old = pixels(folder, project, "boardwalk.png")
    rewrite(folder, project, "boardwalk.png", old.repeat(2, 0).repeat(2, 1))
    assert stock.fault(named(project, "boardwalk.png")) is not None
    (finding,) = found(project, stock, "changed-source")
    assert finding.weight == "fault" and "2 times as large" in finding.text and finding.fix is not None
    with pytest.raises(PictureError, match="refresh"):
        ship(project, PixelCache(folder.path), folder.path / "out")
    after = finding.fix.edit(project)
    before, now = named(project, "boardwalk.png"), named(after, "boardwalk.png")
    assert [c.id for c in now.cells] == [c.id for c in before.cells]
    assert [c.rect for c in now.cells] == [tuple(2 * v for v in c.rect) for c in before.cells]
    assert not found(after, stock, "changed-source")
    ship(after, stock, folder.path / "out")


def test_a_repainted_picture_of_the_same_size_needs_nobody(opened) -> None:  # type: ignore[no-untyped-def]
    folder, project, stock = opened
    rgba = pixels(folder, project, "crate.png")
    rgba[2:5, 2:5] = (9, 8, 7, 255)
    rewrite(folder, project, "crate.png", rgba)
    assert not found(project, stock, "changed-source")
    assert stock.pixels(named(project, "crate.png"))[3, 3].tolist() == [9, 8, 7, 255]
    after, changed = refresh(project, PixelCache(folder.path))
    assert [s.name for s, _f in changed] == ["crate.png"] and changed[0][1].moves == []
    assert named(after, "crate.png").cells == named(project, "crate.png").cells


def test_without_the_earlier_picture_the_sizes_must_do(demo_folder: Path) -> None:
    shutil.rmtree(demo_folder / ".rushweed" / "seen")
    folder = Folder(demo_folder)
    project = folder.open()
    old = pixels(folder, project, "boardwalk.png")
    rewrite(folder, project, "boardwalk.png", old.repeat(3, 0).repeat(3, 1))
    after, changed = refresh(project, PixelCache(demo_folder))
    assert changed[0][1].moves[0].way.xx == 3 and "not at hand" in changed[0][1].moves[0].words
    assert named(after, "boardwalk.png").cells[1].rect == tuple(
        3 * v for v in named(project, "boardwalk.png").cells[1].rect
    )


def test_cells_outside_a_picture_that_shrank_are_kept_aside_and_come_back(opened) -> None:  # type: ignore[no-untyped-def]
    folder, project, stock = opened
    old = pixels(folder, project, "boardwalk.png")
    rewrite(folder, project, "boardwalk.png", old[:60])
    small, ((_sheet, _found),) = refresh(project, stock)
    before, now = named(project, "boardwalk.png"), named(small, "boardwalk.png")
    inside = [c for c in before.cells if c.rect[1] + c.rect[3] <= 60]
    assert now.cells == tuple(inside) and len(now.aside) == len(before.cells) - len(inside) > 10
    words = aside_words(project, small, now.id)
    assert "kept aside, among them" in words and "of pier" in words
    (finding,) = found(small, stock, "kept-aside")
    assert finding.weight == "fault" and "in use" in finding.text and finding.fix is None
    assert not found(small, stock, "gone-cell") and not found(small, stock, "frame-gone")
    assert all(not gone_tiles(small, level) for level in small.levels)
    assert erase_gone(small, small.levels[0].id).levels[0] is small.levels[0], (
        "tiles that wait are not erased"
    )
    folder.lock()
    folder.save(small)
    folder.unlock()
    again = Folder(folder.path).open()
    assert named(again, "boardwalk.png").aside == now.aside
    rewrite(folder, project, "boardwalk.png", old)
    whole, _changed = refresh(again, PixelCache(folder.path))
    assert named(whole, "boardwalk.png").cells == before.cells and not named(whole, "boardwalk.png").aside
    assert "are back" in aside_words(again, whole, now.id)


def test_a_cell_that_is_aside_does_not_come_back_onto_one_cut_since(opened) -> None:  # type: ignore[no-untyped-def]
    folder, project, stock = opened
    old = pixels(folder, project, "boardwalk.png")
    rewrite(folder, project, "boardwalk.png", old[:60])
    small, _changed = refresh(project, stock)
    sheet = named(small, "boardwalk.png")
    waiting = sheet.aside[0].cell
    squatter = replace(sheet.cells[0], id="squatter", name="squatter", rect=waiting.rect)
    grown = put_sheet(small, replace(sheet, cells=(*sheet.cells, squatter)))
    rewrite(folder, project, "boardwalk.png", old)
    after, _changed = refresh(grown, PixelCache(folder.path))
    made = named(after, "boardwalk.png")
    assert [one.cell.id for one in made.aside] == [waiting.id]
    assert not named(drop_aside(after, made.id), "boardwalk.png").aside


def test_what_undo_shows_and_what_the_file_holds_may_differ_and_is_told(opened) -> None:  # type: ignore[no-untyped-def]
    folder, project, stock = opened
    stock.holds_on = True
    sheet = named(project, "boardwalk.png")
    stock.pixels(sheet)
    old = pixels(folder, project, "boardwalk.png")
    rewrite(folder, project, "boardwalk.png", old[:60, :80])
    change = reread(sheet, stock)
    assert change is not None
    take_up(project, change, change.moves[0], stock)
    (finding,) = found(project, stock, "changed-source")  # `project`: as after undo
    assert "earlier picture" in finding.text and finding.fix is not None
    done = ship(project, stock, folder.path / "out")
    assert done.frames == sum(len(s.cells) for s in project.sheets)
    assert named(finding.fix.edit(project), "boardwalk.png").source.size == (80, 60)


def test_an_earlier_picture_is_found_again_after_it_left_the_memory(opened) -> None:  # type: ignore[no-untyped-def]
    folder, project, _stock = opened
    sheet, old = named(project, "crate.png"), pixels(folder, project, "crate.png")
    rewrite(folder, project, "crate.png", np.zeros_like(old))
    stock = PixelCache(folder.path)
    assert not stock.pixels(sheet).any(), "a script works with the file"
    window = PixelCache(folder.path)
    window.holds_on = True
    assert (window.pixels(sheet) == old).all() and window.stands_apart(sheet.source)


def test_numbered_pictures_that_shrink_are_taken_up_too(opened) -> None:  # type: ignore[no-untyped-def]
    folder, project, stock = opened
    heron = named(project, "heron")
    for path in heron.source.parts:
        part = np.array(Image.open(folder.path / path).convert("RGBA"))
        Image.fromarray(part[: part.shape[0] // 2, : part.shape[1] // 2]).save(folder.path / path)
    after, changed = refresh(project, PixelCache(folder.path))
    assert [s.name for s, _f in changed] == ["heron"]
    ship(after, PixelCache(folder.path), folder.path / "out")


def test_files_are_only_read_again_where_size_or_time_differ(opened, monkeypatch: pytest.MonkeyPatch) -> None:  # type: ignore[no-untyped-def]
    folder, project, _stock = opened
    seen = PixelCache(folder.path).seen
    read: list[str] = []
    monkeypatch.setattr(
        "rushweed.core.pixels.seen.read_bytes", lambda path: read.append(path.name) or path.read_bytes()
    )
    assert not any(seen.has_changed(s.source) for s in project.sheets) and read == []
    (folder.path / named(project, "crate.png").source.path).touch()
    assert not any(seen.has_changed(s.source) for s in project.sheets) and read == ["crate.png"]
