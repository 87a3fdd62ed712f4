"""Pictures that were changed while the window was closed, and what undo makes of changes seen while open."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from pytestqt.qtbot import QtBot

from rushweed.core.store.folder import Folder
from rushweed.ui.app import Application
from rushweed.ui.window import Window
from tests.conftest import named
from tests.ui.conftest import Hands


def opened(application: Application, folder: Path, qtbot: QtBot) -> Window:
    made = application.open(folder)
    made.resize(1280, 800)
    made.complete()
    qtbot.wait(150)
    return made


def closed(window: Window, qtbot: QtBot) -> None:
    """Close it once copies of its pictures are kept."""
    home = window.session.folder.path / ".rushweed" / "seen"
    qtbot.waitUntil(lambda: (home / "files.json").exists(), timeout=15_000)
    window.session.saver.save()
    qtbot.waitUntil(lambda: not window.session.saver.unsaved, timeout=15_000)
    window.close()


def rewrite(folder: Path, change) -> np.ndarray:  # type: ignore[no-untyped-def]
    path = folder / "art" / "boardwalk.png"
    rgba = np.array(Image.open(path).convert("RGBA"))
    Image.fromarray(change(rgba)).save(path)
    return rgba


def test_a_picture_enlarged_while_closed_is_taken_up_at_opening(
    application: Application, demo_folder: Path, qtbot: QtBot
) -> None:
    closed(opened(application, demo_folder, qtbot), qtbot)
    before = named(Folder(demo_folder).open(), "boardwalk.png")
    rewrite(demo_folder, lambda a: a.repeat(2, 0).repeat(2, 1))
    window = opened(application, demo_folder, qtbot)
    hands = Hands(window, qtbot)
    hands.wait(lambda: hands.sheet("boardwalk.png").source.size == (342, 224), 8000)
    assert [c.id for c in hands.sheet("boardwalk.png").cells] == [c.id for c in before.cells]
    assert hands.sheet("boardwalk.png").cells[3].rect[2:] == (32, 32)
    assert "2 times as large" in window.notice.words.text()
    window.session.saver.save()
    hands.wait(lambda: not window.session.saver.unsaved)
    assert named(Folder(demo_folder).open(), "boardwalk.png").source.size == (342, 224)


@pytest.mark.parametrize("while_open", [True, False])
def test_a_picture_that_shrank_names_what_lost_its_art_and_gives_it_back(
    application: Application, demo_folder: Path, qtbot: QtBot, while_open: bool
) -> None:
    window = opened(application, demo_folder, qtbot)
    if not while_open:
        closed(window, qtbot)
    old = rewrite(demo_folder, lambda a: a[:60])
    if not while_open:
        window = opened(application, demo_folder, qtbot)
    hands = Hands(window, qtbot)
    hands.wait(lambda: bool(hands.sheet("boardwalk.png").aside), 8000)
    assert "kept aside" in window.notice.words.text() and "of pier" in window.notice.words.text()
    assert all(c.rect[3] == 16 for c in hands.sheet("boardwalk.png").cells), "no slivers"
    Image.fromarray(old).save(demo_folder / "art" / "boardwalk.png")
    hands.wait(lambda: not hands.sheet("boardwalk.png").aside, 8000)
    assert "are back" in window.notice.words.text()
    assert hands.sheet("boardwalk.png").cells == named(Folder(demo_folder).open(), "boardwalk.png").cells


def test_undoing_a_change_from_outside_is_a_state_that_says_so(
    window: Window, hands: Hands, qtbot: QtBot
) -> None:
    folder = window.session.folder.path
    hands.open_sheet("boardwalk.png", "gather")
    old = rewrite(folder, lambda a: a[:60])
    hands.wait(lambda: hands.sheet("boardwalk.png").source.size[1] == 60, 8000)
    window.session.document.undo()
    qtbot.wait(150)
    assert hands.sheet("boardwalk.png").source.size[1] == 112
    assert "earlier picture" in window.notice.words.text()
    assert (window.session.stock.pixels(hands.sheet("boardwalk.png")) == old).all()
    hands.wait(lambda: any(f.rule == "changed-source" for f in window.session.checker.findings), 5000)
    window.stage("ship").shipping.ship_to(folder.parent / "out")  # type: ignore[attr-defined]
    hands.wait(lambda: (folder.parent / "out" / "manifest.json").exists(), 8000)
    window.findings._show(next(f for f in window.session.checker.findings if f.rule == "changed-source"))
    hands.press_widget(window.findings.fix_button)
    assert hands.sheet("boardwalk.png").source.size[1] == 60
