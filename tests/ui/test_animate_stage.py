"""Animating in the real window: play, order, register, states, paths, files; things in levels."""

from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QFileDialog

from rushweed.core.animate import register
from rushweed.core.animate.play import frame_at
from rushweed.core.animate.timeline import remove_animation
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.animation import Path as MovePath
from rushweed.core.level.render import level_picture
from rushweed.core.store.folder import Folder
from rushweed.ui.kit.text import cell_title, short
from rushweed.ui.stages.animate.stage import AnimateStage
from rushweed.ui.stages.paint.stage import PaintStage
from rushweed.ui.stages.paint.tools.things import Things
from tests.ui.conftest import LEFT, Hands

SHIFT = Qt.KeyboardModifier.ShiftModifier


def stage(hands: Hands) -> AnimateStage:
    made = hands.window.stage("animate")
    assert isinstance(made, AnimateStage)
    return made


def animation(hands: Hands, name: str) -> Animation:
    return next(a for a in hands.session.project.animations if a.name == name)


def show(hands: Hands, name: str) -> AnimateStage:
    hands.session.selection.choose_sheet(hands.sheet("wren.png").id)
    hands.session.selection.choose_animation(animation(hands, name).id)
    hands.window.rail.tabs.chosen.emit("animate")
    hands.qtbot.wait(30)
    return stage(hands)


def frames(hands: Hands, name: str) -> list[str]:
    names = {c.id: c.name for s in hands.session.project.sheets for c in s.cells}
    return [names[f.cell] for f in animation(hands, name).frames]


def drift(hands: Hands, name: str) -> tuple[float, float]:
    measured = stage(hands).registering.measured([f.cell for f in animation(hands, name).frames])
    return register.spread([d.feet for _c, d in measured]), register.spread([d.middle for _c, d in measured])


def test_an_animation_is_made_of_selected_cells_rows_and_names(hands: Hands) -> None:
    sheet = hands.open_sheet("boardwalk.png", "shape")
    hands.session.selection.choose_cells(tuple(c.id for c in sheet.cells[2:5]))
    hands.keys("Ctrl+M")
    assert hands.session.stage == "animate"
    assert [f.cell for f in hands.session.selection.animation.frames] == [c.id for c in sheet.cells[2:5]]  # type: ignore[union-attr]
    before = len(hands.session.project.animations)
    hands.session.selection.choose_sheet(hands.sheet("eel.bmp").id)
    hands.press_widget(stage(hands).numbers.make[2])
    assert len(hands.session.project.animations) == before + 1
    assert frames(hands, "swim") == [f"swim_{n}" for n in range(6)]
    hands.press_widget(stage(hands).numbers.make[1])
    assert len(hands.session.project.animations) == before + 3  # two rows


