"""The stamp in hand: what it is, turned and mirrored, and how it is laid."""

from __future__ import annotations

import time
from functools import partial
from typing import Literal

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import KeptStamp
from rushweed.core.document.model.shape import AutoSet
from rushweed.core.level.kept import area_stamp, as_stamp, size_of
from rushweed.core.level.wide import middle_of
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Check, IconButton, label
from rushweed.ui.kit.text import many

How = Literal["mirror", "flip", "turn"]

TURNS: tuple[tuple[str, str, How], ...] = (
    ("arrows-left-right", "Mirror the stamp or the area  (M)", "mirror"),
    ("arrows-down-up", "Flip vertically  (Shift+M)", "flip"),
    ("arrow-clockwise", "Turn a quarter  (U)", "turn"),
)


class StampLine(QObject):
    """Its parts of the option line."""

    pressed = pyqtSignal(str)  # how what is in hand is turned

    def __init__(self, context: Context) -> None:
        super().__init__()
        self._session, look, icons = context.session, context.look, context.icons
        self._seed = 0
        self.words = label("", "value")
        self.buttons = []
        for glyph, tip, how in TURNS:
            made = IconButton(look, icons, glyph, tip, framed=True)
            made.pressed.connect(partial(self.pressed.emit, how))
            self.buttons.append(made)
        self.scatter = Check(look, icons, "Scatter")
        self.scatter.setToolTip(
            "Every brush draws tiles of the stamp by chance; a tile twice in it comes twice as often"
        )
        self.symmetry = ChoiceRow(
            look, [("none", "Once"), ("across", "Across"), ("down", "Down"), ("both", "Four")]
        )
        self.symmetry.setToolTip(
            "Paint once, mirrored across, mirrored down, or all four; at the level's middle"
        )
        self.symmetry.edited.connect(lambda _v: context.desk.update())

    @property
    def parts(self) -> tuple[QWidget | int, ...]:
        """In the order in which they stand; a number is a gap."""
        return label("Stamp"), self.words, *self.buttons, 4, self.scatter, self.symmetry

    def refresh(self, auto: AutoSet | None) -> None:
        """Name what is in hand, which may stand for an auto-tile set."""
        self.words.setText(self._name(auto))

    def _name(self, auto: AutoSet | None) -> str:
        selection = self._session.selection
        whole, stamp = selection.whole_stamp, selection.stamp
        if whole is not None:
            columns, rows = size_of(whole)
            return f"{whole.name}  {columns} × {rows}, {many(len(whole.parts), 'layer')}"
        if stamp is None or not stamp.cells:
            return "none: press a tile below"
        if auto is not None:
            return f"{auto.name}, joining"
        first = self._session.cells_by_id.get(stamp.cells[0])
        name = first[1].name if first else "gone"
        columns, rows = stamp.size
        return name if (columns, rows) == (1, 1) else f"{name} …  {columns} × {rows}"

    # -- how it is laid --------------------------------------------------------------------------------

    def draw_anew(self) -> None:
        """Another stroke begins: chance draws other tiles than in the last one."""
        self._seed = int(time.monotonic() * 1000) & 0xFFFF

    def chance(self) -> int | None:
        """The seed by which tiles are drawn from the stamp, while they are scattered."""
        return self._seed if self.scatter.on else None

    def axes(self) -> tuple[int, int]:
        """Where symmetry mirrors: the middle of the level."""
        level = self._session.selection.level
        return middle_of(level.bounds) if level is not None else (0, 0)

    # -- what is in hand -------------------------------------------------------------------------------

    def take_all_layers(self, area: tuple[int, int, int, int]) -> bool:
        """Make a stamp of an area on all layers that are shown; whether there is anything."""
        level = self._session.selection.level
        assert level is not None
        layers = tuple(layer.id for layer in level.layers if layer.shown)
        try:
            made = area_stamp(self._session.project, level.id, area, layers, "taken")
        except RushweedError as error:
            self._session.tell("told", error.problem, error.cure)
            return False
        self.take(made)
        return True

    def take(self, stamp: KeptStamp) -> None:
        """Take a kept or copied stamp in hand."""
        plain = as_stamp(stamp)
        if plain is not None:
            self._session.selection.choose_stamp(plain)
        else:
            self._session.selection.choose_whole(stamp)

    def rearrange(self, how: How) -> None:
        """Mirror, flip or turn the stamp."""
        stamp = self._session.selection.stamp
        if stamp is not None:
            made = {"mirror": stamp.mirrored, "flip": stamp.flipped, "turn": stamp.turned}[how]()
            self._session.selection.choose_stamp(made)
