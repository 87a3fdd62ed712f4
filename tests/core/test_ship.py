"""The atlas, the manifest and the files that leave."""

import json
import math
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from PIL import Image

from rushweed.core.animate.register import set_shifts
from rushweed.core.cut.edit import cut_sheet
from rushweed.core.document.edit import rename
from rushweed.core.document.errors import EditError, StoreError
from rushweed.core.document.model.cut import PiecesCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shipping import Pages, Way
from rushweed.core.level.render import level_picture
from rushweed.core.level.stamp import orient
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship import kernels
from rushweed.core.ship.build import ship
from rushweed.core.ship.level_file import LevelFile
from rushweed.core.ship.manifest import Manifest
from rushweed.core.ship.pack import pack, pack_groups
from rushweed.core.ship.pages import build
from rushweed.core.ship.schemas import schemas
from rushweed.core.ship.ways import DESKTOP
from rushweed.core.tune.codec.compress import decoded, spoiled
from rushweed.core.tune.edit import set_pivot_px, tune_sheets
from rushweed.core.tune.ktx2 import read_ktx2
from rushweed.core.tune.nine import set_margins
from rushweed.core.tune.texture import with_gutter
from tests.conftest import named, project_with

Demo = tuple[Project, PixelCache]


def way(pages: Pages) -> Way:
    """A way to ship for a game with such pages."""
    return replace(DESKTOP, pages=pages)


SIZES = st.lists(st.tuples(st.integers(1, 90), st.integers(1, 90)), max_size=60).map(
    lambda sizes: np.array(sizes, np.int64).reshape(-1, 2)
)


@settings(max_examples=60)
@given(SIZES, st.sampled_from([128, 200, 500]), st.booleans())
def test_packed_rectangles_never_overlap_and_all_are_there(sizes, limit: int, power: bool) -> None:  # type: ignore[no-untyped-def]
    pages = pack(sizes, limit, power)
    assert sorted(i for p in pages for i in p.places[:, 0].tolist()) == list(range(len(sizes)))
    for page in pages:
        assert max(page.width, page.height) <= limit
        if power:
            assert page.width & (page.width - 1) == 0 == page.height & (page.height - 1)
        cover = np.zeros((page.height, page.width), int)
        for i, x, y in page.places.tolist():
            w, h = sizes[i]
            assert x + w <= page.width and y + h <= page.height
            cover[y : y + h, x : x + w] += 1
        assert cover.max(initial=0) <= 1


@settings(max_examples=40)
@given(SIZES, st.sampled_from([128, 200]), st.booleans())
def test_groups_stand_together_and_nothing_is_lost(sizes, limit: int, power: bool) -> None:  # type: ignore[no-untyped-def]
    groups = np.arange(len(sizes)) // 5
    pages = pack_groups(sizes, groups, limit, power)
    assert sorted(i for p in pages for i in p.places[:, 0].tolist()) == list(range(len(sizes)))
    for page in pages:
        assert max(page.width, page.height) <= limit
        cover = np.zeros((page.height, page.width), int)
        for i, x, y in page.places.tolist():
            w, h = sizes[i]
            cover[y : y + h, x : x + w] += 1
        assert cover.max(initial=0) <= 1
        assert sizes[page.places[:, 0]].prod(axis=1).sum() == cover.sum()


def test_of_many_groups_few_are_on_two_pages() -> None:
    rng = np.random.default_rng(3)
    sizes = rng.integers(20, 60, (1200, 2))
    groups = np.arange(1200) // 10
    pages = pack_groups(sizes, groups, 512)
    on = [{n for n, page in enumerate(pages) if g in groups[page.places[:, 0]]} for g in range(120)]
    assert sum(len(spread) == 1 for spread in on) > 60 and max(map(len, on)) <= 3
    assert sizes.prod(axis=1).sum() / sum(p.width * p.height for p in pages) > 0.85


