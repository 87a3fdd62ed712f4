"""Ships a project a way: the same input gives the same bytes, and only what changed is made again."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from rushweed import __version__
from rushweed.core.document.errors import EditError, StoreError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shipping import Way
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.atlas import Plan
from rushweed.core.ship.encode import picture_bytes
from rushweed.core.ship.json_text import json_text
from rushweed.core.ship.manifest import MANIFEST_FORMAT
from rushweed.core.ship.placing import (
    LIST,
    Listed,
    Shipment,
    check_room,
    finish,
    last_shipment,
    put_in_place,
    stands,
)
from rushweed.core.ship.standing import Standing, standing
from rushweed.core.ship.stretches import Stretches
from rushweed.core.ship.targets import game, plain
from rushweed.core.ship.task import Output, Task
from rushweed.core.ship.ways import DESKTOP, ways_of
from rushweed.core.ship.workers import Workers
from rushweed.core.store.files import digest_of
from rushweed.core.uncollected import uncollected

Progress = Callable[[float, str], None]
LARGE = 1 << 16  # px of a picture that is worth a thread
TOGETHER = 8  # pictures looked at by a thread at a time
WORTH_PROCESSES = 1 << 22  # px to be coded in blocks, from which they do that


class Shipped(NamedTuple):
    """Where it went, every file, how many frames on how many pages, the share of these that is filled; what
    was made anew and what was removed, by name, and what each file is like."""

    folder: Path
    files: list[Path]
    frames: int
    pages: int
    filled: float
    made: tuple[str, ...] = ()
    removed: tuple[str, ...] = ()
    listed: dict[str, Listed] = {}  # noqa: RUF012


def ship(
    project: Project,
    stock: PixelCache,
    out: Path,
    way: Way = DESKTOP,
    progress: Progress = lambda share, words: None,
    jobs: int = 2,
) -> Shipped:
    """Write a project into `out` a way, `jobs` files at a time.

    The folder holds the last shipment whole until the new one is. Raises RushweedError.
    """
    with uncollected():
        finish(out)
        return _written(_looked(project, stock, out, way, progress, jobs), progress, jobs)


def would_ship(
    project: Project,
    stock: PixelCache,
    out: Path,
    way: Way = DESKTOP,
    progress: Progress = lambda share, words: None,
    jobs: int = 2,
) -> Shipped:
    """As `ship`, but nothing is written: what would be made anew and what would go. Raises RushweedError."""
    with uncollected():
        found = _looked(project, stock, out, way, progress, jobs)
    made = tuple(output.name for output in found.todo)
    return Shipped(
        out, [out / o.name for o in found.wanted], len(found.plan.places), len(found.plan.pages),
        found.plan.filled, made, found.gone,
    )  # fmt: skip


class _Looked(NamedTuple):
    """What there is to ship, and what of it stands in the folder already; `listed` is what can be used of the
    last shipment there, `kept` what stays as it is, `gone` the names of what is shipped no more."""

    task: Task
    plan: Plan
    out: Path
    before: Shipment | None
    listed: dict[str, Listed]
    wanted: list[Output]
    kept: dict[str, Listed]
    gone: tuple[str, ...]

    @property
    def todo(self) -> list[Output]:
        """What is to be made."""
        return [output for output in self.wanted if output.name not in self.kept]


def _looked(
    project: Project, stock: PixelCache, out: Path, way: Way, progress: Progress, jobs: int
) -> _Looked:
    progress(0.0, "Reading the art")
    before = last_shipment(out)
    if before is not None:
        _check_own(project, stock.folder, way, out, before)
    task = Task(project, stock, way)
    listed = before.files if before is not None and before.rushweed == __version__ else {}
    with standing(out, listed, task.stood, jobs) as there:  # read while all else is worked out
        _read_ahead(task, jobs)
        plan = task.planned()
        progress(0.15, "Packing the atlas")
        wanted = _outputs_of(way)(task, plan)
        names = {output.name for output in wanted}
        check_room(out, names, before)
        kept = _unchanged(listed, wanted, there)
    gone = tuple(
        n for n, one in (before.files if before else {}).items() if n not in names and stands(out, n, one)
    )
    return _Looked(task, plan, out, before, listed, wanted, kept, gone)


def _written(found: _Looked, progress: Progress, jobs: int) -> Shipped:
    task, plan, out, kept = found.task, found.plan, found.out, found.kept

    def earlier(name: str) -> Stretches:
        return task.stretches(out, name, found.listed.get(name))

    made = dict(_made(found.todo, jobs, progress, earlier))
    told = {
        output.name: kept[output.name]
        if output.name in kept
        else Listed(len(made[output.name]), digest_of(made[output.name]), output.key)
        for output in found.wanted
    }
    shipment = Shipment(MANIFEST_FORMAT, __version__, task.way.name, told)
    if made or shipment != found.before:
        progress(0.95, "Putting the files in place")
        put_in_place(out, {**made, LIST: json_text(shipment)}, set(kept), found.before)
    task.remember(out, set(told))
    progress(1.0, "Shipped" if made or found.gone else "Nothing has changed since it was shipped")
    files = [out / output.name for output in found.wanted] + [out / LIST]
    pages, frames = len(plan.pages), len(plan.places)
    return Shipped(out, files, frames, pages, plan.filled, tuple(made), found.gone, told)


def _outputs_of(way: Way) -> Callable[[Task, Plan], list[Output]]:
    """What lists the files of a way; a page to walk in needs the compiled walker, which others do without."""
    if way.makes == "page":
        from rushweed.core.ship.targets import page

        return page.outputs
    return plain.outputs if way.makes == "plain" else game.outputs


def _check_own(project: Project, home: Path, way: Way, out: Path, before: Shipment) -> None:
    """Raises StoreError for a folder that holds what another way of the project ships there."""
    for other in ways_of(project):
        mine = other.id == way.id or other.name != before.way or not other.folder
        if not mine and (home / other.folder).resolve() == out.resolve():
            raise StoreError(
                f"{out} holds what {other.name} ships there.", f"Give {way.name} a folder of its own."
            )


def _read_ahead(task: Task, jobs: int) -> None:
    """Look at the pictures, several large ones at a time; small ones would only wait for each other."""
    large = [s for s in task.fresh() if s.source.size[0] * s.source.size[1] >= LARGE]
    with ThreadPoolExecutor(max(jobs, 1)) as pool:
        list(pool.map(task.look, [large[n : n + TOGETHER] for n in range(0, len(large), TOGETHER)]))


def _unchanged(listed: dict[str, Listed], wanted: list[Output], there: Standing) -> dict[str, Listed]:
    """The files of the last shipment that were made from the same and stand as they were written."""
    known = ((output, listed[output.name]) for output in wanted if output.name in listed)
    return {o.name: one for o, one in known if one.made_from == o.key and o.name in there}


def _made(
    todo: list[Output], jobs: int, progress: Progress, earlier: Callable[[str], Stretches]
) -> Iterator[tuple[str, bytes]]:
    """The bytes of each file, begun with the last: of its pages' art most is still at hand. What `progress`
    raises leaves it."""
    whole = sum(o.heavy for o in todo) + len(todo)
    done = 0
    with (
        _workers(jobs, sum(o.heavy for o in todo if o.apart)) as workers,
        ThreadPoolExecutor(max(jobs, 1)) as threads,
    ):
        backwards = todo[::-1]
        futures = [threads.submit(_make, output, workers, earlier) for output in backwards]
        try:
            for output, future in zip(backwards, futures, strict=True):
                progress(0.2 + 0.75 * done / max(whole, 1), f"Writing {output.name}")
                yield output.name, future.result()
                done += output.heavy + 1
        except BaseException:
            for future in futures:
                future.cancel()
            raise


@contextmanager
def _workers(jobs: int, px: int) -> Iterator[Workers | None]:
    """Other processes to code in, where there is enough to do."""
    if jobs < 2 or px < WORTH_PROCESSES:
        yield None
        return
    workers = Workers(jobs)
    try:
        yield workers
    finally:
        workers.close()


def _make(output: Output, workers: Workers | None, earlier: Callable[[str], Stretches]) -> bytes:
    function, arguments = output.prepare()
    if function is picture_bytes:
        return function(*arguments, stretches=earlier(output.name))
    if workers is not None and output.apart:
        return workers.call(function, *arguments)
    return function(*arguments)


def folder_of(way: Way, project_folder: Path, out: Path | None = None) -> Path:
    """Where a way ships to. Raises EditError if nothing says."""
    if out is not None:
        return out
    if not way.folder:
        raise EditError(f"{way.name} has no folder to ship to.", "Name one with --out, or in Ship.")
    return project_folder / way.folder
