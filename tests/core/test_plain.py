"""Plain files that any program opens."""

import csv
import io
import json
import xml.etree.ElementTree as ET
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

from rushweed.core.document.edit import set_credit
from rushweed.core.document.model.level import TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.level.chunks import region
from rushweed.core.level.outline import outline
from rushweed.core.level.render import cell_pixels, level_picture
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.build import ship
from rushweed.core.ship.ways import PLAIN
from rushweed.core.store.folder import file_name
from tests.conftest import named

Demo = tuple[Project, PixelCache]
SVG = "{http://www.w3.org/2000/svg}"


@pytest.fixture(scope="module")
def out(master: Demo, tmp_path_factory: pytest.TempPathFactory) -> Path:
    made = tmp_path_factory.mktemp("plain") / "out"
    ship(*master, made, replace(PLAIN, scales=(1, 2), shapes=True))
    return made


def rows(path: Path) -> list[list[str]]:
    return list(csv.reader(io.StringIO(path.read_text(), newline="")))


def px(path: Path) -> np.ndarray:
    with Image.open(path) as image:
        return np.array(image.convert("RGBA"))


def test_single_frames_stand_in_their_cells_as_the_table_says(master: Demo, out: Path) -> None:
    project, stock = master
    for sheet in project.sheets:
        if not sheet.cells:
            continue
        home = out / "frames" / Path(sheet.name).stem
        head, *lines = rows(home / "frames.csv")
        assert len(lines) == len(sheet.cells)
        for line, cell in zip(lines, sheet.cells, strict=True):
            told = dict(zip(head, line, strict=True))
            art = px(home / told["file"])
            w, h = int(told["cell_width_px"]), int(told["cell_height_px"])
            whole = np.zeros((h, w, 4), np.uint8)
            x, y = int(told["offset_x_px"]) - cell.shift[0], int(told["offset_y_px"]) - cell.shift[1]
            whole[y : y + art.shape[0], x : x + art.shape[1]] = art
            cx, cy, cw, ch = cell.rect
            wanted = stock.pixels(sheet)[cy : cy + ch, cx : cx + cw]
            assert told["name"] == cell.name and (w, h) == (cw, ch)
            clear = wanted[..., 3] == 0
            assert (np.where(clear[..., None], 0, wanted) == np.where(clear[..., None], 0, whole)).all()


def test_moving_pictures_and_rows_are_made_of_each_animation(master: Demo, out: Path) -> None:
    for animation in master[0].animations:
        for ending, form in ((".gif", "GIF"), (".apng", "PNG"), (".webp", "WEBP"), ("-row.png", "PNG")):
            with Image.open(out / "animations" / f"{animation.name}{ending}") as image:
                assert image.format == form
                assert getattr(image, "n_frames", 1) == 1 if ending == "-row.png" else image.n_frames > 1


def test_tables_of_tiles_name_every_tile(master: Demo, out: Path) -> None:
    project, stock = master
    cells = {c.id: (s, c) for s in project.sheets for c in s.cells}
    for level in project.levels:
        home = out / "levels" / level.name
        legend = {line[0]: line for line in rows(home / "tiles.csv")[1:]}
        for layer in level.layers:
            if not isinstance(layer, TileLayer):
                continue
            held = region(layer.tiles, *level.bounds)
            table = rows(home / f"{file_name(layer.name)}.csv")
            assert (len(table), len(table[0])) == held.shape
            for (row, column), value in np.ndenumerate(held):
                text = table[row][column]
                if value < 8:
                    assert text == ""
                    continue
                number, _dot, turn = text.partition(".")
                assert int(turn or 0) == value & 7
                _number, sheet_name, name, file = legend[number]
                sheet, cell = cells[level.table[(int(value) >> 3) - 1]]
                assert (sheet_name, name) == (sheet.name, cell.name) and (out / file).is_file()


def test_pictures_of_levels_at_several_sizes_and_with_shapes(master: Demo, out: Path) -> None:
    project, stock = master
    for level in project.levels:
        x, y, columns, rows_ = level.bounds
        cw, ch = level.cell
        wanted = level_picture(project, level, stock.pixels, (x * cw, y * ch, columns * cw, rows_ * ch))
        home = out / "levels" / level.name
        assert (px(home / "level.png") == wanted).all()
        assert (px(home / "level@2x.png") == wanted.repeat(2, 0).repeat(2, 1)).all()
        shaped = px(home / "level-shapes.png")
        changed = (shaped != wanted).any(axis=2)
        assert shaped.shape == wanted.shape and 0.0005 < changed.mean() < 0.4
        for room in level.rooms:
            assert px(home / f"room-{file_name(room.name)}.png").shape[:2] == (
                room.area[3] * ch,
                room.area[2] * cw,
            )