def test_it_plays_at_its_rate_while_the_desk_is_panned(hands: Hands, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    """Frames come up when the clock says so: ticks that come late skip frames and never slow the whole."""
    made = show(hands, "walk")
    now = 100.0
    monkeypatch.setattr("rushweed.ui.stages.animate.player.time.monotonic", lambda: now)
    hands.keys("P")
    made.player.timer.stop()  # the test ticks itself, at odd times
    whole = sum(f.ms for f in animation(hands, "walk").frames)
    shown = []
    for n in range(400):
        now += 0.004 + 0.031 * (n % 7 == 3)  # some ticks wait for a slow paint
        hands.window.desk.view.pan(1 if n % 40 < 20 else -1, 0)
        made.player.tick()
        shown.append(made.player.place)
        assert made.player.place == frame_at(animation(hands, "walk"), (now - 100.0) * 1000)
    rounds = sum(b < a for a, b in pairwise(shown))
    assert rounds == int((now - 100.0) * 1000 // whole) >= 2 and set(shown) == set(range(8))
    made.speed.setCurrentIndex(5)
    made.speed.picked.emit("×4")
    begun = now
    now += whole / 4000 + 1e-6
    made.player.tick()
    assert made.player.place == shown[-1] and now > begun
    hands.keys("P")
    assert not made.player.running


def test_frames_are_stepped_and_shown_in_the_proof(hands: Hands) -> None:
    made = show(hands, "walk")
    first = hands.window.proof.picture.image
    hands.keys(".", ".")
    assert made.player.place == 2 and hands.session.selection.frames == (2,)
    assert hands.session.played_cell == animation(hands, "walk").frames[2].cell
    assert hands.window.proof.picture.image != first
    hands.keys(",")
    assert made.player.place == 1


def test_the_onion_skin_shows_the_frames_beside(hands: Hands) -> None:
    made = show(hands, "walk")
    with_skin = hands.window.desk.grab().toImage()
    hands.type(made.onion, "0")
    hands.qtbot.wait(20)
    assert hands.window.desk.grab().toImage() != with_skin


def test_frames_are_dragged_to_another_place(hands: Hands) -> None:
    show(hands, "walk")
    film = hands.window.timeline.frames
    begin, end = QPoint(8 + 20, 30), QPoint(8 + 80 * 3 + 10, 30)
    hands.qtbot.mousePress(film, LEFT, pos=begin)
    hands.qtbot.mouseMove(film, end)
    hands.qtbot.mouseRelease(film, LEFT, pos=end)
    assert frames(hands, "walk") == [f"walk_{n}" for n in (1, 2, 0, 3, 4, 5, 6, 7)]
    assert hands.session.selection.frames == (2,)
    hands.keys("Delete")
    assert len(frames(hands, "walk")) == 7


def test_cells_are_added_from_the_strip_several_times(hands: Hands) -> None:
    show(hands, "idle")
    timeline = hands.window.timeline
    timeline.show_page("cells")
    cell = hands.cell("wren.png", "walk_3")
    hands.session.selection.choose_cells((cell.id,))
    hands.wait(timeline.add.isEnabled)
    hands.press_widget(timeline.add)
    timeline.show_page("cells")
    hands.press_widget(timeline.add)
    assert frames(hands, "idle")[-2:] == ["walk_3", "walk_3"]


def test_rate_times_and_ways_of_playing_are_set(hands: Hands) -> None:
    made = show(hands, "walk")
    hands.type(made.numbers.rate, "12")
    assert sum(f.ms for f in animation(hands, "walk").frames) == round(8000 / 12)
    hands.session.selection.choose_animation(hands.session.selection.animation_id, (1, 2))
    hands.type(made.numbers.ms, "250")
    assert [f.ms for f in animation(hands, "walk").frames[:4]] == [83, 250, 250, 83]
    assert made.numbers.rate.text() == "" and made.numbers.rate.placeholderText() == "mixed"
    made.numbers.play.choose(2)
    assert animation(hands, "walk").play == "there-and-back"
    hands.type(made.numbers.name, "stroll")
    assert animation(hands, "stroll")


def test_wrens_walk_is_registered_by_one_press_and_put_back(hands: Hands) -> None:
    made = show(hands, "walk")
    assert drift(hands, "walk")[0] >= 1 and drift(hands, "walk")[1] >= 2
    feet = drift(hands, "walk")[0]
    made.registering.by("outline")
    hands.wait(lambda: drift(hands, "walk") == (feet, 0))
    made.registering.moves.setCurrentText("both ways")
    made.registering.how.setCurrentText("Outline")
    made.registering.as_chosen()
    hands.wait(lambda: drift(hands, "walk") == (0, 0))
    made.registering.moves.setCurrentText("feet kept")
    pixels = hands.session.stock.pixels(hands.sheet("wren.png"))
    assert hands.session.stock.raw(hands.sheet("wren.png")) is pixels  # the art is not touched
    made.registering.how.setCurrentText("As drawn")
    made.registering.as_chosen()
    assert all(c.shift == (0, 0) for c in hands.sheet("wren.png").cells)
    made.registering.by("match")
    hands.wait(lambda: drift(hands, "walk") == (0, 0))
    hands.keys("Ctrl+Z")
    assert drift(hands, "walk")[1] >= 2


def test_the_finding_about_drifting_feet_is_cured_by_its_fix(hands: Hands) -> None:
    show(hands, "walk")
    hands.session.checker.find_soon()
    hands.wait(lambda: any(f.rule == "feet-drift" for f in hands.session.checker.findings))
    finding = next(f for f in hands.session.checker.findings if f.rule == "feet-drift")
    assert "walk: the feet drift by 1 px in 1 of 8 frames" in finding.text and finding.fix is not None
    hands.session.document.edit(finding.fix.label, finding.fix.edit)
    (off,) = finding.place.cells
    moved = [c.shift for c in hands.sheet("wren.png").cells if c.shift != (0, 0)]
    assert moved == [(0, 1)] and hands.session.cells_by_id[off][1].shift == (0, 1), "the others lift a foot"
    hands.wait(lambda: all(f.rule != "feet-drift" for f in hands.session.checker.findings))


def test_one_body_holds_for_all_animations_of_a_character(hands: Hands) -> None:
    made = show(hands, "walk")
    home = {c.id for c in hands.sheet("wren.png").cells}
    mine = [a.name for a in hands.session.project.animations if a.frames and a.frames[0].cell in home]
    assert len(mine) > 1
    hands.press_widget(made.numbers.whole, 8, 10)
    made.numbers.body_from_frames()
    bodies = {a.name: a.body for a in hands.session.project.animations}
    body = bodies["walk"]
    assert body is not None and all(bodies[name] == body for name in mine)
    assert all(bodies[name] != body or bodies[name] is None for name in bodies if name not in mine)
    hands.type(made.numbers.body_size, f"{body[2] + 2}x{body[3]}")
    wide = {a.body for a in hands.session.project.animations if a.name in mine}
    assert wide == {(body[0], body[1], body[2] + 2, body[3])}
    hands.keys("Ctrl+Z")
    hands.keys("Ctrl+Z")
    assert {a.name: a.body for a in hands.session.project.animations} != bodies, "each was one step"


def test_a_cell_that_the_strip_does_not_show_is_not_renamed_there(hands: Hands) -> None:
    show(hands, "walk")
    other = hands.cell("boardwalk.png", hands.sheet("boardwalk.png").cells[0].name)
    hands.session.selection.choose_sheet(hands.sheet("boardwalk.png").id)
    hands.session.selection.choose_cells((other.id,))
    hands.window.strip.film.cells = list(hands.sheet("wren.png").cells)  # as while frames are shown
    hands.keys("F2")
    assert other.name in hands.window.notice.words.text()
    wren = hands.sheet("wren.png")
    assert cell_title(wren, [other]) == ("1 cell", short(other.name)), "a cell of another sheet has no number"


def test_frames_are_nudged_by_keys_and_dragged_on_whole_px(hands: Hands) -> None:
    show(hands, "walk")
    hands.keys(".")
    for key, keys in ((Qt.Key.Key_Right, None), (Qt.Key.Key_Up, SHIFT)):
        hands.qtbot.keyClick(hands.window.desk, key, keys or Qt.KeyboardModifier.NoModifier)
    assert hands.cell("wren.png", "walk_1").shift == (1, -10)
    hands.drag((0, -10), (2.4, -8.7), (3.2, -7.8))
    assert hands.cell("wren.png", "walk_1").shift == (4, -8)
    hands.keys("Ctrl+Z", "Ctrl+Z")
    assert hands.cell("wren.png", "walk_1").shift == (0, 0)


def test_states_are_named_and_those_without_an_animation_are_found(hands: Hands) -> None:
    made = show(hands, "walk")
    assert made.numbers.state.text() == "moving"
    hands.type(made.numbers.state, "running, swimming")
    states = {s.name: s.animation for s in hands.sheet("wren.png").states}
    assert states["running"] == animation(hands, "walk").id and states["swimming"] == ""
    hands.wait(
        lambda: any(
            f.rule == "state-without" and "swimming" in f.text for f in hands.session.checker.findings
        )
    )
    hands.press_widget(made.numbers.first, 5, 12)
    assert hands.sheet("wren.png").states[0].name == "running"


def test_a_path_is_dragged_typed_and_played(hands: Hands) -> None:
    made = show(hands, "climb")
    hands.keys("W")
    hands.drag((0, 0), (6, -3), (12, -6))
    assert animation(hands, "climb").path == MovePath((12, -6))
    hands.type(made.numbers.path_ms, "500")
    made.numbers.easing.picked.emit("slow ends")
    made.numbers.path_play.picked.emit("again")
    assert animation(hands, "climb").path == MovePath((12, -6), 500, "both", "loop")
    hands.type(made.numbers.offset, "0, 0")
    assert animation(hands, "climb").path is None


@pytest.mark.parametrize(("form", "ending", "count"), [("gif", "gif", 8), ("row", "png", 1)])
def test_a_file_is_written(
    hands: Hands, tmp_path: Path, monkeypatch, form: str, ending: str, count: int
) -> None:  # type: ignore[no-untyped-def]
    made = show(hands, "walk")
    path = tmp_path / f"walk.{ending}"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    made.numbers.form.setCurrentIndex(0 if form == "gif" else 3)
    hands.type(made.numbers.scale, "2")
    hands.press_widget(made.numbers.out)
    hands.wait(path.is_file)
    hands.wait(lambda: "Wrote" in hands.window.notice.words.text())
    with Image.open(path) as image:
        assert getattr(image, "n_frames", 1) == count
        assert image.size[1] == 64


def test_animations_stand_on_the_shelf_and_are_saved(hands: Hands) -> None:
    show(hands, "walk")
    names = [p.name for kind, p, _y in hands.window.shelf.list.entries() if isinstance(p, Animation)]
    assert names == ["heron", "idle", "walk", "climb", "light", "water"]
    y = next(y for _k, p, y in hands.window.shelf.list.entries() if getattr(p, "name", "") == "climb")
    hands.qtbot.mouseClick(hands.window.shelf.list, LEFT, pos=QPoint(60, y + 10))
    assert hands.session.selection.animation is not None and hands.session.selection.animation.name == "climb"
    hands.window.commands.run_id("animate.copy")
    hands.window.commands.run_id("animate.reverse")
    hands.session.saver.save()
    hands.wait(lambda: not hands.session.saver.unsaved)
    assert Folder(hands.session.folder.path).open().animations == hands.session.project.animations
    hands.window.commands.run_id("animate.remove")
    assert len(hands.session.project.animations) == 6


# -- things in levels ------------------------------------------------------------------------------------


def paint(hands: Hands) -> PaintStage:
    hands.open_level("pier", "Boardwalk")
    made = hands.window.stage("paint")
    assert isinstance(made, PaintStage)
    return made


def test_an_animation_is_placed_moved_mirrored_and_removed(hands: Hands) -> None:
    made = paint(hands)
    hands.session.selection.choose_stamp(None)
    hands.session.selection.choose_animation(animation(hands, "idle").id)
    hands.keys("N")
    level = hands.session.selection.level
    assert level is not None
    before = len(level.things)
    at = hands.window.desk.view.to_content(QPointF(hands.window.desk.rect().center()))
    x, y = round(at.x()), round(at.y())
    hands.click(x + 0.2, y + 0.2)
    things = hands.session.selection.level.things  # type: ignore[union-attr]
    assert len(things) == before + 1 and things[-1].at == (x, y)
    assert things[-1].shows == animation(hands, "idle").id
    hands.drag((x, y - 5), (x + 10, y - 3), (x + 20, y - 1))
    assert hands.session.selection.level.things[-1].at == (x + 20, y + 4)  # type: ignore[union-attr]
    hands.keys("M")
    assert hands.session.selection.level.things[-1].mirrored  # type: ignore[union-attr]
    hands.qtbot.keyClick(hands.window.desk, Qt.Key.Key_Left)
    assert hands.session.selection.level.things[-1].at == (x + 19, y + 4)  # type: ignore[union-attr]
    hands.session.saver.save()
    hands.wait(lambda: not hands.session.saver.unsaved)
    assert Folder(hands.session.folder.path).open().levels[0].things == hands.session.selection.level.things  # type: ignore[union-attr]
    hands.keys("Delete")
    assert len(hands.session.selection.level.things) == before  # type: ignore[union-attr]
    assert made.active.thing is None


def switch(stage: PaintStage, words: str) -> None:
    """By the list under Show."""
    menu = stage.show_button.menu()
    next(a for a in menu.actions() if a.text().startswith(words)).trigger()


def test_a_thing_keeps_its_path_and_moves_when_told(hands: Hands) -> None:
    made = paint(hands)
    hands.session.selection.choose_stamp(None)
    hands.session.selection.choose_animation(animation(hands, "heron").id)
    hands.keys("N")
    at = hands.window.desk.view.to_content(QPointF(hands.window.desk.rect().center()))
    x, y = round(at.x()), round(at.y())
    hands.click(x, y)
    thing = hands.session.selection.level.things[-1]  # type: ignore[union-attr]
    assert thing.path == animation(hands, "heron").path
    end = (x + 96, y - 12)
    hands.drag(end, (end[0] + 8, end[1]), (end[0] + 14, end[1]))
    assert hands.session.selection.level.things[-1].path.offset == (110, -12)  # type: ignore[union-attr]
    still = hands.window.desk.grab().toImage()
    switch(made, "Play")
    hands.qtbot.wait(300)
    assert hands.window.desk.grab().toImage() != still
    switch(made, "Play")
    assert made.the(Things).ms == 0


def test_what_is_painted_of_things_is_what_is_shipped(hands: Hands) -> None:
    paint(hands)
    project, level = hands.session.project, hands.session.selection.level
    assert level is not None and level.things
    thing = level.things[0]
    area = (int(thing.at[0]) - 20, int(thing.at[1]) - 34, 40, 34)
    pixels = hands.session.stock.pixels
    bare = level_picture(project, replace(level, things=()), pixels, area)
    full = level_picture(project, level, pixels, area)
    assert (np.asarray(bare) != full).any()


def test_a_hidden_plot_takes_the_colours_of_the_theme_when_it_is_shown(hands: Hands) -> None:
    hands.open_sheet("wren.png", "animate")
    stage, look = hands.window.stage("animate"), hands.window.look
    assert isinstance(stage, AnimateStage)
    plot = stage.numbers.plot
    assert plot is not None

    def ground() -> str:
        return str(plot.backgroundBrush().color().name())

    by_day = look.colour("raised").name()
    assert ground() == by_day
    hands.open_sheet("wren.png", "tune")
    look.set_theme("dusk")
    hands.qtbot.wait(50)
    assert ground() == by_day != look.colour("raised").name(), "nobody sees it"
    hands.open_sheet("wren.png", "animate")
    hands.wait(lambda: ground() == look.colour("raised").name())


def test_without_an_animation_there_is_no_drift_to_see(hands: Hands) -> None:
    hands.open_sheet("wren.png", "animate")
    stage = hands.window.stage("animate")
    assert isinstance(stage, AnimateStage)
    card = stage.numbers
    assert card.plot_room.isVisibleTo(card)
    ids = [a.id for a in hands.session.project.animations]

    def none(project):  # type: ignore[no-untyped-def]
        for one in ids:
            project = remove_animation(project, one)
        return project

    hands.session.document.edit("Remove all", none)
    assert not card.plot_room.isVisibleTo(card) and card.drift.text() == ""
    hands.session.document.undo()
    hands.open_sheet("wren.png", "animate")
    assert card.plot_room.isVisibleTo(card)
