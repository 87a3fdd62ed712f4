"""A monkey at the window: presses tools, fields, buttons, keys and the Desk at random, and counts faults.

`./run bench monkey` works Tidelamp and, where they are fetched, three projects of real sheets, some steps
each; RUSHWEED_MONKEY_STEPS and RUSHWEED_MONKEY_SEED say otherwise.
"""

from __future__ import annotations

import logging
import os
import random
import sys
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from bench.labels import ART, fetched, sheet_labels
from bench.row import Row

STEPS = 1500
LEAVES = ("window.new", "window.open", "window.close", "window.quit")  # commands that leave the project
WORDS = (
    "",
    "0",
    "1",
    "-5",
    "8x8",
    "16 x 16",
    "99999",
    "1/3",
    "abc",
    "#ff00ff",
    "walk_{n}",
    "²",
    "0.5",
    "12, 4",
)


class Monkey:
    """Works one window; `faults` counts what was raised, by its place."""

    def __init__(self, window: Any, seed: int) -> None:
        from PyQt6.QtTest import QTest

        self.window, self.rng, self.hands = window, random.Random(seed), QTest
        self.faults: Counter[str] = Counter()
        self.last: list[str] = []
        self.first: dict[str, str] = {}

    def note(self, kind: type[BaseException], error: BaseException, trace: Any) -> None:
        """An exception that nobody handled."""
        frames = [f for f in traceback.extract_tb(trace) if "rushweed" in f.filename]
        where = f" at {frames[-1].filename.split('rushweed/')[-1]}:{frames[-1].lineno}" if frames else ""
        place = kind.__name__ + where
        self.faults[place] += 1
        if place not in self.first:
            self.first[place] = f"{error} after {'; '.join(self.last[-4:])}"
            print(f"after {len(self.last)} words: {place}: {self.first[place]}", file=sys.stderr, flush=True)
            traceback.print_exception(kind, error, trace)

    def step(self) -> None:
        """One thing at random."""
        acts = (self.desk, self.desk, self.desk, self.command, self.field, self.press, self.choose, self.tool)
        act = self.rng.choice(acts)
        self.last.append(act.__name__)
        act()

    def choose(self) -> None:
        session, rng = self.window.session, self.rng
        kind = rng.randrange(5)
        if kind == 0:
            stage = rng.choice(list(self.window.stages))
            self.window.rail.tabs.chosen.emit(stage)
            self.last.append(stage)
        elif kind == 1 and session.project.sheets:
            session.selection.choose_sheet(rng.choice(session.project.sheets).id)
        elif kind == 2 and session.project.levels:
            session.selection.choose_level(rng.choice(session.project.levels).id)
        elif kind == 3 and session.project.animations:
            session.selection.choose_animation(rng.choice(session.project.animations).id)
        elif session.selection.sheet is not None and session.selection.sheet.cells:
            cells = session.selection.sheet.cells
            session.selection.choose_cells(
                tuple(c.id for c in rng.sample(cells, min(len(cells), rng.randint(1, 6))))
            )

    def tool(self) -> None:
        stage = self.window.stage(self.window.session.stage)
        if stage.tools:
            tool = self.rng.choice(stage.tools)
            self.last.append(f"tool {tool.key if hasattr(tool, 'key') else tool[0]}")
            stage.use(tool.id if hasattr(tool, "id") else tool[0])

    def desk(self) -> None:
        """A press, a drag or a hover on the Desk, and sometimes Escape or an arrow in the middle of it."""
        from PyQt6.QtCore import QPoint, Qt

        desk, rng, mod = self.window.desk, self.rng, Qt.KeyboardModifier
        held = (mod.NoModifier, mod.NoModifier, mod.ControlModifier, mod.ShiftModifier, mod.AltModifier)
        keys = rng.choice(held)
        button = rng.choice(
            (Qt.MouseButton.LeftButton, Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton)
        )

        def spot() -> QPoint:
            return QPoint(rng.randrange(desk.width()), rng.randrange(desk.height()))

        self.hands.mouseMove(desk, spot())
        self.hands.mousePress(desk, button, keys, spot())
        for _ in range(rng.randrange(4)):
            self.hands.mouseMove(desk, spot())
        if rng.random() < 0.2:
            self.hands.keyClick(desk, rng.choice((Qt.Key.Key_Escape, Qt.Key.Key_Left, Qt.Key.Key_Return)))
        self.hands.mouseRelease(desk, button, keys, spot())

    def command(self) -> None:
        commands = self.window.commands
        here = [r for r in commands.rows if not r.stages or self.window.session.stage in r.stages]
        row = self.rng.choice([r for r in here if r.id not in LEAVES])
        self.last.append(row.id)
        if not row.needs():
            commands.run(row)

    def field(self) -> None:
        """Type into a field that is seen, and end with Enter, Escape or by leaving it."""
        from PyQt6.QtCore import Qt
        from PyQt6.QtWidgets import QLineEdit

        seen = [f for f in self.window.findChildren(QLineEdit) if f.isVisible() and f.isEnabled()]
        if seen:
            field = self.rng.choice(seen)
            field.setFocus()
            field.selectAll()
            word = self.rng.choice(WORDS)
            self.last.append(f"typed {word!r} into {field.toolTip()[:30]}")
            self.hands.keyClicks(field, word.encode("ascii", "ignore").decode())
            self.hands.keyClick(
                field, self.rng.choice((Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Tab))
            )

    def press(self) -> None:
        """A button, box or chip that is seen."""
        from PyQt6.QtCore import QPoint, Qt
        from PyQt6.QtWidgets import QWidget

        seen = [w for w in self.window.findChildren(QWidget) if w.isVisible() and w.isEnabled()
                and not w.findChildren(QWidget) and w is not self.window.desk and w.width() > 4]  # fmt: skip
        if seen:
            widget = self.rng.choice(seen)
            text = getattr(widget, "text", "")
            self.last.append(f"pressed {type(widget).__name__} {text() if callable(text) else text!s:.20}")
            at = QPoint(self.rng.randrange(widget.width()), self.rng.randrange(max(widget.height(), 1)))
            self.hands.mouseClick(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)


