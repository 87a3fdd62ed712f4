"""Traits in Shape: the Card that lists and brushes them, the groups, and their marks on the Desk."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import CollisionGroup, Trait
from rushweed.core.shape import groups, traits
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow, PickBox
from rushweed.ui.kit.controls import Chip, IconButton, Rule, button, emptied, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look

KINDS = {"yes or no": "yes-no", "number": "number", "one of some": "choice", "sides": "sides"}
ARROWS = {"top": "arrow-down", "right": "arrow-left", "bottom": "arrow-up", "left": "arrow-right"}
LEAST_TAG = 30  # screen px of a cell from which its tags are written out


class TouchTable(Keyed):
    """Which groups touch which: a square for each pair, ticked where they do."""

    edited = pyqtSignal(str, str, bool)
    SIDE, NAMES = 22, 100

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self._project: Project | None = None
        self._groups: tuple[CollisionGroup, ...] = ()
        self.set_keyed("Which groups touch")

    def spots(self) -> list[Spot]:
        return [
            Spot(self.spot_of(i, j), f"{a.name} and {b.name}, {self._told(a, b)}")
            for i, a in enumerate(self._groups)
            for j, b in enumerate(self._groups[: i + 1])
        ]

    def _told(self, a: CollisionGroup, b: CollisionGroup) -> str:
        on = self._project is not None and groups.touches(self._project, a.id, b.id)
        return "they touch" if on else "they do not"

    def show_value(self, project: Project) -> None:
        self._project, self._groups = project, project.groups
        self.setFixedHeight((len(self._groups) + 1) * self.SIDE)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(self.NAMES + len(self._groups) * self.SIDE, (len(self._groups) + 1) * self.SIDE)

    def spot_of(self, i: int, j: int) -> QRectF:
        """The square of a pair; row i, column j, each pair once."""
        return QRectF(self.NAMES + j * self.SIDE, (i + 1) * self.SIDE, self.SIDE, self.SIDE)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        for i, a in enumerate(self._groups):
            for j, b in enumerate(self._groups[: i + 1]):
                if self.spot_of(i, j).contains(event.position()) and self._project is not None:
                    self.edited.emit(a.id, b.id, not groups.touches(self._project, a.id, b.id))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._project is None:
            return
        look, painter = self.look, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(look.font(11))
        for i, a in enumerate(self._groups):
            painter.setPen(look.colour("ink"))
            words = QFontMetricsF(painter.font()).elidedText(
                f"{i + 1} {a.name}", Qt.TextElideMode.ElideRight, self.NAMES - 6
            )
            painter.drawText(
                QRectF(0, (i + 1) * self.SIDE, self.NAMES, self.SIDE), Qt.AlignmentFlag.AlignVCenter, words
            )
            for j, b in enumerate(self._groups[: i + 1]):
                box = self.spot_of(i, j).adjusted(4, 4, -4, -4)
                on = groups.touches(self._project, a.id, b.id)
                painter.setPen(look.colour("reed" if on else "quiet"))
                painter.setBrush(look.colour("raised"))
                painter.drawRoundedRect(box, 2, 2)
                if on:
                    painter.setPen(QPen(look.colour("reed"), 2))
                    x, y = box.left(), box.top()
                    painter.drawPolyline(
                        QPolygonF([QPointF(x + 3, y + 7), QPointF(x + 6, y + 10), QPointF(x + 11, y + 3.5)])
                    )
        painter.setPen(look.colour("quiet"))
        for j in range(len(self._groups)):
            head = QRectF(self.NAMES + j * self.SIDE, 0, self.SIDE, self.SIDE)
            painter.drawText(head, Qt.AlignmentFlag.AlignCenter, str(j + 1))


class TraitCard(Card):
    """The traits, the value of the one to brush, then the groups."""

    def __init__(self, context: Context) -> None:
        super().__init__(context.look, "Traits")
        self.session, self.icons, self.desk = context.session, context.icons, context.desk
        self.chosen = traits.SURFACE.id
        self.values: dict[str, traits.Value] = {"surface": "wood", "over": 6.0, "entry": "top"}
        self._list, self._value = QVBoxLayout(), QVBoxLayout()
        for layout in (self._list, self._value):
            layout.setContentsMargins(0, 0, 0, 0)
            layout.setSpacing(4)
            holder = QWidget()
            holder.setLayout(layout)
            self.add(holder)
        self.name = TextField("a new trait")
        self.kind = PickBox(self.look, list(KINDS))
        self.kind.setFixedWidth(92)
        add = IconButton(self.look, self.icons, "plus", "Add the trait")
        add.pressed.connect(self._add)
        self.name.returnPressed.connect(self._add)
        holder = QWidget()
        holder.setLayout(row(self.name, self.kind, add, spacing=4))
        self.add(holder)
        self.add(Rule(self.look))
        self.add(label("Groups", "head"))
        self._groups = QVBoxLayout()
        self._groups.setContentsMargins(0, 0, 0, 0)
        self._groups.setSpacing(4)
        holder = QWidget()
        holder.setLayout(self._groups)
        self.add(holder)
        self.group_name = TextField("a new group")
        more = IconButton(self.look, self.icons, "plus", "Add the group")
        more.pressed.connect(self._add_group)
        self.group_name.returnPressed.connect(self._add_group)
        holder = QWidget()
        holder.setLayout(row(self.group_name, more, spacing=4))
        self.add(holder)
        self._touch_words = label("Ticked where they touch; else they go through each other.", "quiet")
        self._touch_words.setWordWrap(True)
        self.add(self._touch_words)
        self.table = TouchTable(self.look)
        self.table.edited.connect(
            lambda a, b, on: self.session.document.edit(
                "Groups touch" if on else "Groups go through", lambda p: groups.set_touch(p, a, b, on)
            )
        )
        self.add(self.table)
        self.end()
        self._key: object = None

    def trait(self) -> Trait:
        found = next((t for t in traits.traits_of(self.session.project) if t.id == self.chosen), None)
        return found or traits.SURFACE

    def value(self) -> traits.Value:
        """What the brush tells of the chosen trait."""
        trait = self.trait()
        ready: dict[str, traits.Value] = {"yes-no": True, "number": 1.0, "sides": "top"}
        first = ready.get(trait.kind, (*trait.choices, "")[0])
        value = self.values.get(trait.id, first)
        return value if trait.kind != "choice" or value in trait.choices else first

    def refresh(self) -> None:
        project, sheet = self.session.project, self.session.selection.sheet
        counts = {
            t.id: sum(any(x.trait == t.id for x in c.traits) for c in sheet.cells) if sheet else 0
            for t in traits.traits_of(project)
        }
        self.what.setText("what the game reads of a tile")
        key = (
            traits.traits_of(project), tuple(counts.values()), self.chosen, self.value(), project.groups,
        )  # fmt: skip
        if key == self._key:
            return
        self._key = key
        emptied(self._list)
        for trait in traits.traits_of(project):
            self._list.addWidget(self._line(trait, counts[trait.id]))
        self._show_value()
        emptied(self._groups)
        for group in project.groups:
            self._groups.addWidget(self._group_line(group))
        self.table.show_value(project)
        self.table.setVisible(bool(project.groups))
        self._touch_words.setVisible(bool(project.groups))

    def _line(self, trait: Trait, count: int) -> QWidget:
        chip = Chip(self.look, trait.name, f"{count} tiles", trait.id == self.chosen, traits.wants(trait))
        chip.pressed.connect(partial(self.choose, trait.id))
        parts: list[QWidget | int | None] = [chip]
        if trait.id not in {t.id for t in traits.READY}:
            away = IconButton(self.look, self.icons, "trash", "Take the trait away, from every tile too")
            away.pressed.connect(partial(self._remove, trait))
            parts.append(away)
        holder = QWidget()
        holder.setLayout(row(*parts, None, spacing=4))
        return holder

    def choose(self, trait_id: str) -> None:
        self.chosen = trait_id
        self.refresh()
        self.desk.update()

    def _show_value(self) -> None:
        """The value the brush gives, by the kind of the trait."""
        emptied(self._value)
        trait, value = self.trait(), self.value()
        line: list[QWidget | int | None] = [label("Brush", "quiet")]
        if trait.kind == "yes-no":
            choice = ChoiceRow(self.look, [("yes", "Yes"), ("no", "No")])
            choice.show_value("yes" if value else "no")
            choice.edited.connect(lambda v: self.set_value(v == "yes"))
            line.append(choice)
        elif trait.kind == "number":
            field = NumbersField(1, "px" if trait.id == "over" else "", Numbers(-1e6, 1e6, False), self.look)
            field.setFixedWidth(80)
            field.show_value(float(value))
            field.settled.connect(lambda: self.set_value(field.values[0]))
            line.append(field)
        elif trait.kind == "sides":
            for side, glyph in ARROWS.items():
                press = IconButton(self.look, self.icons, glyph, f"In by the {side}", framed=True)
                press.show_active(side in str(value).split())
                press.pressed.connect(partial(self.toggle_side, side))
                line.append(press)
        else:
            box = PickBox(self.look, list(trait.choices) or ["no choices yet"])
            box.setCurrentText(str(value))
            box.picked.connect(lambda text: self.set_value(text) if text in trait.choices else None)
            line.append(box)
        line.append(None)
        holder = QWidget()
        holder.setLayout(row(*line, spacing=4))
        self._value.addWidget(holder)
        if trait.kind == "choice":
            choices = TextField("choices, with commas")
            choices.show_value(", ".join(trait.choices))
            choices.edited.connect(lambda text: self._set_choices(trait, text))
            self._value.addWidget(choices)
        give, take = button("Give to the selected"), button("Take back")
        give.clicked.connect(lambda: self.give(self.value()))
        take.clicked.connect(lambda: self.give(None))
        holder = QWidget()
        holder.setLayout(row(give, take, None))
        self._value.addWidget(holder)

    def set_value(self, value: traits.Value) -> None:
        self.values[self.chosen] = value
        self.refresh()

    def toggle_side(self, side: str) -> None:
        now = set(str(self.value()).split()) ^ {side}
        if now:
            self.set_value(" ".join(s for s in traits.SIDES if s in now))

    def _set_choices(self, trait: Trait, text: str) -> None:
        choices = tuple(dict.fromkeys(word.strip() for word in text.split(",") if word.strip()))
        self.session.document.edit(
            f"Choices of {trait.name}", lambda p: traits.change_trait(p, trait.id, choices=choices)
        )

    def give(self, value: traits.Value | None) -> None:
        ids, trait = self.session.selection.cell_ids, self.trait()
        if ids:
            words = f"{trait.name} of {many(len(ids), 'cell')}"
            self.session.document.edit(words, lambda p: traits.tell(p, ids, trait.id, value))

    def _add(self) -> None:
        made: list[Trait] = []
        name, kind = self.name.text(), KINDS[self.kind.currentText()]
        if not name.strip():
            return

        def change(project: Project) -> Project:
            project, trait = traits.add_trait(project, name, kind)
            made.append(trait)
            return project

        self.session.document.edit(f"Add the trait {name}", change)
        self.name.show_value("")
        self.choose(made[-1].id)

    def _remove(self, trait: Trait) -> None:
        self.session.document.edit(
            f"Remove the trait {trait.name}", lambda p: traits.remove_trait(p, trait.id)
        )
        self.choose(traits.SURFACE.id)

    def _add_group(self) -> None:
        name = self.group_name.text()
        if name.strip():
            self.session.document.edit(f"Add the group {name}", lambda p: groups.add_group(p, name)[0])
            self.group_name.show_value("")

    def _group_line(self, group: CollisionGroup) -> QWidget:
        name = TextField("name")
        name.show_value(group.name)
        name.edited.connect(
            lambda text: self.session.document.edit(
                "Name of a group", lambda p: groups.rename_group(p, group.id, text)
            )
        )
        away = IconButton(self.look, self.icons, "trash", "Take the group away; its shapes meet all")
        away.pressed.connect(
            lambda: self.session.document.edit(
                f"Remove the group {group.name}", lambda p: groups.remove_group(p, group.id)
            )
        )
        holder = QWidget()
        holder.setLayout(row(name, away, spacing=4))
        return holder
