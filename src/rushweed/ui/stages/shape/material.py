"""What the shapes of the selected cells are made of: friction, bounce, and the group they belong to."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.model.shape import Shape
from rushweed.core.shape.groups import set_material, touches
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.choices import PickBox
from rushweed.ui.kit.controls import label, row
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.text import many, shared

NO_GROUP, MIXED = "none, meets all", "mixed"


class Material(QWidget):
    def __init__(self, context: Context) -> None:
        super().__init__()
        self.session, self.look = context.session, context.look
        self.friction = NumbersField(1, "", Numbers(0, 100, False, 0.05, 2), self.look)
        self.bounce = NumbersField(1, "", Numbers(0, 100, False, 0.05, 2), self.look)
        for field, name in ((self.friction, "friction"), (self.bounce, "bounce")):
            field.setFixedWidth(56)
            field.edited.connect(lambda v, name=name: self._set(name, v[0]))
            self.session.document.follow(field)
        self.group = PickBox(self.look, [NO_GROUP])
        self.group.picked.connect(self._pick)
        self.meets = label("", "quiet")
        self.meets.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(row(_name("Friction"), self.friction, label("Bounce"), self.bounce, None))
        column.addLayout(row(_name("Group"), self.group))
        column.addWidget(self.meets)

    def refresh(self, shapes: list[Shape]) -> None:
        """Show what these shapes are made of; where they differ, that they do."""
        self.setVisible(bool(shapes))
        if not shapes:
            return
        project = self.session.project
        self.friction.show_value(shared([s.friction for s in shapes]))
        self.bounce.show_value(shared([s.bounce for s in shapes]))
        names = [NO_GROUP, *(g.name for g in project.groups)]
        found = {s.group for s in shapes}
        if len(found) > 1:
            names.append(MIXED)
        if [self.group.itemText(i) for i in range(self.group.count())] != names:
            self.group.clear()
            self.group.addItems(names)
        one = next(iter(found))
        known = next((g for g in project.groups if g.id == one), None)
        self.group.setCurrentText(MIXED if len(found) > 1 else known.name if known else NO_GROUP)
        missed = [g.name for g in project.groups if len(found) == 1 and not touches(project, one, g.id)]
        words = f"goes through {', '.join(missed)}" if missed else ""
        self.meets.setText(words)
        self.meets.setVisible(bool(words))

    def _change(self, words: str, **fields: float | str) -> None:
        ids, index = self.session.selection.cell_ids, self.session.selection.shape_index
        one = index if len(ids) == 1 else None
        self.session.document.edit(
            f"{words} of {many(len(ids), 'cell')}",
            lambda p: set_material(p, ids, one, **fields),
            ("material", tuple(fields), tuple(ids), one),
        )

    def _set(self, name: str, value: float) -> None:
        self._change(name.capitalize(), **{name: value})

    def _pick(self, name: str) -> None:
        found = next((g.id for g in self.session.project.groups if g.name == name), "")
        if name != MIXED:
            self._change("Group", group=found)
            self.session.document.seal()


def _name(text: str) -> QWidget:
    made = label(text)
    made.setFixedWidth(64)
    return made