def _no_dialogs(rng: random.Random) -> None:
    """Whatever would wait for an answer is left, or gets one at random; the program does not start anew."""
    from PyQt6.QtGui import QColor
    from PyQt6.QtWidgets import QColorDialog, QFileDialog, QInputDialog, QMenu, QMessageBox

    from rushweed.ui.app import Application

    QFileDialog.getOpenFileNames = staticmethod(lambda *a, **k: ([], ""))  # type: ignore[assignment]
    QFileDialog.getOpenFileName = staticmethod(lambda *a, **k: ("", ""))  # type: ignore[assignment]
    QFileDialog.getSaveFileName = staticmethod(lambda *a, **k: ("", ""))  # type: ignore[assignment]
    QFileDialog.getExistingDirectory = staticmethod(lambda *a, **k: "")  # type: ignore[assignment]
    words = staticmethod(lambda *a, **k: (rng.choice(WORDS), rng.random() < 0.7))
    QInputDialog.getText = words  # type: ignore[assignment]
    item = staticmethod(lambda *a, **k: (rng.choice(a[3]), rng.random() < 0.7))
    QInputDialog.getItem = item  # type: ignore[assignment]
    QInputDialog.getInt = staticmethod(lambda *a, **k: (rng.randint(1, 16), True))  # type: ignore[assignment]
    QColorDialog.getColor = staticmethod(lambda *a, **k: QColor(rng.randrange(1 << 24)))  # type: ignore[assignment]
    QMessageBox.exec = lambda self: 0  # type: ignore[assignment,method-assign]
    QMenu.exec = lambda *a, **k: None  # type: ignore[assignment,method-assign]
    QColorDialog.exec = lambda self: 0  # type: ignore[assignment,method-assign]
    Application.start_anew = lambda self, path: None  # type: ignore[method-assign]


def projects(home: Path) -> Iterator[tuple[str, Path]]:
    """Tidelamp, and projects of real sheets where they are fetched, cut by their first proposal."""
    from rushweed.core.cut.edit import cut_sheet
    from rushweed.core.cut.take import choices
    from rushweed.core.pixels.cache import PixelCache
    from rushweed.core.pixels.gather import Gathering, add_gathered
    from rushweed.core.store.folder import Folder
    from rushweed.demo.project import build

    build(home / "tidelamp")[0].unlock()
    yield "Tidelamp", home / "tidelamp"
    if not fetched():
        return
    files = [ART / label.file for label in sheet_labels()]
    for number, chosen in enumerate((files[:40:5], files[60:140:8], files[150:320:17])):
        path = home / f"real{number}"
        folder, project = Folder.create(path, f"real {number}")
        gathering = Gathering(path, project, lambda _rgba: 1.0)
        got = [r for batch in gathering.batches(chosen, False) for r in gathering.take(batch)]
        project = add_gathered(project, [r._replace(picture=None) for r in got])
        stock = PixelCache(path)
        for sheet in project.sheets:
            pixels = stock.pixels(sheet)
            project = cut_sheet(project, sheet.id, choices(pixels).best, pixels)
        folder.save(project)
        yield f"{len(project.sheets)} real sheets", path


def rows() -> Iterator[Row]:
    steps = int(os.environ.get("RUSHWEED_MONKEY_STEPS") or STEPS)
    seed = int(os.environ.get("RUSHWEED_MONKEY_SEED") or 1)
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtCore import QEvent
    from PyQt6.QtWidgets import QApplication

    from rushweed.ui.app import Application

    app = QApplication.instance() or QApplication([])

    def turn() -> None:
        """What a turn of the running event loop does."""
        app.processEvents()
        app.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    _no_dialogs(random.Random(seed))
    with tempfile.TemporaryDirectory() as name:
        os.environ["RUSHWEED_SETTINGS"] = f"{name}/settings.ini"
        for words, path in projects(Path(name)):
            window = Application(app).open(path)  # type: ignore[arg-type]
            window.resize(1280, 800)
            window.complete()
            monkey = Monkey(window, seed)
            sys.excepthook = monkey.note
            logging.getLogger("rushweed").addFilter(lambda record, monkey=monkey: _heard(monkey, record))
            began = time.perf_counter()
            for _ in range(steps):
                try:
                    monkey.step()
                    turn()
                except Exception as error:
                    monkey.note(type(error), error, error.__traceback__)
            window.session.jobs.finish()
            turn()
            taken = time.perf_counter() - began
            faults = sum(monkey.faults.values())
            told = [f"{n} x {place} ({monkey.first.get(place, '')})" for place, n in monkey.faults.items()]
            note = f"{taken:.0f} s {'; '.join(told)}"
            yield Row(f"monkey, {words}, {steps} steps", f"{faults} faults", "0", faults, 0.0, note)
            window.session.saver.note_saved()
            window.close()
            sys.excepthook = sys.__excepthook__


def _heard(monkey: Monkey, record: logging.LogRecord) -> bool:
    """A job's fault, which is told and logged instead of raised."""
    if record.exc_info and record.exc_info[1] is not None and record.exc_info[0] is not None:
        monkey.note(record.exc_info[0], record.exc_info[1], record.exc_info[2])
    return True
