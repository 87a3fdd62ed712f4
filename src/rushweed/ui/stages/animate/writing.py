"""The animation shown, written to a file of its own."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog

from rushweed.core.animate.export import Form, written
from rushweed.core.store.files import write_file
from rushweed.ui.session.jobs import Job

if TYPE_CHECKING:
    from rushweed.ui.stages.animate.stage import AnimateStage

ENDINGS: dict[Form, str] = {"gif": "gif", "apng": "png", "webp": "webp", "row": "png"}


def choose_file(stage: AnimateStage, form: Form, scale: int) -> None:
    """Ask where to, and write it there."""
    animation = stage.animation
    if animation is None:
        return
    ending = ENDINGS[form]
    name, _ = QFileDialog.getSaveFileName(
        stage.desk.window(), f"Write {animation.name}", f"{animation.name}.{ending}", f"*.{ending}"
    )
    if name:
        write(stage, Path(name), form, scale)


def write(stage: AnimateStage, path: Path, form: Form, scale: int) -> Job | None:
    """Write it in the background."""
    session = stage.session
    animation, project, stock = stage.animation, session.document.history.project, session.stock
    if animation is None:
        return None

    def work(job: Job) -> int:
        data = written(project, animation, stock, form, scale)
        write_file(path, data)
        return len(data)

    return session.jobs.start(
        f"Writing {path.name}",
        work,
        lambda size: session.tell("told", f"Wrote {path} ({size / 1024:.0f} KiB)."),
    )
