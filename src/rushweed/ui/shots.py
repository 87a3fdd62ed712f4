"""Pictures of the main views of the demo, without a screen."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QApplication, QWidget

from rushweed.demo.project import build
from rushweed.ui.app import Application
from rushweed.ui.window import Window

LONGEST_S = 60.0  # that work is waited for
QUIET_S = 0.45  # without work after which a view is as it stays: what waits for quiet begins before
NOON = time.mktime((2026, 1, 1, 12, 0, 0, 0, 0, -1))


def settle(app: QApplication, seconds: float = 0.5) -> None:
    """Let background work finish and the window draw."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        app.processEvents()
        time.sleep(0.01)


def come_to_rest(app: QApplication, window: Window) -> None:
    """Wait until nothing is worked on any more, however slow the machine is, and the theme is whole."""
    begun = quiet = time.monotonic()
    while time.monotonic() - quiet < QUIET_S and time.monotonic() - begun < LONGEST_S:
        app.processEvents()
        if window.session.jobs.running or window.look.dressing or window.desk.scene.unfinished:
            quiet = time.monotonic()
        time.sleep(0.005)


def take(folder: Path, size: tuple[int, int] = (1280, 800), theme: str = "day") -> list[Path]:
    """Write one PNG of each main view into `folder`, px of the window and theme as given; returns their
    paths."""
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        os.environ["RUSHWEED_SETTINGS"] = str(Path(scratch) / "settings.ini")
        project = Path(scratch) / "tidelamp"
        build(project)[0].unlock()
        existing = QApplication.instance()
        app = existing if isinstance(existing, QApplication) else QApplication(sys.argv[:1])
        whole = Application(app)
        window = whole.open(project)
        window.setMinimumSize(1, 1)
        window.resize(*size)
        whole.look.set_theme(theme)
        window.complete()
        come_to_rest(app, window)
        written = []
        for name, prepare in VIEWS.items():
            shown = prepare(window) or window
            window.session.folder.saved_at = NOON  # so that the clock changes no picture
            window.session.saver.saved.emit()
            come_to_rest(app, window)
            path = folder / f"{name}.png"
            shown.grab().save(str(path))
            written.append(path)
        whole.look.set_theme("day")
        window.session.jobs.finish()
        window.session.folder.unlock()
        window.session.saver._saved_project = window.session.document.history.project
        window.close()
    return written


def _cell(window: Window, sheet: str, *names: str) -> None:
    session = window.session
    found = next(s for s in session.project.sheets if s.name == sheet)
    session.selection.choose_sheet(found.id)
    session.selection.choose_cells(tuple(c.id for n in names for c in found.cells if c.name == n))


def _gather(window: Window) -> None:
    """The eel, half as its file is and half with its key colour made clear."""
    from rushweed.core.document.model.steps import KeyColour
    from rushweed.ui.stages.gather.stage import GatherStage

    _cell(window, "eel.bmp")
    window.session.go("gather")
    stage = window.stage("gather")
    assert isinstance(stage, GatherStage)
    stage.steps_work.add(KeyColour((255, 0, 255)))
    stage.use("wipe")


def _guides(window: Window) -> None:
    """The same eel between guides."""
    window.session.go("cut")
    window.stage("cut").use("guide")


def _animate(window: Window) -> None:
    """Wren's walk before it is registered, with the frames beside showing through."""
    session = window.session
    _cell(window, "wren.png", "walk_2")
    session.go("animate")
    session.selection.choose_animation(
        next(a.id for a in session.project.animations if a.name == "walk"), (2,)
    )


def _cut(window: Window) -> None:
    _cell(window, "boardwalk.png", "deck_mid_a")
    window.session.go("cut")


def _tune(window: Window) -> None:
    _cell(window, "wren.png", *(f"walk_{i}" for i in range(8)))
    window.session.go("tune")


def _texture(window: Window) -> None:
    """BC1 on the keeper: where px are off, and the Proof set to show it."""
    from rushweed.core.tune.edit import tune_sheets

    session = window.session
    _cell(window, "wren.png", "walk_2")
    session.go("tune")
    session.document.edit("Compression", lambda p: tune_sheets(p, [session.selection.sheet_id], codec="bc1"))
    window.stage("tune").use("texture")
    window.proof.controls.compare = True
    window.proof.controls.set(backdrop="light")
    app, sheet = QApplication.instance(), session.selection.sheet
    assert isinstance(app, QApplication) and sheet is not None
    end = time.monotonic() + LONGEST_S
    while not session.textures.cost(sheet, "etc2") and time.monotonic() < end:
        settle(app, 0.1)


