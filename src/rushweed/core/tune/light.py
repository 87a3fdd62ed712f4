"""Lights a picture by its normal map, as a game does with one lamp.

Lambert's law: light falls as the cosine between the normal and the way to the lamp. Normal maps are read
with x right, y up, z towards the viewer, each channel from -1 at 0 to 1 at 255.
"""

from __future__ import annotations

import numpy as np

AMBIENT = 0.35  # of the light that comes from everywhere
HEIGHT = 0.45  # of the picture's larger side: how high the lamp hangs over it
GLOW = np.array([1.0, 0.86, 0.62], np.float32)  # a warm lamp


def lit(rgba: np.ndarray, normals: np.ndarray, lamp: tuple[float, float]) -> np.ndarray:
    """The picture, uint8 (height, width, 4), under a lamp at `lamp` px from its top left.

    normals: uint8 of the same size. Where a normal is clear the px looks straight at the viewer.
    """
    height, width = rgba.shape[:2]
    n = normals[..., :3].astype(np.float32) / 127.5 - 1
    n[normals[..., 3] == 0] = (0, 0, 1)
    n /= np.maximum(np.linalg.norm(n, axis=-1, keepdims=True), 1e-6)
    ys, xs = np.mgrid[:height, :width].astype(np.float32) + 0.5
    high = HEIGHT * max(width, height)
    way = np.stack((lamp[0] - xs, ys - lamp[1], np.full_like(xs, high)), axis=-1)
    far = np.linalg.norm(way, axis=-1)
    falls = np.clip((n * way).sum(axis=-1) / far, 0, 1) * np.clip(1.6 - far / (3 * high), 0.2, 1.3)
    shade = AMBIENT + falls[..., None] * GLOW
    out = rgba.copy()
    out[..., :3] = np.clip(np.rint(rgba[..., :3] * shade), 0, 255).astype(np.uint8)
    return out
