"""Shapes in the real window: polygons, circles, vertices, outlines from the pixels, the rest of a sheet."""

from PyQt6.QtCore import Qt

from rushweed.core.document.model.shape import Box, Circle, Polygon
from rushweed.core.shape.primitives import area, corners
from rushweed.ui.stages.shape.stage import ShapeStage
from rushweed.ui.stages.shape.tools.ring import DrawRing
from tests.ui.conftest import Hands

CTRL = Qt.KeyboardModifier.ControlModifier


def stage(hands: Hands) -> ShapeStage:
    made = hands.window.stage("shape")
    assert isinstance(made, ShapeStage)
    return made


def crate(hands: Hands) -> tuple[float, float]:
    """The crate's cell, bare, and where it begins."""
    hands.open_sheet("crate.png", "shape")
    hands.session.selection.choose_cells((hands.sheet("crate.png").cells[0].id,))
    if hands.sheet("crate.png").cells[0].shapes:
        hands.keys("Delete")
    x, y = hands.sheet("crate.png").cells[0].rect[:2]
    return x, y


def shapes(hands: Hands) -> tuple:  # type: ignore[type-arg]
    return hands.sheet("crate.png").cells[0].shapes


def press(hands: Hands, *points: tuple[float, float]) -> None:
    x, y = hands.sheet("crate.png").cells[0].rect[:2]
    for px, py in points:
        hands.click(x + px, y + py)


def test_a_polygon_is_drawn_point_by_point_and_closed_with_enter(hands: Hands) -> None:
    crate(hands)
    hands.keys("N")
    press(hands, (2.2, 1.9), (14, 2), (14, 12), (9, 9), (9, 4))
    hands.qtbot.keyClick(hands.window.desk, Qt.Key.Key_Backspace)
    hands.qtbot.keyClick(hands.window.desk, Qt.Key.Key_Return)
    assert shapes(hands) == (Polygon(((2, 2), (14, 2), (14, 12), (9, 9))),)
    assert hands.session.selection.shape_index == 0
    hands.keys("Ctrl+Z")
    assert shapes(hands) == ()


def test_either_way_round_is_made_uniform_and_the_first_point_closes(hands: Hands) -> None:
    crate(hands)
    hands.keys("N")
    press(hands, (2, 2), (2, 12), (14, 12), (2, 2))
    assert shapes(hands) == (Polygon(((14, 12), (2, 12), (2, 2))),)


def test_escape_leaves_a_polygon_and_too_few_points_make_none(hands: Hands) -> None:
    crate(hands)
    hands.keys("N")
    press(hands, (2, 2), (14, 2))
    hands.qtbot.keyClick(hands.window.desk, Qt.Key.Key_Escape)
    ring = stage(hands).active
    assert isinstance(ring, DrawRing) and ring.points == [] and shapes(hands) == ()
    press(hands, (2, 2), (14, 2))
    hands.qtbot.keyClick(hands.window.desk, Qt.Key.Key_Return)
    assert shapes(hands) == ()


def test_crossing_edges_are_shown_at_once_and_found(hands: Hands) -> None:
    x, y = crate(hands)
    hands.keys("N")
    press(hands, (2, 2), (14, 12), (14, 2), (2, 12))
    hands.qtbot.wait(20)
    middle = hands.at(x + 8, y + 7)
    image = hands.window.desk.grab().toImage()
    found = {
        image.pixelColor(middle.x() + dx, middle.y() + dy).name()
        for dx in range(-6, 7)
        for dy in range(-6, 7)
    }
    assert "#9e2b2b" in found
    hands.qtbot.keyClick(hands.window.desk, Qt.Key.Key_Return)
    assert len(shapes(hands)) == 1
    hands.wait(lambda: any(f.rule == "crossing-shape" for f in hands.session.checker.findings))


def test_vertices_are_added_mid_edge_moved_and_removed(hands: Hands) -> None:
    x, y = crate(hands)
    hands.keys("N")
    press(hands, (2, 2), (14, 2), (14, 14))
    hands.qtbot.keyClick(hands.window.desk, Qt.Key.Key_Return)
    hands.keys("V")
    hands.drag((x + 14, y + 8), (x + 15, y + 9), (x + 16, y + 10))
    assert shapes(hands)[0].points == ((2, 2), (14, 2), (16, 10), (14, 14))
    hands.click(x + 16, y + 10, keys=CTRL)
    assert shapes(hands)[0].points == ((2, 2), (14, 2), (14, 14))
    hands.click(x + 14, y + 14, keys=CTRL)
    assert len(shapes(hands)[0].points) == 3
    assert "at least three" in hands.window.notice.words.text()


def test_a_circle_is_drawn_from_its_middle_and_its_radius_dragged(hands: Hands) -> None:
    x, y = crate(hands)
    hands.keys("C")
    hands.drag((x + 8, y + 8), (x + 11, y + 8), (x + 13, y + 8))
    assert shapes(hands) == (Circle(8, 8, 5),)
    hands.keys("V")
    hands.drag((x + 13, y + 8), (x + 14, y + 8), (x + 15, y + 8))
    assert shapes(hands) == (Circle(8, 8, 7),)
    hands.type(stage(hands).main.extent, "8 x 8")
    assert shapes(hands) == (Circle(5, 5, 4),)
    hands.keys("M")
    assert shapes(hands) == (Circle(11, 5, 4),)


