"""Rows about shapes: outlines of many tiles, twins, the overlay of a large sheet."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy import ndimage

from bench.row import Row, by_time, timed
from rushweed.core.shape.trace import trace_masks
from rushweed.core.shape.twins import Twins


def masks(count: int = 10_000, side: int = 32) -> list[np.ndarray]:
    """Tiles of rounded and ragged blobs."""
    rng = np.random.default_rng(11)
    made = []
    for n in range(count):
        noise = ndimage.gaussian_filter(rng.random((side, side)), 2.0 + n % 4)
        made.append(noise > np.quantile(noise, 0.25 + 0.5 * rng.random()))
    return made


def twins() -> Iterator[Row]:
    """S7: twins over 4,096 tiles of 16 x 16, each with some; a second is allowed."""
    rng = np.random.default_rng(5)
    base, palette = rng.integers(0, 6, (500, 16, 16)), rng.integers(0, 255, (6, 3))
    tiles = []
    for n in range(4096):
        tile = np.full((16, 16, 4), 255, np.uint8)
        tile[..., :3] = palette[np.rot90(base[n % 500], n % 4)]
        tiles.append(tile)

    def work() -> None:
        found = Twins(tiles)
        for n in range(len(tiles)):
            found.twin(n, found.of(n)[0])

    yield by_time("twins of 4,096 tiles beside a second", timed(work, 3), 1.0, 0.3)


def outlines() -> Iterator[Row]:
    """B3: outlines within 1 px of 10,000 tiles beside OpenCV's contours and approximation, tile by tile."""
    import cv2

    tiles = masks()
    bytes_of = [m.astype(np.uint8) for m in tiles]

    def reference() -> None:
        for tile in bytes_of:
            found, _order = cv2.findContours(tile, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
            for contour in found:
                cv2.approxPolyDP(contour, 1.0, True)

    ours, theirs = timed(lambda: trace_masks(tiles, 1.0), 3), timed(reference, 3)
    yield by_time(f"outlines of {len(tiles):,} tiles of 32 x 32", ours, theirs, 1.0)


def overlay() -> Iterator[Row]:
    """S4: the overlay of 4,096 shapes of five kinds, all in view at 8 px a tile; 16 ms are allowed."""
    import os

    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtGui import QImage, QPainter
    from PyQt6.QtWidgets import QApplication

    from rushweed.core.document.model.shape import Box, Polygon
    from rushweed.core.document.model.sheet import Cell
    from rushweed.ui.desk.shape_marks import ShapeMarks
    from rushweed.ui.desk.view import View
    from rushweed.ui.kit.theme import Look

    _app = QApplication.instance() or QApplication(["bench"])
    kinds = (
        Box(0, 0, 16, 16), Polygon(((0, 16), (16, 0), (16, 16))), Box(0, 0, 16, 8, "one-way"),
        Box(2, 2, 12, 12, "sensor"), Polygon(((0, 0), (16, 4), (14, 16), (3, 12), (1, 6))),
    )  # fmt: skip
    cells = [
        Cell(f"c{n}", f"c{n}", (n % 64 * 16, n // 64 * 16, 16, 16), (0, 0), (kinds[n % 5],))
        for n in range(4096)
    ]
    marks, view = ShapeMarks(Look()), View()
    view.zoom = 0.5
    image = QImage(800, 568, QImage.Format.Format_ARGB32_Premultiplied)

    def work() -> None:
        painter = QPainter(image)
        marks.paint_cells(painter, view, cells, cells)
        painter.end()

    work()
    yield by_time("overlay of 4,096 shapes beside 16 ms", timed(work, 15), 0.016, 1.0)
