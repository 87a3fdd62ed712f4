"""The ways frames are registered, and how they may move, in words."""

from __future__ import annotations

from rushweed.core.animate.register import How, Moves

WAYS: tuple[tuple[How, str, str], ...] = (
    ("feet", "Feet", "Foot lines onto the commonest one, up and down only"),
    ("centre", "Centre", "Centres of mass onto that of the first frame"),
    ("outline", "Outline", "The boxes around the art onto that of the first frame"),
    ("match", "Best match", "Each frame where it agrees best with its neighbours"),
)
MOVES: dict[str, Moves] = {"keeping the feet": "ground", "sideways only": "sideways", "both ways": "both"}
MOVES_HELP = (
    "How frames may move. Keeping the feet: Centre and Outline go sideways, Best match also puts feet that "
    "left the ground line back on it. Both ways: the method decides up and down too."
)
