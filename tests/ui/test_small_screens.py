"""Small windows: options fold, the Shelf folds, cards scroll, nothing stands beyond the screen."""

from pathlib import Path

from PyQt6.QtCore import QRect, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QImage
from PyQt6.QtWidgets import QLabel, QLineEdit, QPushButton, QScrollArea, QWidget

from rushweed.core.document.edit import rename, rename_cell
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Polygon
from rushweed.core.level.levels import add_level, change_level
from rushweed.core.shape.edit import set_shapes
from rushweed.ui.desk.view import View
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Pressable
from rushweed.ui.kit.screen import fit_screen
from rushweed.ui.panels.shelf import ROW
from rushweed.ui.session import STAGES
from tests.ui.conftest import Hands


def small(hands: Hands, wide: int = 1024, high: int = 640) -> None:
    hands.window.resize(wide, high)
    hands.wait(lambda: hands.window.size().width() == wide)
    hands.qtbot.wait(80)


def read(widget: QWidget) -> int:
    """The px a control needs to be read."""
    return min(max(widget.minimumSizeHint().width(), widget.minimumWidth()), widget.maximumWidth())


def test_every_option_can_be_reached_in_a_small_window(hands: Hands) -> None:
    for stage in STAGES:
        small(hands)
        options_are_reached(hands, stage)


def options_are_reached(hands: Hands, stage: str) -> None:
    window = hands.window
    hands.session.go(stage)
    hands.qtbot.wait(80)
    line = window.stage(stage).option_line
    shown = [w for w in line.findChildren(QWidget) if w.isVisible() and w.parent() is line]
    assert shown
    for widget in shown:
        assert line.rect().contains(widget.geometry()), widget
        assert widget.width() >= read(widget), widget
    folded = [part for part in line.folded() if not part.isHidden()]
    assert line.more.isVisible() == bool(folded)
    if folded:
        line.open()
        hands.qtbot.wait(80)
        for part in folded:
            assert part.isVisible() and part.window() is line.board
            assert part.width() >= read(part)
        line.board.hide()
    window.resize(2400, 900)
    hands.wait(lambda: window.width() == 2400)
    hands.qtbot.wait(80)
    assert not line.folded() and not line.more.isVisible()


def test_an_option_on_the_board_works_as_in_the_line(hands: Hands) -> None:
    small(hands)
    hands.session.go("cut")
    hands.qtbot.wait(80)
    cut = hands.window.stage("cut")
    assert cut.margin in [w for part in cut.option_line.folded() for w in part.findChildren(QWidget)]  # type: ignore[attr-defined]
    cut.option_line.open()
    hands.type(cut.margin, "3 x 3")  # type: ignore[attr-defined]
    cut.option_line.board.hide()
    sheet = hands.session.selection.sheet
    assert sheet is not None and sheet.cut is not None
    assert getattr(sheet.cut, "margin", None) == (3, 3)


def test_shipping_never_folds(hands: Hands) -> None:
    hands.window.resize(960, 640)
    hands.session.go("ship")
    hands.qtbot.wait(80)
    stage = hands.window.stage("ship")
    assert stage.ship_button.isVisible() and stage.ship_button.parent() is stage.option_line  # type: ignore[attr-defined]


def test_no_control_of_a_card_lies_over_another(hands: Hands) -> None:
    small(hands)
    for stage in STAGES:
        nothing_overlaps(hands, stage)


def test_large_numbers_and_long_names_make_no_card_wider_than_its_room(hands: Hands) -> None:
    long = "a very long name that somebody gave to it_0123456789"

    def large(project: Project) -> Project:
        project, made = add_level(project, long, (64, 64), "side", (1000, 1000))
        project = change_level(project, made, group=long)
        cell = project.sheets[0].cells[0]
        polygon = Polygon(tuple((float(x), 3.0 * (x % 7)) for x in range(48)))
        project = rename_cell(set_shapes(project, [cell.id], (polygon,)), cell.id, long)
        return rename(project, project.sheets[0].id, f"{long}.png")

    hands.session.document.edit("Large", large)
    selection, sheet = hands.session.selection, hands.session.project.sheets[0]
    for stage in STAGES:
        selection.choose_sheet(sheet.id)
        selection.choose_cells((sheet.cells[0].id,))
        if stage in ("paint", "walk"):
            selection.choose_level(hands.session.project.levels[-1].id)
        small(hands, 1280, 800)
        hands.session.go(stage)
        hands.qtbot.wait(80)
        for room in hands.window.findChildren(QScrollArea):
            off = room.horizontalScrollBarPolicy() == Qt.ScrollBarPolicy.ScrollBarAlwaysOff
            within, around = room.widget(), room.viewport()
            if off and room.isVisible() and within is not None and around is not None:
                assert within.width() <= around.width(), (stage, within)


