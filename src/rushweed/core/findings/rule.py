"""What a rule is, and what the rules found, kept for as long as what they depend on stays the same."""

from __future__ import annotations

from collections.abc import Callable, Container, Iterator, Sequence
from typing import Any, Literal, NamedTuple

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.findings.finding import Finding
from rushweed.core.pixels.cache import PixelCache


class Rule(NamedTuple):
    """How faults of one sort are found, and what each sort is, by its name.

    `of` says what `find` is called with and may look at, and so when it is called anew: "sheet" with (sheet,
    stock); "animation" with (animation, project, stock), of which it looks at the sheets that it shows;
    "level" with (level, project, stock), of which it looks at sheets and animations too; "project" with
    (project, stock), each time, so that it has to be quick.
    """

    of: Literal["sheet", "animation", "level", "project"]
    find: Callable[..., Iterator[Finding]]
    about: dict[str, str]
    slow: bool = False  # takes a tenth of a second and more for each part


Depends = tuple[Any, ...]
Part = tuple[Any, tuple[Any, ...], tuple[Sheet, ...]]  # what is looked at, what is around it, its sheets


class Checks:
    """All findings of a project, looked for anew only where something that a rule depends on is another."""

    def __init__(self, rules: Sequence[Rule]) -> None:
        self._rules = rules
        self._found: dict[tuple[int, str], tuple[Depends, list[Finding]]] = {}

    def run(
        self,
        project: Project,
        stock: PixelCache,
        slow: Container[str] | None = None,
        go_on: Callable[[], bool] = lambda: True,
    ) -> list[Finding]:
        """Every finding, faults before hints, each kind in the order of the rules.

        Rules that take long are asked about all parts, or those whose ids are in `slow`; of others only what
        they found before is told. When `go_on` says no, it ends with nothing; what was found until then is
        kept for the next time.
        """
        found: list[tuple[int, Finding]] = []
        asked: set[tuple[int, str]] = set()
        numbered = list(enumerate(self._rules))
        for of, parts in self._parts(project, stock).items():
            rules = [(n, rule) for n, rule in numbered if rule.of == of]
            for part, around, sheets in parts:  # all rules of a part at once: its pixels are read but once
                if not go_on():
                    return []
                for number, rule in rules:
                    key = (number, part.id)
                    asked.add(key)
                    known = self._found.get(key)
                    if known is None or not _same(known[0], _depends(part, around, sheets, stock)):
                        if rule.slow and slow is not None and part.id not in slow:
                            continue
                        if not go_on():  # a rule may take long: asked before each
                            return []
                        arguments = (part, stock) if of == "sheet" else (part, project, stock)
                        results = list(rule.find(*arguments))
                        known = self._found[key] = _depends(part, around, sheets, stock), results
                    found += [(number, finding) for finding in known[1]]
        for number, rule in numbered:
            if rule.of == "project":
                found += [(number, finding) for finding in rule.find(project, stock)]
        for key in self._found.keys() - asked:
            self._found.pop(key, None)
        found.sort(key=lambda one: (one[1].weight != "fault", one[0]))
        return [finding for _number, finding in found]

    def _parts(self, project: Project, stock: PixelCache) -> dict[str, list[Part]]:
        """The parts that rules look at, with all that each depends on."""
        for sheet in project.sheets:
            if stock.is_broken(sheet):
                stock.fault(sheet)  # it may be back
        homes = cell_homes(project)
        shown = [
            tuple({s.id: s for s, _cell in (homes[f.cell] for f in a.frames if f.cell in homes)}.values())
            for a in project.animations
        ]
        around = (project.sheets, project.animations)
        return {
            "sheet": [(s, (), (s,)) for s in project.sheets],
            "animation": [(a, (), sheets) for a, sheets in zip(project.animations, shown, strict=True)],
            "level": [(v, around, ()) for v in project.levels],
        }


def _depends(part: Any, around: tuple[Any, ...], sheets: tuple[Sheet, ...], stock: PixelCache) -> Depends:
    """What the findings of a part hang on: it, what is around it, its sheets and whether each can be read."""
    return (part, *around, *sheets, *(stock.is_broken(sheet) for sheet in sheets))


def _same(one: Depends, other: Depends) -> bool:
    return len(one) == len(other) and all(a is b for a, b in zip(one, other, strict=True))