def test_outlines_are_svg_with_a_layer_a_role(master: Demo, out: Path) -> None:
    project, _ = master
    sheet = named(project, "boardwalk.png")
    for cell in sheet.cells:
        path = out / "outlines" / "boardwalk" / f"{cell.name}.svg"
        assert path.exists() == bool(cell.shapes)
        if cell.shapes:
            root = ET.parse(path).getroot()
            layers = {g.get("id"): list(g) for g in root.findall(f"{SVG}g")}
            assert list(layers) == ["solid", "one-way", "sensor"] and root.get("version") == "1.1"
            assert root.get("width") == f"{cell.rect[2]}px"
            assert sum(map(len, layers.values())) == len(cell.shapes)
            allowed = {"id", "d", "class", "cx", "cy", "r"}
            assert all(set(shape.attrib) <= allowed for parts in layers.values() for shape in parts)
    level = project.levels[0]
    root = ET.parse(out / "levels" / "pier" / "outline.svg").getroot()
    paths = [p.get("d", "") for g in root.findall(f"{SVG}g") for p in g]
    assert sum(d.count("M ") for d in paths) == len(outline(project, level))
    assert "16 px a unit" in (root.findtext(f"{SVG}desc") or "")


def test_who_made_what_is_told_three_ways(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    ids = [s.id for s in project.sheets]
    project = set_credit(
        project, ids[:1], title="A [deck] *of* wood", author="Ada <b>", link="https://example.org/a_b",
        licence="LicenseRef-own OR CC-BY-4.0", attribution="Thank you",
    )  # fmt: skip
    project = set_credit(project, ids[1:2], licence="no such licence", link="javascript:alert(1)")
    ship(project, stock, tmp_path / "out", PLAIN)
    text = (tmp_path / "out" / "CREDITS.md").read_text()
    assert r"[A \[deck\] \*of\* wood](<https://example.org/a_b>) by Ada \<b\>" in text
    assert "javascript" not in text and "Thank you" in text
    assert "A [deck] *of* wood by Ada <b>" in (tmp_path / "out" / "CREDITS.txt").read_text()
    document = json.loads((tmp_path / "out" / "licences.spdx.json").read_text())
    assert document["spdxVersion"] == "SPDX-2.3" and document["dataLicense"] == "CC0-1.0"
    packages = {p["packageFileName"]: p for p in document["packages"]}
    assert len(packages) == len(project.sheets) == len(document["relationships"])
    first, second = (packages[project.sheets[n].source.path] for n in (0, 1))
    assert first["licenseDeclared"] == "LicenseRef-own OR CC-BY-4.0"
    assert second["licenseDeclared"] == "NOASSERTION" and second["downloadLocation"] == "NOASSERTION"
    assert document["hasExtractedLicensingInfos"][0]["licenseId"] == "LicenseRef-own"
    assert len(first["checksums"][0]["checksumValue"]) == 64
    needed = {"SPDXID", "name", "downloadLocation", "licenseConcluded", "copyrightText", "filesAnalyzed"}
    assert all(needed <= set(p) for p in document["packages"])


def test_only_the_parts_that_are_wished(demo: Demo, tmp_path: Path) -> None:
    done = ship(*demo, tmp_path / "out", replace(PLAIN, parts=("gif", "tiles")))
    endings = {p.suffix for p in done.files}
    assert endings == {".gif", ".csv", ".txt", ".md", ".json"} and not (tmp_path / "out" / "frames").exists()


def test_frames_are_whole_where_that_is_wished(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    ship(project, stock, tmp_path / "out", replace(PLAIN, whole=True, parts=("frames",)))
    sheet = named(project, "wren.png")
    for cell in sheet.cells:
        art = px(tmp_path / "out" / "frames" / "wren" / f"{cell.name}.png")
        assert art.shape[:2] == (cell.rect[3], cell.rect[2])
        unshifted = cell_pixels(stock.pixels(sheet), replace(cell, shift=(0, 0)))
        assert (art[art[..., 3] > 0] == unshifted[art[..., 3] > 0]).all()
