"""Recipes, settings for many, pivots from the feet, findings about textures."""

import numpy as np
import pytest
from msgspec.structs import replace

from rushweed.core.cut.transform_cells import set_steps
from rushweed.core.document.edit import put_sheet
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import NineSlice, Recipe
from rushweed.core.document.model.steps import Mirror, Turn
from rushweed.core.findings import tune as rules
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.store.folder import Folder
from rushweed.core.tune import nine, recipe
from rushweed.core.tune.edit import feet_of, pivots_from_feet, tune_sheets
from rushweed.core.tune.sample import straighten, texture_of
from tests.conftest import named


def with_tune(project: Project, name: str, **fields: object) -> Project:
    return tune_sheets(project, [named(project, name).id], **fields)  # type: ignore[arg-type]


def test_new_sheets_come_with_the_recipe_that_fits(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    assert {s.tune.recipe for s in project.sheets if s.name != "panel.png"} == {"crisp"}
    fit, why = recipe.fitting(stock.pixels(named(project, "wren.png")))
    assert fit == recipe.CRISP and why == "15 colours, hard edges"


def test_a_setting_of_its_own_leaves_the_recipe_and_the_same_one_does_not(
    demo: tuple[Project, PixelCache],
) -> None:
    project, _ = demo
    assert named(with_tune(project, "wren.png", ppu=32), "wren.png").tune.recipe == "crisp"
    assert named(with_tune(project, "wren.png", gutter=2), "wren.png").tune.recipe == ""
    assert named(with_tune(project, "wren.png", filter="nearest"), "wren.png").tune.recipe == "crisp"


def test_sheets_follow_a_recipe_that_changes(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    made, own = recipe.save(
        with_tune(project, "wren.png", gutter=3, mipmaps=True), named(project, "wren.png").id, "Dusk"
    )
    assert named(made, "wren.png").tune.recipe == own.id and own.gutter == 3 and own.ppu is None
    made = recipe.give(made, [named(made, "lamps.png").id], own.id)
    made = recipe.change(made, own.id, codec="bc7", ppu=24.0)
    for name in ("wren.png", "lamps.png"):
        tune = named(made, name).tune
        assert (tune.codec, tune.gutter, tune.mipmaps, tune.ppu) == ("bc7", 3, True, 24)
    assert named(made, "crate.png").tune.codec == "none"
    gone = recipe.remove(made, own.id)
    assert named(gone, "wren.png").tune.recipe == "" and named(gone, "wren.png").tune.codec == "bc7"
    assert recipe.recipes_of(gone) == recipe.OURS
    with pytest.raises(EditError, match="gone"):
        recipe.give(gone, [], own.id)


def test_ours_can_be_changed_and_come_back(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    made = recipe.change(project, "crisp", gutter=1)
    assert named(made, "crate.png").tune.gutter == 1 and made.recipes[0].gutter == 1
    assert recipe.change(made, "crisp", gutter=1) is made
    with pytest.raises(EditError, match="called"):
        recipe.change(made, "crisp", name="Smooth art")
    back = recipe.remove(made, "crisp")
    assert named(back, "crate.png").tune.gutter == 0 and not back.recipes


def test_recipes_and_nine_slices_are_saved_and_opened_again(
    demo: tuple[Project, PixelCache], tmp_path
) -> None:  # type: ignore[no-untyped-def]
    project, _ = demo
    panel = named(project, "panel.png")
    made, own = recipe.save(project, named(project, "wren.png").id, "Dusk")
    made = recipe.change(made, own.id, ppu=16.0)
    made = nine.set_margins(made, [panel.cells[0].id], left=16, top=15, right=14, bottom=13)
    made = nine.set_fill(made, [panel.cells[0].id], "top_fill", "repeat")
    folder, _empty = Folder.create(tmp_path / "p", "p")
    folder.save(replace(made, id=_empty.id, levels=(), animations=()))
    folder.unlock()
    again = Folder(tmp_path / "p").open()
    assert again.recipes == made.recipes and isinstance(again.recipes[0], Recipe)
    assert named(again, "panel.png").cells[0].stretch == NineSlice(16, 15, 14, 13, top_fill="repeat")


@pytest.mark.parametrize(
    "fields", [{"gutter": 33}, {"gutter": -1}, {"limit": 8}, {"limit": 20_000}, {"ppu": 0.0}]
)
def test_impossible_settings_are_refused(demo: tuple[Project, PixelCache], fields: dict[str, int]) -> None:
    with pytest.raises(EditError, match="not possible"):
        with_tune(demo[0], "wren.png", **fields)


# -- feet --------------------------------------------------------------------------------------------------


def test_feet_are_the_middle_of_the_lowest_ink() -> None:
    pixels = np.zeros((20, 20, 4), np.uint8)
    pixels[2:18, 3:15] = 255
    pixels[16:18, :, 3] = 0
    pixels[16:18, 6:9, 3] = 255
    assert feet_of(pixels) == (7.5, 18.0)
    assert feet_of(np.zeros((4, 4, 4), np.uint8)) is None


def test_pivots_go_to_the_feet_of_each_cell(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    sheet = named(project, "wren.png")
    rgba = stock.pixels(sheet)
    cells = {c.id: rgba[c.rect[1] : c.rect[1] + 32, c.rect[0] : c.rect[0] + 24] for c in sheet.cells[4:12]}
    made = named(pivots_from_feet(project, cells), "wren.png")
    for cell in made.cells[4:12]:
        x, y, _w, h = cell.rect
        foot = int(cell.pivot[1])
        ink = rgba[y : y + h, x : x + 24, 3] > 0
        assert ink[foot - 1].any() and not ink[foot:].any()
    assert made.cells[0] is sheet.cells[0]


# -- findings ----------------------------------------------------------------------------------------------


def found(rule, project: Project, stock: PixelCache, name: str):  # type: ignore[no-untyped-def]
    return list(rule(named(project, name), stock))


def test_bleeding_is_found_and_the_fix_ends_it(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    assert not found(rules.no_gutter, project, stock, "marsh.png")
    linear = with_tune(project, "marsh.png", filter="linear")
    finding = found(rules.no_gutter, linear, stock, "marsh.png")[0]
    assert finding.fix.label == "Gutter of 1 px" and "bleed" in finding.text
    cured = finding.fix.edit(linear)
    assert named(cured, "marsh.png").tune.gutter == 1 and not found(
        rules.no_gutter, cured, stock, "marsh.png"
    )


def test_pixel_art_that_is_blurred_or_compressed_is_found(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    wrong = with_tune(project, "wren.png", filter="linear", codec="bc1")
    for rule, fixed in (
        (rules.linear_pixel_art, ("filter", "nearest")),
        (rules.blocks_spoil, ("codec", "none")),
    ):
        assert not found(rule, project, stock, "wren.png")
        finding = found(rule, wrong, stock, "wren.png")[0]
        assert getattr(named(finding.fix.edit(wrong), "wren.png").tune, fixed[0]) == fixed[1]


def test_sizes_that_a_codec_does_not_allow_are_found_before_they_hurt(
    demo: tuple[Project, PixelCache],
) -> None:
    project, stock = demo
    board = named(project, "boardwalk.png")
    assert board.source.size[0] % 4 or board.source.size[1] % 4
    for fields in ({"codec": "bc3"}, {"mipmaps": True}):
        on_pages = with_tune(project, "boardwalk.png", **fields)  # these get the size they need
        assert not found(rules.wrong_size, on_pages, stock, "boardwalk.png")
        alone = with_tune(project, "boardwalk.png", wrap="repeat", **fields)
        finding = found(rules.wrong_size, alone, stock, "boardwalk.png")[0]
        assert finding.text.startswith("boardwalk.png repeats, so it ships as it is: 171 x 112 px is not a")
    assert not found(
        rules.wrong_size, with_tune(project, "boardwalk.png", wrap="repeat"), stock, "boardwalk.png"
    )


def test_cells_over_the_limit_are_found(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    small = with_tune(project, "panel.png", limit=32)
    finding = found(rules.over_limit, small, stock, "panel.png")[0]
    assert finding.weight == "fault" and finding.fix.label == "Allow 64 px"
    assert not found(rules.over_limit, finding.fix.edit(small), stock, "panel.png")


# -- nine-slice --------------------------------------------------------------------------------------------


def framed() -> np.ndarray:
    """12 x 10 px: corners of 3 x 2 px, striped sides."""
    rgba = np.zeros((10, 12, 4), np.uint8)
    rgba[..., 3] = 255
    rgba[:, :3, 0] = rgba[:, 9:, 0] = 200
    rgba[:2, :, 1] = rgba[8:, :, 1] = 100
    return rgba


def test_margins_are_proposed_where_lines_are_alike(demo: tuple[Project, PixelCache]) -> None:
    assert nine.proposed(framed()) == NineSlice(3, 2, 3, 2)
    project, stock = demo
    panel = nine.proposed(stock.pixels(named(project, "panel.png")))
    assert panel is not None and panel.left == panel.right and panel.top == panel.bottom
    assert 10 <= panel.left <= 18
    assert nine.proposed(np.random.default_rng(0).integers(0, 255, (9, 9, 4)).astype(np.uint8)) is None


def test_stretching_keeps_the_corners_and_fills_the_rest() -> None:
    texture = texture_of(framed())
    made = straighten(nine.stretched(texture, (0, 0, 12, 10), NineSlice(3, 2, 3, 2), (30, 20)))
    assert made.shape == (20, 30, 4)
    assert (made[:2, :3] == framed()[:2, :3]).all() and (made[-2:, -3:] == framed()[-2:, -3:]).all()
    assert (made[2:18, 3:27] == framed()[5, 5]).all()
    large = nine.stretched(texture, (0, 0, 12, 10), NineSlice(3, 2, 3, 2), (30, 20), 2.5)
    assert large.shape == (50, 75, 4)


def test_repeating_lays_the_middle_side_by_side() -> None:
    rgba = framed()
    rgba[:, 3:9, 2] = np.arange(6) * 40
    texture = texture_of(rgba)
    repeat = NineSlice(3, 2, 3, 2, top_fill="repeat", centre_fill="repeat")
    made = straighten(nine.stretched(texture, (0, 0, 12, 10), repeat, (24, 10)))
    assert made[0, 3:21, 2].tolist() == (list(range(0, 240, 40)) * 3)
    stretch = straighten(nine.stretched(texture, (0, 0, 12, 10), NineSlice(3, 2, 3, 2), (24, 10)))
    assert stretch[0, 3:21, 2].tolist() == np.repeat(np.arange(6) * 40, 3).tolist()


def test_corners_shrink_where_there_is_no_room() -> None:
    places = nine.parts(NineSlice(4, 4, 4, 4), (12, 12), (4, 20))
    assert max(p.target[0] + p.target[2] for p in places) == 4
    assert {p.target[2] for p in places} == {2}


def test_margins_that_do_not_fit_are_refused(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    cell = named(project, "panel.png").cells[0]
    with pytest.raises(EditError, match="48 px"):
        nine.set_margins(project, [cell.id], left=30, right=30)
    with pytest.raises(EditError, match="below 0"):
        nine.set_margins(project, [cell.id], top=-1)


def test_guides_stay_on_the_art_when_it_is_turned_or_mirrored(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    panel = named(project, "panel.png")
    stretch = NineSlice(10, 11, 12, 13, left_fill="repeat")
    project = put_sheet(project, replace(panel, cells=(replace(panel.cells[0], stretch=stretch),)))
    turned = named(set_steps(project, panel.id, (Turn(1),), stock), "panel.png").cells[0].stretch
    assert turned == NineSlice(13, 10, 11, 12, top_fill="repeat")
    mirrored = named(set_steps(project, panel.id, (Mirror(),), stock), "panel.png").cells[0].stretch
    assert mirrored == NineSlice(12, 11, 10, 13, right_fill="repeat")
