"""W1, W2, W3: a step of the walker, frames on a level of 1024 x 1024 x 4, what can be reached."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from bench.levels import _large_window
from bench.row import Row, ms, timed
from rushweed.demo.project import build

STEP_S, FRAME_S, REACH_S = 0.0003, 1 / 60, 2.0


def step() -> Iterator[Row]:
    """A step in Tidelamp's side view, with the keys of a run up and down it, beside pymunk's of one box."""
    import pymunk

    from rushweed.core.walk.runs import begin
    from rushweed.core.walk.terms import JUMP, LEFT, RIGHT
    from rushweed.core.walk.world import World

    with tempfile.TemporaryDirectory() as name:
        place, project, _stock = build(Path(name) / "p")
        place.unlock()
        world = World.of(project, project.levels[0])
        keys = [RIGHT | (JUMP if n % 90 < 40 else 0) for n in range(600)] + [LEFT] * 600

        def walk() -> None:
            walk = begin(world)
            for held in keys:
                walk.advance(held)

        walk()
        ours = timed(walk, 3) / len(keys)
        space = pymunk.Space()
        space.gravity = (0, 600)
        for row in world.grid.edges.tolist():
            a, b = (row[0] / 65536, row[1] / 65536), (row[2] / 65536, row[3] / 65536)
            space.add(pymunk.Segment(space.static_body, a, b, 0.1))
        body = pymunk.Body(1, float("inf"))
        body.position = 208, 170
        space.add(body, pymunk.Poly.create_box(body, (13, 29)))

        def fall() -> None:
            for _ in range(len(keys)):
                space.step(1 / 120)

        note = f"pymunk's of one box {ms(timed(fall, 3) / len(keys))}"
        yield Row("a step, with a pushed crate and sensors", ms(ours), ms(STEP_S), ours / STEP_S, 1.0, note)


def frames() -> Iterator[Row]:
    """The whole of a frame on the large level: steps, camera, pixels."""
    import os

    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtWidgets import QApplication

    with tempfile.TemporaryDirectory() as name:
        app = QApplication.instance() or QApplication([])
        window, _project = _large_window(app, Path(name))
        window.resize(1280, 800)
        session = window.session
        stage = window.stage("walk")
        stage.line.reached.on = False
        began = time.perf_counter()
        session.aimed = (512 * 16.0, 512 * 16.0)
        stage.toggle()
        while not stage.play.ready and time.perf_counter() - began < 300:
            app.processEvents()
            time.sleep(0.002)
        ready = time.perf_counter() - began
        while stage.play.world.area is not None and time.perf_counter() - began < 300:
            app.processEvents()
            time.sleep(0.01)
        whole = time.perf_counter() - began
        stage.play.pause()
        for mode in ("picture", "window"):
            stage.line.mode.show_value(mode)
            stage._resized()
            taken = []
            for n in range(240):
                stage.play.held = 2 if n < 120 else 1
                start = time.perf_counter()
                stage.play.advance(2)
                stage.play.moved.emit()
                app.sendPostedEvents()
                app.processEvents()
                taken.append(time.perf_counter() - start)
            ours = float(np.percentile(taken, 95))
            words = {"picture": "a frame of the game's picture, p95", "window": "a frame at window px, p95"}[
                mode
            ]
            note = f"median {ms(float(np.median(taken)))}, ready after {ready:.1f} s, all after {whole:.1f} s"
            yield Row(words, ms(ours), ms(FRAME_S), ours / FRAME_S, 1.0, note)
        session.jobs.finish()
        session.saver._saved_project = session.document.history.project
        window.close()


def reached() -> Iterator[Row]:
    from rushweed.core.walk.reach import reach
    from rushweed.core.walk.world import World

    with tempfile.TemporaryDirectory() as name:
        place, project, _stock = build(Path(name) / "p")
        place.unlock()
        reach(World.of(project, project.levels[0]))
        for level in project.levels:
            world = World.of(project, level)
            start = time.perf_counter()
            found = reach(world)
            ours = time.perf_counter() - start
            columns, rows = level.bounds[2:]
            words = f"what can be reached, {columns} x {rows} cells"
            yield Row(words, ms(ours), "2 s", ours / REACH_S, 1.0, f"{len(found.places)} places")
