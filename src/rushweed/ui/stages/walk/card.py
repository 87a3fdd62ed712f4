"""The card of Walk: how the walker moves, what is shown of him when, his keys."""

from __future__ import annotations

from typing import Any

from rushweed.core.document.model.level import Level
from rushweed.core.walk.walkers import (
    MOMENTS,
    body_of,
    gravity_of,
    ready_name,
    set_walker,
    show_when,
    shown_when,
    take_ready,
    units_of,
    walker_of,
)
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow, PickBox
from rushweed.ui.kit.controls import Check, IconButton, Rule, button, label
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.stages.walk.keys import ACTIONS, WORDS, KeyField, WalkKeys
from rushweed.ui.stages.walk.reach_rows import ReachRows
from rushweed.ui.stages.walk.run_rows import RunRows
from rushweed.ui.stages.walk.run_work import RunWork
from rushweed.ui.stages.walk.walk_line import WalkLine

BY_NAME = "by its name"


class WalkCard(Card):
    """Numbers are units and seconds; a level keeps its own."""

    label_width = 78

    def __init__(self, context: Context, line: WalkLine, keys: WalkKeys, runs: RunWork) -> None:
        super().__init__(context.look, "Walker")
        self.session, self.icons, look = context.session, context.icons, context.look
        self._keys = keys
        self.kind = ChoiceRow(look, [("light", "Light"), ("heavy", "Heavy"), ("own", "Own")])
        self.kind.setToolTip("Two ready sets of numbers, or those of your own")
        self.kind.edited.connect(self._take)
        self.add(self.kind)
        self.number_fields: dict[str, NumbersField] = {}
        self._make_numbers()
        self.runs, self.reach = RunRows(context, runs), ReachRows(context, runs)
        self.add(Rule(look))
        self.add(self.reach)
        self.add(Rule(look))
        self.add(self.runs)
        self.add(Rule(look))
        self.add(label("The picture", "head"))
        self.field("Size", line.size)
        self.field("Looks ahead", line.ahead)
        self.add(Rule(look))
        self._make_states()
        self.add(Rule(look))
        self._make_keys()
        self.end()

    def _number(self, name: str, unit: str, low: float, high: float, step: float, tip: str) -> NumbersField:
        made = NumbersField(1, unit, Numbers(low, high, False, step, 3), self.look)
        made.setToolTip(tip)
        made.edited.connect(lambda v: self._change(**{name: float(v[0])}))
        self.session.document.follow(made)
        self.number_fields[name] = made
        return made

    def _make_numbers(self) -> None:
        number = self._number
        self.field(
            "Runs", number("run", "u/s", 0.1, 100, 0.5, "How fast he runs"),
            number("run_s", "s", 0, 10, 0.05, "How long until he is at full speed"),
        )  # fmt: skip
        jumps = self.field(
            "Jumps", number("jump", "u", 0, 100, 0.25, "How high a jump is, held to its top"),
            number("jump_s", "s", 0.02, 10, 0.02, "How long it takes to its top"),
        )  # fmt: skip
        self.gravity = label("", "mono")
        self.gravity.setToolTip("What pulls him down follows from how high and how long he jumps")
        low = number("low_percent", "%", 0, 100, 5, "Of its speed a jump keeps when the key is let go early")
        falls = self.field("Low jump", low)
        pull = self.field("Pulled down", self.gravity)
        fall = number("fall", "u/s", 0.1, 200, 1, "He never falls faster")
        climb = number("climb", "u/s", 0.1, 100, 0.5, "How fast he climbs where a sensor says climb")
        slope = number("slope", "°", 0, 85, 5, "The steepest slope he walks up; steeper ones he slides down")
        steps = number("step_px", "px", 0, 256, 1, "The highest step he walks up")
        grace = (
            number("edge_ms", "ms", 0, 1000, 10, "How long after an edge a jump still counts"),
            number("land_ms", "ms", 0, 1000, 10, "How long before the ground a jump already counts"),
        )
        self._side = [
            jumps, falls, pull, self.field("Falls", fall), self.field("Climbs", climb),
            self.field("Slope up to", slope), self.field("Steps up", steps), self.field("Grace", *grace),
        ]  # fmt: skip
        corner = number("corner_px", "px", 0, 64, 1, "Corners are passed on which only so much of him hangs")
        self.eight = Check(self.look, self.icons, "At full speed at once")
        self.eight.setToolTip("In eight ways without a run-up; else he gathers speed")
        self.eight.edited.connect(lambda on: self._change(eight=on))
        self._top = [self.field("Corners", corner), self.field("", self.eight)]
        self.field(
            "Strength", number("strength", "u/s²", 0, 10_000, 10, "How hard he pushes what has a weight of 1")
        )
        self.body = NumbersField(2, "px", Numbers(1, 4096), self.look)
        self.body.setToolTip("Width and height of his body; at first that of his animation")
        self.body.edited.connect(self._set_body)
        self.session.document.follow(self.body)
        own = IconButton(
            self.look, self.icons, "arrow-counter-clockwise", "As his animation has it", framed=True, px=14
        )
        own.pressed.connect(lambda: self._change(body=None))
        self.field("Body", self.body, own)
        self.group = PickBox(self.look, ["none"])
        self.group.setToolTip("What he belongs to; he goes through groups that his misses")
        self.group.picked.connect(self._set_group)
        self.field("Group", self.group)

    def _make_states(self) -> None:
        self.add(label("What is shown of him", "head"))
        self.moments: dict[str, PickBox] = {}
        for moment in MOMENTS:
            box = PickBox(self.look, [BY_NAME])
            box.setToolTip(f"The animation while he is {moment}")
            box.picked.connect(lambda name, m=moment: self._show_when(m, name))
            self.moments[moment] = box
            self.field(moment, box)

    def _make_keys(self) -> None:
        self.add(label("Keys", "head"))
        self.keys: dict[str, KeyField] = {}
        for action in ACTIONS:
            made = KeyField(self.look, WORDS[action])
            made.edited.connect(lambda key, a=action: self._set_key(a, key))
            self.keys[action] = made
            self.field(WORDS[action], made)
        reset = button("As they came")
        reset.clicked.connect(self.reset_keys)
        self.add(reset)

    # -- showing ---------------------------------------------------------------------------------------

    def refresh(self, level: Level) -> None:
        project, walker = self.session.project, walker_of(level)
        ppu = units_of(project, level)
        shown = shown_when(project, walker)
        who = shown["standing"].name if "standing" in shown else "no animation"
        self.what.setText(f"{who}, {'side' if level.view == 'side' else 'top'} view")
        self.kind.show_value(ready_name(walker))
        for name, field in self.number_fields.items():
            field.show_value(float(getattr(walker, name)))
        self.gravity.setText(f"{gravity_of(walker):.1f} u/s²")
        self.body.show_value(body_of(project, walker, ppu, level.view != "side")[2:])
        self.eight.show_value(walker.eight)
        for row in self._side:
            row.setVisible(level.view == "side")
        for row in self._top:
            row.setVisible(level.view != "side")
        self._fill(self.group, ["none", *(g.name for g in project.groups)],
                   next((g.name for g in project.groups if g.id == walker.group), "none"))  # fmt: skip
        names = {a.id: a.name for a in project.animations}
        own = {s.name: names.get(s.animation, "") for s in walker.states}
        for moment, box in self.moments.items():
            first = BY_NAME
            if moment not in own:
                first = f"{shown[moment].name}, {BY_NAME}" if moment in shown else "none by name"
            self._fill(box, [first, *names.values()], own.get(moment) or first)
        self._show_keys()
        self.runs.refresh(level)
        self.reach.refresh()

    def _show_keys(self) -> None:
        for action, made in self.keys.items():
            made.show_value(tuple(int(k) for k in self._keys.keys[action]))

    @staticmethod
    def _fill(box: PickBox, names: list[str], now: str) -> None:
        if [box.itemText(n) for n in range(box.count())] != names:
            box.clear()
            box.addItems(names)
        box.setCurrentText(now)

    # -- editing ---------------------------------------------------------------------------------------

    def _change(self, **fields: Any) -> None:
        level_id = self.session.selection.level_id
        words = f"Walker: {', '.join(fields)}"
        self.session.document.edit(words, lambda p: set_walker(p, level_id, **fields), (words, level_id))

    def _take(self, name: str) -> None:
        level_id = self.session.selection.level_id
        if name == "own":
            level = self.session.selection.level
            if level is not None:
                self.kind.show_value(ready_name(walker_of(level)))
            return
        self.session.document.edit(f"{name.capitalize()} walker", lambda p: take_ready(p, level_id, name))

    def _set_body(self, values: tuple[float, ...]) -> None:
        level = self.session.selection.level
        if level is not None:
            project, top = self.session.project, level.view != "side"
            x, y, wide, high = body_of(project, walker_of(level), units_of(project, level), top)
            new_wide, new_high = int(values[0]), int(values[1])
            middle, foot = x + wide / 2, y + high
            self._change(body=(round(middle - new_wide / 2), foot - new_high, new_wide, new_high))

    def _set_group(self, name: str) -> None:
        group = next((g.id for g in self.session.project.groups if g.name == name), "")
        self._change(group=group)

    def _show_when(self, moment: str, name: str) -> None:
        level_id = self.session.selection.level_id
        found = next((a.id for a in self.session.project.animations if a.name == name), "")
        self.session.document.edit(f"Shown {moment}", lambda p: show_when(p, level_id, moment, found))

    def _set_key(self, action: str, key: int) -> None:
        self._keys.set_key(action, key)
        self._show_keys()

    def reset_keys(self) -> None:
        self._keys.reset()
        self._show_keys()
