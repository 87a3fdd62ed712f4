"""Rulers over grids: numbers never stand on one another, however small the cells are drawn."""

from __future__ import annotations

from itertools import product

import numpy as np
import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter

from rushweed.core.cut.grid import grid_of
from rushweed.core.document.model.cut import GridCut
from rushweed.ui.desk import rulers
from rushweed.ui.desk.view import View
from rushweed.ui.window import Window


def test_numbers_have_room(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    boxes: list[QRectF] = []

    def words(band, value, text, colour, bold=False, middle=False):  # type: ignore[no-untyped-def]
        at, wide = band.at(value), len(text) * 6.3
        if band.axis == 0:
            boxes.append(QRectF(at - wide / 2 if middle else at + 2, 0, wide, 10))
        else:
            boxes.append(QRectF(0, at - 6 if middle else at + 1, 10, 11))

    monkeypatch.setattr(rulers.Band, "words", words)
    view = View()
    image = QImage(1200, 1200, QImage.Format.Format_ARGB32)
    painter = QPainter(image)
    for zoom, axis, cell in product((0.25, 0.5, 1.0, 2.0, 4.0, 8.0), (0, 1), (8, 16, 30, 64)):
        view.zoom = zoom
        boxes.clear()
        band = rulers.Band(painter, view, window.look, axis, (0.0, 1200.0))
        rulers.cells(band, grid_of(GridCut((cell, cell)), (2048, 2048), "a"), np.zeros((0, 4), int), None)
        assert boxes
        for n, one in enumerate(boxes):
            assert not any(one.intersects(other) for other in boxes[n + 1 :]), (zoom, axis, cell)
    painter.end()
