"""Each rule finds its fault, says where, and its cure removes it."""

from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

from rushweed.core.cut.edit import cut_sheet, leave_out, spots_of
from rushweed.core.document.edit import put_level, put_sheet, remove_sheet
from rushweed.core.document.model.cut import GridCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, Polygon
from rushweed.core.findings.check import check
from rushweed.core.findings.cut import cut_art
from rushweed.core.findings.finding import Finding
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.edit import set_shapes
from rushweed.core.tune.edit import tune_sheets
from tests.conftest import named, project_with, sheet_of_size

Demo = tuple[Project, PixelCache]


def found(project: Project, stock: PixelCache, rule: str) -> list[Finding]:
    return [f for f in check(project, stock) if f.rule == rule]


def test_the_demo_has_hints_and_no_fault(demo: Demo) -> None:
    findings = check(*demo)
    assert findings and not [f for f in findings if f.weight == "fault"]


def test_a_remainder_is_told_in_px_and_can_be_called_waste(demo: Demo) -> None:
    project, stock = demo
    (finding,) = [f for f in found(project, stock, "grid-remainder") if "boardwalk" in f.text]
    assert "9 px below row 5" in finding.text and finding.fix
    fixed = finding.fix.edit(project)
    assert not [f for f in found(fixed, stock, "grid-remainder") if "boardwalk" in f.text]


@pytest.mark.parametrize("stray", [False, True])
def test_a_drawn_line_that_runs_on_behind_the_last_cells_is_no_art(tmp_path: Path, stray: bool) -> None:
    rgba = np.zeros((36, 64, 4), np.uint8)
    rgba[0] = rgba[17] = rgba[34, :52] = rgba[:35, 0:52:17] = (200, 40, 200, 255)
    rgba[4:9, 3:9] = 90, 120, 60, 255
    if stray:
        rgba[20, 57] = 90, 120, 60, 255
    (tmp_path / "art").mkdir()
    Image.fromarray(rgba).save(tmp_path / "art/sheet.png")
    project = project_with(sheet_of_size(64, 36))
    project = cut_sheet(project, "sheet1", GridCut((16, 16), (1, 1), (1, 1)), rgba)
    assert len(found(project, PixelCache(tmp_path), "grid-remainder")) == stray


def test_a_better_grid_is_told_and_cut(demo: Demo) -> None:
    project, stock = demo
    sheet = named(project, "wren.png")
    wrong = cut_sheet(project, sheet.id, GridCut((16, 32)), stock.pixels(sheet))
    (finding,) = found(wrong, stock, "better-grid")
    assert "24 × 32" in finding.text and finding.place.sheet == sheet.id and finding.fix
    assert not found(project, stock, "better-grid")
    cured = finding.fix.edit(wrong)
    assert not found(cured, stock, "better-grid")
    assert {c.rect for c in named(cured, "wren.png").cells} == {c.rect for c in sheet.cells}


def test_a_cut_without_cells_is_a_fault_with_a_cure(demo: Demo) -> None:
    project, stock = demo
    sheet = named(project, "lamps.png")
    empty = put_sheet(project, replace(sheet, cut=GridCut((8, 8)), cells=()))
    (finding,) = found(empty, stock, "nothing-cut")
    assert finding.fix
    assert len(named(finding.fix.edit(empty), "lamps.png").cells) == 16 * 12


def test_a_missing_picture_is_a_fault(demo: Demo) -> None:
    project, stock = demo
    (stock.folder / "art" / "panel.png").unlink()
    (finding,) = found(project, PixelCache(stock.folder), "missing-source")
    assert "panel.png" in finding.text and finding.fix
    assert not found(finding.fix.edit(project), PixelCache(stock.folder), "missing-source")
    (stock.folder / "art" / "wren.png").write_bytes(b"broken")
    assert len(found(project, PixelCache(stock.folder), "missing-source")) == 2


