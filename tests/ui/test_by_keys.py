"""Every stage is worked once without a mouse; all that can be pressed has a name and its turn by Tab."""

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QWidget,
)

from rushweed.core.level.chunks import cell_at
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.keyed import Keyed
from rushweed.ui.session import STAGES
from tests.ui.conftest import Hands


class Keys:
    """Presses keys wherever the focus is, as a person without a mouse does."""

    def __init__(self, hands: Hands) -> None:
        self.hands, self.session, self.window = hands, hands.session, hands.window
        self.window.activateWindow()
        self.window.desk.setFocus()

    @property
    def focus(self) -> QWidget:
        return QApplication.focusWidget() or self.window

    def press(self, *names: str) -> None:
        for name in names:
            pressed = QKeySequence(name)[0]
            self.hands.qtbot.keyClick(self.focus, pressed.key(), pressed.keyboardModifiers())
            self.hands.qtbot.wait(1)

    def type(self, text: str) -> None:
        field = self.focus
        assert isinstance(field, QLineEdit)
        field.selectAll()
        self.hands.qtbot.keyClicks(field, text)
        self.press("Return")

    def go_to(self, name: str) -> QWidget:
        """Tab until what is called so has the focus."""
        for _ in range(160):
            now = self.focus
            words = now.accessibleName() or (now.text() if isinstance(now, QAbstractButton) else "")
            if words == name or words.startswith(f"{name}:"):
                return now
            self.press("Tab")
        raise AssertionError(f"Tab never comes to {name!r}")

    def pointer(self, x: float, y: float) -> None:
        """Show the pointer of the keys and put it at a place, px of what is shown."""
        desk = self.window.desk
        desk.setFocus()
        if not desk.by_keys.on:
            self.press("F9")
        wide, high = desk.scene.pointer_step()
        across, down = round((x - desk.by_keys.x) / wide), round((y - desk.by_keys.y) / high)
        self.press(*["Right" if across > 0 else "Left"] * abs(across))
        self.press(*["Down" if down > 0 else "Up"] * abs(down))


@pytest.fixture
def keys(hands: Hands) -> Keys:
    return Keys(hands)


def test_gather_a_sheet_is_chosen_and_its_author_named(keys: Keys) -> None:
    keys.press("Alt+1")
    keys.go_to("Sheets, animations and levels")
    first = keys.session.selection.sheet_id
    keys.press("Down", "Return")
    chosen = keys.session.selection.sheet_id
    assert chosen != first and keys.session.stage == "gather"
    keys.go_to("Preparation, Credit, Report")
    keys.press("Right")
    keys.go_to("Author")
    keys.type("Tove")
    sheet = next(s for s in keys.session.project.sheets if s.id == chosen)
    assert sheet.credit.author == "Tove"


def test_cut_a_cell_is_drawn_and_the_size_typed(keys: Keys) -> None:
    lamps = keys.hands.sheet("lamps.png")
    keys.session.selection.choose_sheet(lamps.id)
    keys.press("Alt+2")
    keys.go_to("Cell")
    keys.type("32, 32")
    assert keys.hands.sheet("lamps.png").cells[0].rect[2:] == (32, 32)
    before = len(keys.hands.sheet("lamps.png").cells)
    keys.window.desk.setFocus()
    keys.press("B")
    keys.pointer(3, 3)
    keys.press("Return", "End", "PageDown", "Return")
    assert len(keys.hands.sheet("lamps.png").cells) != before or keys.session.document.history.undo_label


def test_tune_the_pivot_is_put_at_a_place(keys: Keys) -> None:
    keys.hands.open_sheet("wren.png", "tune")
    cell = keys.hands.sheet("wren.png").cells[0]
    keys.session.selection.choose_cells([cell.id])
    keys.go_to("Pivot")
    keys.press("Up", "Up", "Left", "Return")
    assert keys.hands.sheet("wren.png").cells[0].pivot == (0, 0)


def test_animate_a_frame_is_chosen_and_removed(keys: Keys) -> None:
    walk = next(a for a in keys.session.project.animations if a.name == "walk")
    keys.session.selection.choose_animation(walk.id)
    keys.press("Alt+4")
    keys.go_to("Frames")
    keys.press("Right", "Right", "Return")
    assert keys.session.selection.frames == (2,)
    keys.press("Shift+Right")  # the arrow moves on, Enter with Shift chooses up to there
    keys.press("Shift+Return")
    assert keys.session.selection.frames == (2, 3)
    keys.press("Delete")
    assert len(next(a for a in keys.session.project.animations if a.name == "walk").frames) == 6


def test_shape_a_common_shape_is_given_and_a_box_drawn(keys: Keys) -> None:
    keys.hands.open_sheet("crate.png", "shape")
    cell = keys.hands.sheet("crate.png").cells[0]
    keys.session.selection.choose_cells([cell.id])
    keys.go_to("Common shapes")
    keys.press("Right", "Return")
    assert len(keys.hands.sheet("crate.png").cells[0].shapes) == 1
    top = keys.hands.sheet("crate.png").cells[0].shapes[0]
    keys.go_to("Desk")
    keys.press("B")
    keys.pointer(2, 9)
    keys.press("Return", "Right", "Right", "Right", "Right", "Down", "Down", "Return")
    shapes = keys.hands.sheet("crate.png").cells[0].shapes
    assert len(shapes) == 2 and shapes[0] == top


