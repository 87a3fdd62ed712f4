"""The commands of Ship, one row each."""

from __future__ import annotations

from rushweed.core.ship.ways import ways_of
from rushweed.ui.commands.command import Command, Rows
from rushweed.ui.stages.ship.stage import ShipStage


def commands(stage: ShipStage) -> list[Command]:
    def cells() -> str:
        return "" if any(s.cells for s in stage.session.project.sheets) else "Nothing is cut yet."

    def folders() -> str:
        has = any(w.folder for w in ways_of(stage.session.project))
        return cells() or ("" if has else "No way to ship has a folder yet.")

    row = Rows("Ship").row
    return [
        row("ship", "Ship", ("Ctrl+E",), "By the way that is shown in Ship.", stage.shipping.ship_now, cells),
        row("all", "Ship all ways", (), "Every way that has a folder.", stage.shipping.ship_all, folders),
        row("add", "Add a way to ship", (), "As the one that is shown.", stage.add),
    ]  # fmt: skip
