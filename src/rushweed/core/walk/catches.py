"""Where a walk catches although the ground is level: a body is drawn along every level edge both ways, and
thrown at every wall at several speeds; slots and spikes of the outline count too.

The mover meets the merged outline, so seams between tiles that fit do not count; what is left is told.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.level.outline_faults import outline_faults
from rushweed.core.walk import edge_kernels, kernels
from rushweed.core.walk import terms as k
from rushweed.core.walk.edges import NO_EDGES, room_near
from rushweed.core.walk.record import standing_state
from rushweed.core.walk.runs import begin
from rushweed.core.walk.world import World

LEAST, MOST = k.SUB // 64, 2 * k.SUB  # of a step that catches: lower ones are not felt, higher ones are seen
SPEEDS = (1, 2, 4)  # times the speed of running, at which he is thrown
FLIGHT = 90  # steps of a throw
NEAR_PX = 3.0  # within which two places are one


class Catch(NamedTuple):
    """A place, level px, where he stops, hops or sinks: at a step or gap that is hardly seen, a spike, or
    (stop) in the air before a wall."""

    kind: str
    at: tuple[float, float]


def catches(world: World) -> list[Catch]:
    """All such places of a level in side view, from the left. Raises EditError where nobody can walk."""
    walk = begin(world)
    if world.level.view != "side":
        return []
    found = [*_steps(world, walk.numbers), *_thrown(world, walk.numbers)]
    found += [Catch(fault.what, fault.at) for fault in outline_faults(world.rings())]
    kept: list[Catch] = []
    for one in sorted(found, key=lambda c: c.at):
        if all(abs(one.at[0] - c.at[0]) > NEAR_PX or abs(one.at[1] - c.at[1]) > NEAR_PX for c in kept):
            kept.append(one)
    return kept


def _steps(world: World, numbers: np.ndarray) -> list[Catch]:
    """Draw a body that cannot step up along every level edge, both ways: where it stops before a step of less
    than two px."""
    lame = numbers.copy()
    lame[k.P_STEP] = 0
    near, box = room_near()
    edges = world.grid.edges
    level = (edges[:, k.EDGE_FACES] & 1 == 1) & (edges[:, k.EDGE_P] == 0)
    level &= np.isin(edges[:, k.EDGE_SIDE], (k.SOLID, k.FROM_TOP))
    half, found = int(numbers[k.P_WIDE]) // 2, []
    for edge in edges[level].tolist():
        x0, x1, y = edge[k.EDGE_X0], edge[k.EDGE_X1], edge[k.EDGE_Y0]
        for way, end in ((1, x1), (-1, x0)):
            state = standing_state((0.0, 0.0))
            state[k.X], state[k.Y] = end - way * min(half, (x1 - x0) // 2), y
            box[:] = state[k.X] - half * 4, y - numbers[k.P_HIGH], state[k.X] + half * 4, y + 4 * k.SUB
            count = edge_kernels.near_edges(world.grid, NO_EDGES, box, near)
            far = 2 * half + 2 * k.SUB
            left, wall = edge_kernels.across(state, lame, near, count, way * far, -1)
            if left > 0 and wall >= 0:
                top = int(min(near[wall, k.EDGE_Y0], near[wall, k.EDGE_Y1]))
                straight = near[wall, k.EDGE_Q] == 0 or near[wall, k.EDGE_P] == 0
                if straight and LEAST <= y - top <= MOST and _ends_at(near[wall], end):
                    found.append(Catch("step", (end / k.SUB, y / k.SUB)))
    return found


def _ends_at(edge: np.ndarray, x: int) -> bool:
    return min(abs(int(edge[k.EDGE_X0]) - x), abs(int(edge[k.EDGE_X1]) - x)) <= k.SUB


def _thrown(world: World, numbers: np.ndarray) -> list[Catch]:
    """Throw a body at every wall from a little above the ground: where it stays in the air."""
    near, box = room_near()
    ground = k.Ground(world.grid, world.climbs, near, box)
    edges, half, found = world.grid.edges, int(numbers[k.P_WIDE]) // 2, []
    walls = edges[(edges[:, k.EDGE_Q] == 0) & (edges[:, k.EDGE_SIDE] == k.SOLID)]
    for wall in walls.tolist():
        x, foot = wall[k.EDGE_X0], min(wall[k.EDGE_Y1], wall[k.EDGE_Y0] + int(numbers[k.P_HIGH]))
        for way in (1, -1):
            for speed in SPEEDS:
                state = standing_state((0.0, 0.0))
                state[k.X], state[k.Y] = x - way * (half + 8 * k.SUB), foot - 4 * k.SUB
                state[k.VX] = way * speed * numbers[k.P_RUN]
                high = int(state[k.Y])
                box[:] = state[k.X] - half, high - numbers[k.P_HIGH], state[k.X] + half, high
                count = edge_kernels.near_edges(world.grid, NO_EDGES, box, near)
                if _shut(near[:count], box):
                    continue
                for _ in range(FLIGHT):
                    before = int(state[k.Y])
                    keys = k.RIGHT if way > 0 else k.LEFT
                    kernels.step(state, keys, numbers, ground, NO_EDGES)
                    if state[k.MODE] != k.AIR:
                        break
                    if int(state[k.Y]) == before and state[k.VY] > 8 * numbers[k.P_GRAVITY]:
                        found.append(Catch("stop", (int(state[k.X]) / k.SUB, int(state[k.Y]) / k.SUB)))
                        break
    return found


def _shut(near: np.ndarray, box: np.ndarray) -> bool:
    """Whether some edge passes through a box: there is no room in it."""
    x0, x1 = near[:, k.EDGE_X0], near[:, k.EDGE_X1]
    y0 = np.minimum(near[:, k.EDGE_Y0], near[:, k.EDGE_Y1])
    y1 = np.maximum(near[:, k.EDGE_Y0], near[:, k.EDGE_Y1])
    return bool(((x0 < box[2]) & (x1 > box[0]) & (y0 < box[3]) & (y1 > box[1])).any())
