"""The ways frames are registered, and how they may move, in words."""

from __future__ import annotations

from rushweed.core.animate.register import How, Moves

WAYS: tuple[tuple[How, str, str], ...] = (
    ("match", "Best match", "Each frame where it agrees best with its neighbours"),
    ("feet", "Feet", "Foot lines onto the commonest one, up and down only"),
    ("centre", "Centre", "Centres of mass onto that of the first frame"),
    ("outline", "Outline", "The boxes around the art onto that of the first frame"),
)
AS_DRAWN = "As drawn"
MOVES: dict[str, Moves] = {"feet kept": "ground", "sideways": "sideways", "both ways": "both"}
MOVES_HELP = (
    "How frames may move. Feet kept: Centre and Outline go sideways, Best match also puts feet that "
    "left the ground line back on it. Both ways: the method decides up and down too."
)
