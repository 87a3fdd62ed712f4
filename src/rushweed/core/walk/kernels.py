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
from rushweed.core.walk.terms import (
    AIR,
    BOUNCED,
    BUMPED,
    CLIMB,
    DOWN,
    DOWN_WAY,
    DROPPED,
    EDGE_BOUNCE,
    EDGE_COLUMNS,
    EDGE_COS2,
    EDGE_COSSIN,
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
    FACING,
    FAR,
    FRICTION,
    FROM_BOTTOM,
    FROM_LEFT,
    FROM_RIGHT,
    FROM_TOP,
    GRABBED,
    GRACE,
    GROUND,
    JUMP,
    JUMPED,
    KEYS,
    LANDED,
    LANDING,
    LEFT,
    LEFT_WAY,
    LET_GO,
    MODE,
    ONE_WAY,
    OWNER,
    P_ACCEL,
    P_AIR,
    P_CLIMB,
    P_CORNER,
    P_CUT,
    P_EIGHT,
    P_FALL,
    P_GRACE,
    P_GRAVITY,
    P_HIGH,
    P_JUMP,
    P_RUN,
    P_STEP,
    P_TAN,
    P_TOP,
    P_WIDE,
    P_WISH,
    PUSHES,
    RIGHT,
    RIGHT_WAY,
    RISING,
    SAFE_X,
    SAFE_Y,
    SOLID,
    SPEED,
    SUB,
    SUNK,
    UP,
    UP_WAY,
    USUAL_FRICTION,
    VX,
    VY,
    WALLED,
    WISH,
    X,
    Y,
)


@compiled(I8(A2, A1, A1, A1, A2, A1, A2))
def near_edges(
    edges: np.ndarray, offsets: np.ndarray, items: np.ndarray, grid: np.ndarray, moving: np.ndarray,
    box: np.ndarray, out: np.ndarray,
) -> int:  # fmt: skip
    """Copy the edges of all buckets that a box (left, top, right, bottom) touches, and all that move."""
    side, gx, gy, gw, gh = grid[0], grid[1], grid[2], grid[3], grid[4]
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


@compiled(PAIR(A2, I8, I8, I8, I8, I8, I8, I8, I8))
def sweep(
    near: np.ndarray,
    count: int,
    way: int,
    low: int,
    high: int,
    front: int,
    most: int,
    ignore: int,
    owner: int,
) -> tuple[int, int]:
    """How far the side `front` of a box, as long as from `low` to `high`, can go one way, at most `most`, and
    the edge that ends it (-1). `ignore` 1 leaves out one-way edges that it touches, 2 all; edges of `owner`
    are left out, or, from -2 down, all others than those of -owner - 2."""
    best, which = most, -1
    for n in range(count):
        side = near[n, EDGE_SIDE]
        if side != SOLID:
            if ignore == 2:
                continue
            if way == DOWN_WAY and side != FROM_TOP or way == UP_WAY and side != FROM_BOTTOM:
                continue
            if way == RIGHT_WAY and side != FROM_LEFT or way == LEFT_WAY and side != FROM_RIGHT:
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
        if distance == 0 and ignore == 1 and side != SOLID:
            continue
        if distance == best and which >= 0 and not _comes_first(near[n], near[which]):
            continue
        best, which = distance, n
    return best, which


@compiled(I8(I8, I8, I8))
def _share(value: int, share: int, whole: int) -> int:
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
        far, which = sweep(near, count, RIGHT_WAY, top, foot, state[X] + half, by, 0, owner)
        state[X] += far
        return by - far, which
    far, which = sweep(near, count, LEFT_WAY, top, foot, -(state[X] - half), -by, 0, owner)
    state[X] -= far
    return -by - far, which


@compiled(PAIR(A1, A1, A2, I8, I8, I8, I8))
def along(
    state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, by: int, ignore: int, owner: int
) -> tuple[int, int]:
    """Move up or down as far as there is room; returns how far is left, without sign, and what ended it."""
    half, high = numbers[P_WIDE] // 2, numbers[P_HIGH]
    if by >= 0:
        far, which = sweep(
            near, count, DOWN_WAY, state[X] - half, state[X] + half, state[Y], by, ignore, owner
        )
        state[Y] += far
        return by - far, which
    far, which = sweep(
        near, count, UP_WAY, state[X] - half, state[X] + half, -(state[Y] - high), -by, ignore, owner
    )
    state[Y] -= far
    return -by - far, which


