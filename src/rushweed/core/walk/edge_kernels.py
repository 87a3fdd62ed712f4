"""Edges that a box meets on its way, compiled: which are near, and how far it comes."""

from __future__ import annotations

import numpy as np
from numba import types

from rushweed.core.compiled import A1, A2, B1, I8, NONE, PAIR, TRIPLE, compiled
from rushweed.core.walk.terms import (
    DOWN_WAY,
    EDGE_BOUNCE,
    EDGE_COLUMNS,
    EDGE_FRICTION,
    EDGE_OWNER,
    EDGE_P,
    EDGE_Q,
    EDGE_SIDE,
    EDGE_X0,
    EDGE_X1,
    EDGE_Y0,
    EDGE_Y1,
    EVENTS,
    FAR,
    FROM_BOTTOM,
    FROM_LEFT,
    FROM_RIGHT,
    FROM_TOP,
    LEFT_WAY,
    P_HIGH,
    P_RUN,
    P_WIDE,
    PUSHES,
    RIGHT_WAY,
    SOLID,
    SUB,
    SUNK,
    UP_WAY,
    VX,
    WALLED,
    Grid,
    Ground,
    X,
    Y,
)

GRID = types.NamedTuple((A2, A1, A1, A1), Grid)
GROUND_TYPE = types.NamedTuple((GRID, A2, A2, A1), Ground)


