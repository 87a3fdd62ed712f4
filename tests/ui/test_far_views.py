"""A level seen from afar: some chunks are one image, a large one comes in over several drawings."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter

from rushweed.core.document.model.level import CHUNK, Level, TileLayer
from rushweed.core.level.brush import rectangle
from rushweed.core.level.chunks import chunk_at
from rushweed.core.level.edit import paint
from rushweed.core.level.stamp import single
from rushweed.ui.desk import level_blocks
from rushweed.ui.desk.images import array_of
from rushweed.ui.desk.level_blocks import Allowance, BlockImages, blocks_in
from rushweed.ui.desk.level_paint import LevelPainter, Onto
from rushweed.ui.desk.view import View
from tests.ui.conftest import Hands

WIDE, HIGH = 420, 300


def level_of(hands: Hands, name: str) -> Level:
    return next(v for v in hands.session.project.levels if v.name == name)


def wide_level(hands: Hands) -> Level:
    """The pier with tiles far to the right and left, across many chunks."""
    level = level_of(hands, "pier")
    layer = next(x for x in level.layers if isinstance(x, TileLayer))
    for n, place in enumerate(((-70, -3), (40, 60), (150, 20), (-33, 90))):
        stamp = single(hands.sheet("boardwalk.png").cells[n].id)
        area = (place[0], place[1], place[0] + 60 - n, place[1] + 25)
        hands.session.document.edit(
            "Wide", lambda p, s=stamp, a=area: paint(p, level.id, layer.id, s, rectangle(*a))
        )
    return level_of(hands, "pier")


def drawn(hands: Hands, level: Level, zoom: float, painter: LevelPainter | None = None) -> np.ndarray:
    """The whole of it by a painter of its own, until nothing is left to be drawn."""
    painter = painter or LevelPainter(hands.session.stock, hands.window.desk.images)
    view = View()
    view.zoom = zoom
    view.offset = view.offset + view.to_screen(90 * 16, 50 * 16)
    for _ in range(500):
        image = QImage(WIDE, HIGH, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(0)
        brush = QPainter(image)
        painter.paint(Onto(brush, view, QRectF(0, 0, WIDE, HIGH)), hands.session.project, level)
        brush.end()
        if not painter.unfinished:
            return array_of(image)
    raise AssertionError("it is never finished")


@pytest.mark.parametrize("zoom", [0.25, 0.125, 0.0625])
def test_some_chunks_as_one_image_look_as_each_by_itself(
    hands: Hands, monkeypatch: pytest.MonkeyPatch, zoom: float
) -> None:
    level = wide_level(hands)
    together = drawn(hands, level, zoom)
    monkeypatch.setattr(level_blocks, "FAR", 99)
    assert (drawn(hands, level, zoom) == together).all()
    assert together[..., 3].any()


def test_a_stroke_is_seen_from_afar(hands: Hands) -> None:
    level = wide_level(hands)
    painter = LevelPainter(hands.session.stock, hands.window.desk.images)
    before = drawn(hands, level, 0.25, painter)
    layer = next(x for x in level.layers if isinstance(x, TileLayer))
    stamp = single(hands.sheet("boardwalk.png").cells[6].id)
    hands.session.document.edit(
        "Stroke", lambda p: paint(p, level.id, layer.id, stamp, rectangle(-30, 4, -8, 14))
    )
    now = level_of(hands, "pier")
    after = drawn(hands, now, 0.25, painter)
    assert (before != after).any() and (after == drawn(hands, now, 0.25)).all()


def test_every_chunk_is_in_one_block_and_cells_are_in_their_places(hands: Hands) -> None:
    level = wide_level(hands)
    data = next(x for x in level.layers if isinstance(x, TileLayer)).tiles
    columns, rows = range(data.left, data.left + data.columns), range(data.top, data.top + data.rows)
    for shrink in (0, 1, 2, 4):
        held = 0
        for block in blocks_in(data, columns, rows, level.cell, shrink):
            cells = block.cells
            assert cells.shape == (block.side, block.side)
            for y in range(0, block.side, CHUNK):
                for x in range(0, block.side, CHUNK):
                    chunk = chunk_at(data, (block.column + x) // CHUNK, (block.row + y) // CHUNK)
                    part = cells[y : y + CHUNK, x : x + CHUNK]
                    assert (part == (0 if chunk is None else chunk.cells)).all()
                    held += chunk is not None
        assert held == sum(chunk is not None for chunk in data.chunks)
    assert not list(blocks_in(data, range(0), rows, level.cell, 4))
    large = list(blocks_in(data, columns, rows, (256, 256), 0))
    assert all(block.side * 256 <= level_blocks.BLOCK_PX for block in large)


def test_small_images_count_by_their_cells_so_that_a_far_view_comes_in_over_time(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(level_blocks, "FRESH_S", 0.0)
    monkeypatch.setattr(level_blocks, "FRESH", 3 * level_blocks.LEAST_PX)
    monkeypatch.setattr(level_blocks, "FAR", 99)
    level = wide_level(hands)
    painter = LevelPainter(hands.session.stock, hands.window.desk.images)
    layer = next(x for x in level.layers if isinstance(x, TileLayer))
    tiles, blocks = painter.prepare(hands.session.project, level), BlockImages()
    data = layer.tiles
    columns, rows = range(data.left, data.left + data.columns), range(data.top, data.top + data.rows)
    blocks.begin(Allowance())
    made = [
        blocks.image(layer, block, 4, tiles, frozenset())
        for block in blocks_in(data, columns, rows, level.cell, 4)
    ]
    assert blocks.unfinished and sum(image is not None for image in made) == 3 < len(made)
    whole = replace(level, layers=(layer,))
    assert drawn(hands, whole, 0.0625, painter)[..., 3].any()
