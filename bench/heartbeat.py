"""How long the window stands still: the longest time between two beats of its event loop while it is worked.

A sheet of 4,096 tiles with curved art, a painted picture of 4096 x 4096 px and a level of 1024 x 1024 cells
on 4 layers, each used as people do. 100 ms is what may not be passed.
"""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
from PIL import Image

from bench.levels import large
from bench.row import Row

LIMIT_MS = 100.0
SETTLED_S = 0.3  # of quiet after which an action is over
PATIENCE_S = 60.0


def tiles_picture(side: int = 16, across: int = 64) -> np.ndarray:
    """Tiles with art of all outlines: lumps cut off at slants, uint8 (side * across, side * across, 4)."""
    rng = np.random.default_rng(7)
    y, x = np.mgrid[:side, :side] + 0.5
    rgba = np.zeros((side * across, side * across, 4), np.uint8)
    for row in range(across):
        for column in range(across):
            cx, cy, r, slant = rng.uniform(4, 12), rng.uniform(4, 12), rng.uniform(3, 9), rng.uniform(-1, 1)
            part = (np.hypot(x - cx, y - cy) < r) | (y > 12 + slant * (x - 8))
            block = rgba[row * side : (row + 1) * side, column * side : (column + 1) * side]
            block[part, :3], block[part, 3] = rng.integers(40, 220, 3), 255
    return rgba


