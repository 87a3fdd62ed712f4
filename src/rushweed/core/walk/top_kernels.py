"""A step of a walker seen from above, compiled."""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import A1, A2, B1, I8, NONE, PAIR, compiled
from rushweed.core.walk.edge_kernels import across, against_wall, along, share_of, toward
from rushweed.core.walk.terms import (
    DOWN,
    EDGE_BOUNCE,
    EDGE_COS2,
    EDGE_COSSIN,
    EDGE_OWNER,
    EVENTS,
    FACING,
    GROUND,
    LEFT,
    MODE,
    P_ACCEL,
    P_CORNER,
    P_EIGHT,
    P_RUN,
    PUSHES,
    RIGHT,
    SAFE_X,
    SAFE_Y,
    SUB,
    UP,
    VX,
    VY,
    WALLED,
    X,
    Y,
)


@compiled(NONE(A1, A1, A2, I8, PAIR, B1))
def _slip(
    state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, stopped: tuple[int, int],
    sideways: bool,
) -> None:  # fmt: skip
    """In the top view: along a wall that stands aslant, by the part of the way that goes along it. `stopped`:
    how far he did not come, with its sign, and what ended his way."""
    rest, wall = stopped
    if wall < 0 or near[wall, EDGE_COSSIN] == 0:
        return
    sign, left = 1 if rest > 0 else -1, abs(rest)
    other = sign * (left * near[wall, EDGE_COSSIN] // SUB if near[wall, EDGE_COSSIN] > 0
                    else -(left * -near[wall, EDGE_COSSIN] // SUB))  # fmt: skip
    if sideways:
        along(state, numbers, near, count, other, (0, -1))
        across(state, numbers, near, count, sign * (left * near[wall, EDGE_COS2] // SUB), -1)
    else:
        across(state, numbers, near, count, other, -1)
        along(state, numbers, near, count, sign * (left * (SUB - near[wall, EDGE_COS2]) // SUB), (0, -1))


@compiled(NONE(A1, A1, A2, I8, I8, B1))
def _round(
    state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, by: int, sideways: bool
) -> None:
    """In the top view: past a corner that only a few px of the body hang on."""
    corner, sign = numbers[P_CORNER], 1 if by > 0 else -1
    if corner <= 0:
        return
    x, y = state[X], state[Y]
    free = 0
    for way in (-1, 1):
        state[X], state[Y] = x, y
        if sideways:
            shut, _edge = along(state, numbers, near, count, way * corner, (0, -1))
            left, _wall = across(state, numbers, near, count, sign * SUB, -1)
        else:
            shut, _edge = across(state, numbers, near, count, way * corner, -1)
            left, _wall = along(state, numbers, near, count, sign * SUB, (0, -1))
        if shut == 0 and left == 0:
            free += way if free == 0 else 10
    state[X], state[Y] = x, y
    if free == 1 or free == -1:
        if sideways:
            along(state, numbers, near, count, free * min(abs(by), corner), (0, -1))
        else:
            across(state, numbers, near, count, free * min(abs(by), corner), -1)


@compiled(NONE(A1, A1, A2, I8, I8))
def step_from_above(state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, keys: int) -> None:
    """The top view: eight ways, along walls and around corners."""
    ways = (
        (1 if keys & RIGHT else 0) - (1 if keys & LEFT else 0),
        (1 if keys & DOWN else 0) - (1 if keys & UP else 0),
    )
    if ways[0] != 0:
        state[FACING] = ways[0]
    run = numbers[P_RUN]
    if ways[0] != 0 and ways[1] != 0:
        run = run * 46341 // SUB
    grip = numbers[P_RUN] if numbers[P_EIGHT] else numbers[P_ACCEL]
    state[VX] = toward(state[VX], ways[0] * run, grip)
    state[VY] = toward(state[VY], ways[1] * run, grip)
    by = state[VX]
    left, wall = across(state, numbers, near, count, by, -1)
    if left > 0:
        _slip(state, numbers, near, count, (left if by > 0 else -left, wall), True)
        if ways[1] == 0 and (wall < 0 or near[wall, EDGE_COSSIN] == 0):
            _round(state, numbers, near, count, by, True)
        if wall >= 0 and near[wall, EDGE_COSSIN] == 0:
            against_wall(state, numbers, near, wall, 1 if by > 0 else -1, abs(by) - left)
    by = state[VY]
    left, wall = along(state, numbers, near, count, by, (0, -1))
    if left > 0:
        _slip(state, numbers, near, count, (left if by > 0 else -left, wall), False)
        if ways[0] == 0 and (wall < 0 or near[wall, EDGE_COSSIN] == 0):
            _round(state, numbers, near, count, by, False)
        if wall >= 0 and near[wall, EDGE_COSSIN] == 0:
            bounce = min(near[wall, EDGE_BOUNCE], 256)
            if near[wall, EDGE_OWNER] >= 0:
                state[PUSHES] = (near[wall, EDGE_OWNER] + 1) * 4 + (2 if by > 0 else 3)
            state[EVENTS] |= WALLED
            state[VY] = -share_of(state[VY], bounce, 256)
    state[MODE] = GROUND
    state[SAFE_X], state[SAFE_Y] = state[X], state[Y]
