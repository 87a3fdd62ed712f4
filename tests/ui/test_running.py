"""What runs beside the window is told in one place, and can be cancelled there."""

import threading

from PyQt6.QtWidgets import QApplication

from rushweed.ui.panels import running
from rushweed.ui.panels.running import _JobRow
from rushweed.ui.session.jobs import How, Job
from tests.ui.conftest import Hands


class Slow:
    """Work that goes on until it is let."""

    def __init__(self) -> None:
        self.go, self.left = threading.Event(), threading.Event()

    def __call__(self, job: Job) -> str:
        try:
            while not self.go.wait(0.02):
                job.tell(0.4, "Rowing home")
        finally:
            self.left.set()
        return "home"


def test_what_takes_long_is_told_with_how_far_it_is(hands: Hands) -> None:
    told, work, got = hands.window.findings.running, Slow(), []
    hands.wait(lambda: not hands.session.jobs.running and not told.isVisible())
    hands.session.jobs.start("Rowing", work, got.append)
    hands.wait(lambda: told.isVisible() and told.words == "Rowing home 40%")
    assert hands.window.windowTitle().startswith("40% - ")
    work.go.set()
    hands.wait(lambda: got == ["home"] and not told.isVisible())
    assert "%" not in hands.window.windowTitle()


def test_several_are_listed_and_each_can_be_cancelled(hands: Hands) -> None:
    told, works, got = hands.window.findings.running, [Slow(), Slow()], []
    jobs = [hands.session.jobs.start("Rowing", work, got.append) for work in works]
    hands.wait(lambda: told.isVisible() and set(jobs) <= set(told.shown))
    assert told.words == f"{len(told.shown)} at work"
    hands.press_widget(told)
    rows = {line.job: line for line in told.board.findChildren(_JobRow)}
    assert told.board.isVisible() and set(jobs) <= set(rows)
    hands.press_widget(rows[jobs[0]].cancel)
    hands.wait(lambda: works[0].left.is_set() and jobs[0] not in told.shown)
    assert not works[1].left.is_set() and jobs[1] in told.shown
    works[1].go.set()
    hands.wait(lambda: got == ["home"] and jobs[1] not in told.shown)
    told.board.hide()


def test_what_writes_files_is_not_cancelled(hands: Hands) -> None:
    told, work = hands.window.findings.running, Slow()
    job = hands.session.jobs.start("Saving", work, how=How(writes=True))
    hands.wait(lambda: job in told.shown)
    hands.press_widget(told)
    line = next(line for line in told.board.findChildren(_JobRow) if line.job is job)
    assert line.cancel.isHidden()
    work.go.set()
    hands.wait(lambda: job not in told.shown and not told.board.isVisible())


def test_short_work_is_not_told(hands: Hands) -> None:
    told, got = hands.window.findings.running, []
    hands.session.jobs.start("A moment", lambda job: 1, got.append)
    hands.wait(lambda: bool(got))
    told.refresh()
    assert running.AFTER_S > 0.5 and all(job.label != "A moment" for job in told.shown)


def test_it_opens_no_window_of_its_own(hands: Hands) -> None:
    hands.window.activateWindow()
    hands.wait(lambda: hands.window.isActiveWindow())
    before = {w for w in QApplication.topLevelWidgets() if w.isVisible()}
    told, work = hands.window.findings.running, Slow()
    job = hands.session.jobs.start("Rowing", work)
    hands.wait(lambda: job in told.shown)
    assert hands.window.isActiveWindow()
    assert {w for w in QApplication.topLevelWidgets() if w.isVisible()} == before
    work.go.set()
    hands.wait(lambda: job not in told.shown)
