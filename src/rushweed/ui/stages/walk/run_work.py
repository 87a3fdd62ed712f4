"""Runs of a level: kept, walked anew, tested, exported."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from rushweed.core.document.errors import file_reason
from rushweed.core.document.model.level import Run
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.text import many
from rushweed.ui.stages.walk.play import Play
from rushweed.ui.stages.walk.reach_job import ReachJob


class RunWork(QObject):
    """What is done with runs. `arrived` tells of each run, by id, how it went when all were walked last."""

    changed = pyqtSignal()

    def __init__(self, context: Context, play: Play, reach: ReachJob) -> None:
        super().__init__()
        self._session, self._desk = context.session, context.desk
        self.play, self.reach = play, reach
        self.arrived: dict[str, bool] = {}

    def keep(self) -> None:
        """Keep the keys of this walk with the level."""
        from rushweed.core.walk.runs import keep_run

        walk, level = self.play.walk, self._session.selection.level
        if walk is None or level is None:
            return
        run = walk.run(f"run {len(level.runs) + 1}")
        self._session.document.edit("Keep a run", lambda p: keep_run(p, level.id, run)[0])
        self.changed.emit()

    def show(self, run: Run) -> None:
        """Walk a run from its beginning."""
        self._desk.setFocus()
        self.play.start(run=run)

    def show_way(self) -> None:
        """Walk to the place last asked for, by the keys that reach it."""
        found, aimed = self.reach.found, self.reach.aimed
        run = found.run_to(*aimed) if found is not None and aimed is not None else None
        if run is not None:
            self.show(run)

    def test(self) -> None:
        """Walk all runs of the level beside the window, and tell which arrive."""
        level, project = self._session.selection.level, self._session.project
        if level is None or not level.runs:
            self._session.tell("told", "No runs are kept with this level.", "Walk, then keep the walk.")
            return

        def work(_job: object) -> dict[str, bool]:
            from rushweed.core.walk.runs import arrives, replay
            from rushweed.core.walk.walkers import walker_of
            from rushweed.core.walk.world import World

            world = World.of(project, level, walker_of(level).group)
            return {run.id: arrives(replay(world, run), run) for run in level.runs}

        def done(arrived: dict[str, bool]) -> None:
            self.arrived = arrived
            lost = [run.name for run in level.runs if not arrived[run.id]]
            words = (
                f"{', '.join(lost)} of {level.name} {'do' if len(lost) > 1 else 'does'} not arrive any more."
            )
            text = words if lost else f"All {many(len(arrived), 'run')} of {level.name} arrive."
            self._session.tell("fault" if lost else "told", text)
            self.changed.emit()

        self._session.jobs.start("Walking all runs", work, done)

    def export(self) -> None:
        """Write this walk as a file."""
        walk, desk = self.play.walk, self._desk
        if walk is None:
            return
        name, _kind = QFileDialog.getSaveFileName(desk, "Export this walk", "run.json", "Runs (*.json)")
        if name:
            run = msgspec.json.encode(walk.run(Path(name).stem))
            try:
                Path(name).write_bytes(msgspec.json.format(run, indent=1))
            except OSError as error:
                self._session.tell("fault", f"{Path(name).name} could not be written: {file_reason(error)}.")
