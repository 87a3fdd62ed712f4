"""Jobs whose ends arrive when nobody waits for them any more."""

from __future__ import annotations

import gc
import threading

from pytestqt.qtbot import QtBot

from rushweed.ui.session.garbage import GarbageTimer, collect_due
from rushweed.ui.session.jobs import JobPool


def test_the_end_of_a_job_whose_pool_is_gone_does_no_harm(qtbot: QtBot) -> None:
    ran = [threading.Event() for _ in range(20)]
    for event in ran:
        pool = JobPool()
        pool.start("Working", lambda _job, event=event: event.set(), lambda _r: None)
        pool._launch()
        assert event.wait(5)
        pool._many.waitForDone()
        del pool
    gc.collect()  # the pools and jobs go, while their ends still wait to be delivered
    qtbot.wait(50)
    assert all(event.is_set() for event in ran)


def test_nothing_is_collected_on_the_thread_of_a_job(qtbot: QtBot, qapp: object) -> None:
    timer = GarbageTimer(qapp)  # type: ignore[arg-type]
    assert not gc.isenabled() and gc.get_freeze_count() > 10_000  # nor is the program looked through
    seen: list[threading.Thread] = []
    watch = lambda phase, info: seen.append(threading.current_thread())  # noqa: E731
    gc.callbacks.append(watch)

    def litter(_job: object) -> None:
        for _ in range(5_000):
            ring: list[object] = []
            ring.append(ring)

    pool = JobPool()
    with qtbot.waitSignal(pool.start("Littering", litter).done):
        pass
    collect_due()
    gc.callbacks.remove(watch)
    assert seen and all(thread is threading.main_thread() for thread in seen)
    timer.deleteLater()
