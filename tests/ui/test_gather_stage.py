"""Gathering in the real window: preparation, copies, reports, pictures changed by other programs."""

import os
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PyQt6.QtCore import QMimeData, QUrl
from PyQt6.QtGui import QGuiApplication, QImage

from rushweed.core.document.model.cut import GridCut
from rushweed.core.document.model.steps import KeyColour, Mirror, Recolour, Reduce, ReplaceColour, Turn
from rushweed.core.store.folder import Folder
from rushweed.ui.kit.controls import Chip
from rushweed.ui.stages.gather.stage import GatherStage
from tests.core.test_gather import art, encoded, lit, moving
from tests.core.test_prepare import on_ground, sprites
from tests.ui.conftest import Hands


def stage(hands: Hands) -> GatherStage:
    made = hands.window.stage("gather")
    assert isinstance(made, GatherStage)
    return made


def bring(hands: Hands, *paths: Path) -> None:
    before = hands.session.document.history.project
    stage(hands).bringing.bring(list(paths))
    hands.wait(
        lambda: not hands.session.jobs.running and hands.session.document.history.project is not before, 15000
    )


def chips(hands: Hands) -> list[Chip]:
    line = stage(hands).proposal_line
    assert line is not None
    return [c for c in line.findChildren(Chip) if c.isVisible()]


def press_answer(hands: Hands, words: str) -> None:
    hands.qtbot.wait(10)
    found = [
        b
        for b in hands.window.notice.buttons.findChildren(type(stage(hands).open_button))
        if b.text() == words
    ]
    assert found, [b.text() for b in hands.window.notice.buttons.findChildren(type(stage(hands).open_button))]
    found[-1].click()


def test_a_sure_key_colour_is_taken_as_a_picture_comes_in(hands: Hands, tmp_path: Path) -> None:
    for name, ground in (("minnow", (255, 0, 255)), ("roach", (255, 0, 255))):
        Image.fromarray(on_ground(sprites(len(name)), ground)).save(tmp_path / f"{name}.png")
    bring(hands, tmp_path / "minnow.png", tmp_path / "roach.png")
    for name in ("minnow.png", "roach.png"):
        sheet = hands.sheet(name)
        assert sheet.source.steps == (KeyColour((255, 0, 255)),)
        assert hands.session.stock.pixels(sheet)[0, 0, 3] == 0
    assert "minnow.png and 1 more is taken as clear" in hands.window.notice.words.text()
    assert "#ff00ff is taken as clear" in stage(hands).report.lines.toPlainText()
    press_answer(hands, "Leave it opaque")
    assert hands.sheet("minnow.png").source.steps == hands.sheet("roach.png").source.steps == ()
    assert hands.session.stock.pixels(hands.sheet("roach.png"))[0, 0, 3] == 255
    hands.session.document.undo()
    assert hands.sheet("minnow.png").source.steps
    hands.session.document.undo()
    assert all(s.name != "minnow.png" for s in hands.session.project.sheets)


def test_a_key_colour_is_proposed_and_taken_by_its_chip(hands: Hands) -> None:
    hands.open_sheet("eel.bmp", "gather")
    hands.wait(lambda: bool(chips(hands)))
    assert "#ff00ff" in chips(hands)[0].words and "of the border" in chips(hands)[0].evidence
    cells = hands.sheet("eel.bmp").cells
    hands.press_widget(chips(hands)[0])
    sheet = hands.sheet("eel.bmp")
    assert sheet.source.steps == (KeyColour((255, 0, 255)),)
    assert hands.session.stock.pixels(sheet)[0, 0, 3] == 0
    assert sheet.cells == cells
    hands.wait(lambda: bool(chips(hands)) and chips(hands)[0].chosen)
    hands.keys("Ctrl+Z")
    assert hands.sheet("eel.bmp").source.steps == ()


def test_enlarged_art_is_reduced_by_its_chip(hands: Hands) -> None:
    hands.open_sheet("lamps_4x.png", "gather")
    hands.wait(lambda: bool(chips(hands)))
    hands.press_widget(chips(hands)[0])
    sheet = hands.sheet("lamps_4x.png")
    assert sheet.source.steps == (Reduce(4),) and sheet.source.size == (128, 96)
    assert (hands.session.stock.pixels(sheet) == hands.session.stock.pixels(hands.sheet("lamps.png"))).all()
    assert "of 512 × 384" in stage(hands).facts["Size"].text()


