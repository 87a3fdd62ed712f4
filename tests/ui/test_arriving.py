"""A panel that shows many sheets reads none of their large pictures while it is drawn."""

from __future__ import annotations

import threading
from pathlib import Path
from types import ModuleType

import numpy as np
import pytest
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from rushweed.core.document.model.sheet import Sheet
from rushweed.core.level.render import cell_pixels
from rushweed.core.pixels import cache
from rushweed.core.pixels.cache import PixelCache
from rushweed.ui.desk import images as kept
from rushweed.ui.desk import sheet_paint
from rushweed.ui.desk.images import SheetImages, array_of, image_in_bands, image_of
from rushweed.ui.panels import arriving, tile_images
from rushweed.ui.panels.arriving import Arriving
from rushweed.ui.panels.thumbs import Thumbs
from rushweed.ui.panels.tile_images import TileImages
from rushweed.ui.session import session as sessions
from tests.ui.conftest import Hands


class Watched(PixelCache):
    """Tells which thread read what."""

    def __init__(self, folder: Path) -> None:
        super().__init__(folder)
        self.read: list[tuple[str, bool]] = []

    def pixels(self, sheet: Sheet) -> np.ndarray:
        if not self.holds(sheet):
            self.read.append((sheet.name, threading.current_thread() is threading.main_thread()))
        return super().pixels(sheet)


@pytest.fixture
def watched(hands: Hands, demo_folder: Path, monkeypatch: pytest.MonkeyPatch) -> Watched:
    hands.session.jobs.finish()
    stock = Watched(demo_folder)
    monkeypatch.setattr(hands.session, "stock", stock)
    monkeypatch.setattr(sessions, "READ_AT_ONCE", 0)
    return stock


def test_large_pictures_come_in_beside_the_window(hands: Hands, watched: Watched, qtbot: QtBot) -> None:
    images, drawn = SheetImages(watched), []
    images.ready = True
    sheets = hands.session.project.sheets[:4]
    many = Arriving(hands.session, images, lambda: drawn.append(True))
    many.begin(sheets)
    assert [many.image(sheet) for sheet in sheets] == [None] * 4 and not watched.read
    qtbot.waitUntil(lambda: bool(drawn))
    assert {name for name, here in watched.read if not here} >= {s.name for s in sheets}
    many.begin(sheets)
    assert all(image is not None and image.width() for image in map(many.image, sheets))
    assert not any(here for _name, here in watched.read)


def test_what_cannot_be_read_is_asked_for_once(hands: Hands, watched: Watched, qtbot: QtBot) -> None:
    images, drawn = SheetImages(watched), []
    images.ready = True
    sheet = hands.session.project.sheets[0]
    gone = replace(sheet, name="gone.png", source=replace(sheet.source, path="art/gone.png", sha256="1" * 64))
    many = Arriving(hands.session, images, lambda: drawn.append(True))
    for _ in range(3):
        many.begin([gone])
        qtbot.wait(60)
    assert len(drawn) == 1 and [name for name, _here in watched.read].count("gone.png") == 1
    many.begin([gone])
    assert (image := many.image(gone)) is not None and image.width() == gone.source.size[0]