def test_cells_are_outlined_and_follow_the_slider_as_one_step(hands: Hands) -> None:
    sheet = hands.open_sheet("wren.png", "shape")
    cell = sheet.cells[0]
    hands.session.selection.choose_cells((cell.id,))
    pixels = stage(hands).pixels
    hands.type(pixels.tolerance, "0")
    hands.keys("O")
    x, y, w, h = cell.rect
    solid = int((hands.session.stock.pixels(sheet)[y : y + h, x : x + w, 3] >= 128).sum())
    exact = hands.cell("wren.png", cell.name).shapes
    assert sum(area(s) for s in exact) == solid
    pixels.slider.setValue(8)
    shown = hands.session.project
    assert shown is not hands.session.document.history.project  # a preview while it is dragged
    fewer = hands.cell("wren.png", cell.name).shapes
    assert sum(len(getattr(s, "points", range(4))) for s in fewer) < sum(
        len(getattr(s, "points", range(4))) for s in exact
    )
    pixels.settle()
    assert hands.session.project is hands.session.document.history.project
    assert pixels.tolerance.values == (2,)
    hands.press_widget(pixels.convex, 5, 12)
    assert len(hands.cell("wren.png", cell.name).shapes) >= len(fewer)
    hands.keys("Ctrl+Z")
    assert hands.cell("wren.png", cell.name).shapes == cell.shapes


def test_outlines_keep_the_vertices_allowed_and_the_alpha_asked(hands: Hands) -> None:
    hands.open_sheet("wren.png", "shape")
    cells = [c for c in hands.sheet("wren.png").cells if c.name.startswith("walk")][:3]
    hands.session.selection.choose_cells(tuple(c.id for c in cells))
    pixels = stage(hands).pixels
    hands.type(pixels.tolerance, "0")
    pixels.trace()
    hands.type(pixels.vertices, "24")
    shapes = [c.shapes for c in hands.session.selection.cells]
    assert all(given and sum(len(corners(s)) for s in given) <= 24 for given in shapes)
    hands.type(pixels.vertices, "2")
    assert "need more vertices" in pixels.words.text()
    assert [c.shapes for c in hands.session.selection.cells] == shapes, "what is impossible changes nothing"
    hands.type(pixels.vertices, "0")
    hands.type(pixels.threshold, "255")
    assert all(c.shapes for c in hands.session.selection.cells)


def test_vertices_are_typed_and_slopes_have_keys(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "shape")
    cell = next(c for c in hands.sheet("boardwalk.png").cells)
    hands.session.selection.choose_cells((cell.id,))
    hands.keys("Alt+Shift+1")
    assert corners(hands.session.selection.cell.shapes[0]) == ((0, 16), (16, 0), (16, 16))
    hands.session.selection.choose_cells((cell.id,), 0)
    field = stage(hands).main.points
    assert field.isVisible() and field.text() == "0,16 16,0 16,16"
    hands.type(field, "0,16 8,2 16,16")
    assert corners(hands.session.selection.cell.shapes[0]) == ((0, 16), (8, 2), (16, 16))
    for wrong in ("0,16 8", "words", "0,0 1,1"):
        hands.type(field, wrong)
        assert corners(hands.session.selection.cell.shapes[0]) == ((0, 16), (8, 2), (16, 16))
    assert field.text() == "0,16 8,2 16,16"
    hands.keys("Alt+Shift+5")
    assert len(corners(hands.session.selection.cell.shapes[0])) == 5


def test_an_empty_selection_is_told(hands: Hands) -> None:
    hands.open_sheet("wren.png", "shape")
    hands.session.selection.choose_cells(())
    stage(hands).pixels.trace()
    assert "No cell is selected" in hands.window.notice.words.text()


def test_the_rest_is_proposed_taken_one_by_one_and_all(hands: Hands) -> None:
    hands.open_sheet("marsh.png", "shape")
    made = stage(hands)
    bare = [c for c in hands.sheet("marsh.png").cells if not c.shapes]
    hands.press_widget(made.pixels.rest)
    hands.wait(lambda: len(made.pixels.proposed) == len(bare))
    assert "from twins" in made.pixels.words.text()
    first = bare[0]
    x, y, w, h = first.rect
    hands.click(x + w / 2, y + h / 2)
    assert hands.cell("marsh.png", first.name).shapes == (Box(0, 0, 16, 16),)
    assert sum(1 for c in hands.sheet("marsh.png").cells if not c.shapes) == len(bare) - 1
    hands.keys("Ctrl+Return")
    assert all(c.shapes for c in hands.sheet("marsh.png").cells)
    assert (
        made.pixels.proposed == {}
        and hands.session.document.history.undo_label == f"Give shapes to {len(bare) - 1} cells"
    )


def test_proposals_are_left_and_forgotten_on_another_sheet(hands: Hands) -> None:
    hands.open_sheet("marsh.png", "shape")
    made = stage(hands)
    before = hands.sheet("marsh.png")
    hands.press_widget(made.pixels.rest)
    hands.wait(lambda: bool(made.pixels.proposed))
    hands.open_sheet("boardwalk.png", "shape")
    assert made.pixels.proposed == {} and not made.pixels.take.isVisible()
    hands.open_sheet("marsh.png", "shape")
    assert hands.sheet("marsh.png") is before