def test_steps_are_added_switched_off_reordered_changed_and_removed(hands: Hands) -> None:
    hands.open_sheet("wren.png", "gather")
    gather = stage(hands)
    before = hands.sheet("wren.png")
    for words in ("Turn", "Mirror"):
        gather.add_step.picked.emit(words)
    assert hands.sheet("wren.png").source.steps == (Turn(1), Mirror("across"))
    assert hands.sheet("wren.png").source.size == (128, 192)
    fields = gather.steps.fields
    hands.press_widget(fields[0]["on"], 5, 12)
    assert hands.sheet("wren.png").source.size == (192, 128)
    hands.press_widget(gather.steps.fields[1]["up"])
    assert [type(s) for s in hands.sheet("wren.png").source.steps] == [Mirror, Turn]
    hands.press_widget(gather.steps.fields[1]["on"], 5, 12)
    gather.steps.fields[1]["quarters"].choose(1)
    assert hands.sheet("wren.png").source.steps == (Mirror("across"), Turn(2))
    hands.press_widget(gather.steps.fields[0]["away"])
    hands.press_widget(gather.steps.fields[0]["away"])
    after = hands.sheet("wren.png")
    assert after.source == before.source
    assert [c.rect for c in after.cells] == [c.rect for c in before.cells]
    assert [c.pivot for c in after.cells] == [c.pivot for c in before.cells]


def test_preparation_is_saved_and_opened_again(hands: Hands) -> None:
    hands.open_sheet("wren.png", "gather")
    stage(hands).add_step.picked.emit("Enlarge")
    job = hands.session.saver.save()
    assert job is not None
    hands.wait(lambda: not hands.session.saver.unsaved)
    again = Folder(hands.session.folder.path).open()
    assert again.sheets == hands.session.project.sheets


def test_the_desk_wipes_between_the_file_and_the_prepared_picture(hands: Hands) -> None:
    hands.open_sheet("eel.bmp", "gather")
    hands.wait(lambda: bool(chips(hands)))
    hands.press_widget(chips(hands)[0])
    hands.keys("W")
    hands.drag((80, 40), (120, 40))
    left, right = hands.at(60, 4), hands.at(140, 4)
    assert hands.pixel(hands.window.desk, left.x(), left.y()) == "#ff00ff"
    assert hands.pixel(hands.window.desk, right.x(), right.y()) != "#ff00ff"


def test_a_key_is_picked_on_the_desk_and_its_tolerance_is_typed(hands: Hands) -> None:
    hands.open_sheet("sky.png", "gather")
    gather = stage(hands)
    hands.keys("P")
    hands.click(10, 10)
    r, g, b = hands.session.stock.raw(hands.sheet("sky.png"))[10, 10, :3].tolist()
    assert hands.sheet("sky.png").source.steps == (KeyColour((r, g, b)),)
    hands.type(gather.steps.fields[0]["tolerance"], "30")
    assert hands.sheet("sky.png").source.steps[0].tolerance == 30  # type: ignore[union-attr]
    hands.type(gather.steps.fields[0]["name"], "no colour")
    assert hands.sheet("sky.png").source.steps[0].colour == (r, g, b)  # type: ignore[union-attr]
    hands.type(gather.steps.fields[0]["name"], "#102030")
    assert hands.sheet("sky.png").source.steps[0].colour == (16, 32, 48)  # type: ignore[union-attr]


def test_colour_for_colour_by_pressing_the_art(hands: Hands) -> None:
    hands.open_sheet("crate.png", "gather")
    gather = stage(hands)
    raw = hands.session.stock.raw(hands.sheet("crate.png"))
    y, x = np.argwhere(raw[..., 3] == 255)[40]
    old = tuple(raw[y, x, :3].tolist())
    gather.add_step.picked.emit("Replace colour")
    hands.click(x + 0.5, y + 0.5)
    assert hands.sheet("crate.png").source.steps == (ReplaceColour(((old, old),)),)  # type: ignore[arg-type]
    hands.type(gather.steps.fields[0]["pairs"][0][1], "00ff80")
    pixels = hands.session.stock.pixels(hands.sheet("crate.png"))
    assert pixels[y, x].tolist() == [0, 255, 128, 255]


