"""Jobs whose ends arrive when nobody waits for them any more."""

from __future__ import annotations

import ctypes
import gc
import threading
import time
from collections.abc import Callable

import pytest
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from rushweed.core import memory
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.ui.session import jobs
from rushweed.ui.session.document import Document
from rushweed.ui.session.garbage import GarbageTimer, collect_due
from rushweed.ui.session.jobs import LOOK_MS, How, Job, JobPool
from rushweed.ui.session.patience import LONGEST_S, Patience
from rushweed.ui.session.shown_work import SOON_MS, ShownWork


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


def test_nothing_runs_in_a_pool_that_is_closed(qtbot: QtBot) -> None:
    pool, ran = JobPool(), []
    pool.start("Working", lambda _job: ran.append("before"))
    qtbot.waitUntil(lambda: ran == ["before"])
    pool.close()
    late = pool.start("Working", lambda _job: ran.append("after"))
    qtbot.wait(50)
    assert late.cancelled and not pool.running and ran == ["before"]


def test_who_goes_through_many_things_starts_work_on_the_last_alone(qtbot: QtBot) -> None:
    pool, begun, made = JobPool(), [], []
    work = ShownWork(pool, "Looking")

    def on(key: str) -> Callable[[Job], str]:
        def look(job: Job) -> str:
            begun.append(key)
            job.tell(0.5, key)
            return key

        return look

    for key in "abcde":
        work.want(key, on(key), made.append)
    qtbot.waitUntil(lambda: made == ["e"])
    assert begun == ["e"]
    work.want("e", on("e"), made.append)
    work.want("a", on("a"), made.append)
    qtbot.waitUntil(lambda: made == ["e", "a"])
    assert begun == ["e", "a"], "what is known is not worked out again"


def test_work_on_what_is_no_longer_shown_is_let_be_and_begun_anew_when_it_is_shown_again(
    qtbot: QtBot,
) -> None:
    pool, begun, made, held = JobPool(), [], [], threading.Event()
    work = ShownWork(pool, "Looking")

    def look(job: Job) -> str:
        begun.append("a")
        held.wait(5)
        job.tell(0.5, "a")
        return "a"

    work.want("a", look, made.append)
    qtbot.waitUntil(lambda: begun == ["a"])
    work.want("b", lambda _job: "b", made.append)
    held.set()
    qtbot.waitUntil(lambda: made == ["b"])
    work.want("a", look, made.append)
    qtbot.waitUntil(lambda: made == ["b", "a"])
    assert begun == ["a", "a"]


def test_what_is_left_before_work_on_it_begins_costs_nothing(qtbot: QtBot) -> None:
    pool, begun = JobPool(), []
    work = ShownWork(pool, "Looking")

    def look(_job: Job) -> str:
        begun.append("a")
        return "a"

    work.want("a", look, lambda _r: None)
    work.leave()
    qtbot.wait(2 * SOON_MS)
    assert begun == []
    work.want("a", look, lambda _r: None)
    qtbot.waitUntil(lambda: begun == ["a"])


def test_work_that_fails_is_told_once_and_not_tried_again(qtbot: QtBot) -> None:
    pool, tries, told = JobPool(), [], []
    pool.unheard.connect(told.append)
    work = ShownWork(pool, "Looking")

    def fails(_job: Job) -> None:
        tries.append(1)
        raise EditError("No.", "Nothing.")

    for _ in range(3):
        work.want("a", fails, lambda _r: None)
        qtbot.wait(120)
    assert tries == [1] and [error.problem for error in told] == ["No."]


def test_a_job_waits_for_a_hand_that_draws_but_not_for_ever(qtbot: QtBot) -> None:
    document, pool = Document(Project("p", "x")), JobPool()
    gesture = document.gesture("Drag")
    gesture.update(lambda p: replace(p, name="y"))
    went, again, ended = threading.Event(), threading.Event(), threading.Event()

    def work(job: Job) -> None:
        assert Patience(document, job)()
        went.set()
        assert again.wait(5)
        assert not Patience(document, job)()
        ended.set()

    job = pool.start("Checking", work)
    qtbot.wait(100)
    assert not went.is_set()
    gesture.commit()
    assert went.wait(LONGEST_S / 2)
    document.gesture("Drag").update(lambda p: replace(p, name="z"))
    again.set()
    job.cancel()
    assert ended.wait(LONGEST_S / 2), "who does not want it any more is not waited for either"


def test_while_the_desk_is_drawn_only_what_writes_begins_and_nothing_waits_for_ever(qtbot: QtBot) -> None:
    pool, began, clock = JobPool(), [], time.monotonic
    pool.desk_draws_on(True)
    pool.start("Keeping", lambda _job: began.append("keeping"), how=How(writes=True))
    pool.start("Checking", lambda _job: began.append("checking"))
    qtbot.waitUntil(lambda: "keeping" in began)
    pool.desk_draws_on(True)
    qtbot.wait(3 * LOOK_MS)
    assert began == ["keeping"]
    pool.desk_draws_on(False)
    qtbot.waitUntil(lambda: began == ["keeping", "checking"])
    start = clock()
    pool.start("Checking", lambda _job: began.append("again"))
    while "again" not in began:
        pool.desk_draws_on(True)
        qtbot.wait(LOOK_MS)
        assert clock() < start + 30
    assert clock() - start >= jobs.LONGEST_S


def test_what_goes_after_files_begins_when_they_are_written_and_no_job_before_its_time(qtbot: QtBot) -> None:
    pool, began, written = JobPool(), [], threading.Event()

    def keep(_job: Job) -> None:
        began.append("keeping")
        assert written.wait(5)

    since = time.monotonic()
    pool.start("Keeping", keep, how=How(writes=True, after_ms=150))
    pool.start("Checking", lambda _job: began.append("checking"), how=How(after_files=True))
    pool.start("Reading", lambda _job: began.append("reading"))
    qtbot.waitUntil(lambda: began == ["reading", "keeping"])
    assert time.monotonic() - since >= 0.15, "others that began did not take it along"
    qtbot.wait(3 * LOOK_MS)
    assert began == ["reading", "keeping"]
    written.set()
    qtbot.waitUntil(lambda: began == ["reading", "keeping", "checking"])


def test_freed_memory_goes_back_once_nothing_has_run_for_a_moment(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    given: list[threading.Thread] = []
    qtbot.wait(jobs.IDLE_MS + 50)  # so that no pool of a test before is at rest only now
    monkeypatch.setattr(jobs, "give_back", lambda: given.append(threading.current_thread()))
    monkeypatch.setattr(jobs, "IDLE_MS", 150)
    pool = JobPool()
    for _ in range(3):
        pool.start("Working", lambda _job: None)
        qtbot.waitUntil(lambda: not pool.running)
    qtbot.waitUntil(lambda: bool(given))
    qtbot.wait(200)
    assert len(given) == 1 and given[0] is not threading.current_thread()
    pool.start("Working", lambda _job: None)
    pool.close()
    qtbot.wait(200)
    assert len(given) == 1  # a window that has gone needs none


def test_memory_is_given_back_where_the_system_can(monkeypatch: pytest.MonkeyPatch) -> None:
    memory.give_back()
    monkeypatch.setattr(ctypes, "CDLL", lambda _name: object())  # a C library without it
    memory.give_back()
