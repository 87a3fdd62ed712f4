"""What the numbers of the mover stand for; see kernels.py, which moves by them.

Places are in 1/65536 px (x right, y down), speeds in that a step, and a step is 1/120 s. Rows of edges: of
two ends the first lies further left (or, straight above, further up); EDGE_P over EDGE_Q is the slope, whole
numbers. A one-way edge stops only what comes from its side.
"""

from typing import NamedTuple

import numpy as np

SUB = 65536  # of a px
STEPS = 120  # a second
LONGEST_S = 60  # that a walk can go back

EDGE_X0, EDGE_Y0, EDGE_X1, EDGE_Y1, EDGE_SIDE, EDGE_FRICTION, EDGE_BOUNCE, EDGE_OWNER, EDGE_P, EDGE_Q = range(
    10
)
EDGE_COS2, EDGE_COSSIN = 10, 11  # of the edge's direction, 1/65536
EDGE_FACES = 12  # + 1 where what is solid lies below, + 2 where it lies to the left
EDGE_COLUMNS = 13
SOLID, FROM_TOP, FROM_RIGHT, FROM_BOTTOM, FROM_LEFT = range(5)  # EDGE_SIDE
DOWN_WAY, UP_WAY, RIGHT_WAY, LEFT_WAY = range(4)

LEFT, RIGHT, UP, DOWN, JUMP = 1, 2, 4, 8, 16  # keys

AIR, GROUND, CLIMB = range(3)  # modes
(
    X, Y, VX, VY, MODE, GRACE, WISH, RISING, KEYS, OWNER, FRICTION, FACING, LANDED, EVENTS, SPEED, SAFE_X,
    SAFE_Y, PUSHES, ONE_WAY,
) = range(19)  # fmt: skip
STATE_SIZE = 19
PUSH_WAYS = ((1, 0), (-1, 0), (0, 1), (0, -1))  # PUSHES is (owner + 1) * 4 + the number of one of these, or 0

JUMPED, LANDING, BUMPED, DROPPED, GRABBED, LET_GO, BOUNCED, WALLED, CRUSHED = (
    1 << n for n in range(9)
)  # EVENTS

(
    P_WIDE, P_HIGH, P_RUN, P_ACCEL, P_AIR, P_GRAVITY, P_JUMP, P_CUT, P_TAN, P_STEP, P_GRACE, P_WISH, P_CLIMB,
    P_FALL, P_TOP, P_CORNER, P_EIGHT,
) = range(17)  # fmt: skip
NUMBERS = 17

USUAL_FRICTION = 205  # of 256: that of a shape of which nothing else was said
FAR = 1 << 60
SUNK = 4 * SUB  # that a body which turns may have come into the walker and still stops him


class Grid(NamedTuple):
    """Edges by the square buckets they lie in, all int64."""

    edges: np.ndarray  # (n, EDGE_COLUMNS)
    offsets: np.ndarray  # (buckets + 1,), where in `items` each begins
    items: np.ndarray  # numbers of edges
    buckets: np.ndarray  # their side in 1/65536 px; left, top, columns and rows in buckets


class Ground(NamedTuple):
    """All that stands still, and room to work in, int64."""

    grid: Grid
    climbs: np.ndarray  # (n, 4), left, top, right, bottom of each ladder
    near: np.ndarray  # (ROOM, EDGE_COLUMNS), room for the edges that are near
    box: np.ndarray  # (4,), room for where a step can come to
