"""Ways to ship: kept with the project, several at once, and what each lets go."""

from pathlib import Path

import pytest
from msgspec.structs import replace

from rushweed.core.document.errors import EditError, StoreError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shipping import Pages
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.build import ship
from rushweed.core.ship.pages import build
from rushweed.core.ship.ways import (
    DESKTOP,
    READY,
    add_way,
    change_way,
    remove_way,
    shipped_part,
    way_named,
    way_of,
    ways_of,
)
from rushweed.core.store.folder import Folder
from tests.conftest import named

Demo = tuple[Project, PixelCache]


def test_ways_are_made_changed_kept_and_removed(demo: Demo, demo_folder: Path) -> None:
    project, _ = demo
    assert ways_of(project) == READY
    project, way_id = add_way(project, "Steamer")
    project = change_way(project, way_id, picture="webp", folder="../out", pages=Pages(4, 1024, "any"))
    project = change_way(project, "phone", texture="bc7")
    folder = Folder(demo_folder)
    folder.open()
    folder.save(project)
    again = Folder(demo_folder).open()
    assert again.ways == project.ways and way_named(again, "steamer").pages.limit == 1024
    assert [w.name for w in ways_of(again)] == [*(w.name for w in READY), "Steamer"]
    assert way_of(again, "phone").texture == "bc7"
    again = remove_way(remove_way(again, "phone"), way_id)
    assert ways_of(again) == READY
    with pytest.raises(EditError, match="gone"):
        way_of(again, way_id)


@pytest.mark.parametrize(
    ("fields", "says"),
    [({"name": "  "}, "needs a name"), ({"name": "Phone game"}, "cannot be called"),
     ({"scales": ()}, "at no times"), ({"scales": (1, 9)}, "1, 9 times"),
     ({"pages": Pages(gutter=99)}, "gutter of 99 px"), ({"pages": Pages(limit=32)}, "page of 32 px"),
     ({"pages": Pages(clean=6)}, "6 clean mipmaps")],
)  # fmt: skip
def test_impossible_ways_are_refused(demo: Demo, fields: dict, says: str) -> None:  # type: ignore[type-arg]
    with pytest.raises(EditError, match=says):
        change_way(demo[0], "desktop", **fields)


def test_a_way_that_no_edit_would_make_is_refused_in_a_file(demo: Demo, demo_folder: Path) -> None:
    project = change_way(demo[0], "desktop", pages=Pages(gutter=7))
    folder = Folder(demo_folder)
    folder.open()
    folder.save(project)
    head = demo_folder / "rushweed.json"
    head.write_text(
        head.read_text().replace('"gutter":7', '"gutter":-7').replace('"gutter": 7', '"gutter": -7')
    )
    with pytest.raises(StoreError, match="gutter of -7 px"):
        Folder(demo_folder).open()


def test_what_a_level_shows_goes_with_it(demo: Demo) -> None:
    project, _ = demo
    pier = project.levels[0]
    way = replace(DESKTOP, sheets=(), levels=(pier.id,), animations=())
    part = shipped_part(project, way)
    names = {s.name for s in part.sheets}
    assert part.levels == (pier,)
    assert {"boardwalk.png", "wren.png", "heron", "sky.png"} <= names and "eel.bmp" not in names
    assert {"idle", "walk", "climb", "heron"} <= {a.name for a in part.animations}
    alone = shipped_part(
        project, replace(DESKTOP, sheets=(named(project, "eel.bmp").id,), levels=(), animations=())
    )
    assert [s.name for s in alone.sheets] == ["eel.bmp"] and alone.levels == alone.animations == ()
    with pytest.raises(EditError, match="Desktop game ships nothing"):
        shipped_part(project, replace(DESKTOP, sheets=(), levels=(), animations=()))