def painted_picture(side: int = 4096) -> np.ndarray:
    """A picture with many colours and clear ground: blots on nothing."""
    rng = np.random.default_rng(8)
    noise = rng.integers(0, 255, (side // 8, side // 8, 3)).astype(np.uint8).repeat(8, 0).repeat(8, 1)
    y, x = np.mgrid[:side, :side]
    alpha = (((y % 128 - 64) ** 2 + (x % 128 - 64) ** 2) < 3000).astype(np.uint8) * 255
    return np.dstack((noise ^ (x & 7).astype(np.uint8)[..., None], alpha))


class Heart:
    """The window's event loop, and the longest time it stood still."""

    def __init__(self, app, window) -> None:  # type: ignore[no-untyped-def]
        self.app, self.window = app, window
        self.work = 0.0  # ms that the window's thread itself worked while it stood still for longest

    def longest(self, action: Callable[[], object]) -> tuple[float, float]:
        """Do something and wait until all is quiet; the longest stand in ms, and how long all took in s."""
        from PyQt6.QtCore import QEventLoop, QTimer

        loop, beat = QEventLoop(), QTimer()
        began = last = quiet = time.perf_counter()
        worst, work, worked = 0.0, 0.0, time.thread_time()

        def tick() -> None:
            nonlocal last, worst, quiet, work, worked
            now, spent = time.perf_counter(), time.thread_time()
            if now - last > worst:
                worst, work = now - last, spent - worked
            last, worked = now, spent
            busy = self.window.session.jobs._running or self.window.session.jobs._waiting
            quiet = now if busy else quiet
            if now - quiet > SETTLED_S or now - began > PATIENCE_S:
                loop.quit()

        beat.timeout.connect(tick)
        beat.start(1)
        QTimer.singleShot(5, action)
        loop.exec()
        beat.stop()
        self.work = work * 1000
        return worst * 1000, time.perf_counter() - began - SETTLED_S


def actions(window) -> Iterator[tuple[str, Callable[[], object]]]:  # type: ignore[no-untyped-def]
    """What is done, in words, and how."""
    from functools import partial

    from rushweed.core.document.model.cut import PiecesCut
    from rushweed.core.document.model.steps import Mirror, Recolour

    session = window.session

    def sheet(name: str):  # type: ignore[no-untyped-def]
        return next(s for s in session.project.sheets if s.name == name)

    def shown(name: str, stage: str) -> None:
        window.rail.tabs.chosen.emit(stage)
        session.selection.choose_sheet(sheet(name).id)

    def all_cells(name: str) -> None:
        session.selection.choose_cells(tuple(c.id for c in sheet(name).cells))

    def level(name: str) -> None:
        session.selection.choose_level(next(v.id for v in session.project.levels if v.name == name))

    shape = window.stage("shape").pixels
    yield "4,096 tiles: Shape shown", partial(shown, "tiles.png", "shape")
    yield "select all", partial(all_cells, "tiles.png")
    yield "outline of all", shape.trace
    yield "a step of the slider", partial(shape.slider.setValue, 6)
    yield "the slider let go", shape.settle
    yield "undo", session.document.undo
    yield "undo again", session.document.undo
    yield "nothing selected", partial(session.selection.choose_cells, ())
    yield "fill the rest", shape.propose
    yield "take all", shape.take_all
    yield "Cut shown", partial(shown, "tiles.png", "cut")
    yield "select all in Cut", partial(all_cells, "tiles.png")
    pattern = window.strip.pattern
    yield "names of all", lambda: pattern.edited.emit("{sheet}_{row}_{column}")
    yield "Tune shown", partial(shown, "tiles.png", "tune")
    yield "4096 x 4096 px: Gather shown", partial(shown, "painted.png", "gather")
    gather = window.stage("gather")
    yield "recolour", partial(gather.steps_work.add, Recolour(hue=40))
    yield "recolour typed", lambda: gather.steps_work.edited((Recolour(hue=80),), "Recolour")
    yield "mirror", partial(gather.steps_work.add, Mirror("across"))
    yield "undo of it", session.document.undo
    yield "Cut shown, 4096 px", partial(shown, "painted.png", "cut")
    yield "cut into pieces", lambda: window.stage("cut").making.take(PiecesCut(0))
    yield "select all pieces", partial(all_cells, "painted.png")
    yield "Tune shown, 4096 px", partial(shown, "painted.png", "tune")
    yield "pivots from the feet", lambda: window.commands.run_id("tune.feet")
    yield "Paint shown, 1024 x 1024 x 4", lambda: (window.rail.tabs.chosen.emit("paint"), level("wide"))
    yield "pan", lambda: (window.desk.view.pan(300, 200), window.desk.update())
    yield "all of it in view", window.desk.zoom_fit
    yield "Dusk", partial(window.look.set_theme, "dusk")
    yield "Day", partial(window.look.set_theme, "day")


def made(folder: Path) -> None:
    """The project that is worked on."""
    from rushweed.core.cut.edit import cut_sheet
    from rushweed.core.document.model.cut import GridCut
    from rushweed.core.pixels.cache import PixelCache
    from rushweed.core.pixels.gather import Gathering, add_gathered
    from rushweed.core.store.folder import Folder

    project, _level = large(folder)
    files = []
    for name, rgba in (("tiles.png", tiles_picture()), ("painted.png", painted_picture())):
        path = folder.parent / name
        Image.fromarray(rgba).save(path, compress_level=1)
        files.append(path)
    place = Folder(folder)
    place.open()
    gathering = Gathering(folder, project, lambda _rgba: 1.0)
    results = [r for batch in gathering.batches(files, False) for r in gathering.take(batch)]
    project = add_gathered(project, [r._replace(picture=None) for r in results])
    tiles = next(s for s in project.sheets if s.name == "tiles.png")
    project = cut_sheet(project, tiles.id, GridCut((16, 16)), PixelCache(folder).pixels(tiles))
    place.save(project)


def rows() -> Iterator[Row]:
    """One row for each action, the longest stand beside what is allowed."""
    with tempfile.TemporaryDirectory() as name:
        home = Path(name)
        os.environ["RUSHWEED_SETTINGS"] = str(home / "settings.ini")
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        made(home / "p")
        from PyQt6.QtWidgets import QApplication

        from rushweed.ui.app import Application

        app = QApplication.instance() or QApplication([])
        window = Application(app).open(home / "p")  # type: ignore[arg-type]
        window.resize(1280, 800)
        window.complete()
        heart = Heart(app, window)
        heart.longest(lambda: None)
        for words, action in actions(window):
            worst, whole = heart.longest(action)
            yield Row(
                words,
                f"{worst:.0f} ms",
                f"{LIMIT_MS:.0f} ms",
                worst / LIMIT_MS,
                1.0,
                f"{whole:.1f} s in all, {heart.work:.0f} ms its own work",
            )
        window.session.jobs.finish()
        window.session.saver.leave_unsaved()
        window.session.saver.note_saved()
        window.close()
