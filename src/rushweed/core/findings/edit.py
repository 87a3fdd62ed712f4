"""What a person decides about findings: to leave one as it is, to take it up again, to cure all of a kind."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import LeftAlone, Project
from rushweed.core.findings.finding import Finding


def leave_alone(project: Project, findings: Iterable[Finding], why: str) -> Project:
    """Leave findings as they are and say why. Raises EditError without a reason."""
    reason = " ".join(why.split())
    if not reason:
        raise EditError("Nothing is left as it is without a reason.", "Say why, in a few words.")
    made = {f.key: LeftAlone(f.key, reason, len(f.place.cells)) for f in findings}
    kept = tuple(left for left in project.left_alone if left.id not in made)
    return replace(project, left_alone=(*kept, *made.values()))


def tell_again(project: Project, keys: Iterable[str]) -> Project:
    """Tell findings again that were left as they are, by their keys."""
    wanted = set(keys)
    kept = tuple(left for left in project.left_alone if left.id not in wanted)
    return project if len(kept) == len(project.left_alone) else replace(project, left_alone=kept)


def cure_all(project: Project, findings: Iterable[Finding]) -> tuple[Project, list[str]]:
    """Make the cure of every finding that has one, in turn, as one edit; what one cure cannot do after
    another is passed over and told. Raises EditError if none could be made."""
    before, told = project, []
    for finding in findings:
        if finding.fix is None:
            continue
        try:
            project = finding.fix.edit(project)
        except EditError as error:
            told.append(f"{error.problem}")
    if project is before:
        raise EditError("None of them could be cured this way.", "Show one and change it by hand.")
    return project, told
