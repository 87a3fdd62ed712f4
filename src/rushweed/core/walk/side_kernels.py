"""A step of a walker seen from the side, compiled: on the ground, in the air, on a ladder."""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import A1, A2, I8, NONE, PAIR, compiled
from rushweed.core.walk.edge_kernels import across, against_wall, along, share_of, steepness, toward
from rushweed.core.walk.terms import (
    AIR,
    BOUNCED,
    BUMPED,
    CLIMB,
    DOWN,
    DROPPED,
    EDGE_BOUNCE,
    EDGE_FRICTION,
    EDGE_OWNER,
    EDGE_P,
    EDGE_Q,
    EDGE_SIDE,
    EVENTS,
    FACING,
    FAR,
    FRICTION,
    GRABBED,
    GRACE,
    GROUND,
    JUMP,
    JUMPED,
    KEYS,
    LANDED,
    LANDING,
    LEFT,
    LET_GO,
    MODE,
    ONE_WAY,
    OWNER,
    P_ACCEL,
    P_AIR,
    P_CLIMB,
    P_CUT,
    P_FALL,
    P_GRACE,
    P_GRAVITY,
    P_HIGH,
    P_JUMP,
    P_RUN,
    P_STEP,
    P_TAN,
    P_WISH,
    RIGHT,
    RISING,
    SAFE_X,
    SAFE_Y,
    SOLID,
    SPEED,
    SUB,
    UP,
    USUAL_FRICTION,
    VX,
    VY,
    WISH,
    X,
    Y,
)


@compiled(NONE(A1, A1))
def _stand(state: np.ndarray, edge: np.ndarray) -> None:
    state[MODE] = GROUND
    state[OWNER] = edge[EDGE_OWNER]
    state[FRICTION] = edge[EDGE_FRICTION]
    state[ONE_WAY] = 1 if edge[EDGE_SIDE] != SOLID else 0