@compiled(NONE(A1, A1))
def _stand(state: np.ndarray, edge: np.ndarray) -> None:
    state[MODE] = GROUND
    state[OWNER] = edge[EDGE_OWNER]
    state[FRICTION] = edge[EDGE_FRICTION]
    state[ONE_WAY] = 1 if edge[EDGE_SIDE] != SOLID else 0


@compiled(NONE(A1, A1, A2, I8, I8, I8))
def _against_wall(
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
    state[VX] = -_share(state[VX], bounce, 256)


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
        above, _head = along(state, numbers, near, count, -lift, 0, -1)
        still, _wall = across(state, numbers, near, count, sign * left, -1)
        down, ground = along(state, numbers, near, count, lift - above, 0, -1)
        if still < left and ground >= 0 and steepness(near[ground]) <= tangent:
            left = still
        else:
            state[X], state[Y] = at_x, at_y
    if left > 0:
        _against_wall(state, numbers, near, wall, sign, abs(by) - left)
    reach = max(numbers[P_STEP], abs(state[X] - from_x) * tangent // SUB + 1)
    at_y = state[Y]
    _left, ground = along(state, numbers, near, count, reach, 0, -1)
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
    back = _share(speed, bounce, 256)
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
    _left, ground = along(state, numbers, near, count, left, 0, -1)
    if state[VX] * sign < 0:
        state[VX] = 0
    if ground >= 0 and steepness(near[ground]) <= numbers[P_TAN]:
        _land(state, numbers, near[ground])


@compiled(NONE(A1, A1, A2, I8, I8))
def _in_air(state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, ignore: int) -> None:
    by, tangent = state[VY], numbers[P_TAN]
    if by < 0:
        left, head = along(state, numbers, near, count, by, 0, -1)
        if left > 0:
            state[EVENTS] |= BUMPED
            bounce = min(near[head, EDGE_BOUNCE], 256) if head >= 0 else 0
            state[VY] = -_share(state[VY], bounce, 256)
            state[RISING] = 0
    if state[VX] != 0:
        sign = 1 if state[VX] > 0 else -1
        speed = state[VX]
        left, wall = across(state, numbers, near, count, speed, -1)
        ramp = wall >= 0 and steepness(near[wall]) <= tangent and by >= 0
        if left > 0 and not ramp:
            _against_wall(state, numbers, near, wall, sign, abs(speed) - left)
    if by >= 0:
        left, ground = along(state, numbers, near, count, by, ignore, -1)
        if ground >= 0:
            if steepness(near[ground]) <= tangent:
                _land(state, numbers, near[ground])
                return
            _slide(state, numbers, near, count, near[ground], left)
            if state[MODE] == GROUND:
                return
    state[VY] = min(state[VY] + numbers[P_GRAVITY], numbers[P_FALL])


@compiled(I8(I8, I8, I8))
def _toward(value: int, target: int, by: int) -> int:
    if value < target:
        return min(value + by, target)
    return max(value - by, target)


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
        along(state, numbers, near, count, -min(speed, max(state[Y] - top, 0)), 2, -1)
    elif way > 0:
        from_y = state[Y]
        _left, ground = along(state, numbers, near, count, speed, 0, -1)
        if ground >= 0:
            below, _low = ladder(climbs, state[X], state[Y] + 1, state[Y] + SUB)
            if near[ground, EDGE_SIDE] == SOLID or below == FAR:
                _stand(state, near[ground])
                state[EVENTS] |= LET_GO
                return
            state[Y] = from_y
            along(state, numbers, near, count, speed, 2, -1)
    aside = (1 if keys & RIGHT else 0) - (1 if keys & LEFT else 0)
    across(state, numbers, near, count, aside * (speed // 2), -1)
    state[VX], state[VY] = 0, 0
    top, _foot = ladder(climbs, state[X], state[Y] - half, state[Y])
    if top == FAR:
        state[MODE] = AIR
        state[EVENTS] |= LET_GO
        state[GRACE] = numbers[P_GRACE]
    elif way <= 0 and state[Y] <= top:
        _left, ground = along(state, numbers, near, count, 0, 0, -1)
        if ground >= 0 and steepness(near[ground]) <= numbers[P_TAN]:
            _stand(state, near[ground])
            state[EVENTS] |= LET_GO


@compiled(NONE(A1, A1, A2, I8, A2, I8))
def _side(
    state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, climbs: np.ndarray, keys: int
) -> None:
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
    state[VX] = _toward(state[VX], want * numbers[P_RUN], grip)
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
            state[VY] = _share(state[VY], numbers[P_CUT], 256)
            state[RISING] = 0
        if state[VY] >= 0:
            state[RISING] = 0
        _in_air(state, numbers, near, count, ignore)
        state[GRACE] = max(state[GRACE] - 1, 0)
        state[ONE_WAY] = state[ONE_WAY] if state[MODE] == GROUND else 0
    state[WISH] = max(state[WISH] - 1, 0)


@compiled(NONE(A1, A1, A2, I8, I8, I8, I8, B1))
def _slip(state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, wall: int, by: int, left: int,
          sideways: bool) -> None:  # fmt: skip
    """In the top view: along a wall that stands aslant, by the part of the way that goes along it."""
    if wall < 0 or near[wall, EDGE_COSSIN] == 0:
        return
    sign = 1 if by > 0 else -1
    other = sign * (left * near[wall, EDGE_COSSIN] // SUB if near[wall, EDGE_COSSIN] > 0
                    else -(left * -near[wall, EDGE_COSSIN] // SUB))  # fmt: skip
    if sideways:
        along(state, numbers, near, count, other, 0, -1)
        across(state, numbers, near, count, sign * (left * near[wall, EDGE_COS2] // SUB), -1)
    else:
        across(state, numbers, near, count, other, -1)
        along(state, numbers, near, count, sign * (left * (SUB - near[wall, EDGE_COS2]) // SUB), 0, -1)


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
            shut, _edge = along(state, numbers, near, count, way * corner, 0, -1)
            left, _wall = across(state, numbers, near, count, sign * SUB, -1)
        else:
            shut, _edge = across(state, numbers, near, count, way * corner, -1)
            left, _wall = along(state, numbers, near, count, sign * SUB, 0, -1)
        if shut == 0 and left == 0:
            free += way if free == 0 else 10
    state[X], state[Y] = x, y
    if free == 1 or free == -1:
        if sideways:
            along(state, numbers, near, count, free * min(abs(by), corner), 0, -1)
        else:
            across(state, numbers, near, count, free * min(abs(by), corner), -1)


@compiled(NONE(A1, A1, A2, I8, I8))
def _from_above(state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int, keys: int) -> None:
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
    state[VX] = _toward(state[VX], ways[0] * run, grip)
    state[VY] = _toward(state[VY], ways[1] * run, grip)
    by = state[VX]
    left, wall = across(state, numbers, near, count, by, -1)
    if left > 0:
        _slip(state, numbers, near, count, wall, by, left, True)
        if ways[1] == 0 and (wall < 0 or near[wall, EDGE_COSSIN] == 0):
            _round(state, numbers, near, count, by, True)
        if wall >= 0 and near[wall, EDGE_COSSIN] == 0:
            _against_wall(state, numbers, near, wall, 1 if by > 0 else -1, abs(by) - left)
    by = state[VY]
    left, wall = along(state, numbers, near, count, by, 0, -1)
    if left > 0:
        _slip(state, numbers, near, count, wall, by, left, False)
        if ways[0] == 0 and (wall < 0 or near[wall, EDGE_COSSIN] == 0):
            _round(state, numbers, near, count, by, False)
        if wall >= 0 and near[wall, EDGE_COSSIN] == 0:
            bounce = min(near[wall, EDGE_BOUNCE], 256)
            if near[wall, EDGE_OWNER] >= 0:
                state[PUSHES] = (near[wall, EDGE_OWNER] + 1) * 4 + (2 if by > 0 else 3)
            state[EVENTS] |= WALLED
            state[VY] = -_share(state[VY], bounce, 256)
    state[MODE] = GROUND
    state[SAFE_X], state[SAFE_Y] = state[X], state[Y]


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
        _from_above(state, numbers, near, count, keys)
    else:
        _side(state, numbers, near, count, climbs, keys)
    state[KEYS] = keys


@compiled(NONE(A1, I8, A1, A2, A1, A1, A1, A2, A2, A2, A1))
def step(
    state: np.ndarray, keys: int, numbers: np.ndarray, edges: np.ndarray, offsets: np.ndarray,
    items: np.ndarray, grid: np.ndarray, moving: np.ndarray, climbs: np.ndarray, near: np.ndarray,
    box: np.ndarray,
) -> None:  # fmt: skip
    """One step: `state` becomes what it is 1/120 s later. `near` and `box` are room to work in."""
    room_needed(state, numbers, box)
    count = near_edges(edges, offsets, items, grid, moving, box, near)
    step_among(state, keys, numbers, near, count, climbs)


@compiled(B1(A1, A1, A2, A1, A1, A1, A2, I8, I8, I8, A2, A1))
def carry(
    state: np.ndarray, numbers: np.ndarray, edges: np.ndarray, offsets: np.ndarray, items: np.ndarray,
    grid: np.ndarray, moving: np.ndarray, owner: int, dx: int, dy: int, near: np.ndarray, box: np.ndarray,
) -> bool:  # fmt: skip
    """Something that moves by (dx, dy) takes along who stands on it and pushes who is in its way; `moving`
    still has its edges where they were, and they must be moved afterwards. Returns whether the body was
    crushed."""
    half, high = numbers[P_WIDE] // 2, numbers[P_HIGH]
    far, deep = abs(dx) + SUB, abs(dy) + SUB
    box[0], box[1] = state[X] - half - far, state[Y] - high - deep
    box[2], box[3] = state[X] + half + far, state[Y] + deep
    count = near_edges(edges, offsets, items, grid, moving, box, near)
    mine = -owner - 2
    if state[MODE] == GROUND and state[OWNER] == owner and not numbers[P_TOP]:
        across(state, numbers, near, count, dx, owner)
        if dy < 0:
            left, _edge = along(state, numbers, near, count, dy, 0, owner)
            return bool(left > 0)
        along(state, numbers, near, count, dy, 0, owner)
        return False
    top, foot = state[Y] - high, state[Y]
    left_side, right_side = state[X] - half, state[X] + half
    if dx != 0:  # it comes from the side: as far as the body would run into it the other way
        if dx > 0:
            room, which = sweep(near, count, LEFT_WAY, top, foot, -left_side, dx, 0, mine)
        else:
            room, which = sweep(near, count, RIGHT_WAY, top, foot, right_side, -dx, 0, mine)
        if which >= 0 and room < abs(dx):
            by = abs(dx) - room
            left, _edge = across(state, numbers, near, count, by if dx > 0 else -by, owner)
            if left > 0:
                return True
    shift = dx  # then up or down, seen from where it is after that
    left_side, right_side = state[X] - half - shift, state[X] + half - shift
    if dy > 0:
        room, which = sweep(near, count, UP_WAY, left_side, right_side, -(state[Y] - high), dy, 0, mine)
    elif dy < 0:
        room, which = sweep(near, count, DOWN_WAY, left_side, right_side, state[Y], -dy, 0, mine)
    else:
        return False
    if which >= 0 and room < abs(dy):
        by = abs(dy) - room
        left, _edge = along(state, numbers, near, count, by if dy > 0 else -by, 0, owner)
        if left > 0:
            return True
    return False


@compiled(NONE(A1, A1, A2, A1, A1, A1, A2, A2, A1))
def settle(
    state: np.ndarray, numbers: np.ndarray, edges: np.ndarray, offsets: np.ndarray, items: np.ndarray,
    grid: np.ndarray, moving: np.ndarray, near: np.ndarray, box: np.ndarray,
) -> None:  # fmt: skip
    """Lift who stands on something that turned, until he stands on top of it again."""
    half, high, owner = numbers[P_WIDE] // 2, numbers[P_HIGH], state[OWNER]
    if state[MODE] != GROUND or owner < 0 or numbers[P_TOP]:
        return
    box[0], box[1] = state[X] - half, state[Y] - high - SUNK
    box[2], box[3] = state[X] + half, state[Y] + SUNK
    count = near_edges(edges, offsets, items, grid, moving, box, near)
    down, _edge = sweep(
        near, count, DOWN_WAY, state[X] - half, state[X] + half, state[Y] - SUNK, SUNK, 0, -owner - 2
    )
    if down < SUNK:
        along(state, numbers, near, count, down - SUNK, 0, owner)