def nothing_overlaps(hands: Hands, stage: str) -> None:
    hands.session.go(stage)
    hands.qtbot.wait(80)
    hands.wait(lambda: not overlapping(hands, stage), 5000)  # rows settle one after another


def overlapping(hands: Hands, stage: str) -> list[tuple[QWidget, QWidget]]:
    card = hands.window.stage(stage).card
    kinds = (QLineEdit, QPushButton, ChoiceRow, Pressable, QLabel)
    found: list[tuple[QWidget, QRect]] = []
    for widget in card.findChildren(QWidget):
        if not widget.isVisible() or not isinstance(widget, kinds) or widget.height() < 8:
            continue
        found.append((widget, QRect(widget.mapTo(hands.window, widget.rect().topLeft()), widget.size())))
    over = []
    for n, (one, box) in enumerate(found):
        for other, place in found[n + 1 :]:
            inside = one.isAncestorOf(other) or other.isAncestorOf(one)
            same = _scroller(one) is _scroller(other)
            overlap = box.intersected(place)
            if same and not inside and overlap.width() >= 3 and overlap.height() >= 3:
                over.append((one, other))
    return over


def _scroller(widget: QWidget) -> QWidget | None:
    above = widget.parentWidget()
    while above is not None and not isinstance(above, QScrollArea):
        above = above.parentWidget()
    return above


# -- the Shelf -----------------------------------------------------------------------------------------


def kinds_of(hands: Hands) -> list[str]:
    return [str(p).split("\t")[0] for kind, p, _y in hands.window.shelf.list.entries() if kind == "head"]


def test_heads_fold_and_stay_folded(hands: Hands) -> None:
    shelf = hands.window.shelf.list
    before = len(shelf.entries())
    sheets = len(hands.session.project.sheets)
    hands.press_widget(shelf, 20, 10)
    assert len(shelf.entries()) == before - sheets and kinds_of(hands)[0] == "Sheets"
    assert hands.window.settings.value("folded", [], list) == ["Sheets"]
    hands.press_widget(shelf, 20, 10)
    assert len(shelf.entries()) == before


def test_what_lies_below_is_one_press_away(hands: Hands) -> None:
    small(hands)
    shelf = hands.window.shelf.list
    stuck = shelf.stuck()
    assert [words.split("\t")[0] for words, _place, _top in stuck][0] == "Levels"
    _words, place, top = stuck[0]
    hands.press_widget(shelf, 20, top + 10)
    foot = shelf.visibleRegion().boundingRect()
    assert foot.top() <= place <= foot.bottom()


def test_the_plus_of_levels_works_at_the_foot(hands: Hands) -> None:
    small(hands)
    shelf = hands.window.shelf.list
    _words, _place, top = shelf.stuck()[0]
    before = len(hands.session.project.levels)
    hands.press_widget(shelf, shelf.width() - 14, top + 10)
    assert len(hands.session.project.levels) == before + 1


def test_the_window_keeps_to_its_screen(hands: Hands) -> None:
    window = hands.window
    screen = window.screen()
    assert screen is not None
    room = screen.availableGeometry()
    window.resize(room.width() + 400, room.height() + 400)
    window.move(room.right() - 50, room.bottom() - 50)
    fit_screen(window)
    assert window.width() <= room.width() and window.height() < room.height()
    assert room.contains(window.pos())


def test_a_window_that_came_to_a_smaller_screen_is_made_to_fit_it(hands: Hands) -> None:
    window, handle = hands.window, hands.window.windowHandle()
    assert handle is not None and handle.screen() is not None
    room = handle.screen().availableGeometry()
    screen = handle.screen()
    for tell in (
        lambda: handle.screenChanged.emit(screen),
        lambda: screen.availableGeometryChanged.emit(room),
    ):
        window.resize(room.width() + 400, room.height() + 400)
        tell()
        assert window.width() > room.width(), "not while it is on its way"
        hands.wait(lambda: window.width() <= room.width() and window.height() < room.height())


