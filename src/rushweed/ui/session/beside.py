"""Edits that take long are worked out beside the window, and made when they are done."""

from __future__ import annotations

from collections.abc import Callable

from rushweed.core.document.limits import check_project
from rushweed.core.document.model.project import Project
from rushweed.ui.session import Session
from rushweed.ui.session.jobs import How, Job

AFTER_MS = 30  # what was pressed is painted first
Change = Callable[[Project], Project]


def worked_out(
    session: Session, label: str, change: Change, then: Callable[[Change], object], long: bool
) -> Job | None:
    """Call `then` with an edit that does what `change` does: at once, or where it takes `long`, once a job
    has worked it out, so that it costs nothing any more unless the project was edited meanwhile. Returns
    that job, which may be cancelled."""
    if not long:
        then(change)
        return None
    base = session.document.history.project

    def work(job: Job) -> Project:
        job.tell(0.0, label)
        made = change(base)
        check_project(base, made)
        return made

    def done(made: Project) -> None:
        then(lambda project: made if project is base else change(project))

    job = session.jobs.start(label, work, done, how=How(after_ms=AFTER_MS))
    session.working.emit(job)
    return job