def test_shapes_between_pixels_are_rounded_by_the_cure(demo: Demo) -> None:
    project, stock = demo
    ids = [c.id for c in named(project, "wren.png").cells[:2]]
    shapes = (Box(0.5, 0, 7.25, 8), Polygon(((0, 0), (8.5, 0), (0, 8))))
    project = set_shapes(project, ids, shapes)
    (finding,) = found(project, stock, "fractional-shape")
    assert finding.place.cells == tuple(ids) and finding.fix
    fixed = finding.fix.edit(project)
    assert not found(fixed, stock, "fractional-shape")
    assert named(fixed, "wren.png").cells[0].shapes[0] == Box(1, 0, 7, 8)


def test_a_shape_outside_its_tile_is_a_hint(demo: Demo) -> None:
    project, stock = demo
    cell = named(project, "crate.png").cells[0]
    assert found(set_shapes(project, [cell.id], (Box(-1, 0, 8, 8),)), stock, "shape-outside")


def test_tiles_of_a_removed_sheet_are_gone_and_the_cure_erases_them(demo: Demo) -> None:
    project, stock = demo
    project = remove_sheet(project, named(project, "marsh.png").id)
    (finding,) = found(project, stock, "gone-cell")
    assert "saltings" in finding.text and finding.place.spot == (0, 0) and finding.fix
    assert not found(finding.fix.edit(project), stock, "gone-cell")


def test_mixed_pixels_per_unit_in_one_level(demo: Demo) -> None:
    project, stock = demo
    from rushweed.core.level.edit import paint
    from rushweed.core.level.stamp import single

    marsh = named(project, "marsh.png")
    level = next(v for v in project.levels if v.name == "pier")
    import numpy as np

    spots = (np.array([0]), np.array([0]))
    project = paint(project, level.id, level.layers[2].id, single(marsh.cells[0].id), spots)
    assert not found(project, stock, "mixed-ppu")
    (finding,) = found(tune_sheets(project, [marsh.id], ppu=32), stock, "mixed-ppu")
    assert "marsh.png 32" in finding.text


@pytest.mark.parametrize("name", ["lamps.png", "lamps_4x.png"])
def test_a_sheet_without_a_licence_is_named(demo: Demo, name: str) -> None:
    assert any(name in f.text for f in found(*demo, "missing-licence"))


def test_findings_of_a_project_without_its_art_do_not_fail(demo_folder: Path, demo: Demo) -> None:
    for path in [p for p in (demo_folder / "art").rglob("*") if p.is_file()]:
        path.unlink()
    findings = check(demo[0], PixelCache(demo_folder))
    assert sum(f.rule == "missing-source" for f in findings) == len(demo[0].sheets)


def test_tiles_that_touch_by_design_are_no_fault_and_art_cut_off_is_one() -> None:
    rgba = np.zeros((64, 96, 4), np.uint8)
    rgba[8:56, 8:40] = (90, 120, 80, 255)  # a house over 2 x 3 tiles of 16 px
    rgba[8:14, 60:70] = (200, 40, 40, 255)
    project = project_with(sheet_of_size(96, 64))

    class Shown(PixelCache):
        def pixels_or_blank(self, sheet: object) -> np.ndarray:
            return rgba

    stock = Shown(Path("."))
    cut = cut_sheet(project, project.sheets[0].id, GridCut((16, 16)), rgba)
    assert not list(cut_art(cut.sheets[0], stock))
    spot = spots_of(cut.sheets[0], [c.id for c in cut.sheets[0].cells if c.rect[:2] == (32, 16)])
    without = leave_out(cut, cut.sheets[0].id, spot, True, rgba)
    (finding,) = cut_art(without.sheets[0], stock)
    assert finding.weight == "fault" and "lies in no cell" in finding.text


def test_things_that_show_what_is_gone_are_told_and_removed(demo: Demo) -> None:
    project, stock = demo
    level = project.levels[0]
    lost = tuple(replace(t, shows="nothing") for t in level.things[:2])
    project = put_level(project, replace(level, things=(*lost, *level.things[2:])))
    (finding,) = found(project, stock, "gone-thing")
    assert "2 things" in finding.text and finding.fix is not None
    assert not found(finding.fix.edit(project), stock, "gone-thing")