def test_the_skyline_is_the_same_compiled_and_plain() -> None:
    rng = np.random.default_rng(8)
    for width in (64, 200, 333):
        sizes = rng.integers(1, 60, (90, 2))
        order = np.argsort(-sizes[:, 1], kind="stable")
        made = []
        for function in (kernels.skyline, kernels.skyline.py_func):
            places = np.zeros((90, 2), np.int64)
            line, holes = np.zeros((92, 3), np.int64), np.zeros((364, 4), np.int64)
            used = function(sizes, order, (width, 240), places, line, holes)
            made.append((used, places.tolist()))
        assert made[0] == made[1]


def test_packing_fills_well_and_the_same_way_each_time() -> None:
    rng = np.random.default_rng(5)
    sizes = rng.integers(8, 97, (400, 2))
    pages = pack(sizes, 4096)
    assert len(pages) == 1 and (pages[0].places == pack(sizes, 4096)[0].places).all()
    assert sizes.prod(axis=1).sum() / (pages[0].width * pages[0].height) > 0.92


def test_a_cell_larger_than_a_page_is_refused() -> None:
    with pytest.raises(EditError, match="600 x 8"):
        pack(np.array([(600, 8)]), 512)


def test_art_is_laid_with_its_edges_the_same_compiled_and_plain() -> None:
    rng = np.random.default_rng(4)
    rgba = rng.integers(0, 256, (40, 50, 4)).astype(np.uint8)[:, 3:]
    spots = np.array([(2, 3, 5, 6, 7, 4, 2, 5, 12, 9), (0, 0, 40, 30, 1, 1, 38, 28, 6, 5)])
    wanted = np.zeros((48, 64, 4), np.uint8)
    for x, y, left, top, w, h, slot_x, slot_y, wide, high in spots.tolist():
        edges = ((top - slot_y, slot_y + high - top - h), (left - slot_x, slot_x + wide - left - w), (0, 0))
        part = np.pad(rgba[y : y + h, x : x + w], edges, mode="edge")
        wanted[slot_y : slot_y + high, slot_x : slot_x + wide] = part
    for function in (kernels.lay, kernels.lay.py_func):
        out = np.zeros_like(wanted)
        function(out, rgba, spots)
        assert (out == wanted).all()