@compiled(NONE(A1, A1, A2, I8))
def _on_ground(state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int) -> None:
    """Walk sideways on the ground: up slopes and low steps, down them without leaving the ground."""
    by = state[VX]
    sign = 1 if by > 0 else -1
    from_x, tangent = state[X], numbers[P_TAN]
    left, wall = across(state, numbers, near, count, by, -1)
    if left > 0:
        at_x, at_y = state[X], state[Y]
        lift = max(numbers[P_STEP], left * tangent // SUB + 1)
        above, _head = along(state, numbers, near, count, -lift, (0, -1))
        still, _wall = across(state, numbers, near, count, sign * left, -1)
        down, ground = along(state, numbers, near, count, lift - above, (0, -1))
        if still < left and ground >= 0 and steepness(near[ground]) <= tangent:
            left = still
        else:
            state[X], state[Y] = at_x, at_y
    if left > 0:
        against_wall(state, numbers, near, wall, sign, abs(by) - left)
    reach = max(numbers[P_STEP], abs(state[X] - from_x) * tangent // SUB + 1)
    at_y = state[Y]
    _left, ground = along(state, numbers, near, count, reach, (0, -1))
    if ground >= 0 and steepness(near[ground]) <= tangent:
        _stand(state, near[ground])
        state[VY] = 0
        return
    state[Y] = at_y
    state[MODE], state[OWNER] = AIR, -1
    state[VY] = numbers[P_GRAVITY] // 2


@compiled(NONE(A1, A1, A1))
def _land(state: np.ndarray, numbers: np.ndarray, ground: np.ndarray) -> None:
    speed, bounce = state[VY], min(ground[EDGE_BOUNCE], 256)
    back = share_of(speed, bounce, 256)
    state[SPEED] = speed
    if back > numbers[P_GRAVITY] * 8:
        state[VY] = numbers[P_GRAVITY] - back
        state[EVENTS] |= BOUNCED
        return
    _stand(state, ground)
    state[EVENTS] |= LANDING
    state[VY], state[RISING], state[LANDED] = 0, 0, 0


@compiled(NONE(A1, A1, A2, I8, A1, I8))
def _slide(
    state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, slope: np.ndarray, left: int
) -> None:
    """Down a slope that is too steep to stand on."""
    if slope[EDGE_P] == 0 or slope[EDGE_Q] == 0:
        return
    sign = 1 if slope[EDGE_P] > 0 else -1
    aside = left * slope[EDGE_Q] // abs(slope[EDGE_P]) + 1
    across(state, numbers, near, count, sign * aside, -1)
    _left, ground = along(state, numbers, near, count, left, (0, -1))
    if state[VX] * sign < 0:
        state[VX] = 0
    if ground >= 0 and steepness(near[ground]) <= numbers[P_TAN]:
        _land(state, numbers, near[ground])


@compiled(NONE(A1, A1, A2, I8, I8))
def _in_air(state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, ignore: int) -> None:
    by, tangent = state[VY], numbers[P_TAN]
    if by < 0:
        left, head = along(state, numbers, near, count, by, (0, -1))
        if left > 0:
            state[EVENTS] |= BUMPED
            bounce = min(near[head, EDGE_BOUNCE], 256) if head >= 0 else 0
            state[VY] = -share_of(state[VY], bounce, 256)
            state[RISING] = 0
    if state[VX] != 0:
        sign = 1 if state[VX] > 0 else -1
        speed = state[VX]
        left, wall = across(state, numbers, near, count, speed, -1)
        ramp = wall >= 0 and steepness(near[wall]) <= tangent and by >= 0
        if left > 0 and not ramp:
            against_wall(state, numbers, near, wall, sign, abs(speed) - left)
    if by >= 0:
        left, ground = along(state, numbers, near, count, by, (ignore, -1))
        if ground >= 0:
            if steepness(near[ground]) <= tangent:
                _land(state, numbers, near[ground])
                return
            _slide(state, numbers, near, count, near[ground], left)
            if state[MODE] == GROUND:
                return
    state[VY] = min(state[VY] + numbers[P_GRAVITY], numbers[P_FALL])


@compiled(PAIR(A2, I8, I8, I8))
def ladder(climbs: np.ndarray, x: int, high: int, low: int) -> tuple[int, int]:
    """The stretch of ladder at x that reaches into `high` to `low`: its two ends, else FAR and -FAR."""
    top, foot = FAR, -FAR
    for n in range(climbs.shape[0]):
        if climbs[n, 0] <= x <= climbs[n, 2] and climbs[n, 1] <= low and climbs[n, 3] >= high:
            top, foot = min(top, climbs[n, 1]), max(foot, climbs[n, 3])
    return top, foot


@compiled(NONE(A1, A1, A2, I8, A2, I8))
def _climb(
    state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, climbs: np.ndarray, keys: int
) -> None:
    """Up and down a ladder, slowly sideways off it; its top and solid ground are held on to."""
    speed, half = numbers[P_CLIMB], numbers[P_HIGH] // 2
    top, _foot = ladder(climbs, state[X], state[Y] - half, state[Y])
    way = (1 if keys & DOWN else 0) - (1 if keys & UP else 0)
    if way < 0:
        along(state, numbers, near, count, -min(speed, max(state[Y] - top, 0)), (2, -1))
    elif way > 0:
        from_y = state[Y]
        _left, ground = along(state, numbers, near, count, speed, (0, -1))
        if ground >= 0:
            below, _low = ladder(climbs, state[X], state[Y] + 1, state[Y] + SUB)
            if near[ground, EDGE_SIDE] == SOLID or below == FAR:
                _stand(state, near[ground])
                state[EVENTS] |= LET_GO
                return
            state[Y] = from_y
            along(state, numbers, near, count, speed, (2, -1))
    aside = (1 if keys & RIGHT else 0) - (1 if keys & LEFT else 0)
    across(state, numbers, near, count, aside * (speed // 2), -1)
    state[VX], state[VY] = 0, 0
    top, _foot = ladder(climbs, state[X], state[Y] - half, state[Y])
    if top == FAR:
        state[MODE] = AIR
        state[EVENTS] |= LET_GO
        state[GRACE] = numbers[P_GRACE]
    elif way <= 0 and state[Y] <= top:
        _left, ground = along(state, numbers, near, count, 0, (0, -1))
        if ground >= 0 and steepness(near[ground]) <= numbers[P_TAN]:
            _stand(state, near[ground])
            state[EVENTS] |= LET_GO


@compiled(NONE(A1, A1, A2, I8, A2, I8))
def step_from_side(
    state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, climbs: np.ndarray, keys: int
) -> None:
    """What the keys ask of one who is seen from the side, then as far as it can be done."""
    pressed = keys & ~state[KEYS]
    want = (1 if keys & RIGHT else 0) - (1 if keys & LEFT else 0)
    if want != 0:
        state[FACING] = want
    if pressed & JUMP:
        state[WISH] = numbers[P_WISH] + 1
    ignore = 0
    if state[MODE] != CLIMB and climbs.shape[0] > 0:
        top, _foot = ladder(climbs, state[X], state[Y] - numbers[P_HIGH] // 2, state[Y])
        below, _low = ladder(climbs, state[X], state[Y] + 1, state[Y] + SUB)
        up = keys & UP and top < state[Y] and state[RISING] == 0
        down = keys & DOWN and below != FAR and (state[MODE] == AIR or state[ONE_WAY] == 1)
        if up or down:
            state[MODE], state[OWNER], state[VX], state[VY] = CLIMB, -1, 0, 0
            state[EVENTS] |= GRABBED
    if state[MODE] == CLIMB:
        if not pressed & JUMP:
            _climb(state, numbers, near, count, climbs, keys)
            return
        state[MODE] = AIR
        state[EVENTS] |= LET_GO
        state[GRACE] = 0 if keys & DOWN else 1
    if state[MODE] == GROUND and pressed & DOWN and state[ONE_WAY] == 1:
        state[MODE], state[OWNER], state[GRACE] = AIR, -1, 0
        state[VY] = numbers[P_GRAVITY] // 2
        state[EVENTS] |= DROPPED
        ignore = 1
    grip = numbers[P_AIR]
    if state[MODE] == GROUND:
        grip = max(numbers[P_ACCEL] * min(state[FRICTION], 4 * USUAL_FRICTION) // USUAL_FRICTION, 1)
    state[VX] = toward(state[VX], want * numbers[P_RUN], grip)
    if state[WISH] > 0 and (state[MODE] == GROUND or state[GRACE] > 0):
        state[MODE], state[OWNER] = AIR, -1
        state[VY] = numbers[P_GRAVITY] // 2 - numbers[P_JUMP]
        state[GRACE], state[WISH], state[RISING] = 0, 0, 1
        state[EVENTS] |= JUMPED
    if state[MODE] == GROUND:
        _on_ground(state, numbers, near, count)
        state[GRACE] = numbers[P_GRACE]
        if state[MODE] == GROUND and state[OWNER] < 0:
            state[SAFE_X], state[SAFE_Y] = state[X], state[Y]
    else:
        if state[RISING] == 1 and not keys & JUMP and state[VY] < 0:
            state[VY] = share_of(state[VY], numbers[P_CUT], 256)
            state[RISING] = 0
        if state[VY] >= 0:
            state[RISING] = 0
        _in_air(state, numbers, near, count, ignore)
        state[GRACE] = max(state[GRACE] - 1, 0)
        state[ONE_WAY] = state[ONE_WAY] if state[MODE] == GROUND else 0
    state[WISH] = max(state[WISH] - 1, 0)
