"""The commands of Shape, one row each."""

from __future__ import annotations

from functools import partial

from rushweed.core.shape.primitives import COMMON
from rushweed.ui.commands.command import Command, Rows
from rushweed.ui.stages.shape.stage import ShapeStage

KEYS: dict[str, tuple[str, ...]] = {
    **{name: (f"Alt+Shift+{n}",) for n, name in enumerate(
        ("slope up", "slope down", "slope up, hanging", "slope down, hanging"), 1)},
    **{name: (f"Alt+Shift+{n}",) for n, name in enumerate(
        (name for name in COMMON if name.endswith("corner cut")), 5)},
    **{name: (f"Ctrl+Alt+{n}",) for n, name in enumerate((n for n in COMMON if n.startswith("gentle")), 1)},
}  # fmt: skip


def commands(stage: ShapeStage) -> list[Command]:
    session, editing = stage.session, stage.editing

    def chosen() -> str:
        return "" if session.selection.cells else "No cell is selected."

    def several() -> str:
        return "" if len(session.selection.cells) > 1 else "Select at least two cells."

    row = Rows("Shape", ("shape",), chosen).row
    give = [
        row(name.replace(" ", "_"), f"Shape: {name}", KEYS.get(name, (str(i + 1),) if i < 9 else ()),
            "Give it to the selected cells, or brush it.", partial(editing.give, name), lambda: "")
        for i, name in enumerate(COMMON)
    ]  # fmt: skip
    turn = editing.rearrange
    return [
        *give,
        row("mirror", "Mirror the shapes", ("M",), "Left and right, within each cell.",
            partial(turn, "mirror")),
        row("flip", "Flip the shapes vertically", ("Shift+M",), "Within each cell.", partial(turn, "flip")),
        row("turn", "Turn the shapes a quarter", ("U",), "Clockwise, within each cell.",
            partial(turn, "turn")),
        row("copy", "Copy the shape to the selected cells", ("Ctrl+D",), "From the cell selected last.",
            editing.copy, several),
        row("keep", "Copy the shapes", ("Ctrl+Shift+C",), "Of the cell selected last.", editing.copy_out),
        row("paste", "Paste the shapes", ("Ctrl+Shift+V",), "To the selected cells.", editing.paste,
            lambda: chosen() or ("" if editing.copied is not None else "Nothing is copied.")),
        row("set", "New auto-tile set", (), "Tiles that choose themselves.", stage.auto.add_set, lambda: ""),
        row("trace", "Outline from the pixels", ("O",), "Within the tolerance on the card.",
            stage.pixels.trace),
        row("rest", "Propose shapes for the rest", (), "From twins, else from the pixels.",
            stage.pixels.propose, lambda: ""),
        row("take", "Take all proposed shapes", ("Ctrl+Return",), "Those that are shown.",
            stage.pixels.take_all, lambda: "" if stage.pixels.proposed else "Nothing is proposed."),
        row("remove", "Take the shapes away", ("Delete",), "From the selected cells.", editing.remove),
    ]  # fmt: skip