def _nine(window: Window) -> None:
    from rushweed.ui.stages.tune.stage import TuneStage

    window.proof.controls.compare = False
    window.proof.controls.set(backdrop="scene")
    _cell(window, "panel.png", "panel")
    stage = window.stage("tune")
    assert isinstance(stage, TuneStage)
    stage.use("nine")
    stage.nine.from_pixels()


def _shape(window: Window) -> None:
    _cell(window, "boardwalk.png", "ramp_up_b")
    window.session.go("shape")
    window.desk.zoom_to(6)
    window.desk.look_at(110, 50)


def _traits(window: Window) -> None:
    _shape(window)
    window.stage("shape").use("trait")


def _auto(window: Window) -> None:
    _cell(window, "marsh.png", "mud_11")
    window.stage("shape").use("auto")
    window.desk.zoom_to(4)


def _paint(window: Window) -> None:
    session = window.session
    level = next(v for v in session.project.levels if v.name == "pier")
    session.selection.choose_level(level.id)
    session.go("paint")
    session.selection.choose_layer(next(x.id for x in level.layers if x.name == "Boardwalk"))
    window.tray.refresh()
    cell = next(c.id for s in session.project.sheets for c in s.cells if c.name == "deck_mid_a")
    window.tray.case.choose_cell(cell)
    window.desk.zoom_to(2)
    window.desk.look_at(20 * 16, 9 * 16)


def _top(window: Window) -> None:
    session = window.session
    session.selection.choose_level(next(v.id for v in session.project.levels if v.name == "saltings"))
    window.desk.zoom_to(2)
    window.desk.look_at(19 * 16, 10 * 16)


def _walk(window: Window) -> None:
    """Wren after a jump, before the ladder, with what she can reach."""
    from rushweed.core.walk.terms import JUMP, RIGHT
    from rushweed.ui.stages.walk.stage import WalkStage

    session, app = window.session, QApplication.instance()
    session.selection.choose_level(next(v.id for v in session.project.levels if v.name == "pier"))
    session.go("walk")
    stage = window.stage("walk")
    assert isinstance(stage, WalkStage) and isinstance(app, QApplication)
    end = time.monotonic() + LONGEST_S
    while not (stage.play.ready and stage.reach.found is not None) and time.monotonic() < end:
        settle(app, 0.1)
    stage.play.start(None, go=False)
    for keys, steps in ((0, 20), (RIGHT, 60), (RIGHT | JUMP, 70), (RIGHT, 44)):
        stage.play.held = keys
        stage.play.advance(steps)
    stage.play.held = 0
    stage.play.pause()
    stage.refresh()


def _ship(window: Window) -> None:
    _cell(window, "wren.png", "walk_2")
    window.session.go("ship")


def _finder(window: Window) -> None:
    _cut(window)
    window.later.open_finder()
    window.later.finder.field.setText("sh")
    window.later.finder.field.textEdited.emit("sh")


def _findings(window: Window) -> QWidget:
    """All findings, on their own page."""
    window.later.finder.hide()
    window.later.opened.open_findings()
    page = window.later.opened.findings
    assert page is not None
    page.list.setCurrentRow(1)
    return page


def _dusk(window: Window) -> None:
    if window.later.opened.findings is not None:
        window.later.opened.findings.hide()
    window.look.set_theme("dusk")
    _paint(window)


VIEWS: dict[str, Callable[[Window], QWidget | None]] = {
    "gather": _gather,
    "guides": _guides,
    "cut": _cut,
    "tune": _tune,
    "texture": _texture,
    "nine": _nine,
    "animate": _animate,
    "shape": _shape,
    "traits": _traits,
    "auto-tile": _auto,
    "paint": _paint,
    "paint-top": _top,
    "walk": _walk,
    "ship": _ship,
    "finder": _finder,
    "findings": _findings,
    "dusk": _dusk,
}
