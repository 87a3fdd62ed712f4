"""What a rule is, and what the rules found, kept for as long as what they depend on stays the same."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, Literal, NamedTuple

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model import Project
from rushweed.core.findings.finding import Finding
from rushweed.core.pixels.stock import Stock


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


class Checks:
    """All findings of a project, looked for anew only where something that a rule depends on is another."""

    def __init__(self, rules: Sequence[Rule]) -> None:
        self._rules = rules
        self._found: dict[tuple[int, str], tuple[Depends, list[Finding]]] = {}

    def run(
        self, project: Project, stock: Stock, slow: bool = True, go_on: Callable[[], bool] = lambda: True
    ) -> tuple[list[Finding], bool]:
        """Every finding, faults before hints, each kind in the order of the rules, and whether that is all.

        Without `slow` rules that take long are asked only for what they found before; with it they are asked
        for part after part, for as long as `go_on` says so.
        """
        parts = self._parts(project, stock)
        found: list[Finding] = []
        asked: set[tuple[int, str]] = set()
        whole = True
        for number, rule in enumerate(self._rules):
            if rule.of == "project":
                found += rule.find(project, stock)
                continue
            for part, depends in parts[rule.of]:
                key = (number, part.id)
                asked.add(key)
                known = self._found.get(key)
                if known is None or not _same(known[0], depends):
                    if rule.slow and not (slow and go_on()):
                        whole = False
                        continue
                    arguments = (part, stock) if rule.of == "sheet" else (part, project, stock)
                    known = self._found[key] = depends, list(rule.find(*arguments))
                found += known[1]
        for key in self._found.keys() - asked:
            self._found.pop(key, None)
        return sorted(found, key=lambda finding: finding.weight != "fault"), whole

    def _parts(self, project: Project, stock: Stock) -> dict[str, list[tuple[Any, Depends]]]:
        """The parts that rules look at, with all that each depends on."""
        homes = cell_homes(project)
        shown = [
            list({s.id: s for s, _cell in (homes[f.cell] for f in a.frames if f.cell in homes)}.values())
            for a in project.animations
        ]
        return {
            "sheet": [(s, (s, stock.is_broken(s))) for s in project.sheets],
            "animation": [
                (a, (a, *sheets, *(stock.is_broken(s) for s in sheets)))
                for a, sheets in zip(project.animations, shown, strict=True)
            ],
            "level": [(v, (v, project.sheets, project.animations)) for v in project.levels],
        }


def _same(one: Depends, other: Depends) -> bool:
    return len(one) == len(other) and all(a is b for a, b in zip(one, other, strict=True))
