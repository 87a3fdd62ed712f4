"""Takes sheets off the Shelf, after saying what would break."""

from __future__ import annotations

from rushweed.core.document.edit import remove_sheet, unused_sheets, uses_of_sheet
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.kit.text import many
from rushweed.ui.session import Session


def take_off(session: Session, sheets: list[Sheet]) -> None:
    """Take sheets off the Shelf; if levels or animations use them, they are named and it is asked first."""
    names = _names(sheets, 3)
    ids = [s.id for s in sheets]
    users = sorted({u for i in ids for u in uses_of_sheet(session.project, i)})
    if not users:
        _off(session, ids, names)
        return
    uses = "uses" if len(users) == 1 else "use"
    session.ask(
        f"{', '.join(users)} {uses} {names} and would show nothing there.",
        [("Take it off", lambda: _off(session, ids, names)), ("Keep it", lambda: None)],
        lambda: None,
    )


def take_off_unused(session: Session) -> None:
    """Take off every sheet that no level and no animation uses, after naming them."""
    unused = unused_sheets(session.project)
    if not unused:
        session.tell("told", "Every sheet is used by a level or an animation.")
        return
    ids = [s.id for s in unused]
    session.ask(
        f"Nothing uses {_names(unused, 5)}.",
        [("Remove them", lambda: _off(session, ids, many(len(ids), "sheet"))), ("Cancel", lambda: None)],
        lambda: None,
    )


def _names(sheets: list[Sheet], most: int) -> str:
    more = f" and {len(sheets) - most} more" if len(sheets) > most else ""
    return ", ".join(s.name for s in sheets[:most]) + more


def _off(session: Session, ids: list[str], names: str) -> None:
    def off(project: Project) -> Project:
        for sheet_id in ids:
            project = remove_sheet(project, sheet_id)
        return project

    session.document.edit(f"Remove {names}", off)
