"""Lines through the colours of blocks, in NumPy."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

HIDDEN = 0.25  # how much the colour of a px counts that cannot be seen, beside one that is


def seen_weights(blocks: np.ndarray) -> np.ndarray:
    """float32 (n, 16): how much the colour of each px counts, by its alpha squared, as its squared error does
    when it is drawn; hidden colour counts so little that it only decides between equals."""
    alpha = blocks[..., 3].astype(np.float32) / 255
    return np.asarray(np.maximum(alpha * alpha, HIDDEN), np.float32)


def main_axis(px: np.ndarray, weights: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The weighted mean (channels, n) of px (channels, n, 16), and the unit direction along which they
    spread most, by power iteration on their covariance."""
    total = weights.sum(axis=1)
    mean = (px * weights).sum(axis=2) / total
    away = px - mean[..., None]
    channels = len(px)
    spread = np.empty((channels, channels, px.shape[1]), px.dtype)
    for i in range(channels):
        heavy = away[i] * weights
        for j in range(i, channels):
            spread[i, j] = spread[j, i] = np.einsum("ni,ni->n", heavy, away[j])
    most = np.argmax(np.stack([spread[i, i] for i in range(channels)]), axis=0)
    axis = spread[most, :, np.arange(px.shape[1])].T.copy()
    for _ in range(5):
        axis = np.einsum("ijn,jn->in", spread, axis)
        axis /= np.maximum(np.abs(axis).max(axis=0), 1e-20)
    axis /= np.maximum(np.sqrt((axis * axis).sum(axis=0)), 1e-20)
    return mean, axis


def nearest(px: np.ndarray, weights: np.ndarray, palette: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """For px (channels, n, 16) the nearest of palette (channels, n, k): uint8 (n, 16), and the summed
    weighted squared distance (n,)."""
    best = np.full(px.shape[1:], np.inf, np.float32)
    index = np.zeros(px.shape[1:], np.uint8)
    for k in range(palette.shape[2]):
        far = np.zeros(px.shape[1:], np.float32)
        for channel in range(len(px)):
            gap = px[channel] - palette[channel, :, k, None]
            far += gap * gap
        closer = far < best
        np.copyto(best, far, where=closer)
        index[closer] = k
    return index, (best * weights).sum(axis=1)


def totals(
    px: np.ndarray, weights: np.ndarray, index: np.ndarray, count: int
) -> tuple[np.ndarray, np.ndarray]:
    """Per palette place: the weight (n, count) and the weighted sum of each channel (channels, n, count)."""
    weight = np.empty((px.shape[1], count), np.float32)
    summed = np.empty((len(px), px.shape[1], count), np.float32)
    for k in range(count):
        mine = np.where(index == k, weights, np.float32(0))
        weight[:, k] = mine.sum(axis=1)
        for channel in range(len(px)):
            summed[channel, :, k] = np.einsum("ni,ni->n", mine, px[channel])
    return weight, summed


class Normal(NamedTuple):
    """The squared error of a line's ends a and b, but for a constant: aa a^2 + 2 ab a b + bb b^2 - 2 (ax a +
    bx b); aa, ab, bb (n,), ax, bx (channels, n)."""

    aa: np.ndarray
    ab: np.ndarray
    bb: np.ndarray
    ax: np.ndarray
    bx: np.ndarray

    def error(self, channel: int, a: np.ndarray, b: np.ndarray) -> np.ndarray:
        """For ends of shape (..., n) in one channel."""
        far = a * (self.aa * a + 2 * (self.ab * b - self.ax[channel]))
        return np.asarray(far + b * (self.bb * b - 2 * self.bx[channel]))


def normal_form(weight: np.ndarray, summed: np.ndarray, shares: np.ndarray) -> Normal:
    """Of what `totals` gives, for places that lie at `shares` (k,) along the line."""
    rest = 1 - shares
    return Normal(
        weight @ (rest * rest),
        weight @ (rest * shares),
        weight @ (shares * shares),
        summed @ rest,
        summed @ shares,
    )


def best_ends(form: Normal) -> np.ndarray:
    """The ends that err least, float32 (channels, n, 2), not held to any range; one point if all lies at
    it."""
    det = form.aa * form.bb - form.ab * form.ab
    one = det < 1e-4 * np.maximum(form.aa * form.bb, 1e-6)
    safe = np.where(one, 1, det)
    mean = (form.ax + form.bx) / np.maximum(form.aa + 2 * form.ab + form.bb, 1e-20)
    first = np.where(one, mean, (form.bb * form.ax - form.ab * form.bx) / safe)
    last = np.where(one, mean, (form.aa * form.bx - form.ab * form.ax) / safe)
    return np.asarray(np.stack((first, last), axis=2), np.float32)