def test_paint_a_tile_is_taken_from_the_tray_and_a_line_of_it_painted(keys: Keys) -> None:
    keys.hands.open_level("pier", "Rails and lamps")
    level = keys.session.selection.level
    assert level is not None
    keys.go_to("Tiles")
    keys.press("Right", "Right", "Right", "Right", "Return")
    assert keys.session.selection.stamp is not None
    keys.go_to("Desk")
    keys.press("B")
    keys.pointer(10.5 * 16, 5.5 * 16)
    keys.press("Space", "Right", "Return", "Right", "Right", "Return", "Right")
    level = keys.session.selection.level
    assert level is not None
    layer = next(x for x in level.layers if x.name == "Rails and lamps")
    painted = [bool(cell_at(layer.tiles, x, 5)) for x in range(9, 16)]  # type: ignore[union-attr]
    assert painted == [False, True, True, True, True, False, False]
    keys.press("Escape")
    assert not keys.window.desk.by_keys.on


def test_paint_a_layer_is_chosen_and_hidden(keys: Keys) -> None:
    keys.hands.open_level("pier")
    keys.go_to("Layers")
    keys.press("Down", "Return")
    level = keys.session.selection.level
    assert level is not None
    second = list(reversed(level.layers))[1]
    assert keys.session.selection.layer_id == second.id
    keys.press("Right", "Right", "Return")
    level = keys.session.selection.level
    assert level is not None and not list(reversed(level.layers))[1].shown


def test_walk_by_the_arrows(keys: Keys) -> None:
    keys.hands.open_level("pier")
    keys.press("Alt+7")
    play = keys.window.stage("walk").play  # type: ignore[attr-defined]
    keys.hands.wait(lambda: play.walk is not None, 30_000)
    keys.go_to("Desk")
    start = play.walk.feet[0]
    keys.hands.qtbot.keyPress(keys.focus, Qt.Key.Key_Right)
    keys.hands.wait(lambda: play.walk.feet[0] > start + 8)
    keys.hands.qtbot.keyRelease(keys.focus, Qt.Key.Key_Right)


def test_ship_by_space(keys: Keys, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path / "game"))
    keys.press("Alt+8")
    keys.go_to("Ship")
    keys.press("Space")
    keys.hands.wait(lambda: (tmp_path / "game" / "manifest.json").exists(), 60_000)


def test_the_stages_and_the_project_are_reached_by_tab(keys: Keys) -> None:
    before = STAGES.index(keys.session.stage)
    keys.go_to("Stages")
    keys.press("Right", "Return")
    assert keys.session.stage == STAGES[before + 1]


@pytest.mark.parametrize("stage", STAGES)
def test_all_that_can_be_pressed_has_a_name_and_a_turn(keys: Keys, stage: str) -> None:
    sheet = keys.hands.sheet("boardwalk.png")
    keys.session.selection.choose_sheet(sheet.id)
    keys.session.selection.choose_cells([sheet.cells[0].id])
    keys.session.selection.choose_level(keys.session.project.levels[0].id)
    keys.session.go(stage)
    keys.hands.qtbot.wait(150)
    nameless, unreached = [], []
    for widget in keys.window.findChildren(QWidget):
        kind = type(widget)
        drawn = kind.__module__.startswith("rushweed") and any(
            "mousePressEvent" in base.__dict__
            for base in kind.__mro__
            if base.__module__.startswith("rushweed")
        )
        known = (QAbstractButton, QLineEdit, QComboBox, QAbstractItemView, ChoiceRow, Keyed)
        if not widget.isVisible() or not (drawn or isinstance(widget, known)):
            continue
        if kind.__name__ in POINTER_ONLY or widget.objectName().startswith("qt_"):
            continue
        words = widget.accessibleName() or (widget.text() if isinstance(widget, QAbstractButton) else "")
        words = words or (widget.placeholderText() if isinstance(widget, (QLineEdit, QComboBox)) else "")
        if not words:
            nameless.append(f"{kind.__name__} {widget.toolTip()} in {type(widget.parent()).__name__}")
        if widget.isEnabled() and not widget.focusPolicy() & Qt.FocusPolicy.TabFocus:
            unreached.append(f"{kind.__name__} {words}")
    assert not nameless, nameless
    assert not unreached, unreached


POINTER_ONLY = {  # what they do has commands of its own
    "ProofPicture",  # look around: its fields beside it
    "ZoomControl",  # Ctrl+0, + and -
}


def test_tab_shows_what_has_the_keys_and_a_press_does_not(keys: Keys) -> None:
    ring = keys.window.ring
    keys.go_to("Add pictures  (Ctrl+I)")
    assert ring.isVisible() and ring.geometry().contains(
        keys.focus.mapTo(keys.window, keys.focus.rect().center())
    )
    keys.window.desk.setFocus()
    assert not ring.isVisible()


def test_no_ring_where_the_focus_goes_on_by_itself(keys: Keys) -> None:
    button = keys.window.findings.show_button
    keys.hands.wait(button.isVisible)
    button.setFocus()
    button.hide()  # Qt gives the keys to the next
    assert keys.focus is not button and not keys.window.ring.isVisible()
