"""The Card of Animate: times, states, the path, the drift over the frames, and files to show to others."""

from __future__ import annotations

import sys
from functools import partial
from importlib import import_module
from typing import Any

from msgspec.structs import replace
from PyQt6.QtWidgets import QSizePolicy, QWidget

from rushweed.core.animate import register, timeline
from rushweed.core.animate.body import Body, character_of, set_bodies, set_tile, shared_body
from rushweed.core.document.model.animation import Animation, Path
from rushweed.core.document.model.project import Project
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow, PickBox
from rushweed.ui.kit.controls import Check, Rule, button, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.text import many, shared
from rushweed.ui.session import later
from rushweed.ui.stages.animate.animating import Animating
from rushweed.ui.stages.animate.registering import Registering
from rushweed.ui.stages.animate.writing import choose_file

EASINGS = {"evenly": "linear", "slow start": "in", "slow end": "out", "slow ends": "both"}
PLAYS = {"to and fro": "there-and-back", "again": "loop", "once": "once"}
FORMS = {"GIF": "gif", "APNG": "apng", "WebP": "webp", "Row as PNG": "row"}


class AnimateCard(Card):
    def __init__(self, context: Context, animating: Animating, registering: Registering) -> None:
        super().__init__(context.look, "Card")
        self.context, self.session = context, context.session
        self.animating, self.registering = animating, registering
        self._add_name()
        self._add_time()
        self.add(Rule(self.look))
        self._add_state()
        self.add(Rule(self.look))
        self._add_path()
        self._add_body()
        self.add(Rule(self.look))
        self._add_drift()
        self.add(Rule(self.look))
        self._add_export()
        self.end()

    def _add_name(self) -> None:
        self.make = [button(words) for words in ("Cells", "Rows", "Names")]
        for press, kind in zip(self.make, ("cells", "rows", "stems"), strict=True):
            press.clicked.connect(partial(self.animating.make, kind))
        for press, wide in zip(self.make, (48, 50, 58), strict=True):
            press.setFixedWidth(wide)
        self.make[0].setToolTip("A new animation of the selected cells  (Ctrl+M)")
        self.make[1].setToolTip("One of each row of the sheet shown")
        self.make[2].setToolTip("One of each stem that names share, such as walk_0, walk_1")
        self.field("New from", *self.make)
        self.name = TextField("name", mono=True)
        self.name.edited.connect(self._rename)
        self.field("Name", self.name)

    def _add_time(self) -> None:
        self.play = ChoiceRow(
            self.look, [("loop", "Loop"), ("once", "Once"), ("there-and-back", "To and fro")]
        )
        self.play.setToolTip("Again and again, once, or there and back")
        self.play.edited.connect(lambda v: self.animating.change("Play", partial(timeline.set_play, play=v)))
        self.field("Plays", self.play)
        self.rate = NumbersField(1, "fps", Numbers(0.1, 1000, False, places=2), self.look)
        self.ms = NumbersField(1, "ms", Numbers(1, 3_600_000), self.look)
        self.rate.setToolTip("Frames per second, for all frames")
        self.ms.setToolTip("How long the selected frames last, or all")
        for field in (self.rate, self.ms):
            field.setFixedWidth(80)
            self.session.document.follow(field)
        self.rate.edited.connect(
            lambda v: self.animating.change(
                "Rate of", partial(timeline.set_rate, frames_per_second=v[0]), ("rate",)
            )
        )
        self.ms.edited.connect(self._set_ms)
        self.field("Time", self.rate, self.ms)

    def _add_state(self) -> None:
        self.state = TextField("the game's word, such as idle")
        self.state.edited.connect(self._set_state)
        self.first = Check(self.look, self.context.icons, "Default")
        self.first.setToolTip("What the game shows when nothing else is asked")
        self.first.edited.connect(lambda _on: self._make_first())
        self.field("State", self.state, self.first)
        self._states = label("", "caption")
        self._states.setWordWrap(True)
        self.add(self._states)

    def _add_drift(self) -> None:
        self.drift = label("", "caption")
        self._drift_head = label("Drift", "head")
        head = QWidget()
        trim = button("Trim alike")
        trim.setToolTip("Take the padding away that none of these frames needs; pivots stay  (T)")
        trim.clicked.connect(self.registering.trim)
        head.setLayout(row(self._drift_head, self.drift, None, trim))
        self.add(head)
        self.plot: Any = None
        self._plotted: object = None  # what the plot shows
        self.plot_room = QWidget()
        self.plot_room.setLayout(row())
        self.plot_room.setFixedHeight(104)
        self.add(self.plot_room)

    def _add_export(self) -> None:
        self.form = PickBox(self.look, list(FORMS))
        self.scale = NumbersField(1, "x", Numbers(1, 64), self.look)
        self.scale.show_value(4)
        self.scale.setFixedWidth(44)
        self.form.setMinimumWidth(60)
        self.form.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.out = button("Export")
        self.out.clicked.connect(
            lambda: choose_file(self.context, FORMS[self.form.currentText()], int(self.scale.values[0]))  # type: ignore[arg-type]
        )
        self.field("Show it", self.form, self.scale, self.out)

    def _add_body(self) -> None:
        self.body_at = NumbersField(2, "px", Numbers(-9999, 9999), self.look, between=", ")
        self.body_at.setToolTip("Left and top of the body, px right and down of the pivot")
        self.body_size = NumbersField(2, "px", Numbers(1, 9999), self.look)
        for field in (self.body_at, self.body_size):
            field.setFixedWidth(80)
            field.edited.connect(lambda _v: self._set_body())
            self.session.document.follow(field)
        self.find_body = button("Body from the frames")
        self.find_body.setToolTip("One for all frames: what they share, in whole px, never below the feet")
        self.find_body.clicked.connect(self.body_from_frames)
        self.no_body = button("None")
        self.no_body.clicked.connect(lambda: self._give_body(None))
        self.whole = Check(self.look, self.context.icons, "For all animations of this sheet")
        self.whole.setToolTip("One body, and one foot line, over idle, walk, climb ... of a character")
        self.tile = Check(self.look, self.context.icons, "Plays as a tile")
        self.tile.setToolTip("It plays wherever its first frame stands in a level")
        self.tile.edited.connect(lambda on: self.animating.change("Tile", partial(set_tile, on=on)))
        self.field("Body", self.body_at, self.body_size)
        holder = QWidget()
        holder.setLayout(row(self.find_body, self.no_body, None))
        self.add(holder)
        self.add(self.whole)
        self.add(self.tile)

    def _set_body(self) -> None:
        (x, y), (w, h) = self.body_at.values, self.body_size.values
        self._give_body((int(x), int(y), int(w), int(h)), ("body",))

    def _bodied(self) -> tuple[str, ...]:
        """The animations that a body is for: the one shown, or all of its character."""
        animation = self.animating.animation
        if animation is None:
            return ()
        return character_of(self.session.project, animation.id) if self.whole.on else (animation.id,)

    def _give_body(self, body: Body | None, merge: tuple[str, ...] = ()) -> None:
        ids = self._bodied()
        words = "Body of" if body is not None else "No body for"
        change = lambda p, _one: set_bodies(p, ids, body)  # noqa: E731
        self.animating.change(words, change, (*merge, *ids) if merge else None)

    def body_from_frames(self) -> None:
        """Work the body out from the px that the frames share."""
        animation = self.animating.animation
        if animation is None:
            return
        frames, ids = [], set(self._bodied())
        shown = [f.cell for a in self.session.project.animations if a.id in ids for f in a.frames]
        for cell_id in dict.fromkeys(shown):
            if cell_id in self.session.cells_by_id:
                sheet, cell = self.session.cells_by_id[cell_id]
                x, y, w, h = cell.rect
                frames.append((cell, self.session.stock.pixels_or_blank(sheet)[y : y + h, x : x + w]))
        found = shared_body(frames)
        if found is None:
            self.session.tell("told", "These frames have no px in common.", "Register them first.")
            return
        self._give_body(found)

    def _add_path(self) -> None:
        self.offset = NumbersField(2, rule=Numbers(-9999, 9999), look=self.look, between=", ")
        self.offset.setToolTip(
            "Where it moves to, px right and down of where it stands; or drag with W; 0, 0 stands still"
        )
        self.path_ms = NumbersField(1, "ms", Numbers(1, 3_600_000), self.look)
        self.path_ms.setFixedWidth(74)
        self.offset.setFixedWidth(84)
        self.easing = PickBox(self.look, list(EASINGS))
        self.path_play = PickBox(self.look, list(PLAYS))
        self.easing.setAccessibleName("Easing")
        self.path_play.setAccessibleName("Plays")
        self.offset.edited.connect(lambda v: self._set_path(offset=(float(v[0]), float(v[1]))))
        self.path_ms.edited.connect(lambda v: self._set_path(ms=int(v[0])))
        self.easing.picked.connect(lambda v: self._set_path(easing=EASINGS[v]))
        self.path_play.picked.connect(lambda v: self._set_path(play=PLAYS[v]))
        for field in (self.offset, self.path_ms):
            self.session.document.follow(field)
        self.field("Moves by", self.offset, self.path_ms)
        self.field("", self.easing, self.path_play)
        for box in (self.easing, self.path_play):
            box.setMinimumWidth(70)
            box.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    # -- showing -----------------------------------------------------------------------------------

    def refresh(self) -> None:
        animation, session = self.animating.animation, self.session
        self.make[0].setEnabled(bool(session.selection.cells))
        for press in self.make[1:]:
            press.setEnabled(bool(session.selection.sheet and session.selection.sheet.cells))
        parts = (self.name, self.play, self.rate, self.ms, self.state, self.first, self.offset, self.path_ms,
                 self.easing, self.path_play, self.form, self.scale, self.out, self.body_at, self.body_size,
                 self.find_body, self.no_body, self.tile)  # fmt: skip
        for part in parts:
            part.setEnabled(animation is not None)
        self.name.show_value(animation.name if animation else "")
        if animation is None:
            self.what.setText("nothing animated")
            self._states.setText("")
            self._show_drift()
            return
        chosen = len(session.selection.frames)
        self.what.setText(many(chosen, "frame") if chosen else many(len(animation.frames), "frame"))
        self.play.show_value(animation.play)
        self.rate.show_value(timeline.rate_of(animation))
        places = session.selection.frames or range(len(animation.frames))
        self.ms.show_value(shared([animation.frames[n].ms for n in places]))
        body = animation.body
        self.body_at.show_value(body[:2] if body else (0, 0))
        self.body_size.show_value(body[2:] if body else (1, 1))
        self.no_body.setEnabled(body is not None)
        self.tile.show_value(animation.tile)
        path = animation.path
        self.offset.show_value(path.offset if path else (0, 0))
        self.path_ms.show_value(path.ms if path else 1000)
        self.easing.setCurrentText(
            next(k for k, v in EASINGS.items() if v == (path.easing if path else "linear"))
        )
        self.path_play.setCurrentText(
            next(k for k, v in PLAYS.items() if v == (path.play if path else "there-and-back"))
        )
        self._show_states(animation)
        self._show_drift()

    def _show_states(self, animation: Animation) -> None:
        home = timeline.home_of(self.session.project, animation)
        states = home.states if home else ()
        mine = next((s for s in states if s.animation == animation.id), None)
        self.state.show_value(mine.name if mine else "")
        self.first.show_value(bool(states and mine is states[0]))
        self.first.setEnabled(mine is not None)
        names = {a.id: a.name for a in self.session.project.animations}
        words = [f"{s.name}: {names.get(s.animation, 'nothing yet')}" for s in states]
        self._states.setText(", ".join(words) or "No state is named yet; a comma adds several.")

    def show_plot(self) -> None:
        """Make the plot when the stage is first seen: its package takes long to load, beside the window."""
        if self.plot is None and "pyqtgraph" in sys.modules:
            self._make_plot()
        elif self.plot is None:
            self.session.jobs.start(
                "Loading the plot", lambda _job: import_module("pyqtgraph"), lambda _module: self.show_plot()
            )

    def _make_plot(self) -> None:
        import pyqtgraph as pg

        pg.setConfigOptions(antialias=True)
        self.plot = pg.PlotWidget()
        self.plot.setMenuEnabled(False)
        self.plot.setMouseEnabled(False, False)
        self.plot.hideButtons()
        layout = self.plot_room.layout()
        assert layout is not None
        layout.addWidget(self.plot)
        self._recolour = later(self, 0, self._show_drift)
        self.look.changed.connect(lambda: self._recolour.start() if self.isVisible() else None)
        self._show_drift()

    def _show_drift(self) -> None:
        """Foot line and centre over the frames, as drawn (thin) and as they stand now."""
        animation = self.animating.animation
        self.plot_room.setVisible(animation is not None)
        if animation is None:
            self.drift.setText("")
            return
        now = self.registering.measured([f.cell for f in animation.frames])
        feet = [d.feet for _c, d in now]
        centres = [d.middle for _c, d in now]
        self.drift.setText(f"feet {register.spread(feet):g}, middle {register.spread(centres):g} px")
        plotted = [(c.shift, d) for c, d in now], self.look.colour("raised").rgba()
        if self.plot is None or plotted == self._plotted:
            return
        self._plotted = plotted
        import pyqtgraph as pg

        self.plot.clear()
        self.plot.setBackground(self.look.colour("raised"))
        for side in ("left", "bottom"):
            axis = self.plot.getAxis(side)
            axis.setPen(self.look.colour("quiet"))
            axis.setTextPen(self.look.colour("quiet"))
            axis.setStyle(tickFont=self.look.mono(9))
        for name, role in (("feet", "reed"), ("middle", "rust")):
            drawn = [
                None if getattr(d, name) is None else getattr(d, name) - c.shift[1 if name == "feet" else 0]
                for c, d in now
            ]
            stands = [getattr(d, name) for _c, d in now]
            base = next((v for v in drawn if v is not None), 0.0)
            thin = pg.mkPen(self.look.colour(role), width=1, style=pg.QtCore.Qt.PenStyle.DotLine)
            for values, pen in ((drawn, thin), (stands, pg.mkPen(self.look.colour(role), width=2))):
                points = [
                    (n, base - v if name == "feet" else v - base)
                    for n, v in enumerate(values)
                    if v is not None
                ]
                self.plot.plot([p[0] for p in points], [p[1] for p in points], pen=pen)

    # -- editing -----------------------------------------------------------------------------------

    def _rename(self, text: str) -> None:
        self.animating.change("Rename", lambda p, i: timeline.rename_animation(p, i, text))
        self.refresh()

    def _set_ms(self, values: tuple[float, ...]) -> None:
        frames = self.session.selection.frames
        self.animating.change(
            "Time of", lambda p, i: timeline.set_ms(p, i, int(values[0]), frames), ("ms", frames)
        )

    def _set_state(self, text: str) -> None:
        """Call the animation by the game's word; words after a comma are states without one yet."""
        animation = self.animating.animation
        home = timeline.home_of(self.session.project, animation) if animation else None
        if animation is None or home is None:
            return
        words = [w.strip() for w in text.split(",") if w.strip()]

        def change(project: Project, animation_id: str) -> Project:
            for state in home.states:
                if state.animation == animation_id and state.name not in words[:1]:
                    project = timeline.set_state(project, home.id, state.name)
            if words:
                project = timeline.set_state(project, home.id, words[0], animation_id)
            for word in words[1:]:
                if all(s.name != word for s in home.states):
                    project = timeline.set_state(project, home.id, word)
            return project

        self.animating.change("State of", change)
        self.refresh()

    def _make_first(self) -> None:
        animation = self.animating.animation
        home = timeline.home_of(self.session.project, animation) if animation else None
        if animation is not None and home is not None:
            mine = next((s.name for s in home.states if s.animation == animation.id), None)
            if mine is not None:
                self.animating.change("Show first", lambda p, _i: timeline.make_default(p, home.id, mine))
        self.refresh()

    def _set_path(self, **values: object) -> None:
        """Change the path; one that leads nowhere is taken away."""
        animation = self.animating.animation
        if animation is not None:
            made = replace(animation.path or Path((0.0, 0.0)), **values)
            path = made if made.offset != (0, 0) else None
            self.animating.change(
                "Path of", lambda p, i: timeline.set_path(p, i, path), ("path", tuple(values))
            )
