"""M1, L1, F1 and the hour: a project of 300 sheets of 1024 x 1024 px with 20,000 cells, and one of ten sheets
of 4096 x 4096 px, beside the demo.

Each part opens a window in a process of its own, so that one's memory is not the other's.
"""

from __future__ import annotations

import io
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from functools import partial
from hashlib import sha256
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from PIL import Image

from bench.row import Row


class Lot(NamedTuple):
    """So many sheets with so many px a side, and their cells."""

    sheets: int
    side: int
    cell: int

    @property
    def pixels(self) -> int:
        """Bytes of all of them."""
        return self.sheets * self.side * self.side * 4


LOTS = {"crowd": Lot(300, 1024, 128), "large": Lot(10, 4096, 512)}
GIB = 1 << 30
FRAME_MS, BLOCK_MS, LIVE_MS = 16.0, 100.0, 250.0


def crowd(home: Path, lot: Lot) -> None:
    """Make the project: lumps of a few colours on clear ground, half of the sheets with an animation, and a
    level that shows forty of them."""
    from rushweed.core.document.model.animation import Animation, Frame
    from rushweed.core.document.model.cut import GridCut
    from rushweed.core.document.model.project import Project
    from rushweed.core.document.model.sheet import Cell, Credit, Sheet, Source
    from rushweed.core.level.edit import paint
    from rushweed.core.level.levels import add_level
    from rushweed.core.level.stamp import single
    from rushweed.core.store.folder import Folder

    Folder.create(home, "Crowd")
    rng = np.random.default_rng(11)
    _count, side, cell = lot
    y, x = np.mgrid[:cell, :cell] * (128 / cell)
    (home / "art").mkdir(exist_ok=True)
    sheets, animations = [], []
    for n in range(lot.sheets):
        lump = np.zeros((cell, cell, 4), np.uint8)
        for colour in rng.integers(30, 230, (5, 3)):
            cx, cy, r = rng.uniform(40, 88), rng.uniform(50, 90), rng.uniform(10, 34)
            lump[(x - cx) ** 2 + (y - cy) ** 2 < r * r] = (*colour, 255)
        rgba = np.tile(lump, (side // cell, side // cell, 1))
        buffer = io.BytesIO()
        Image.fromarray(rgba).save(buffer, "PNG", compress_level=1)
        path = f"art/crowd_{n:03d}.png"
        (home / path).write_bytes(buffer.getvalue())
        across = side // cell
        cells = tuple(
            Cell(
                f"c{n}x{k}", f"crowd_{k}", (k % across * cell, k // across * cell, cell, cell),
                (cell / 2, float(cell)),
            )
            for k in range(across * across)
        )  # fmt: skip
        source = Source(path, sha256(buffer.getvalue()).hexdigest(), (side, side))
        credit = Credit(author="Tove", licence="CC0-1.0")
        sheets.append(
            Sheet(f"s{n}", f"crowd_{n:03d}.png", source, GridCut((cell, cell)), credit=credit, cells=cells)
        )
        if n % 2 == 0:
            frames = tuple(Frame(c.id) for c in cells[:8])
            animations.append(Animation(f"a{n}", f"walk_{n}", frames))
    project = Project("crowd", "Crowd", tuple(sheets), (), tuple(animations))
    project, level_id = add_level(project, "field", (cell, cell))
    layer = project.levels[0].layers[0].id
    for n in range(0, lot.sheets, 8):
        spots = (np.arange(n % 60, n % 60 + 20), np.full(20, n // 8))
        project = paint(project, level_id, layer, single(sheets[n].cells[0].id), spots)
    folder = Folder(home)
    folder.lock()
    folder.open()
    folder.save(project)
    folder.unlock()


# -- one window in a process of its own ----------------------------------------------------------------------


def _measured(kind: str, work: str) -> dict[str, Any]:
    """What `work` measures in a window on the demo or on the crowd."""
    with tempfile.TemporaryDirectory() as name:
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "RUSHWEED_SETTINGS": f"{name}/s.ini"}
        words = [sys.executable, "-m", "bench.crowd", kind, work, f"{name}/p"]
        done = subprocess.run(words, env=environment, check=True, capture_output=True, text=True)
    found: dict[str, Any] = json.loads(done.stdout.strip().splitlines()[-1])
    return found


def _window(kind: str, home: Path):  # type: ignore[no-untyped-def]
    from PyQt6.QtWidgets import QApplication

    from bench.heartbeat import Heart
    from rushweed.core import ready
    from rushweed.demo.project import build
    from rushweed.ui.app import Application

    ready.load()  # as a moment after a window has opened
    if kind == "demo":
        build(home)[0].unlock()
    else:
        crowd(home, LOTS[kind])
    app = QApplication([])
    window = Application(app).open(home)
    window.resize(1280, 800)
    window.complete()
    heart = Heart(app, window)
    heart.longest(lambda: None)
    return window, heart


def resident() -> int:
    """Bytes of memory this process holds."""
    status = Path("/proc/self/status").read_text()
    return 1024 * int(next(line for line in status.splitlines() if line.startswith("VmRSS")).split()[1])


def _memory(window, heart) -> dict[str, Any]:  # type: ignore[no-untyped-def]
    """After every sheet was shown once."""
    opened = resident()
    session = window.session
    for sheet in session.project.sheets:
        heart.longest(partial(session.selection.choose_sheet, sheet.id))
    return {"opened": opened, "shown": resident()}


def _light(window, heart) -> dict[str, Any]:  # type: ignore[no-untyped-def]
    """The window's own time for an edit, a hover and a selection, ms, the 95th of a hundred."""
    from PyQt6.QtCore import QPointF, Qt
    from PyQt6.QtGui import QMouseEvent

    from rushweed.core.document.edit import rename_cell

    session, desk = window.session, window.desk
    sheet = session.project.sheets[1]
    window.rail.tabs.chosen.emit("cut")
    session.selection.choose_sheet(sheet.id)
    heart.longest(lambda: None)
    none = Qt.MouseButton.NoButton

    def hover(n: int) -> None:
        at = QPointF(200 + n * 5 % 500, 150 + n * 3 % 300)
        desk.mouseMoveEvent(
            QMouseEvent(QMouseEvent.Type.MouseMove, at, at, none, none, Qt.KeyboardModifier.NoModifier)
        )
        desk.repaint()

    def edit(n: int) -> None:
        cell = sheet.cells[n % len(sheet.cells)].id
        session.document.edit("Name", lambda p: rename_cell(p, cell, f"named_{n}"))
        desk.repaint()

    def select(n: int) -> None:
        session.selection.choose_cells((sheet.cells[n % len(sheet.cells)].id,))
        desk.repaint()

    def other(n: int) -> None:
        """As by a press on the Shelf, until its picture is at hand; what follows is measured."""
        sheet = session.project.sheets[n % len(session.project.sheets)]
        session.bring([sheet], partial(shown.append, sheet.id))
        while not shown:
            heart.app.processEvents()
        begun = time.perf_counter()
        session.selection.choose_sheet(shown.pop())
        desk.repaint()
        spent.append((time.perf_counter() - begun) * 1000)

    shown: list[str] = []
    spent: list[float] = []
    found = {}
    for words, work in (("hover", hover), ("edit", edit), ("selection", select), ("another sheet", other)):
        taken = []
        for n in range(100):
            begun = time.perf_counter()
            work(n)
            taken.append((time.perf_counter() - begun) * 1000)
            heart.app.processEvents()
        found[words] = float(np.percentile(spent or taken, 95))
    return found


def _findings(window, heart) -> dict[str, Any]:  # type: ignore[no-untyped-def]
    """ms from an edit to the findings that are told of it, and of the first check of all."""
    from rushweed.core.document.edit import set_credit
    from rushweed.core.findings.check import checks
    from rushweed.core.pixels.cache import PixelCache

    session = window.session
    one, stock = checks(), PixelCache(session.folder.path)
    begun = time.perf_counter()
    one.run(session.project, stock, slow=())
    first = (time.perf_counter() - begun) * 1000
    told: list[float] = []
    session.checker.found.connect(lambda: told.append(time.perf_counter()))
    taken = []
    for n in range(5):
        told.clear()
        begun = time.perf_counter()
        sheet = session.project.sheets[n].id
        session.document.edit("Licence", lambda p: set_credit(p, [sheet], title=f"title {n}"))  # noqa: B023
        while not told and time.perf_counter() - begun < 60:
            heart.app.processEvents()
        taken.append((told[0] - begun) * 1000)
        heart.longest(lambda: None)
    return {"first": first, "live": float(np.median(taken))}


def _hour(window, heart) -> dict[str, Any]:  # type: ignore[no-untyped-def]
    """The longest stand of each action of a long day's work, the worst first."""
    found = []
    for words, action in _day(window):
        worst, whole = heart.longest(action)
        found.append((worst, words, whole))
    return {"stands": sorted(found, reverse=True)}


def _day(window) -> Iterator[tuple[str, Callable[[], object]]]:  # type: ignore[no-untyped-def]
    """What a person does in an hour, one action after another."""
    from rushweed.core.animate.timeline import animate
    from rushweed.core.document.edit import rename_cell
    from rushweed.core.tune.edit import tune_sheets

    session, run = window.session, window.commands.run_id
    sheets = session.project.sheets
    for n in range(0, min(len(sheets), 40), 4):
        sheet = sheets[n]
        for stage in ("gather", "cut", "tune", "shape"):
            yield f"{sheet.name} in {stage}", lambda s=sheet, g=stage: (
                session.bring([s], partial(session.selection.choose_sheet, s.id)), window.turn_to(g),
            )  # fmt: skip
        if not sheet.cells:
            continue
        cells = tuple(c.id for c in sheet.cells)
        yield "select all", partial(session.selection.choose_cells, cells)
        yield "name one", lambda c=cells[0]: session.document.edit("N", lambda p: rename_cell(p, c, "first"))
        yield "common shape", lambda: run("shape.common1") if _has(window, "shape.common1") else None
        yield (
            "filter",
            lambda i=sheet.id: session.document.edit(
                "Filter", lambda p: tune_sheets(p, [i], filter="linear")
            ),
        )
        yield "undo", session.document.undo
        if len(cells) > 3:
            yield "animate", lambda c=cells[:8]: session.document.edit("A", lambda p: animate(p, c)[0])
            yield "Animate shown", partial(window.turn_to, "animate")
            yield "undo it", session.document.undo
        yield "zoom in", partial(window.desk.zoom_step, 1)
        yield "zoom to fit", window.desk.zoom_fit
    level = session.project.levels[0]
    yield "Paint", lambda: (session.selection.choose_level(level.id), window.turn_to("paint"))
    yield "all of it", window.desk.zoom_fit
    yield "closer", partial(window.desk.zoom_to, 2)
    yield "merged outline", lambda: run("paint.merged") if _has(window, "paint.merged") else None
    yield "Walk", partial(window.turn_to, "walk")
    yield "Ship", partial(window.turn_to, "ship")
    yield "all findings", window.later.opened.open_findings
    yield "save", session.saver.save
    yield "another theme", partial(window.use_theme, "dusk")
    yield "and back", partial(window.use_theme, "day")


def _has(window, command: str) -> bool:  # type: ignore[no-untyped-def]
    return any(row.id == command for row in window.commands.rows)


# -- rows ----------------------------------------------------------------------------------------------------


def memory() -> Iterator[Row]:
    demo, many, large = (_measured(kind, "memory") for kind in ("demo", "crowd", "large"))
    for words, found, most in (("the demo", demo, GIB), ("300 sheets", many, GIB)):
        yield Row(
            f"memory, {words} open", f"{found['opened'] / 2**20:.0f} MiB", f"{most / 2**20:.0f} MiB",
            found["opened"] / most, 1.0,
        )  # fmt: skip
    shown = (("all 300 sheets", many, LOTS["crowd"]), ("ten sheets of 4096 x 4096", large, LOTS["large"]))
    for words, found, lot in shown:
        yield Row(
            f"memory, {words} shown once", f"{found['shown'] / 2**20:.0f} MiB",
            f"{lot.pixels / 2**20:.0f} MiB", found["shown"] / lot.pixels, 2.0, "beside the px shown",
        )  # fmt: skip


def light() -> Iterator[Row]:
    for words, taken in _measured("crowd", "light").items():
        yield Row(f"300 sheets: {words}, p95", f"{taken:.1f} ms", f"{FRAME_MS:.0f} ms", taken / FRAME_MS, 1.0)


def findings() -> Iterator[Row]:
    for kind, words in (("demo", "the demo"), ("crowd", "300 sheets")):
        found = _measured(kind, "findings")
        note = f"the first check of all {found['first']:.0f} ms"
        yield Row(
            f"findings told after an edit, {words}", f"{found['live']:.0f} ms", f"{LIVE_MS:.0f} ms",
            found["live"] / LIVE_MS, 1.0, note,
        )  # fmt: skip


def hour() -> Iterator[Row]:
    """The five longest stands of a scripted hour on each."""
    for kind in ("demo", *LOTS):
        for worst, words, whole in _measured(kind, "hour")["stands"][:5]:
            yield Row(
                f"{kind}: {words}", f"{worst:.0f} ms", f"{BLOCK_MS:.0f} ms", worst / BLOCK_MS, 1.0,
                f"{whole:.1f} s in all",
            )  # fmt: skip


WORKS = {"memory": _memory, "light": _light, "findings": _findings, "hour": _hour}

if __name__ == "__main__":
    made, beating = _window(sys.argv[1], Path(sys.argv[3]))
    print(json.dumps(WORKS[sys.argv[2]](made, beating)))
    sys.stdout.flush()
    os._exit(0)