def test_a_recoloured_copy_follows_its_fields(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "gather")
    stage(hands).recoloured()
    copy = hands.session.selection.sheet
    assert copy is not None and copy.name == "boardwalk_recoloured.png"
    hands.type(stage(hands).steps.fields[0]["hue"], "90")
    assert hands.sheet(copy.name).source.steps == (Recolour(hue=90),)
    assert len(copy.cells) == len(hands.sheet("boardwalk.png").cells)
    hands.keys("Ctrl+Z", "Ctrl+Z")
    assert all(s.id != copy.id for s in hands.session.project.sheets)


def test_a_messy_folder_is_gathered_with_a_report(hands: Hands, tmp_path: Path) -> None:
    mess = tmp_path / "mess"
    mess.mkdir()
    for n in (1, 2, 10):
        (mess / f"hop_{n}.png").write_bytes(encoded("PNG", art(seed=n)))
    (mess / "spark.gif").write_bytes(moving("GIF"))
    (mess / "bad.png").write_bytes(b"nonsense")
    (mess / "again.bmp").write_bytes((hands.session.folder.path / "art" / "eel.bmp").read_bytes())
    hands.open_sheet("wren.png", "gather")
    bring(hands, mess)
    names = {s.name for s in hands.session.project.sheets}
    assert {"spark.gif"} <= names
    report = stage(hands).report
    assert report.isVisible()
    assert "2 failed" not in report.head.text() and "1 failed" in report.head.text()
    texts = report.lines.toPlainText()
    assert "bad.png is not a" in texts and "again.bmp is the same picture as eel.bmp" in texts
    assert len(hands.sheet("spark.gif").cells) == 5
    moves = next(a for a in hands.session.project.animations if a.name == "spark")
    assert [f.ms for f in moves.frames] == [40, 60, 80, 100, 120]


def test_numbered_pictures_can_be_kept_apart(hands: Hands, tmp_path: Path) -> None:
    for n in (1, 2):
        (tmp_path / f"hop_{n}.png").write_bytes(encoded("PNG", art(seed=n)))
    hands.open_sheet("wren.png", "gather")
    hands.press_widget(stage(hands).as_one, 5, 12)
    bring(hands, tmp_path / "hop_1.png", tmp_path / "hop_2.png")
    assert {"hop_1.png", "hop_2.png"} <= {s.name for s in hands.session.project.sheets}


def test_a_picture_is_pasted(hands: Hands) -> None:
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    image = QImage(20, 14, QImage.Format.Format_ARGB32)
    image.fill(0xFF3C6E53)
    clipboard.setImage(image)
    before = len(hands.session.project.sheets)
    hands.keys("Ctrl+V")
    hands.wait(lambda: len(hands.session.project.sheets) == before + 1)
    assert hands.session.project.sheets[-1].source.size == (20, 14)
    data = QMimeData()
    data.setText("no picture")
    clipboard.setMimeData(data)
    hands.keys("Ctrl+V")
    assert "holds no picture" in hands.window.notice.words.text()


def test_pasted_files_come_in_too(hands: Hands, tmp_path: Path) -> None:
    (tmp_path / "reed.png").write_bytes(encoded("PNG"))
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / "reed.png"))])
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    clipboard.setMimeData(data)
    hands.keys("Ctrl+V")
    hands.wait(lambda: any(s.name == "reed.png" for s in hands.session.project.sheets))


def test_groups_head_the_shelf(hands: Hands) -> None:
    hands.open_sheet("lamps.png", "gather")
    hands.session.selection.choose_sheets((hands.sheet("lamps_4x.png").id, hands.sheet("lamps.png").id))
    hands.type(stage(hands).group_field, "Lights")
    heads = [
        str(part).split("\t")[0] for kind, part, _y in hands.window.shelf.list.entries() if kind == "head"
    ]
    assert heads == ["Sheets", "\x01Lights", "Animations", "Levels"]
    hands.window.shelf.filter("lights")
    rows = [part.name for kind, part, _y in hands.window.shelf.list.entries() if kind == "row"]  # type: ignore[union-attr]
    assert rows == ["lamps.png", "lamps_4x.png"]