def test_pictures_it_is_opened_with_are_taken_in(hands: Hands, tmp_path: Path) -> None:
    QImage(32, 16, QImage.Format.Format_ARGB32).save(str(tmp_path / "late.png"))
    hands.window.take_in([tmp_path / "late.png"])
    hands.wait(lambda: any(sheet.name == "late.png" for sheet in hands.session.project.sheets))


def test_every_px_is_even_whatever_the_screen_enlarges_by() -> None:
    for ratio in (1.0, 1.25, 1.5, 1.75, 2.0, 3.0):
        view = View(ratio)
        room = QRectF(0, 0, 900, 600)
        view.fit(QRectF(0, 0, 100, 80), room)
        for by in (1, 1, -1, -1, -1):
            view.step(by, room.center())
            device = view.zoom * ratio
            assert device < 1 or abs(device - round(device)) < 1e-6, (ratio, device)
        view.set_zoom(4 / ratio, room.center())
        assert view.words() == "×4"
        before = view.zoom
        view.set_ratio(1.0, room.center())
        assert view.zoom == round(view.zoom) and abs(view.zoom - before) <= 1


def test_the_tools_stand_in_two_columns_where_the_desk_is_low(hands: Hands) -> None:
    hands.open_level("pier")
    tools = hands.window.tool_column
    assert tools.width() == 40
    hands.window.setMinimumSize(1, 1)
    small(hands, 900, 533)
    assert tools.width() == 76
    boxes = [made.geometry() for made in tools.buttons.values()]
    assert all(tools.rect().contains(box) for box in boxes)
    assert not any(a.intersects(b) for n, a in enumerate(boxes) for b in boxes[n + 1 :])


def test_the_names_of_the_stages_never_meet(hands: Hands) -> None:
    tabs = hands.window.rail.tabs
    hands.window.setMinimumSize(1, 1)
    for wide in (853, 960, 1024, 1280):
        small(hands, wide, 600)
        px, numbered = tabs.lettering()
        metrics = QFontMetricsF(tabs.look.font(px, bold=True))
        longest = max(metrics.horizontalAdvance(words) for _key, words in tabs.stages)
        assert longest + (12 if numbered else 0) <= tabs.text_room, wide


def test_the_row_of_what_is_shown_comes_into_view_on_the_shelf(hands: Hands) -> None:
    hands.window.resize(1024, 640)
    hands.open_level("saltings", "Ground")
    shelf = hands.window.shelf
    hands.wait(lambda: _whole(shelf.list, shelf.list.shown_at()))
    hands.open_sheet("boardwalk.png", "cut")
    hands.wait(lambda: _whole(shelf.list, shelf.list.shown_at()))


def _whole(rows: QWidget, y: int | None) -> bool:
    """Whether a row is in view whole."""
    seen = rows.visibleRegion().boundingRect()
    return y is not None and seen.top() <= y and y + ROW <= seen.bottom() + 1


def test_in_a_very_narrow_window_the_stages_are_still_told_apart(hands: Hands) -> None:
    """As with all at 200 % on a screen of 1280 px: names where they fit, else numbers, none over another."""
    rail = hands.window.rail
    for wide in (1280, 853, 640, 420):
        rail.resize(wide, 40)
        rail.layout().activate()  # type: ignore[union-attr]
        px, numbered = rail.tabs.lettering()
        names = [name if px else str(n + 1) for n, (_key, name) in enumerate(rail.tabs.stages)]
        metrics = QFontMetricsF(rail.look.font(px or 13, True))
        assert max(metrics.horizontalAdvance(name) for name in names) <= rail.tabs.text_room
        assert rail.tabs.geometry().right() < rail.undo.geometry().left()
        assert rail.finder.geometry().right() <= wide and not rail.grab().isNull()
        assert (px > 0) == (wide > 420) and (not numbered or wide == 1280)
    assert rail.finder.width() < 40 and rail.plate.width() < 100
    rail.resize(1280, 40)
    rail.layout().activate()  # type: ignore[union-attr]
    assert rail.finder.width() >= 170 and rail.plate.width() == 168


def test_a_narrow_strip_keeps_its_controls_and_lets_its_hint_go(hands: Hands) -> None:
    strip = hands.window.strip
    hands.open_sheet("boardwalk.png", "shape")
    for wide, told in ((1280, True), (860, False), (1280, True)):
        hands.window.resize(wide, 640)
        hands.qtbot.wait(60)
        assert ("double-click" in strip.chosen_words.text()) == told
        assert strip.which.width() >= strip.which.sizeHint().width()
