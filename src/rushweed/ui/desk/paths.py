"""Painter paths of very many polygons, made from whole arrays."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import chain

import numpy as np
from PyQt6.QtCore import QByteArray, QDataStream, QIODevice
from PyQt6.QtGui import QPainterPath

# As QDataStream writes a path: how many elements, each with its kind and place, then two numbers.
ELEMENT = np.dtype([("kind", ">i4"), ("x", ">f8"), ("y", ">f8")])
MOVE, LINE = 0, 1

Ring = Sequence[tuple[float, float]]


def rings_path(rings: Sequence[Ring], places: Sequence[tuple[float, float]]) -> QPainterPath:
    """Closed rings as one path with the winding fill, each moved by its place."""
    lengths = np.fromiter(map(len, rings), np.int64, len(rings))
    points = np.fromiter(chain.from_iterable(chain.from_iterable(rings)), float).reshape(-1, 2)
    points += np.repeat(np.asarray(places, float).reshape(-1, 2), lengths, axis=0)
    return points_path(points, lengths)


def points_path(points: np.ndarray, lengths: np.ndarray) -> QPainterPath:
    """As `rings_path`, of points (n, 2) one ring after the other, and how many belong to each."""
    path = QPainterPath()
    if not len(lengths):
        return path
    starts = np.cumsum(lengths) - lengths
    # Each ring once more its first point, which closes it.
    order = np.insert(np.arange(len(points)), starts + lengths, starts)
    elements = np.empty(len(order), ELEMENT)
    elements["kind"] = LINE
    elements["kind"][starts + np.arange(len(starts))] = MOVE
    elements["x"], elements["y"] = points[order].T
    written = np.array([len(order)], ">i4").tobytes() + elements.tobytes() + np.array([0, 1], ">i4").tobytes()
    data = QByteArray(written)  # the stream only points to it
    stream = QDataStream(data, QIODevice.OpenModeFlag.ReadOnly)
    stream >> path  # type: ignore[operator]
    return path