def test_what_nothing_uses_is_named_and_taken_off(hands: Hands) -> None:
    hands.open_sheet("lamps.png", "gather")
    hands.window.commands.run_id("gather.unused")
    assert "lamps.png" in hands.window.notice.words.text()
    press_answer(hands, "Remove them")
    names = {s.name for s in hands.session.project.sheets}
    assert "lamps.png" not in names and {"boardwalk.png", "marsh.png", "sky.png"} <= names
    hands.keys("Ctrl+Z")
    assert hands.sheet("lamps.png")


def test_a_wrong_licence_is_told_and_an_attribution_reaches_the_credits(hands: Hands) -> None:
    hands.open_sheet("lamps.png", "gather")
    gather = stage(hands)
    gather.show_tab("credit")
    hands.type(gather.credit["licence"], "cc by 4.0")
    assert "no SPDX licence" in gather.licence.text() and "CC-BY-4.0 is meant" in gather.licence.text()
    hands.type(gather.credit["licence"], "CC-BY-4.0")
    assert gather.licence.text() == ""
    hands.wait(lambda: any(f.rule == "missing-attribution" for f in hands.session.checker.findings))
    hands.type(gather.credit["attribution"], "Lamps by Ina Reed")
    hands.wait(lambda: not any(f.rule == "missing-attribution" for f in hands.session.checker.findings))


# -- changed outside -------------------------------------------------------------------------------------


def outside(hands: Hands, name: str, rgba: np.ndarray, renamed: bool) -> None:
    """Write a picture as another program does: in place, or beside it and renamed."""
    path = hands.session.folder.path / hands.sheet(name).source.path
    target = path.with_name(".saving.png") if renamed else path
    Image.fromarray(rgba).save(target)
    if renamed:
        os.replace(target, path)


@pytest.mark.parametrize("renamed", [False, True])
def test_a_picture_saved_outside_is_shown_at_once(hands: Hands, renamed: bool) -> None:
    hands.open_sheet("crate.png", "gather")
    cells = hands.sheet("crate.png").cells
    rgba = hands.session.stock.pixels(hands.sheet("crate.png")).copy()
    rgba[3:6, 3:6] = (10, 250, 30, 255)
    outside(hands, "crate.png", rgba, renamed)
    hands.wait(lambda: hands.session.stock.pixels(hands.sheet("crate.png"))[4, 4, 1] == 250, 8000)
    assert hands.sheet("crate.png").cells == cells
    at = hands.at(4.5, 4.5)
    hands.qtbot.wait(30)
    assert hands.pixel(hands.window.desk, at.x(), at.y()) == "#0afa1e"
    rgba[3:6, 3:6] = (250, 10, 30, 255)
    outside(hands, "crate.png", rgba, renamed)
    hands.wait(lambda: hands.session.stock.pixels(hands.sheet("crate.png"))[4, 4, 0] == 250, 8000)


