"""Many short walks at once, for reach.py: the same mover, driven by programs of keys."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numba import types

from rushweed.core.compiled import A1, A2, B1, I8, NONE, compiled
from rushweed.core.walk.edge_kernels import GRID, GROUND_TYPE, near_edges, steepness, sweep
from rushweed.core.walk.kernels import carry, room_needed, step_among
from rushweed.core.walk.terms import (
    AIR,
    DOWN_WAY,
    EDGE_COLUMNS,
    EDGE_FACES,
    EDGE_OWNER,
    EDGE_P,
    EDGE_Q,
    EDGE_SIDE,
    EDGE_X0,
    EDGE_X1,
    EDGE_Y0,
    EDGE_Y1,
    FAR,
    FROM_TOP,
    MODE,
    P_HIGH,
    P_TAN,
    P_TOP,
    P_WIDE,
    RISING,
    SOLID,
    SUB,
    VX,
    VY,
    Grid,
    Ground,
    X,
    Y,
)

UNTIL_AIR = -1  # in place of a number of steps: until he has left the ground
MOST_WAIT = 480  # steps until he stands again
AROUND = 16 * SUB  # that edges are gathered further than a step needs, for the next ones


class Search(NamedTuple):
    """All that a search walks in, int64, places in 1/65536 px."""

    numbers: np.ndarray  # (NUMBERS,)
    ground: Ground
    moving: np.ndarray  # (n, EDGE_COLUMNS), edges of what moves and of pushed things, as drawn
    tables: np.ndarray  # (n, 2), how far each mover is from there, step by step
    rounds: np.ndarray  # (movers * 7,): where its rows begin, how many, whether it goes round, its box there
    work: np.ndarray  # as `moving`, where that is now
    held: np.ndarray  # (5,): the box that edges were gathered for; steps that keys were held until in the air
    seen: np.ndarray  # (rows, columns) of squares, 1 where the body was
    frame: np.ndarray  # (7,): left, top and side of the squares; how far left, right, up and down he may go


class Walked(NamedTuple):
    """What became of programs."""

    ends: np.ndarray  # (programs, STATE_SIZE), the states they end in
    took: np.ndarray  # (programs,), their steps, -1 if he is lost
    air: np.ndarray  # (programs,), for how many steps keys were held until he was in the air


SEARCH = types.NamedTuple((A1, GROUND_TYPE, A2, A2, A1, A2, A1, A2, A1), Search)
WALKED = types.NamedTuple((A2, A1, A1), Walked)


@compiled(I8(A2, A1, I8, I8))
def _time_of(tables: np.ndarray, rounds: np.ndarray, owner: int, steps: int) -> int:
    """The row of `tables` for something that moves, after so many steps."""
    count = rounds[owner * 7 + 1]
    at = steps % count if rounds[owner * 7 + 2] else min(steps, count - 1)
    return rounds[owner * 7] + at


@compiled(B1(A1, A1, A1, I8, I8, I8))
def _is_near(
    state: np.ndarray, numbers: np.ndarray, rounds: np.ndarray, owner: int, dx: int, dy: int
) -> bool:
    """Whether something that moves, now moved by (dx, dy), may meet him in this step."""
    half, at = numbers[P_WIDE] // 2 + AROUND, owner * 7 + 3
    if state[X] + half < rounds[at] + dx or state[X] - half > rounds[at + 2] + dx:
        return False
    return bool(
        state[Y] + AROUND >= rounds[at + 1] + dy
        and state[Y] - numbers[P_HIGH] - AROUND <= rounds[at + 3] + dy
    )


@compiled(NONE(A1, A1, A2, A1))
def _mark(state: np.ndarray, numbers: np.ndarray, seen: np.ndarray, frame: np.ndarray) -> None:
    """Mark what the body covers; `frame` is that of `Search`."""
    half, side = numbers[P_WIDE] // 2, frame[2]
    x0, x1 = (state[X] - half - frame[0]) // side, (state[X] + half - 1 - frame[0]) // side
    y0, y1 = (state[Y] - numbers[P_HIGH] - frame[1]) // side, (state[Y] - 1 - frame[1]) // side
    for row in range(max(y0, 0), min(y1, seen.shape[0] - 1) + 1):
        for column in range(max(x0, 0), min(x1, seen.shape[1] - 1) + 1):
            seen[row, column] = 1


@compiled(NONE(A2, I8, I8, I8))
def _shift(edges: np.ndarray, n: int, dx: int, dy: int) -> None:
    edges[n, EDGE_X0] += dx
    edges[n, EDGE_X1] += dx
    edges[n, EDGE_Y0] += dy
    edges[n, EDGE_Y1] += dy


@compiled(NONE(SEARCH, I8))
def _put_movers(search: Search, now: int) -> None:
    """Put all that moves where it is after so many steps; pushed things stand where they were put."""
    moving, work, tables = search.moving, search.work, search.tables
    for n in range(moving.shape[0]):
        for part in range(moving.shape[1]):
            work[n, part] = moving[n, part]
        if work[n, EDGE_OWNER] < search.rounds.shape[0] // 7:
            at = _time_of(tables, search.rounds, work[n, EDGE_OWNER], now)
            _shift(work, n, tables[at, 0], tables[at, 1])


@compiled(B1(A1, SEARCH, I8), inside=True)
def _go_on(state: np.ndarray, search: Search, now: int) -> bool:
    """Move all that moves by a step, with who stands on it or is in its way; whether he was crushed."""
    tables, rounds, held, work = search.tables, search.rounds, search.held, search.work
    for owner in range(rounds.shape[0] // 7):
        a, b = _time_of(tables, rounds, owner, now), _time_of(tables, rounds, owner, now + 1)
        dx, dy = tables[b, 0] - tables[a, 0], tables[b, 1] - tables[a, 1]
        if dx == 0 and dy == 0:
            continue
        if _is_near(state, search.numbers, rounds, owner, tables[a, 0], tables[a, 1]):
            held[2] = held[0] - 1  # the room for edges is drawn on
            if carry(state, search.numbers, search.ground, work, owner, (dx, dy)):
                return True
        for n in range(work.shape[0]):
            if work[n, EDGE_OWNER] == owner:
                _shift(work, n, dx, dy)
    return False


@compiled(B1(A1, A1, A1, A1, B1), inside=True)
def _has_left(state: np.ndarray, numbers: np.ndarray, box: np.ndarray, held: np.ndarray, first: bool) -> bool:
    """Whether he may leave in this step what edges were gathered for; `held` becomes what they are now to be
    gathered for."""
    room_needed(state, numbers, box)
    if first or box[0] < held[0] or box[1] < held[1] or box[2] > held[2] or box[3] > held[3]:
        held[0], held[1] = box[0] - AROUND, box[1] - AROUND
        held[2], held[3] = box[2] + AROUND, box[3] + AROUND
        return True
    return False


@compiled(I8(A1, I8, A1, SEARCH))
def run_program(state: np.ndarray, began: int, program: np.ndarray, search: Search) -> int:
    """Walk a program (keys, steps, keys, steps ...) and then wait until he stands. Returns the steps it took,
    or -1 if he fell out, was crushed, or never stood."""
    numbers, held, work, near, frame = (
        search.numbers, search.held, search.work, search.ground.near, search.frame,
    )  # fmt: skip
    held[4] = 0
    _put_movers(search, began)
    now, waited, fixed = began, 0, 0
    part, left, keys = 0, program[1], program[0]
    while True:
        while part < program.shape[0] and (left == 0 or left == UNTIL_AIR and state[MODE] == AIR):
            part += 2
            if part < program.shape[0]:
                keys, left = program[part], program[part + 1]
        if part >= program.shape[0]:
            keys = 0
            still = state[VX] == 0 and state[MODE] != AIR and (not numbers[P_TOP] or state[VY] == 0)
            if still and state[RISING] == 0 and waited > 0:
                return now - began
            waited += 1
            if waited > MOST_WAIT:
                return -1
        elif left > 0:
            left -= 1
        else:
            held[4] += 1
            if now - began > MOST_WAIT:
                return -1
        if _go_on(state, search, now):
            return -1
        if _has_left(state, numbers, search.ground.box, held, now == began):
            fixed = near_edges(search.ground.grid, work[:0], held, near)
        count = fixed
        for n in range(min(work.shape[0], near.shape[0] - fixed)):
            for column in range(EDGE_COLUMNS):
                near[count, column] = work[n, column]
            count += 1
        step_among(state, keys, numbers, near, count, search.ground.climbs)
        now += 1
        _mark(state, numbers, search.seen, frame)
        if state[Y] > frame[6] or state[X] < frame[3] or state[X] > frame[4] or state[Y] < frame[5]:
            return -1


@compiled(NONE(A1, I8, A2, WALKED, SEARCH))
def run_programs(start: np.ndarray, began: int, programs: np.ndarray, out: Walked, search: Search) -> None:
    """Walk every program from one state, after `began` steps."""
    for n in range(programs.shape[0]):
        state = out.ends[n]
        for part in range(start.shape[0]):
            state[part] = start[part]
        out.took[n] = run_program(state, began, programs[n], search)
        out.air[n] = search.held[4]


@compiled(B1(A1, A1, A2, I8))
def fits(state: np.ndarray, numbers: np.ndarray, near: np.ndarray, count: int) -> bool:
    """Whether no solid edge passes through the body."""
    half = numbers[P_WIDE] // 2
    left, right, top, foot = state[X] - half, state[X] + half, state[Y] - numbers[P_HIGH], state[Y]
    for n in range(count):
        if near[n, EDGE_SIDE] != SOLID:
            continue
        x0, y0, x1, y1 = near[n, EDGE_X0], near[n, EDGE_Y0], near[n, EDGE_X1], near[n, EDGE_Y1]
        if x1 <= left or x0 >= right or min(y0, y1) >= foot or max(y0, y1) <= top:
            continue
        if x0 == x1 or y0 == y1:
            return False
        a, b = max(x0, left), min(x1, right)
        at_a, at_b = y0 + (a - x0) * (y1 - y0) // (x1 - x0), y0 + (b - x0) * (y1 - y0) // (x1 - x0)
        if min(at_a, at_b) < foot and max(at_a, at_b) > top:
            return False
    return True


@compiled(I8(GROUND_TYPE, A2, A1, I8, A2, A1))
def standing_places(
    ground: Ground, bodies: np.ndarray, numbers: np.ndarray, side: int, out: np.ndarray, state: np.ndarray
) -> int:
    """Where a body can stand on an edge, at the middle of every `side` (1/65536 px) across: rows of x and y.
    Returns how many there are, also where `out` is too short for them."""
    edges, near, box = ground.grid.edges, ground.near, ground.box
    half, high, found = numbers[P_WIDE] // 2, numbers[P_HIGH], 0
    lift = half * numbers[P_TAN] // SUB + SUB
    for n in range(edges.shape[0]):
        edge = edges[n]
        if (
            edge[EDGE_FACES] & 1 == 0
            or edge[EDGE_SIDE] not in (SOLID, FROM_TOP)
            or steepness(edge) > numbers[P_TAN]
        ):
            continue
        first, last = edge[EDGE_X0] // side, (edge[EDGE_X1] - 1) // side
        for column in range(first, last + 1):
            x = min(max(column * side + side // 2, edge[EDGE_X0]), edge[EDGE_X1])
            y = edge[EDGE_Y0] + (x - edge[EDGE_X0]) * (edge[EDGE_Y1] - edge[EDGE_Y0]) // (
                edge[EDGE_X1] - edge[EDGE_X0]
            )
            state[X], state[Y] = x, y - lift
            box[0], box[1], box[2], box[3] = x - half, y - lift - high, x + half, y + SUB
            count = near_edges(ground.grid, bodies, box, near)
            down, which = sweep(near, count, DOWN_WAY, (x - half, x + half, y - lift), lift, (0, -1))
            if which < 0 or steepness(near[which]) > numbers[P_TAN]:
                continue
            state[Y] = y - lift + down
            if not fits(state, numbers, near, count):
                continue
            if found < out.shape[0]:
                out[found, 0], out[found, 1] = state[X], state[Y]
            found += 1
    return found


@compiled(B1(GRID, I8, I8))
def _in_solid(grid: Grid, x: int, y: int) -> bool:
    """Whether a place lies in something solid: what the nearest edge to its left has on its right side."""
    edges, offsets, items, buckets = grid.edges, grid.offsets, grid.items, grid.buckets
    side, gx, gy, gw, gh = buckets[0], buckets[1], buckets[2], buckets[3], buckets[4]
    row = y // side - gy
    if row < 0 or row >= gh:
        return False
    for column in range(min(x // side - gx, gw - 1), -1, -1):
        best, inside = -FAR, False
        for n in range(offsets[row * gw + column], offsets[row * gw + column + 1]):
            edge = edges[items[n]]
            low, high = min(edge[EDGE_Y0], edge[EDGE_Y1]), max(edge[EDGE_Y0], edge[EDGE_Y1])
            if edge[EDGE_SIDE] != SOLID or y < low or y >= high:
                continue
            at = edge[EDGE_X0] + (y - edge[EDGE_Y0]) * edge[EDGE_Q] // edge[EDGE_P]
            if best < at <= x:
                best, inside = at, edge[EDGE_FACES] & 2 == 0
        if best > -FAR:
            return bool(inside)
    return False


@compiled(I8(GROUND_TYPE, A2, A1, A1, A2, A1))
def free_places(
    ground: Ground, bodies: np.ndarray, numbers: np.ndarray, area: np.ndarray, out: np.ndarray,
    state: np.ndarray,
) -> int:  # fmt: skip
    """In the top view: where a body has room, at the middle of every square of an `area` (left, top, right,
    bottom, side, 1/65536 px)."""
    near, box = ground.near, ground.box
    half, high, side, found = numbers[P_WIDE] // 2, numbers[P_HIGH], area[4], 0
    for row in range(area[1] // side, (area[3] - 1) // side + 1):
        for column in range(area[0] // side, (area[2] - 1) // side + 1):
            state[X], state[Y] = column * side + side // 2, row * side + side // 2
            box[0], box[1], box[2], box[3] = state[X] - half, state[Y] - high, state[X] + half, state[Y]
            count = near_edges(ground.grid, bodies, box, near)
            if _in_solid(ground.grid, state[X], state[Y] - high // 2):
                continue
            if fits(state, numbers, near, count):
                if found < out.shape[0]:
                    out[found, 0], out[found, 1] = state[X], state[Y]
                found += 1
    return found
