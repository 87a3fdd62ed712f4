"""The card of Ship: what a way makes, what goes along, and what came of it."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace
from PyQt6.QtWidgets import QWidget

from rushweed.core.document.limits import MOST_CLEAN, MOST_GUTTER
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shipping import PLAIN_PARTS, Way
from rushweed.core.ship.targets.plain import WORDS as PARTS
from rushweed.core.ship.ways import ABOUT, change_way
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow, PickBox
from rushweed.ui.kit.controls import Check, Rule, label
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look
from rushweed.ui.kit.toggles import Toggle, ToggleButton
from rushweed.ui.session import Session
from rushweed.ui.stages.ship.board import Board, size_words

TEXTURES = {
    "tuned": "as each sheet says", "never": "none", "none": "not compressed", "bc1": "BC1", "bc3": "BC3",
    "bc7": "BC7", "etc2": "ETC2",
}  # fmt: skip
KINDS = ("sheets", "levels", "animations")
SCALES = (1, 2, 4)


class ShipCard(Card):
    """Every control changes the way that is chosen, and is undone as any edit."""

    label_width = 72

    def __init__(
        self,
        session: Session,
        look: Look,
        icons: Icons,
        way: Callable[[], Way],
        changed: Callable[[], object],
    ) -> None:
        super().__init__(look, "Way")
        self.session, self._icons, self._way, self._changed = session, icons, way, changed
        self.about = label("", "quiet")
        self.about.setWordWrap(True)
        self.add(self.about)
        self._make_what()
        self.add(Rule(self.look))
        self._make_pages()
        self._make_plain()
        self.add(Rule(self.look))
        self._make_facts()
        self.add(Rule(self.look))
        self.add(label("Shipped", "head"))
        self.where = label("not yet in this session", "quiet")
        self.where.setWordWrap(True)
        self.add(self.where)
        self.end()

    # -- controls ----------------------------------------------------------------------------------

    def _make_what(self) -> None:
        self.name = TextField("name")
        self.name.edited.connect(lambda text: self._change("Name of a way to ship", name=text))
        self.field("Name", self.name)
        self.makes = ChoiceRow(self.look, [("game", "Game"), ("plain", "Plain"), ("page", "Page")])
        self.makes.setToolTip("Pages and manifest for a game, files any program opens, or a page to walk in")
        self.makes.edited.connect(lambda v: self._change("What a way makes", makes=v))
        self.field("Makes", self.makes)
        self.picks = {kind: ToggleButton(self.look, "all", []) for kind in KINDS}
        for kind, pick in self.picks.items():
            pick.setToolTip(f"Which {kind} go along; what levels and animations show goes in any case")
            self.field(kind.capitalize(), pick)

    def _number(self, name: str, unit: str, low: int, high: int, tip: str) -> NumbersField:
        made = NumbersField(1, unit, Numbers(low, high), self.look)
        made.setToolTip(tip)
        made.edited.connect(lambda _v: self._pages(**{name: int(made.values[0] or 0)}))
        self.session.document.follow(made)
        return made

    def _make_pages(self) -> None:
        self.gutter = self._number("gutter", "px", 0, MOST_GUTTER, "Px of repeated edge around each frame")
        self.limit = ChoiceRow(self.look, [(str(n), str(n)) for n in (512, 1024, 2048, 4096)])
        self.limit.edited.connect(lambda v: self._pages(limit=int(v)))
        self.limit.setToolTip("The longest side of a page, px")
        self.sides = ChoiceRow(self.look, [("any", "Any"), ("four", "× 4"), ("power", "2ⁿ")])
        self.sides.setToolTip("Sides of pages: any, whole multiples of 4, or powers of two")
        self.sides.edited.connect(lambda v: self._pages(sides=v))
        self.clean = self._number("clean", "mipmaps", 0, MOST_CLEAN, "Mipmaps that never mix two frames")
        self.trim = self._check("Trim", "trim", "Leave clear borders out; the manifest tells where art lies")
        self.turned = self._check("Mirrored once", "turned", "Place mirrored and turned pictures only once")
        self.grid = self._check("Even grids", "grid", "Evenly cut sheets whole, cell by cell at one pitch")
        self.picture = ChoiceRow(self.look, [("png", "PNG"), ("webp", "WebP")])
        self.picture.setToolTip("The form of pages; both keep every px")
        self.picture.edited.connect(lambda v: self._change("Pictures of a way", picture=v))
        self.texture = PickBox(self.look, list(TEXTURES.values()))
        self.texture.setToolTip("KTX2 textures beside the pages")
        by_words = {words: name for name, words in TEXTURES.items()}
        self.texture.picked.connect(lambda words: self._change("Textures of a way", texture=by_words[words]))
        self.tiles = ChoiceRow(self.look, [("runs", "Runs"), ("cells", "Each cell")])
        self.tiles.setToolTip("How a level's rows are told: by runs of equal tiles, or cell by cell")
        self.tiles.edited.connect(lambda v: self._change("Tiles of a way", tiles=v))
        game = [
            self.field("Gutter", self.gutter), self.field("At most", self.limit),
            self.field("Sides", self.sides), self.field("Clean", self.clean), self.field("Frames", self.trim),
            self.field("", self.turned), self.field("", self.grid),
        ]  # fmt: skip
        files = [
            self.field("Pictures", self.picture), self.field("Textures", self.texture),
            self.field("Tiles", self.tiles),
        ]  # fmt: skip
        self._rows: dict[str, list[QWidget]] = {"game": game + files, "page": game[:3]}

    def _check(self, words: str, name: str, tip: str) -> Check:
        made = Check(self.look, self._icons, words)
        made.setToolTip(tip)
        made.edited.connect(lambda on: self._pages(**{name: on}))
        return made

    def _make_plain(self) -> None:
        self.parts = ToggleButton(self.look, "all", [])
        self.parts.setToolTip("Which plain files are made")
        self.whole = Check(self.look, self._icons, "With clear borders")
        self.whole.edited.connect(lambda on: self._change("Frames of a way", whole=on))
        self.scales = ToggleButton(self.look, "1 ×", [])
        self.scales.setToolTip("How large pictures of levels are made")
        self.shapes = Check(self.look, self._icons, "Once more with shapes")
        self.shapes.edited.connect(lambda on: self._change("Pictures of a way", shapes=on))
        self._rows["plain"] = [
            self.field("Files", self.parts), self.field("Frames", self.whole),
            self.field("Levels at", self.scales), self.field("", self.shapes),
        ]  # fmt: skip

    def _make_facts(self) -> None:
        self.facts = {}
        for words in ("Frames", "Pages", "Filled", "Memory", "Files", "Worst", "Credits"):
            value = label("", "text")
            self.field(words, value)
            self.facts[words] = value

    # -- showing -----------------------------------------------------------------------------------

    def show_way(self, project: Project, way: Way) -> None:
        self.what.setText(way.name)
        self.about.setText(ABOUT.get(way.id, ""))
        self.about.setVisible(way.id in ABOUT)
        self.name.show_value(way.name)
        self.makes.show_value(way.makes)
        shown = set(self._rows[way.makes])
        for rows in self._rows.values():
            for one in rows:
                one.setVisible(one in shown)
        pages = way.pages
        self.gutter.show_value(pages.gutter)
        self.limit.show_value(str(pages.limit))
        self.sides.show_value(pages.sides)
        self.clean.show_value(pages.clean)
        for check, on in ((self.trim, pages.trim), (self.turned, pages.turned), (self.grid, pages.grid),
                          (self.whole, way.whole), (self.shapes, way.shapes)):  # fmt: skip
            check.show_value(on)
        self.picture.show_value(way.picture)
        self.texture.setCurrentText(TEXTURES[way.texture])
        self.tiles.show_value(way.tiles)
        self._show_picks(project, way)
        self._show_plain(way)

    def _show_picks(self, project: Project, way: Way) -> None:
        for kind, pick in self.picks.items():
            known, chosen = getattr(project, kind), getattr(way, kind)
            held = len(known) if chosen is None else sum(part.id in chosen for part in known)
            pick.words = "all" if chosen is None else f"{held} of {len(known)}"
            pick.fill = partial(self._toggles, kind)
            pick.updateGeometry()
            pick.update()

    def _toggles(self, kind: str) -> list[Toggle]:
        """All, and each part of a kind."""
        chosen = getattr(self._way(), kind)
        made = [self._toggle("All", chosen is None, partial(self._pick_all, kind))]
        for part in getattr(self.session.project, kind):
            on = chosen is None or part.id in chosen
            made.append(self._toggle(part.name, on, partial(self._pick, kind, part.id)))
        return made

    def _toggle(self, words: str, on: bool, act: Any) -> Toggle:
        made = Toggle(words, on)
        made.edited.connect(act)
        return made

    def _pick_all(self, kind: str, on: bool) -> None:
        self._change(f"Which {kind} go", **{kind: None if on else ()})

    def _pick(self, kind: str, part_id: str, on: bool) -> None:
        chosen = getattr(self._way(), kind)
        known = [part.id for part in getattr(self.session.project, kind)]
        held = set(known if chosen is None else chosen)
        held = held | {part_id} if on else held - {part_id}
        self._change(f"Which {kind} go", **{kind: tuple(p for p in known if p in held)})

    def _show_plain(self, way: Way) -> None:
        self.parts.words = "all" if len(way.parts) == len(PLAIN_PARTS) else many(len(way.parts), "kind")
        self.parts.toggles = [
            self._toggle(PARTS[part], part in way.parts, partial(self._part, part)) for part in PLAIN_PARTS
        ]
        self.scales.words = ", ".join(f"{scale} ×" for scale in way.scales)
        self.scales.toggles = [
            self._toggle(f"{scale} ×", scale in way.scales, partial(self._scale, scale)) for scale in SCALES
        ]
        for button in (self.parts, self.scales):
            button.updateGeometry()
            button.update()

    def _part(self, part: str, on: bool) -> None:
        held = {*self._way().parts, part} if on else set(self._way().parts) - {part}
        self._change("Plain files", parts=tuple(p for p in PLAIN_PARTS if p in held))

    def _scale(self, scale: int, on: bool) -> None:
        held = {*self._way().scales, scale} if on else set(self._way().scales) - {scale}
        self._change("Pictures of levels", scales=tuple(sorted(held)))

    def show_board(self, project: Project, board: Board | None) -> None:
        missing = sum(1 for s in project.sheets if not s.credit.licence)
        self.facts["Credits"].setText(
            f"{many(missing, 'sheet')} without a licence" if missing else "complete"
        )
        if board is None:
            for words in ("Frames", "Pages", "Filled", "Memory", "Files", "Worst"):
                self.facts[words].setText("")
            return
        pages, items = self._way().makes == "game", board.items
        self.facts["Frames"].setText(str(len(board.plan.frames)))
        sizes = ", ".join(f"{p.size[0]} × {p.size[1]}" for p in board.plan.pages[:2])
        more = " ..." if len(board.plan.pages) > 2 else ""
        self.facts["Pages"].setText(f"{len(board.plan.pages)}: {sizes}{more}" if pages else "")
        self.facts["Filled"].setText(f"{board.plan.filled:.0%} with art" if pages else "")
        self.facts["Memory"].setText(size_words(sum(i.memory for i in items)) if pages else "")
        self.facts["Files"].setText(size_words(sum(i.file for i in items)) + " of pages" if pages else "")
        worst = board.worst
        told = f"{items[worst].name}, {items[worst].filled:.0%} filled" if pages and worst >= 0 else ""
        self.facts["Worst"].setText(told)
        for words in ("Pages", "Filled", "Memory", "Files", "Worst"):
            holder = self.facts[words].parentWidget()
            if holder is not None:
                holder.setVisible(pages)

    # -- editing -----------------------------------------------------------------------------------

    def _change(self, words: str, **fields: Any) -> None:
        way_id = self._way().id
        self.session.document.edit(words, lambda project: change_way(project, way_id, **fields))
        self._changed()

    def _pages(self, **fields: Any) -> None:
        self._change("Pages of a way", pages=replace(self._way().pages, **fields))