def test_several_ways_go_to_their_own_folders(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    for way in (*(w for w in READY if w.id != "phone"), replace(way_of(project, "phone"), texture="bc1")):
        done = ship(project, stock, tmp_path / way.id, way)
        assert all(path.is_file() for path in done.files)
        assert {p.relative_to(done.folder).as_posix() for p in done.files} == {*done.listed, "files.json"}
    assert (tmp_path / "page" / "page.html").exists() and not (tmp_path / "page" / "manifest.json").exists()


def test_two_ways_never_share_a_folder(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    project = change_way(project, "desktop", folder=str(tmp_path / "out"))
    ship(project, stock, tmp_path / "out", way_of(project, "desktop"))
    with pytest.raises(StoreError, match="holds what Desktop game ships there"):
        ship(project, stock, tmp_path / "out", way_of(project, "plain"))
    assert (tmp_path / "out" / "manifest.json").exists()
    ship(change_way(project, "desktop", name="PC"), stock, tmp_path / "out", way_of(project, "desktop"))


# -- pages -------------------------------------------------------------------------------------------------


def test_the_demo_fills_its_pages_without_powers_of_two(demo: Demo) -> None:
    project, stock = demo
    for sides in ("any", "four"):
        atlas = build(project, stock, replace(DESKTOP, pages=Pages(sides=sides)))  # type: ignore[arg-type]
        assert atlas.plan.filled > 0.75
        if sides == "four":
            assert all(side % 4 == 0 for page in atlas.plan.pages for side in page.size)


def test_mirrored_and_turned_pictures_are_placed_once(demo: Demo) -> None:
    project, stock = demo
    plain = build(project, stock, replace(DESKTOP, pages=Pages()))
    once = build(project, stock, replace(DESKTOP, pages=Pages(turned=True)))
    count = [sum(len(page.spots) for page in atlas.plan.pages) for atlas in (plain, once)]
    assert (
        count[1] < count[0] and {f.turn for f in once.frames} != {0} and {f.turn for f in plain.frames} == {0}
    )


def test_even_grids_are_read_by_arithmetic_alone(demo: Demo) -> None:
    project, stock = demo
    atlas = build(project, stock, replace(DESKTOP, pages=Pages(1, grid=True)))
    sheet = named(project, "boardwalk.png")
    page, px = next(
        both for both in zip(atlas.plan.pages, atlas.pages, strict=True)
        if both[0].grid is not None and both[0].sheets == [sheet]
    )  # fmt: skip
    grid = page.grid
    assert grid is not None and grid.cell == (16, 16) and grid.pitch == (18, 18) and grid.margin == 1
    art = stock.pixels(sheet)
    for n, cell in enumerate(sheet.cells):
        x = grid.margin + n % grid.columns * grid.pitch[0]
        y = grid.margin + n // grid.columns * grid.pitch[1]
        cx, cy, w, h = cell.rect
        assert (px[y : y + h, x : x + w] == art[cy : cy + h, cx : cx + w]).all()
    assert max(page.size) <= 2 * min(page.size)


@pytest.mark.parametrize(
    ("codec", "mipmaps", "clean"), [("bc3", False, 0), ("none", True, 3), ("bc7", True, 2)]
)
def test_blocks_and_mipmaps_never_mix_neighbours(demo: Demo, codec: str, mipmaps: bool, clean: int) -> None:
    from rushweed.core.tune.edit import tune_sheets

    project, stock = demo
    ids = [named(project, name).id for name in ("wren.png", "crate.png", "heron")]
    project = tune_sheets(project, ids, codec=codec, mipmaps=mipmaps)
    atlas = build(project, stock, replace(DESKTOP, pages=Pages(0, clean=clean)))
    unit = (4 if codec != "none" else 1) << (clean if mipmaps else 0)
    both = zip(atlas.plan.pages, atlas.pages, strict=True)
    pages = [(p, px) for p, px in both if p.kind.codec == codec and p.kind.mipmaps == mipmaps]
    assert pages
    for page, px in pages:
        for (x, y, w, h), (left, top, wide, high) in page.spots[["rect", "slot"]].tolist():
            assert all(v % unit == 0 for v in (left, top, wide, high))
            assert not mipmaps or min(x - left, y - top) >= 1 << clean
            for row in range(top, top + high):  # all of the slot is the picture's own edge
                near = min(max(row, y), y + h - 1)
                assert (px[row, left:x] == px[near, x]).all()
                assert (px[row, x + w : left + wide] == px[near, x + w - 1]).all()
        if mipmaps:
            assert not any(side & (side - 1) for side in page.size)