def test_a_reading_that_is_cancelled_leaves_no_sheet_out(
    hands: Hands, watched: Watched, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(arriving, "ROOM_S", 60.0)
    images, drawn = SheetImages(watched), []
    images.ready = True
    sheets = hands.session.project.sheets[:4]
    many = Arriving(hands.session, images, lambda: drawn.append(True))
    many.begin(sheets)
    for job in list(hands.session.jobs.running):
        job.cancel()
    qtbot.waitUntil(lambda: bool(drawn))
    many.begin(sheets)
    assert all(image is not None and image.width() for image in map(many.image, sheets))


def test_images_are_made_ready_over_several_drawings(
    hands: Hands, watched: Watched, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(arriving, "ROOM_S", 0.0)
    monkeypatch.setattr(sessions, "READ_AT_ONCE", 1 << 30)
    images, drawn = SheetImages(watched), []
    images.ready = True
    sheets = hands.session.project.sheets[:3]
    many = Arriving(hands.session, images, lambda: drawn.append(True))
    many.begin(sheets)
    drawn.clear()
    assert [many.image(sheet) is None for sheet in sheets] == [False, True, True]  # always one
    qtbot.waitUntil(lambda: bool(drawn))
    many.begin(sheets)
    assert [many.image(sheet) is None for sheet in sheets] == [False, False, True]


def test_thumbnails_are_drawn_when_their_pictures_are_read(hands: Hands, watched: Watched) -> None:
    shown = SheetImages(watched)
    shown.ready = True
    project = hands.session.project
    parts = (*project.sheets[:3], *project.levels, *project.animations[:2])
    thumbs = Thumbs(hands.window.look, hands.session, shown)
    before = [thumbs.of(part).copy() for part in parts]
    hands.wait(lambda: all(thumbs.of(p) != old for p, old in zip(parts, before, strict=True)))
    assert watched.read and not any(here for _name, here in watched.read), "none on the window's thread"


def test_a_part_that_goes_while_its_picture_is_read_gets_no_thumbnail(hands: Hands, watched: Watched) -> None:
    shown = SheetImages(watched)
    shown.ready = True
    thumbs = Thumbs(hands.window.look, hands.session, shown)
    level = hands.session.project.levels[0]
    blank = thumbs.of(level).copy()
    hands.wait(lambda: bool(hands.session.jobs.running))
    hands.session.document.edit("Level", lambda p: replace(p, levels=p.levels[1:]))
    hands.session.jobs.finish()
    hands.wait(lambda: not hands.session.jobs.running)
    assert thumbs.of(level) == blank


def test_the_proof_waits_for_a_large_picture(hands: Hands, watched: Watched) -> None:
    hands.window.rail.tabs.chosen.emit("tune")
    sheet = hands.sheet("wren.png")
    hands.session.selection.choose_sheet(sheet.id)
    proof = hands.window.proof
    hands.wait(lambda: watched.holds(sheet) and proof.picture.scene is not None)
    assert ("wren.png", True) not in watched.read


def test_images_take_no_more_than_their_share_of_memory(
    hands: Hands, watched: Watched, monkeypatch: pytest.MonkeyPatch
) -> None:
    held = SheetImages(watched)
    held.ready = True
    sheets = hands.session.project.sheets[:4]
    most = max(4 * s.source.size[0] * s.source.size[1] for s in sheets)
    monkeypatch.setattr(kept, "KEPT_BYTES", most)
    monkeypatch.setattr(kept, "SEEN_BYTES", most)
    assert not held.make_room(sheets) and held.make_room(sheets[:1])
    for sheet in (*sheets, *sheets):
        assert (held.image(sheet).width(), held.image(sheet).height()) == sheet.source.size
    made = [s for s in sheets if held.is_made(s)]
    assert sheets[-1] in made and sum(4 * s.source.size[0] * s.source.size[1] for s in made) <= most
    monkeypatch.setattr(kept, "SEEN_BYTES", 1)
    held.make_room(sheets)
    held.image(sheets[0])
    assert [s for s in sheets if held.is_made(s)] == [sheets[0]], "one is always kept"
    monkeypatch.setattr(kept, "SEEN_BYTES", most * 4)
    assert held.make_room(sheets)
    assert all(held.image(sheet).width() for sheet in sheets) and all(map(held.is_made, sheets))


def test_an_image_stays_when_its_pixels_have_gone_from_memory(
    hands: Hands, watched: Watched, monkeypatch: pytest.MonkeyPatch
) -> None:
    held = SheetImages(watched)
    held.ready = True
    sheet, other = hands.sheet("wren.png"), hands.sheet("marsh.png")
    shown = held.image(sheet)
    monkeypatch.setattr(cache, "KEPT_BYTES", 1)
    watched.pixels(other)
    assert not watched.holds(sheet)
    watched.read.clear()
    assert held.image(sheet) is shown and not watched.read
    turned = np.ascontiguousarray(watched.pixels(sheet)[::-1])
    watched.put_raw(sheet.source, turned)
    assert held.image(sheet) == image_of(turned), "they are others now"


def test_what_the_desk_needs_of_a_large_sheet_is_worked_out_before_it_is_shown(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its image and where its ink is, both beside the window."""
    here: list[bool] = []

    def watched_in(module: ModuleType, name: str) -> None:
        real = getattr(module, name)

        def listen(rgba: np.ndarray) -> object:
            here.append(threading.current_thread() is threading.main_thread())
            return real(rgba)

        monkeypatch.setattr(module, name, listen)

    hands.open_sheet("boardwalk.png", "cut")
    hands.session.jobs.finish()
    monkeypatch.setattr(sessions, "READ_AT_ONCE", 0)
    watched_in(kept, "image_in_bands")
    watched_in(sheet_paint, "ink")
    sheet = next(s for s in hands.session.project.sheets if s.name == "panel.png")
    desk, shown = hands.window.desk, []
    hands.session.bring([sheet], lambda: shown.append(desk.images.holds(sheet)))
    assert not shown
    hands.wait(lambda: bool(shown))
    assert shown == [True] and len(here) >= 2 and not any(here)
    profile = desk.sheet_painter.profile(sheet)
    assert profile[0].shape == (sheet.source.size[0],) and desk.sheet_painter.holds(sheet)
    assert not any(here), "nothing was left to do"


def test_an_image_made_in_bands_is_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    rgba = np.random.default_rng(1).integers(0, 256, (37, 50, 4), np.uint8)
    for part in (rgba, rgba[::2, 1:33]):
        for band in (1, 400, 1 << 19):
            monkeypatch.setattr(kept, "BAND", band)
            assert image_in_bands(part) == image_of(part)


def test_tiles_come_in_beside_the_window_as_small_images(
    hands: Hands, watched: Watched, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    images, drawn = SheetImages(watched), []
    small = TileImages(hands.session, images, lambda: drawn.append(True))
    sheet = hands.sheet("marsh.png")
    tiles = [(sheet, replace(cell, shift=(2, -1))) for cell in sheet.cells[:4]]
    assert small.image(*tiles[0]) is None and not watched.read  # the window comes up without pictures
    images.ready = True
    small.begin_with(tiles)
    assert [small.image(*tile) for tile in tiles] == [None] * 4
    qtbot.waitUntil(lambda: bool(drawn))
    small.begin_with(tiles)
    made = [small.image(*tile) for tile in tiles]
    art = cell_pixels(watched.pixels(sheet), tiles[0][1])
    solid = art[..., 3] == 255
    assert made[0] is not None and solid.any()
    assert (array_of(made[0])[solid] == art[solid]).all()
    assert (array_of(made[0])[..., 3] == art[..., 3]).all()
    assert not images.holds(sheet) and not any(here for _name, here in watched.read)
    assert small.image(*tiles[0]) is made[0]
    monkeypatch.setattr(tile_images, "LARGE", 4)
    large = small.image(sheet, sheet.cells[9])
    assert large is not None and large.width() == 4 and sheet.cells[9].rect[2] == 16