def test_a_half_written_picture_is_waited_for(hands: Hands, tmp_path: Path) -> None:
    hands.open_sheet("crate.png", "gather")
    rgba = hands.session.stock.pixels(hands.sheet("crate.png")).copy()
    rgba[...] = (90, 20, 200, 255)
    Image.fromarray(rgba).save(tmp_path / "whole.png")
    data = (tmp_path / "whole.png").read_bytes()
    path = hands.session.folder.path / "art" / "crate.png"
    path.write_bytes(data[: len(data) // 2])
    hands.qtbot.wait(500)
    assert hands.session.stock.pixels(hands.sheet("crate.png"))[4, 4].tolist() != [90, 20, 200, 255]
    path.write_bytes(data)
    hands.wait(lambda: hands.session.stock.pixels(hands.sheet("crate.png"))[4, 4, 2] == 200, 8000)


def test_a_picture_that_grew_keeps_its_cells_on_their_art(hands: Hands) -> None:
    sheet = hands.open_sheet("boardwalk.png", "gather")
    old = hands.session.stock.pixels(sheet)
    grown = np.zeros((old.shape[0] + 17, old.shape[1], 4), np.uint8)
    grown[17:] = old
    outside(hands, "boardwalk.png", grown, True)
    hands.wait(lambda: hands.sheet("boardwalk.png").source.size[1] == old.shape[0] + 17, 8000)
    after = hands.sheet("boardwalk.png")
    assert [c.rect[1] - 17 for c in after.cells] == [c.rect[1] for c in sheet.cells]
    assert [c.id for c in after.cells] == [c.id for c in sheet.cells]
    assert "17 px down" in hands.window.notice.words.text()
    press_answer(hands, "Cells stay")
    assert [c.rect for c in hands.sheet("boardwalk.png").cells] == [c.rect for c in sheet.cells]


def test_a_sheet_with_a_normal_map_is_lit_by_a_lamp_that_can_be_moved(hands: Hands, tmp_path: Path) -> None:
    lit(tmp_path)  # writes the files that go along
    bring(hands, tmp_path / "in")
    sheet = next(s for s in hands.session.project.sheets if s.source.normal)
    hands.session.selection.choose_sheet(sheet.id)
    pixels = hands.session.stock.pixels(sheet)
    stage_cut = hands.window.stage("cut")
    stage_cut.making.take(GridCut((16, 16)))  # type: ignore[attr-defined]
    hands.session.selection.choose_cells((hands.session.selection.sheet.cells[0].id,))  # type: ignore[union-attr]
    picture = hands.window.proof.picture
    hands.wait(lambda: picture.lamp is not None)
    before = picture.image
    hands.press_widget(picture, 20, 20)
    assert picture.image != before and pixels.shape == (16, 16, 4)
    hands.open_sheet("crate.png", "gather")
    assert picture.lamp is None


def test_colour_for_colour_on_a_keyed_sheet_leaves_the_key_alone(hands: Hands) -> None:
    hands.open_sheet("eel.bmp", "gather")
    gather, key = stage(hands), KeyColour((255, 0, 255))
    gather.steps_work.add(key)
    rgba = hands.session.stock.pixels(hands.sheet("eel.bmp"))
    ys, xs = np.nonzero(rgba[..., 3])
    y, x = int(ys[0]), int(xs[0])
    clear_y, clear_x = (int(v[0]) for v in np.nonzero(rgba[..., 3] == 0))
    gather.add_step.picked.emit("Replace colour")
    hands.click(clear_x + 0.5, clear_y + 0.5)
    assert "clear" in hands.window.notice.words.text() and gather.tool == "pick"
    hands.click(x + 0.5, y + 0.5)
    steps = hands.sheet("eel.bmp").source.steps
    colour = tuple(rgba[y, x, :3].tolist())
    assert key in steps and steps[-1] == ReplaceColour(((colour, colour),))  # type: ignore[arg-type]
    assert (hands.session.stock.pixels(hands.sheet("eel.bmp")) == rgba).all()
    assert gather.tool == "point"


def test_a_gathering_that_is_cancelled_leaves_nothing_behind(hands: Hands, tmp_path: Path) -> None:
    source = tmp_path / "many"
    source.mkdir()
    for n in range(60):
        rgba = np.full((8, 8, 4), n + 1, np.uint8)
        Image.fromarray(rgba).save(source / f"{chr(97 + n % 26)}{chr(97 + n // 26)}.png")
    art, before = hands.session.folder.path / "art", hands.session.project
    files = sorted(p.name for p in art.rglob("*"))
    job = stage(hands).bringing.bring([source])
    assert job is not None
    ended: list[bool] = []
    job.ended.connect(lambda: ended.append(True))
    hands.wait(lambda: len(list(art.rglob("*"))) > len(files) + 5)
    hands.press_widget(hands.window.notice.holder.itemAt(0).widget())
    hands.wait(lambda: bool(ended))
    hands.qtbot.wait(50)
    assert sorted(p.name for p in art.rglob("*")) == files and hands.session.project is before


def test_a_folder_without_pictures_is_named(hands: Hands, tmp_path: Path) -> None:
    (tmp_path / "hollow").mkdir()
    stage(hands).bringing.bring([tmp_path / "hollow"])
    hands.wait(lambda: "The folder hollow holds no pictures." in hands.window.notice.words.text())