def test_rows_are_filtered_as_the_specification_says() -> None:
    px = np.random.default_rng(6).integers(0, 256, (5, 12)).astype(np.uint8)
    out = np.zeros((5, 13), np.uint8)
    for number in range(5):
        kernels.filtered(px, 3, number, out)
        back = np.zeros_like(px)
        for y, x in np.ndindex(px.shape):
            a = int(back[y, x - 3]) if x >= 3 else 0
            b = int(back[y - 1, x]) if y else 0
            c = int(back[y - 1, x - 3]) if y and x >= 3 else 0
            near = min((a, b, c), key=lambda one: abs(a + b - c - one))
            back[y, x] = (int(out[y, x + 1]) + (0, a, b, (a + b) // 2, near)[number]) % 256
        assert (out[:, 0] == number).all() and (back == px).all()


def test_gutters_repeat_the_edge() -> None:
    pixels = np.arange(2 * 3 * 4).reshape(2, 3, 4).astype(np.uint8)
    wide = with_gutter(pixels, 2)
    assert wide.shape == (6, 7, 4)
    assert (wide[0, 0] == pixels[0, 0]).all() and (wide[5, 6] == pixels[1, 2]).all()
    assert (wide[2:4, 2:5] == pixels).all() and (wide[3, 0] == pixels[1, 0]).all()


@pytest.mark.parametrize(
    "settings_",
    [Pages(), Pages(0, 256, "power", False), Pages(4, 1024, "any"), Pages(turned=True, grid=True)],
)
def test_every_frame_of_the_atlas_gives_its_cell_back(demo: Demo, settings_: Pages) -> None:
    project, stock = demo
    if settings_.limit == 256:
        from rushweed.core.document.edit import remove_sheet

        project = remove_sheet(project, named(project, "sky.png").id)
    atlas = build(project, stock, way(settings_))
    assert len(atlas.frames) == sum(len(s.cells) for s in project.sheets)
    for frame in atlas.frames:
        x, y, w, h = frame.cell.rect
        art = stock.pixels(frame.sheet)[y : y + h, x : x + w]
        back = np.zeros_like(art)
        px, py, pw, ph = frame.rect
        ox, oy = frame.offset
        there = orient(atlas.pages[frame.page][py : py + ph, px : px + pw], frame.turn)
        back[oy : oy + there.shape[0], ox : ox + there.shape[1]] = there
        assert (np.where(art[..., 3:] > 0, art, 0) == np.where(back[..., 3:] > 0, back, 0)).all()
        assert [k.filter for k in atlas.kinds][frame.page] == frame.sheet.tune.filter
        page = atlas.pages[frame.page]
        g = settings_.gutter
        block = page[py - g : py + ph + g, px - g : px + pw + g]
        assert (block == with_gutter(page[py : py + ph, px : px + pw], g)).all()


def test_equal_cells_are_kept_once(demo: Demo) -> None:
    project, stock = demo
    atlas = build(project, stock)
    crate = [f for f in atlas.frames if f.cell.name == "crate"]
    assert len(crate) == 2 and crate[0].rect == crate[1].rect and crate[0].page == crate[1].page


def test_shipping_twice_gives_the_same_bytes(demo: Demo, tmp_path: Path) -> None:
    one, two = ship(*demo, tmp_path / "a"), ship(*demo, tmp_path / "b")
    assert len(one.files) == len(two.files) >= 7
    for a, b in zip(one.files, two.files, strict=True):
        assert a.read_bytes() == b.read_bytes(), a.name
    times = {p: p.stat().st_mtime_ns for p in one.files}
    again = ship(*demo, tmp_path / "a")
    assert (
        again.made == ()
        and again.files == one.files
        and times == {p: p.stat().st_mtime_ns for p in one.files}
    )


def test_what_was_changed_or_lost_is_shipped_anew(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    first = ship(project, stock, tmp_path)
    before = {p: p.read_bytes() for p in first.files}
    (tmp_path / "manifest.json").write_text("{}")
    (tmp_path / "atlas_0.png").unlink()
    ship(project, stock, tmp_path)
    assert {p: p.read_bytes() for p in first.files} == before
    moved = set_pivot_px(project, [named(project, "crate.png").cells[0].id], 3, 3)
    ship(moved, stock, tmp_path)
    assert (tmp_path / "manifest.json").read_bytes() != before[tmp_path / "manifest.json"]


def test_the_manifest_says_all_a_game_needs(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    ship(project, stock, tmp_path)
    manifest = msgspec.json.decode((tmp_path / "manifest.json").read_bytes(), type=Manifest)
    deck = next(f for f in manifest.frames if f.name == "deck_mid_a")
    assert (deck.size_px, deck.pivot_px, deck.px_per_unit, deck.size_units) == ((16, 16), (0, 0), 16, (1, 1))
    assert deck.rect_px[2:] == (16, 9) and deck.offset_px == (0, 0)
    assert (deck.shapes[0].role, deck.shapes[0].blocks_from) == ("one-way", "top")
    assert deck.shapes[0].points_px == [(0, 0), (16, 0), (16, 9), (0, 9)]
    with Image.open(tmp_path / manifest.pages[deck.page].file) as page:
        assert page.size == manifest.pages[deck.page].size_px
    assert {c.sheet for c in manifest.credits} == {s.name for s in project.sheets}
    credits = (tmp_path / "CREDITS.txt").read_text()
    assert "Channel eel by The Tidelamp workshop (CC0-1.0" in credits
    assert "lamps.png (licence not stated)" in credits


@pytest.mark.parametrize("shift", [(0, 0), (3, -2), (-5, 40)])
def test_a_game_can_draw_the_level_from_the_shipped_files_alone(
    demo: Demo, tmp_path: Path, shift: tuple[int, int]
) -> None:
    project, stock = demo
    mud = [c.id for c in named(project, "marsh.png").cells[:20]]
    project = set_shifts(project, dict.fromkeys(mud, shift))
    ship(project, stock, tmp_path)
    manifest = msgspec.json.decode((tmp_path / "manifest.json").read_bytes(), type=Manifest)
    pages = [np.array(Image.open(tmp_path / p.file).convert("RGBA")) for p in manifest.pages]
    part = next(v for v in manifest.levels if v.name == "saltings")
    level = msgspec.json.decode((tmp_path / part.file).read_bytes(), type=LevelFile)
    cw, ch = level.cell_px
    left, top, columns, rows = level.bounds_cells
    out = np.zeros((rows * ch, columns * cw, 4), np.uint8)

    def art_of(index: int, turn: int = 0) -> np.ndarray:
        """A frame as a tile: within its cell."""
        frame = manifest.frames[index]
        fx, fy, fw, fh = frame.rect_px
        cell = np.zeros((ch, cw, 4), np.uint8)
        ox, oy = frame.offset_px
        art = pages[frame.page][fy : fy + fh, fx : fx + fw]
        for py, px in np.ndindex(fh, fw):
            if 0 <= py + oy < ch and 0 <= px + ox < cw:
                cell[py + oy, px + ox] = art[py, px]
        return orient(cell, turn)

    def lay(cell: np.ndarray, x: int, y: int, tint: tuple[int, int, int] | None) -> None:
        spot = out[y : y + cell.shape[0], x : x + cell.shape[1]]
        if tint is not None:
            cell = cell.copy()
            cell[..., :3] = (cell[..., :3].astype(int) * tint + 127) // 255
        spot[:] = np.where(cell[..., 3:] > 0, cell, spot)

    assert level.order == "foot"
    by_foot = []
    for n, layer in enumerate(level.layers):
        for y, row in enumerate(layer.rows):
            x = 0
            for count, index, turn in row:
                for i in range(x, x + count) if index >= 0 else ():
                    line = manifest.frames[index].traits.get("draw over")
                    if line is None:
                        lay(art_of(index, turn), i * cw, y * ch, layer.tint)
                    else:
                        by_foot.append(
                            ((y + 1) * ch - line, n, art_of(index, turn), i * cw, y * ch, layer.tint)
                        )  # type: ignore[operator]
                x += count
            assert x == columns
    frames = {f.id: f for f in manifest.frames}
    for thing in level.things:
        frame = frames[thing.shows]
        fx, fy, fw, fh = frame.rect_px
        art = pages[frame.page][fy : fy + fh, fx : fx + fw]
        x = math.floor(thing.at_px[0] - frame.pivot_px[0] + frame.offset_px[0] + 0.5) - left * cw
        y = math.floor(thing.at_px[1] - frame.pivot_px[1] + frame.offset_px[1] + 0.5) - top * ch
        tint = level.layers[thing.layer].tint
        by_foot.append((thing.at_px[1] - top * ch, thing.layer, art, x, y, tint))
    for _foot, _layer, art, x, y, tint in sorted(by_foot, key=lambda one: one[:2]):
        lay(art, x, y, tint)
    mine = next(v for v in project.levels if v.name == "saltings")
    area = (left * cw, top * ch, columns * cw, rows * ch)
    assert (out == level_picture(project, mine, stock.pixels, area)).all()
    with Image.open(tmp_path / "levels" / "saltings.png") as picture:
        assert (np.array(picture.convert("RGBA")) == out).all()


def test_the_schemas_in_the_docs_are_those_of_the_code() -> None:
    docs = Path(__file__).parents[2] / "docs"
    for name, schema in schemas().items():
        assert json.loads((docs / name).read_text()) == json.loads(msgspec.json.encode(schema)), name


def test_what_cannot_be_shipped_says_why(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    with pytest.raises(EditError, match="no cells"):
        ship(project_with(), stock, tmp_path)
    with pytest.raises(EditError, match="516 x 340"):
        ship(project, stock, tmp_path / "x", way(Pages(2, 256)))
    (tmp_path / "file").write_text("")
    with pytest.raises(StoreError):
        ship(project, stock, tmp_path / "file")
    assert not list((tmp_path / "x").glob("*.json"))


def retuned(project: Project, **tunes: dict[str, object]) -> Project:
    """Settings by the name of a sheet, without its ending."""
    for name, fields in tunes.items():
        project = tune_sheets(project, [named(project, f"{name}.png").id], **fields)  # type: ignore[arg-type]
    return project


def test_pages_never_mix_groups_filters_or_codecs(demo: Demo) -> None:
    project, stock = demo
    made = retuned(
        project, wren={"group": "people"}, crate={"codec": "bc3"}, marsh={"mipmaps": True, "filter": "linear"}
    )
    atlas = build(made, stock)
    for frame in atlas.frames:
        kind, tune = atlas.kinds[frame.page], frame.sheet.tune
        assert (kind.group, kind.codec, kind.mipmaps, kind.filter) == (
            tune.group, tune.codec, tune.mipmaps, tune.filter,
        )  # fmt: skip
    assert len(set(atlas.kinds)) == 5 and len(atlas.pages) == len(atlas.kinds)


def test_a_sheet_has_its_gutter_and_its_limit(demo: Demo) -> None:
    project, stock = demo
    atlas = build(
        retuned(project, wren={"gutter": 6, "group": "w", "limit": 256}), stock, way(Pages(1, sides="power"))
    )
    frames = [f for f in atlas.frames if f.sheet.name == "wren.png"]
    for frame in frames:
        x, y, w, h = frame.rect
        page = atlas.pages[frame.page]
        assert max(page.shape[:2]) <= 256
        assert (
            page[y - 6 : y + h + 6, x - 6 : x + w + 6] == with_gutter(page[y : y + h, x : x + w], 6)
        ).all()


def test_a_repeating_texture_is_a_page_of_its_own(demo: Demo) -> None:
    project, stock = demo
    made = retuned(project, marsh={"wrap": "repeat", "pad": "power"})
    atlas = build(made, stock)
    frame = next(f for f in atlas.frames if f.sheet.name == "marsh.png")
    page, art = atlas.pages[frame.page], stock.pixels(frame.sheet)
    assert frame.rect == frame.cell.rect and (page[: art.shape[0], : art.shape[1]] == art).all()
    assert not any(side & (side - 1) for side in page.shape[:2])
    assert {f.sheet.name for f in atlas.frames if f.page == frame.page} == {"marsh.png"}


def test_blocks_and_mipmaps_are_shipped_as_ktx2_and_read_back(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    made = retuned(project, crate={"codec": "bc7"}, lamps={"mipmaps": True, "alpha": "premultiplied"},
                   wren={"codec": "indexed"})  # fmt: skip
    made = cut_sheet(made, named(made, "lamps.png").id, PiecesCut(2), stock.pixels(named(made, "lamps.png")))
    made = set_margins(made, [named(made, "panel.png").cells[0].id], left=16, right=15)
    ship(made, stock, tmp_path)
    manifest = msgspec.json.decode((tmp_path / "manifest.json").read_bytes(), type=Manifest)
    kinds = {(p.codec, p.mipmaps): p for p in manifest.pages}
    block, mips = kinds[("bc7", False)], kinds[("none", True)]
    assert kinds[("none", False)].texture is None and kinds[("indexed", False)].texture is None
    with Image.open(tmp_path / kinds[("indexed", False)].file) as small:
        assert small.mode == "P"
    texture = read_ktx2((tmp_path / str(block.texture)).read_bytes(), "it")
    assert texture.size == tuple(block.size_px) and texture.codec == "bc7"
    again = decoded(texture.levels[0], "bc7", texture.size)
    with Image.open(tmp_path / block.file) as page:
        assert spoiled(np.array(page.convert("RGBA")), again).psnr > 30
    chain = read_ktx2((tmp_path / str(mips.texture)).read_bytes(), "it")
    assert chain.premultiplied and mips.alpha == "premultiplied" and len(chain.levels) > 5
    nine = next(f.nine for f in manifest.frames if f.sheet == "panel.png")
    assert nine is not None and (nine.left_px, nine.right_px, nine.fill[0]) == (16, 15, "stretch")


def test_the_page_limit_of_a_sheet_binds_its_own_pages_only(demo: Demo) -> None:
    project, stock = demo
    crate, sky = named(project, "crate.png"), named(project, "sky.png")
    project = tune_sheets(project, [crate.id], limit=64)
    atlas = build(project, stock)
    for frame in atlas.frames:
        page = atlas.pages[frame.page]
        if frame.sheet.id == crate.id:
            assert max(page.shape[:2]) <= 64
        if frame.sheet.id == sky.id:
            assert max(page.shape[:2]) > 64


def test_a_cell_too_large_for_its_page_is_named_with_its_sheet(demo: Demo) -> None:
    project, stock = demo
    sky = named(project, "sky.png")
    with pytest.raises(EditError, match=r"sky.png: sky needs \d+ x \d+ px .* pages are 100 px") as caught:
        build(tune_sheets(project, [sky.id], limit=100), stock)
    assert "limit in Tune" in caught.value.cure
    with pytest.raises(EditError, match="sky.png: sky needs") as caught:
        build(project, stock, way(Pages(limit=128)))
    assert "larger pages" in caught.value.cure


def test_what_a_renamed_level_left_behind_goes_and_foreign_files_stay(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    ship(project, stock, tmp_path)
    (tmp_path / "levels" / "mine.json").write_text("{}")
    (tmp_path / "levels" / "saltings.json").write_text("changed by hand")
    for level in project.levels:
        project = rename(project, level.id, f"new {level.name}")
    ship(project, stock, tmp_path)
    there = {p.name for p in (tmp_path / "levels").iterdir()}
    assert {"new_pier.json", "new_pier.png", "new_saltings.json", "mine.json"} <= there
    assert "pier.json" not in there and "pier.png" not in there
    assert "saltings.json" in there, "a file that somebody changed since is left"


def test_another_version_of_the_program_ships_anew(demo: Demo, tmp_path: Path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    project, stock = demo
    ship(project, stock, tmp_path)
    monkeypatch.setattr("rushweed.core.ship.build.__version__", "99")
    again = ship(project, stock, tmp_path)
    assert len(again.made) == len(again.files) - 1


@pytest.mark.parametrize(
    ("sizes", "most"),
    [([(16, 16)] * 211, 1.3), ([(16, 16)] * 57, 1.3), ([(18, 18)] * 211, 1.2), ([(24, 32)] * 22, 2.0)],
)
def test_pages_of_powers_of_two_are_square_and_full(sizes: list[tuple[int, int]], most: float) -> None:
    pages = pack(np.array(sizes), 4096, True)
    taken = sum(page.width * page.height for page in pages)
    assert taken <= most * sum(w * h for w, h in sizes)
    for page in pages:
        assert max(page.width, page.height) <= 2 * min(page.width, page.height)
        assert all((side & (side - 1)) == 0 for side in page[:2])
    placed = [(number, x, y) for number, page in enumerate(pages) for _i, x, y in page.places.tolist()]
    assert len(set(placed)) == len(sizes)
