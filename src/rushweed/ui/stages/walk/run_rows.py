"""Runs kept with the level: walked again, named, and made a test of it."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.model.level import Level, Run
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.controls import Check, Chip, IconButton, button, emptied, row
from rushweed.ui.kit.fields import TextField
from rushweed.ui.stages.walk.run_work import RunWork


class RunRows(Card):
    """The list of runs, and what the chosen one is."""

    def __init__(self, context: Context, runs: RunWork) -> None:
        super().__init__(context.look, "Runs")
        self.rows.setContentsMargins(0, 0, 0, 0)
        self.session, self.runs = context.session, runs
        self.chosen = ""
        self._shown: tuple[object, ...] = ()
        holder = QWidget()
        self._list = QVBoxLayout(holder)
        self._list.setContentsMargins(0, 0, 0, 0)
        self._list.setSpacing(4)
        self.add(holder)
        self.name = TextField("name")
        self.must = Check(context.look, context.icons, "Must arrive")
        self.must.setToolTip("A test of the level: it has to end where it ended when it was kept")
        remove = IconButton(context.look, context.icons, "trash", "Remove the run", framed=True, px=15)
        self.name.edited.connect(lambda text: self._change(name=text.strip()))
        self.must.edited.connect(lambda on: self._change(must=on))
        remove.pressed.connect(self.remove)
        self._of_one = QWidget()
        column = QVBoxLayout(self._of_one)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(row(self.name, remove))
        column.addLayout(row(self.must, None))
        self.add(self._of_one)
        keep, test = button("Keep this walk"), button("Walk them all")
        keep.setToolTip("Its keys, with the level: walked again they give the same path")
        test.setToolTip("Tell which arrive in the level as it is now")
        keep.clicked.connect(runs.keep)
        test.clicked.connect(runs.test)
        holder = QWidget()
        holder.setLayout(row(keep, test, None))
        self.add(holder)

    def refresh(self, level: Level) -> None:
        told = self.runs.arrived
        key = (level.runs, self.chosen, dict(told))
        if key != self._shown:
            self._shown = key
            emptied(self._list)
            for run in level.runs:
                state = told.get(run.id)
                evidence = f"{run.steps / 120:.1f} s"
                if state is not None:
                    evidence += ", arrives" if state else ", does not arrive"
                if run.must:
                    evidence += ", must"
                chip = Chip(self.look, run.name, evidence, run.id == self.chosen, "Walk it again")
                chip.pressed.connect(lambda i=run.id: self.show_run(i))
                self._list.addWidget(chip)
        self.what.setText(str(len(level.runs)) if level.runs else "none kept")
        now = self._run()
        self._of_one.setVisible(now is not None)
        if now is not None:
            self.name.show_value(now.name)
            self.must.show_value(now.must)

    def show_run(self, run_id: str) -> None:
        self.chosen = run_id
        run, level = self._run(), self.session.selection.level
        if level is not None:
            self.refresh(level)
        if run is not None:
            self.runs.show(run)

    def _run(self) -> Run | None:
        level = self.session.selection.level
        return next((r for r in level.runs if r.id == self.chosen), None) if level else None

    def _change(self, name: str | None = None, must: bool | None = None) -> None:
        from rushweed.core.walk.runs import change_run

        run, level_id = self._run(), self.session.selection.level_id
        if run is not None:
            self.session.document.edit(
                f"Set {run.name}", lambda p: change_run(p, level_id, run.id, name, must)
            )

    def remove(self) -> None:
        from rushweed.core.walk.runs import remove_run

        run, level_id = self._run(), self.session.selection.level_id
        if run is not None:
            self.session.document.edit(f"Remove {run.name}", lambda p: remove_run(p, level_id, run.id))
