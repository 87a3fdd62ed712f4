"""One step of a walker, in whole numbers, so that it is the same on every machine.

A body is an upright box; `x` is its middle, `y` its foot. It meets edges, of which it never crosses one: each
move is a sweep along one axis that ends exactly where the body would touch. What it meets is the merged
outline, so that it does not matter into how many tiles a solid was cut; ties are settled by what the edges
are, never by their order. Arrays are int64: edges (n, EDGE_COLUMNS), states (STATE_SIZE), numbers (NUMBERS);
see terms.py.
"""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import A1, A2, B1, I8, NONE, PAIR, compiled
from rushweed.core.walk.edge_kernels import GROUND_TYPE, across, along, near_edges, sweep
from rushweed.core.walk.side_kernels import step_from_side
from rushweed.core.walk.terms import (
    DOWN_WAY,
    EVENTS,
    GROUND,
    KEYS,
    LANDED,
    LEFT_WAY,
    MODE,
    OWNER,
    P_CLIMB,
    P_CORNER,
    P_HIGH,
    P_JUMP,
    P_RUN,
    P_STEP,
    P_TAN,
    P_TOP,
    P_WIDE,
    PUSHES,
    RIGHT_WAY,
    SUB,
    SUNK,
    UP_WAY,
    VX,
    VY,
    Ground,
    X,
    Y,
)
from rushweed.core.walk.top_kernels import step_from_above


@compiled(NONE(A1, A1, A1))
def room_needed(state: np.ndarray, numbers: np.ndarray, box: np.ndarray) -> None:
    """Where a step can come to: `box` becomes left, top, right, bottom."""
    half, high = numbers[P_WIDE] // 2, numbers[P_HIGH]
    far = max(abs(state[VX]), numbers[P_RUN])
    deep = max(abs(state[VY]), numbers[P_RUN], numbers[P_JUMP], numbers[P_CLIMB])
    far += max(numbers[P_CORNER], SUB) + deep
    deep += max(numbers[P_STEP], far * numbers[P_TAN] // SUB) + max(numbers[P_CORNER], SUB) + SUB
    box[0], box[1] = state[X] - half - far, state[Y] - high - deep
    box[2], box[3] = state[X] + half + far, state[Y] + deep


@compiled(NONE(A1, I8, A1, A2, I8, A2))
def step_among(
    state: np.ndarray, keys: int, numbers: np.ndarray, near: np.ndarray, count: int, climbs: np.ndarray
) -> None:
    """One step among the first edges of `near`, which are all that it can meet."""
    state[EVENTS], state[PUSHES] = 0, 0
    state[LANDED] += 1
    if numbers[P_TOP]:
        step_from_above(state, numbers, near, count, keys)
    else:
        step_from_side(state, numbers, near, count, climbs, keys)
    state[KEYS] = keys


@compiled(NONE(A1, I8, A1, GROUND_TYPE, A2))
def step(state: np.ndarray, keys: int, numbers: np.ndarray, ground: Ground, moving: np.ndarray) -> None:
    """One step: `state` becomes what it is 1/120 s later."""
    room_needed(state, numbers, ground.box)
    count = near_edges(ground.grid, moving, ground.box, ground.near)
    step_among(state, keys, numbers, ground.near, count, ground.climbs)


@compiled(B1(A1, A1, GROUND_TYPE, A2, I8, PAIR))
def carry(
    state: np.ndarray, numbers: np.ndarray, ground: Ground, moving: np.ndarray, owner: int,
    by: tuple[int, int],
) -> bool:  # fmt: skip
    """Something that moves `by` (x, y) takes along who stands on it and pushes who is in its way; `moving`
    still has its edges where they were, and they must be moved afterwards. Returns whether the body was
    crushed."""
    dx, dy = by
    near, box = ground.near, ground.box
    half, high = numbers[P_WIDE] // 2, numbers[P_HIGH]
    far, deep = abs(dx) + SUB, abs(dy) + SUB
    box[0], box[1] = state[X] - half - far, state[Y] - high - deep
    box[2], box[3] = state[X] + half + far, state[Y] + deep
    count = near_edges(ground.grid, moving, box, near)
    mine = -owner - 2
    if state[MODE] == GROUND and state[OWNER] == owner and not numbers[P_TOP]:
        across(state, numbers, near, count, dx, owner)
        if dy < 0:
            left, _edge = along(state, numbers, near, count, dy, (0, owner))
            return bool(left > 0)
        along(state, numbers, near, count, dy, (0, owner))
        return False
    top, foot = state[Y] - high, state[Y]
    left_side, right_side = state[X] - half, state[X] + half
    if dx != 0:  # it comes from the side: as far as the body would run into it the other way
        if dx > 0:
            room, which = sweep(near, count, LEFT_WAY, (top, foot, -left_side), dx, (0, mine))
        else:
            room, which = sweep(near, count, RIGHT_WAY, (top, foot, right_side), -dx, (0, mine))
        if which >= 0 and room < abs(dx):
            far = abs(dx) - room
            left, _edge = across(state, numbers, near, count, far if dx > 0 else -far, owner)
            if left > 0:
                return True
    shift = dx  # then up or down, seen from where it is after that
    left_side, right_side = state[X] - half - shift, state[X] + half - shift
    if dy > 0:
        room, which = sweep(near, count, UP_WAY, (left_side, right_side, high - state[Y]), dy, (0, mine))
    elif dy < 0:
        room, which = sweep(near, count, DOWN_WAY, (left_side, right_side, state[Y]), -dy, (0, mine))
    else:
        return False
    if which >= 0 and room < abs(dy):
        far = abs(dy) - room
        left, _edge = along(state, numbers, near, count, far if dy > 0 else -far, (0, owner))
        if left > 0:
            return True
    return False


@compiled(NONE(A1, A1, GROUND_TYPE, A2))
def settle(state: np.ndarray, numbers: np.ndarray, ground: Ground, moving: np.ndarray) -> None:
    """Lift who stands on something that turned, until he stands on top of it again."""
    half, high, owner = numbers[P_WIDE] // 2, numbers[P_HIGH], state[OWNER]
    if state[MODE] != GROUND or owner < 0 or numbers[P_TOP]:
        return
    left, right, near, box = state[X] - half, state[X] + half, ground.near, ground.box
    box[0], box[1], box[2], box[3] = left, state[Y] - high - SUNK, right, state[Y] + SUNK
    count = near_edges(ground.grid, moving, box, near)
    down, _edge = sweep(near, count, DOWN_WAY, (left, right, state[Y] - SUNK), SUNK, (0, -owner - 2))
    if down < SUNK:
        along(state, numbers, near, count, down - SUNK, (0, owner))
