"""B6, B7, B8, B11, P11: filling, painting, saving, outlining and the memory of a level of 1024 x 1024 x 4."""

from __future__ import annotations

import gc
import tempfile
import time
import tracemalloc
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from msgspec.structs import replace
from scipy import ndimage

from bench.row import Row, by_time, ms, timed
from rushweed.core.document.edit import level_of, put_level
from rushweed.core.document.history import History
from rushweed.core.document.model.level import Level, TileLayer, Tiles
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet, Source
from rushweed.core.level.brush import line
from rushweed.core.level.chunks import put_region
from rushweed.core.level.edit import fill, paint
from rushweed.core.level.layers import add_layer
from rushweed.core.level.levels import add_level
from rushweed.core.level.outline import Outline
from rushweed.core.level.outline_edges import Ring
from rushweed.core.level.stamp import single
from rushweed.core.shape.primitives import common
from rushweed.core.store.folder import Folder
from rushweed.demo.project import build

SIDE, LAYERS = 1024, 4


def large(folder: Path) -> tuple[Project, str]:
    """The demo with a level whose layers are patchworks of its tiles, as levels are."""
    place, project, _stock = build(folder)
    place.unlock()
    cells = [c.id for c in project.sheets[0].cells]
    project, level_id = add_level(project, "wide", (16, 16), size=(SIDE, SIDE))
    for i in range(1, LAYERS):
        project, _layer = add_layer(project, level_id, f"Layer {i}")
    rng = np.random.default_rng(2)
    level = level_of(project, level_id)
    layers = []
    for i, layer in enumerate(level.layers):
        patches = rng.integers(0, len(cells) + 1, (SIDE // 4, SIDE // 8)).repeat(4, 0).repeat(8, 1)
        held = rng.random((SIDE // 8, SIDE // 8)).repeat(8, 0).repeat(8, 1) < (1.0, 0.6, 0.4, 0.2)[i]
        values = (patches * 8 * held).astype(np.uint32)
        layers.append(replace(layer, tiles=put_region(Tiles(), 0, 0, values)))
    level = replace(level, table=tuple(cells), layers=tuple(layers))
    levels = tuple(level if v.id == level_id else v for v in project.levels)
    return replace(project, levels=levels), level_id


def filling() -> Iterator[Row]:
    with tempfile.TemporaryDirectory() as name:
        project, _ = large(Path(name) / "p")
        project, level = add_level(project, "open", (16, 16), size=(1000, 1000))
        layer = level_of(project, level).layers[0].id
        cells = np.zeros((1000, 1000), np.uint32)
        tile = single(project.sheets[0].cells[0].id)

        def ours() -> Project:
            return fill(project, level, layer, tile, (5, 5))

        yield by_time("fill 1,000,000 cells", timed(ours), timed(lambda: ndimage.label(cells == 0)), 2.0)


def _large_window(app: Any, home: Path) -> tuple[Any, Project]:
    """A window that paints the large level, and its project."""
    import os

    os.environ["RUSHWEED_SETTINGS"] = f"{home}/settings.ini"
    folder = home / "p"
    project, level_id = large(folder)
    place = Folder(folder)
    place.open()
    place.save(project)
    from rushweed.ui.app import Application

    window = Application(app).open(folder)
    window.complete()
    window.session.selection.choose_level(level_id)
    window.session.go("paint")
    return window, project


def brush_step() -> Iterator[Row]:
    import os

    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtCore import QEvent, QPointF, Qt
    from PyQt6.QtGui import QMouseEvent
    from PyQt6.QtWidgets import QApplication

    with tempfile.TemporaryDirectory() as name:
        app = QApplication.instance() or QApplication([])
        window, project = _large_window(app, Path(name))
        window.resize(1280, 800)
        session = window.session
        session.selection.choose_stamp(single(project.sheets[0].cells[3].id))
        window.desk.zoom_to(2)
        window.desk.look_at(512 * 16, 512 * 16)
        window.desk.setFocus()
        for _ in range(20):
            app.processEvents()
        desk = window.desk

        def send(kind: QEvent.Type, x: float, y: float, button: Qt.MouseButton, held: Qt.MouseButton) -> None:
            event = QMouseEvent(
                kind,
                QPointF(x, y),
                desk.mapToGlobal(QPointF(x, y)),
                button,
                held,
                Qt.KeyboardModifier.NoModifier,
            )
            app.sendEvent(desk, event)

        left, none = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
        send(QEvent.Type.MouseButtonPress, 200, 200, left, left)
        app.processEvents()
        import time

        steps = []
        for i in range(120):
            x, y = 60 + (i % 20) * 34, 80 + i // 20 * 66 + (i % 3) * 12  # a hand moving to and fro
            start = time.perf_counter()
            send(QEvent.Type.MouseMove, x, y, none, left)
            app.sendPostedEvents()
            app.processEvents()
            steps.append(time.perf_counter() - start)
        send(QEvent.Type.MouseButtonRelease, 300, 300, left, none)
        ours = float(np.percentile(steps, 95))
        median = ms(float(np.median(steps)))
        yield Row(
            "a brush step to pixels, p95 of 120", ms(ours), "16 ms", ours / 0.016, 1.0, f"median {median}"
        )
        session.jobs.finish()
        session.saver._saved_project = session.document.history.project
        window.close()


def save_and_open() -> Iterator[Row]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "p"
        project, level_id = large(folder)
        level = level_of(project, level_id)
        raw = np.stack([region_of(x) for x in level.layers if isinstance(x, TileLayer)])
        file = Path(name) / "raw.npz"

        unwritten = [_as_if_new(project, level_id) for _ in range(4)]

        def save() -> None:
            place = Folder(folder)
            place._paths = {level_id: "levels/wide.json"}
            place.save(unwritten.pop())

        save()
        write, zipped = timed(save, 3), timed(lambda: np.savez_compressed(file, raw), 3)
        read = timed(lambda: Folder(folder).open(), 3)
        yield by_time("save", write, zipped, 2.0)
        yield by_time("open", read, timed(lambda: np.load(file)["arr_0"], 3), 4.0)
        kept, at_once = _after_one_stroke(folder, level_id)
        note = f"{at_once / zipped:.2f} before it was kept"
        yield by_time("save after one stroke", kept, zipped, 0.1)._replace(note=note)


def _as_if_new(project: Project, level_id: str) -> Project:
    """The same with a level of which nothing is known from an earlier save."""
    level = level_of(project, level_id)
    layers = tuple(
        replace(x, tiles=put_region(Tiles(), 0, 0, region_of(x)))
        for x in level.layers if isinstance(x, TileLayer)
    )  # fmt: skip
    return put_level(project, replace(level, layers=layers))


def _after_one_stroke(folder: Path, level_id: str) -> tuple[float, float]:
    """How long a save takes after a stroke that was kept beside the project, as the window does a moment
    after each, and how long one that comes before that; seconds."""
    place = Folder(folder)
    taken: dict[bool, list[float]] = {True: [], False: []}
    project = place.open()
    layer, tile = level_of(project, level_id).layers[1].id, single(project.sheets[0].cells[5].id)
    for n in range(12):
        project = paint(project, level_id, layer, tile, line(100, 100 + 9 * n, 160, 140 + 9 * n))
        if n % 2:
            place.keep(project, 1)
        start = time.perf_counter()
        place.save(project)
        taken[bool(n % 2)].append(time.perf_counter() - start)
    place.unlock()
    return float(np.median(taken[True][1:])), float(np.median(taken[False][1:]))


def region_of(layer: TileLayer) -> np.ndarray:
    from rushweed.core.level.chunks import region

    return region(layer.tiles, 0, 0, SIDE, SIDE)


def memory() -> Iterator[Row]:
    with tempfile.TemporaryDirectory() as name:
        project, level_id = large(Path(name) / "p")
        raw = SIDE * SIDE * 4 * LAYERS
        tile = single(project.sheets[0].cells[5].id)
        gc.collect()
        tracemalloc.start()
        project = _as_if_new(project, level_id)
        ids, history = [x.id for x in level_of(project, level_id).layers], History(project)
        rng = np.random.default_rng(3)
        for _ in range(100):
            x, y = (int(v) for v in rng.integers(0, SIDE - 60, 2))
            spots = line(x, y, x + 50, y + 12)
            made = paint(history.project, level_id, ids[int(rng.integers(0, LAYERS))], tile, spots)
            history.do("Paint", made)
        gc.collect()
        used = tracemalloc.get_traced_memory()[0]
        tracemalloc.stop()
        yield Row(
            "memory with 100 undo steps of one stroke", f"{used / 2**20:.1f} MiB", f"{raw / 2**20:.1f} MiB",
            used / raw, 2.0,
        )  # fmt: skip


def merged_outline() -> Iterator[Row]:
    """A level of caves, of which a tenth has other shapes than full boxes."""
    import shapely

    rng = np.random.default_rng(0)
    mask = ndimage.gaussian_filter(rng.standard_normal((SIDE, SIDE)), 4) > 0
    shapes = [
        common(name, (16, 16)) for name in ("full", "slope up", "slope down", "bottom half", "top half")
    ]
    cells = tuple(Cell(f"c{n}", f"c{n}", (0, 0, 16, 16), (0, 0), (s,)) for n, s in enumerate(shapes))
    sheet = Sheet("s", "s.png", Source("art/s.png", "", (16, 16)), cells=cells)
    values = np.where(rng.random((SIDE, SIDE)) < 0.9, 8, rng.integers(2, 6, (SIDE, SIDE)) * 8)
    tiles = put_region(Tiles(), 0, 0, np.where(mask, values, 0).astype(np.uint32))
    level = Level("v", "caves", "side", (16, 16), (0, 0, SIDE, SIDE), tuple(c.id for c in cells),
                  (TileLayer("l", "l", tiles),))  # fmt: skip
    project = Project("p", "P", (sheet,), (level,))
    kept = Outline()

    def ours() -> list[Ring]:
        nonlocal kept
        kept = Outline()
        kept.update(project, level)
        return kept.rings()

    ys, xs = np.nonzero(mask)
    boxes = shapely.box(xs * 16, ys * 16, xs * 16 + 16, ys * 16 + 16)
    mine, theirs = timed(ours, 3), timed(lambda: shapely.unary_union(boxes), 1)
    yield by_time("merged outline, 1024 x 1024", mine, theirs, 0.5)
    layer = level.layers[0]
    assert isinstance(layer, TileLayer)
    other = put_region(layer.tiles, 500, 500, np.full((1, 1), 16, np.uint32))
    painted = replace(level, layers=(replace(layer, tiles=other),))
    start = time.perf_counter()
    kept.update(project, painted)
    yield by_time("outline after a brush step", time.perf_counter() - start, 0.05, 1.0)


def moving_about() -> Iterator[Row]:
    """Panning, zooming and playing on the large level, each frame to pixels."""
    import os

    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtWidgets import QApplication

    with tempfile.TemporaryDirectory() as name:
        app = QApplication.instance() or QApplication([])
        window, _project = _large_window(app, Path(name))
        session, desk = window.session, window.desk
        for size in ((1280, 800), (2560, 1440)):
            window.resize(*size)
            for zoom in (2.0, 1.0, 0.5):
                desk.zoom_to(zoom)
                desk.look_at(512 * 16, 512 * 16)
                for n in range(2000):
                    app.processEvents()
                    if n >= 60 and not desk.scene.unfinished:
                        break
                frames, between = [], []
                for n in range(60):
                    desk.view.pan(-9, 0 if n % 2 else -5)
                    desk.level_painter.ms = 16.0 * n if n >= 30 else 0.0
                    start = time.perf_counter()
                    desk.repaint()
                    frames.append(time.perf_counter() - start)
                    start = time.perf_counter()
                    app.processEvents()  # what is drawn ahead
                    between.append(time.perf_counter() - start)
                taken = float(np.percentile(frames, 95))
                words = f"a frame at {size[0]} x {size[1]}, zoom {zoom:g}, p95 of 60"
                note = f"median {ms(float(np.median(frames)))}, between two {ms(float(np.mean(between)))}"
                yield Row(words, ms(taken), "16 ms", taken / 0.016, 1.0, note)
        session.jobs.finish()