@compiled(I8(GRID, A2, A1, A2))
def near_edges(grid: Grid, moving: np.ndarray, box: np.ndarray, out: np.ndarray) -> int:
    """Copy the edges of all buckets that a box (left, top, right, bottom) touches, and all that move."""
    edges, offsets, items, buckets = grid.edges, grid.offsets, grid.items, grid.buckets
    side, gx, gy, gw, gh = buckets[0], buckets[1], buckets[2], buckets[3], buckets[4]
    count = 0
    x0, x1 = max(box[0] // side - gx, 0), min(box[2] // side - gx, gw - 1)
    y0, y1 = max(box[1] // side - gy, 0), min(box[3] // side - gy, gh - 1)
    for row in range(y0, y1 + 1):
        for column in range(x0, x1 + 1):
            bucket = row * gw + column
            for k in range(offsets[bucket], offsets[bucket + 1]):
                n = items[k]
                if edges[n, 2] < box[0] or edges[n, 0] > box[2]:
                    continue
                if min(edges[n, 1], edges[n, 3]) > box[3] or max(edges[n, 1], edges[n, 3]) < box[1]:
                    continue
                if count < out.shape[0]:
                    for part in range(EDGE_COLUMNS):
                        out[count, part] = edges[n, part]
                    count += 1
    for n in range(moving.shape[0]):
        if count < out.shape[0]:
            for part in range(EDGE_COLUMNS):
                out[count, part] = moving[n, part]
            count += 1
    return count


@compiled(I8(A1))
def steepness(edge: np.ndarray) -> int:
    """How steep an edge is, 1/65536, the same uphill and downhill."""
    if edge[EDGE_Q] == 0:
        return FAR
    return abs(edge[EDGE_P]) * SUB // edge[EDGE_Q]


@compiled(B1(A1, A1))
def _comes_first(one: np.ndarray, other: np.ndarray) -> bool:
    """Which of two edges that are touched at once counts: the flatter, then the one that is solid, slower,
    and duller."""
    a, b = steepness(one), steepness(other)
    if a != b:
        return a < b
    if (one[EDGE_SIDE] == SOLID) != (other[EDGE_SIDE] == SOLID):
        return bool(one[EDGE_SIDE] == SOLID)
    if one[EDGE_FRICTION] != other[EDGE_FRICTION]:
        return bool(one[EDGE_FRICTION] > other[EDGE_FRICTION])
    return bool(one[EDGE_BOUNCE] < other[EDGE_BOUNCE])


@compiled(PAIR(A2, I8, I8, TRIPLE, I8, PAIR))
def sweep(
    near: np.ndarray, count: int, way: int, side: tuple[int, int, int], most: int, without: tuple[int, int]
) -> tuple[int, int]:
    """How far a side of a box (its two ends across the way, and where it stands along it) can go one way, at
    most `most`, and the edge that ends it (-1). `without` are two numbers: 1 leaves out one-way edges that it
    touches, 2 all of them; then the owner whose edges are left out, or, from -2 down, all others than those
    of -owner - 2."""
    low, high, front = side
    ignore, owner = without
    best, which = most, -1
    for n in range(count):
        stops = near[n, EDGE_SIDE]
        if stops != SOLID:
            if ignore == 2:
                continue
            if way == DOWN_WAY and stops != FROM_TOP or way == UP_WAY and stops != FROM_BOTTOM:
                continue
            if way == RIGHT_WAY and stops != FROM_LEFT or way == LEFT_WAY and stops != FROM_RIGHT:
                continue
        if owner >= 0 and near[n, EDGE_OWNER] == owner:
            continue
        if owner <= -2 and near[n, EDGE_OWNER] != -owner - 2:
            continue
        p, q = near[n, EDGE_P], near[n, EDGE_Q]
        if way in (DOWN_WAY, UP_WAY):
            u0, v0, u1, v1 = near[n, EDGE_X0], near[n, EDGE_Y0], near[n, EDGE_X1], near[n, EDGE_Y1]
        else:
            u0, v0, u1, v1 = near[n, EDGE_Y0], near[n, EDGE_X0], near[n, EDGE_Y1], near[n, EDGE_X1]
            p, q = q, p
            if u0 > u1:
                u0, v0, u1, v1 = u1, v1, u0, v0
            if q < 0:
                p, q = -p, -q
        if u1 <= low or u0 >= high:
            continue
        if way in (UP_WAY, LEFT_WAY):
            v0, v1, p = -v0, -v1, -p
        first, last = v0, v1
        if u0 < low:
            first = v0 + (low - u0) * p // q
        if u1 > high:
            last = v0 + (high - u0) * p // q
        distance = min(first, last) - front
        if distance < 0 and distance >= -SUNK and way != DOWN_WAY and near[n, EDGE_OWNER] >= 0:
            distance = 0
        if distance < 0 or distance > best:
            continue
        if distance == 0 and ignore == 1 and stops != SOLID:
            continue
        if distance == best and which >= 0 and not _comes_first(near[n], near[which]):
            continue
        best, which = distance, n
    return best, which


@compiled(I8(I8, I8, I8))
def share_of(value: int, share: int, whole: int) -> int:
    """value * share / whole, towards zero: the same to both sides."""
    if value < 0:
        return -(-value * share // whole)
    return value * share // whole


@compiled(PAIR(A1, A1, A2, I8, I8, I8))
def across(
    state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, by: int, owner: int
) -> tuple[int, int]:
    """Move sideways as far as there is room; returns how far is left, without sign, and what ended it."""
    half, high = numbers[P_WIDE] // 2, numbers[P_HIGH]
    top, foot = state[Y] - high, state[Y]
    if by >= 0:
        far, which = sweep(near, count, RIGHT_WAY, (top, foot, state[X] + half), by, (0, owner))
        state[X] += far
        return by - far, which
    far, which = sweep(near, count, LEFT_WAY, (top, foot, half - state[X]), -by, (0, owner))
    state[X] -= far
    return -by - far, which


@compiled(PAIR(A1, A1, A2, I8, I8, PAIR))
def along(
    state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, by: int, without: tuple[int, int]
) -> tuple[int, int]:
    """Move up or down as far as there is room; returns how far is left, without sign, and what ended it."""
    half, high = numbers[P_WIDE] // 2, numbers[P_HIGH]
    left, right = state[X] - half, state[X] + half
    if by >= 0:
        far, which = sweep(near, count, DOWN_WAY, (left, right, state[Y]), by, without)
        state[Y] += far
        return by - far, which
    far, which = sweep(near, count, UP_WAY, (left, right, high - state[Y]), -by, without)
    state[Y] -= far
    return -by - far, which


@compiled(NONE(A1, A1, A2, I8, I8, I8))
def against_wall(
    state: np.ndarray, numbers: np.ndarray, near: np.ndarray, wall: int, sign: int, moved: int
) -> None:
    """What ended the way takes the speed, or gives some back; what can be pushed leaves him a little."""
    if wall < 0:
        state[VX] = 0
        return
    bounce = min(near[wall, EDGE_BOUNCE], 256)
    state[EVENTS] |= WALLED
    if near[wall, EDGE_OWNER] >= 0:
        state[PUSHES] = (near[wall, EDGE_OWNER] + 1) * 4 + (0 if sign > 0 else 1)
        state[VX] = sign * min(abs(state[VX]), max(moved, numbers[P_RUN] // 4))
        return
    state[VX] = -share_of(state[VX], bounce, 256)


@compiled(I8(I8, I8, I8))
def toward(value: int, target: int, by: int) -> int:
    """A step from a value to a target, never past it."""
    if value < target:
        return min(value + by, target)
    return max(value - by, target)
