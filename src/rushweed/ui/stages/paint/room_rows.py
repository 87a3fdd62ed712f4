"""The rooms of the level: a list to jump to, and what the chosen one is."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.model.level import Level, Room
from rushweed.core.level.rooms import change_room, remove_room, room_faults
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Chip, IconButton, emptied, label
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.stages.paint.state import PaintState


class RoomRows(Card):
    """Shown on the card of Paint while rooms are at hand."""

    def __init__(self, state: PaintState) -> None:
        super().__init__(state.look, "Rooms")
        self.state, self.session, look = state, state.session, state.look
        self.name = TextField("name")
        self.area = NumbersField(2, "cells", Numbers(1, 8192), look)
        self.first = NumbersField(2, "", Numbers(-8192, 8192), look, between=", ")
        self.camera = ChoiceRow(
            look, [("follows", "Follows"), ("across", "Across"), ("down", "Down"), ("still", "Still")]
        )
        self.camera.setToolTip(
            "How the camera goes with the walker in this room; it never shows what is outside"
        )
        remove = IconButton(look, state.icons, "trash", "Remove the room", framed=True, px=15)
        self.chips = QWidget()
        self._list = QVBoxLayout(self.chips)
        self._list.setContentsMargins(0, 0, 0, 0)
        self._list.setSpacing(4)
        self.add(self.chips)
        self._of_one = [
            self.field("Name", self.name, remove), self.field("Size", self.area),
            self.field("First", self.first),
        ]  # fmt: skip
        self.add(label("Camera", "quiet"))
        self.add(self.camera)
        self._faults = label("", "quiet")
        self._faults.setWordWrap(True)
        self.add(self._faults)
        self._shown: tuple[object, ...] = ()
        self.name.edited.connect(lambda text: self._change("Rename a room", name=text.strip()))
        self.camera.edited.connect(lambda value: self._change("Camera of a room", camera=value))
        self.area.edited.connect(lambda _v: self._change("Resize a room", area=self._typed()))
        self.first.edited.connect(lambda _v: self._change("Move a room", area=self._typed()))
        for field in (self.area, self.first):
            self.session.document.follow(field)
        remove.pressed.connect(self.remove_room)
        self.setVisible(False)

    def go_to(self, room_id: str) -> None:
        """Choose a room and look at it."""
        level, desk = self.session.selection.level, self.state.desk
        room = next((r for r in level.rooms if r.id == room_id), None) if level else None
        if room is not None and level is not None:
            (x, y, columns, rows), (cw, ch) = room.area, level.cell
            desk.view.fit(QRectF(x * cw, y * ch, columns * cw, rows * ch), desk.room)
            desk.update()
            self.state.choose_room(room_id)

    def refresh(self, level: Level) -> None:
        chosen = self.state.room_id
        key = (tuple((r.id, r.name) for r in level.rooms), chosen)
        if key != self._shown:
            self._shown = key
            emptied(self._list)
            for room in level.rooms:
                columns, rows = room.area[2:]
                chip = Chip(self.look, room.name, f"{columns} × {rows}", room.id == chosen, "Go to this room")
                chip.pressed.connect(lambda i=room.id: self.go_to(i))
                self._list.addWidget(chip)
        self.what.setText(str(len(level.rooms)) if level.rooms else "none yet: drag one in the level")
        now = next((r for r in level.rooms if r.id == chosen), None)
        for row in (*self._of_one, self.camera):
            row.setEnabled(now is not None)
        if now is not None:
            self.name.show_value(now.name)
            self.area.show_value(now.area[2:])
            self.first.show_value(now.area[:2])
            self.camera.show_value(now.camera)
        faults = room_faults(level)
        words = [f"{a} and {b} {'overlap' if what == 'overlap' else 'leave a gap'}" for what, (a, b), _at in
                 ((f.what, f.rooms, f.area) for f in faults)]  # fmt: skip
        more = f" and {len(words) - 2} more" if len(words) > 2 else ""
        self._faults.setText(", ".join(words[:2]) + more)

    def _typed(self) -> tuple[int, int, int, int]:
        x, y = (int(v) for v in self.first.values)
        columns, rows = (int(v) for v in self.area.values)
        return x, y, columns, rows

    def _room(self) -> Room | None:
        level = self.session.selection.level
        return next((r for r in level.rooms if r.id == self.state.room_id), None) if level else None

    def _change(self, words: str, **fields: Any) -> None:
        room, level_id = self._room(), self.session.selection.level_id
        if room is not None:
            self.session.document.edit(
                words, lambda p: change_room(p, level_id, room.id, **fields), (words, room.id)
            )

    def remove_room(self) -> None:
        room, level_id = self._room(), self.session.selection.level_id
        if room is not None:
            self.session.document.edit(f"Remove {room.name}", lambda p: remove_room(p, level_id, room.id))
