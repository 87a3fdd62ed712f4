"""Auto-tile sets in Shape: the Card with its scratch pad, and joins that are pressed on the tiles."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import AutoSet
from rushweed.core.level.autopaint import paint_auto
from rushweed.core.level.chunks import region
from rushweed.core.shape import autotile
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.draw_cell import draw_cell
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow, PickBox
from rushweed.ui.kit.controls import IconButton, button, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.text import many, shared

PAD = (10, 6)  # columns and rows of the scratch pad
BITS = {(0, 0): 128, (1, 0): 1, (2, 0): 2, (0, 1): 64, (2, 1): 4, (0, 2): 32, (1, 2): 16, (2, 2): 8}


class ScratchPad(Keyed):
    """A little level to try a set on: press or drag to put in, the right button takes out."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.session, self.look, self.images = context.session, context.look, context.desk.images
        self.set_id = ""
        self.inside: set[tuple[int, int]] = {(x, y) for x in range(2, 6) for y in range(1, 4)} | {
            (7, 2),
            (6, 4),
        }
        self._on = True
        self.setFixedHeight(152)
        self.setToolTip("Try the set: press to put in, the right button takes out")
        self.set_keyed("A place to try the set")

    def spots(self) -> list[Spot]:
        side, (wide, high) = self.side, PAD
        places = [(x, y) for y in range(high) for x in range(wide)]
        return [Spot(QRectF(x * side, y * side, side, side), f"column {x}, row {y}") for x, y in places]

    def sizeHint(self) -> QSize:
        return QSize(250, 152)

    @property
    def side(self) -> float:
        return min(self.width() / PAD[0], self.height() / PAD[1])

    def _at(self, event: QMouseEvent) -> tuple[int, int]:
        return int(event.position().x() // self.side), int(event.position().y() // self.side)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._on = event.button() == Qt.MouseButton.LeftButton
        self._put(self._at(event))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._put(self._at(event))

    def _put(self, spot: tuple[int, int]) -> None:
        if 0 <= spot[0] < PAD[0] and 0 <= spot[1] < PAD[1]:
            self.inside = self.inside | {spot} if self._on else self.inside - {spot}
            self.update()

    def tiles(self) -> dict[tuple[int, int], str]:
        """The cell id at each place, chosen by the set; nothing where it cannot be."""
        project = self.session.project
        autoset = next((s for s in project.autosets if s.id == self.set_id), None)
        cells = self.session.cells_by_id
        found = next((cells[p.cell][1] for p in autoset.tiles if p.cell in cells), None) if autoset else None
        if autoset is None or found is None:
            return {}
        layer = TileLayer("pad", "pad")
        level = Level("pad", "pad", "top", found.rect[2:], (0, 0, *PAD), layers=(layer,))
        scratch = replace(project, levels=(level,))
        spots = sorted(self.inside)
        try:
            if spots:
                xs, ys = np.array(spots).T
                scratch = paint_auto(scratch, "pad", "pad", autoset, (xs, ys))
        except RushweedError:
            return {}
        made = scratch.levels[0].layers[0]
        assert isinstance(made, TileLayer)
        grid = region(made.tiles, 0, 0, *PAD) >> 3
        table = scratch.levels[0].table
        return {(int(x), int(y)): table[grid[y, x] - 1] for y, x in zip(*np.nonzero(grid), strict=True)}

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, side, look = QPainter(self), self.side, self.look
        painter.fillRect(QRectF(0, 0, side * PAD[0], side * PAD[1]), look.colour("desk"))
        cells = self.session.cells_by_id
        for (x, y), cell_id in self.tiles().items():
            if cell_id in cells:
                sheet, cell = cells[cell_id]
                box = QRectF(x * side, y * side, side, side)
                draw_cell(painter, box, self.images.image(sheet), cell)
        painter.setPen(look.colour("art_paper", 0.18))
        for x in range(PAD[0] + 1):
            painter.drawLine(QPointF(x * side, 0), QPointF(x * side, side * PAD[1]))
        for y in range(PAD[1] + 1):
            painter.drawLine(QPointF(0, y * side), QPointF(side * PAD[0], y * side))


class AutoCard(Card):
    def __init__(self, context: Context) -> None:
        super().__init__(context.look, "Auto-tile")
        self.session, self.desk = context.session, context.desk
        self.set_id = ""
        self.pick = PickBox(self.look, ["no set yet"])
        self.pick.picked.connect(self._picked)
        add = IconButton(self.look, context.icons, "plus", "A new set")
        add.pressed.connect(self.add_set)
        self.away = IconButton(
            self.look, context.icons, "trash", "Take the set away; its tiles stay in levels"
        )
        self.away.pressed.connect(self._remove)
        holder = QWidget()
        holder.setLayout(row(self.pick, add, self.away, spacing=4))
        self.add(holder)
        self.name = TextField("name")
        self.name.edited.connect(lambda text: self._change("Name of a set", name=text.strip()))
        self.field("Name", self.name)
        self.by = ChoiceRow(self.look, [("edges", "Edges"), ("corners", "Corners"), ("both", "Both")])
        self.by.setToolTip("What joins: four sides, 16 cases; four corners, 16; or both, 47")
        self.by.edited.connect(lambda v: self._change("Joins of a set", by=v))
        self.field("Joins by", self.by)
        self.lay = button("Lay the template at the selected cell")
        self.lay.setToolTip("The tiles from there on get their cases by the order of the template")
        self.lay.clicked.connect(self.lay_template)
        self.add(self.lay)
        self.weight = NumbersField(1, "", Numbers(0.01, 1000, False, 0.5, 2), self.look)
        self.weight.setToolTip("Of several tiles for one case the heavier comes more often")
        self.weight.edited.connect(lambda v: self._weigh(v[0]))
        self.session.document.follow(self.weight)
        self.out = button("Out of the set")
        self.out.clicked.connect(self._out)
        self.field("Weight", self.weight, self.out)
        self.state_words = label("", "quiet")
        self.state_words.setWordWrap(True)
        self.add(self.state_words)
        self.add(label("Try it", "head"))
        self.pad = ScratchPad(context)
        self.add(self.pad)
        self.end()

    @property
    def autoset(self) -> AutoSet | None:
        sets = self.session.project.autosets
        return next((s for s in sets if s.id == self.set_id), sets[0] if sets else None)

    def refresh(self) -> None:
        sets, autoset = self.session.project.autosets, self.autoset
        self.set_id = autoset.id if autoset else ""
        names = [s.name for s in sets] or ["no set yet"]
        if [self.pick.itemText(i) for i in range(self.pick.count())] != names:
            self.pick.clear()
            self.pick.addItems(names)
        for part in (self.away, self.name, self.by, self.lay, self.pad):
            part.setEnabled(autoset is not None)
        cells = set(self.session.selection.cell_ids)
        mine = [p for p in autoset.tiles if p.cell in cells] if autoset else []
        self.weight.setEnabled(bool(mine))
        self.out.setEnabled(bool(mine))
        self.lay.setEnabled(autoset is not None and self.session.selection.cell is not None)
        self.pad.set_id = self.set_id
        self.pad.update()
        if autoset is None:
            self.state_words.setText(
                "Add a set, then lay its template, or press the sides of tiles that join."
            )
            return
        self.pick.setCurrentText(autoset.name)
        self.name.show_value(autoset.name)
        self.by.show_value(autoset.by)
        self.weight.show_value(shared([p.weight for p in mine]) if mine else 1)
        missing = autotile.gaps(autoset)
        words = many(len(autoset.tiles), "tile")
        if missing:
            first = autotile.case_words(missing[0], autoset.by)
            more = f" and {len(missing) - 1} more" if len(missing) > 1 else ""
            words += f"; missing: one that joins {first}{more}"
        else:
            words += f", all {len(autotile.cases(autoset.by))} cases there"
        both = [n for n in autotile.in_several(self.session.project).values() if autoset.name in n]
        if both:
            words += f"; {len(both)} stand in another set too"
        self.state_words.setText(words + ".")

    # -- editing ---------------------------------------------------------------------------------------

    def _picked(self, name: str) -> None:
        found = next((s.id for s in self.session.project.autosets if s.name == name), "")
        self.set_id = found
        self.refresh()
        self.desk.update()

    def add_set(self) -> None:
        made: list[str] = []
        sheet = self.session.selection.sheet
        stem = sheet.name.rsplit(".", 1)[0] if sheet else "auto"

        def change(project: Project) -> Project:
            project, one = autotile.add_set(project, stem, "edges")
            made.append(one.id)
            return project

        self.session.document.edit("Add an auto-tile set", change)
        self.set_id = made[-1] if made else self.set_id
        self.refresh()

    def _remove(self) -> None:
        set_id = self.set_id
        self.session.document.edit("Remove an auto-tile set", lambda p: autotile.remove_set(p, set_id))

    def _change(self, words: str, **fields: object) -> None:
        set_id = self.set_id
        if set_id:
            self.session.document.edit(words, lambda p: autotile.change_set(p, set_id, **fields))

    def lay_template(self) -> None:
        sheet, cell, set_id = self.session.selection.sheet, self.session.selection.cell, self.set_id
        if sheet is not None and cell is not None and set_id:
            self.session.document.edit(
                f"Lay the template at {cell.name}", lambda p: autotile.lay_template(p, set_id, sheet, cell.id)
            )

    def _weigh(self, weight: float) -> None:
        ids, set_id = self.session.selection.cell_ids, self.set_id
        self.session.document.edit(
            f"Weight of {many(len(ids), 'tile')}",
            lambda p: autotile.set_weight(p, set_id, ids, weight),
            ("weight", tuple(ids)),
        )

    def _out(self) -> None:
        ids, set_id = self.session.selection.cell_ids, self.set_id

        def change(project: Project) -> Project:
            for cell_id in ids:
                project = autotile.set_joins(project, set_id, cell_id, None)
            return project

        self.session.document.edit(f"{many(len(ids), 'tile')} out of the set", change)
