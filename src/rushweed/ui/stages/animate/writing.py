"""The animation shown, written to a file of its own."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from rushweed.core.animate.export import Form, written
from rushweed.core.store.files import write_file
from rushweed.ui.desk.context import Context
from rushweed.ui.session import Session
from rushweed.ui.session.jobs import Job

ENDINGS: dict[Form, str] = {"gif": "gif", "apng": "png", "webp": "webp", "row": "png"}


def choose_file(context: Context, form: Form, scale: int) -> None:
    """Ask where to, and write it there."""
    animation = context.session.selection.animation
    if animation is None:
        return
    ending = ENDINGS[form]
    name, _ = QFileDialog.getSaveFileName(
        context.desk.window(), f"Write {animation.name}", f"{animation.name}.{ending}", f"*.{ending}"
    )
    if name:
        write(context.session, Path(name), form, scale)


def write(session: Session, path: Path, form: Form, scale: int) -> Job | None:
    """Write it in the background."""
    animation, project, stock = session.selection.animation, session.document.history.project, session.stock
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
