"""The ways frames are registered, in words."""

from __future__ import annotations

from rushweed.core.animate.register import How

WAYS: tuple[tuple[How, str, str], ...] = (
    ("feet", "Feet", "Foot lines onto the commonest one, up and down only"),
    ("centre", "Centre", "Centres of mass onto that of the first frame"),
    ("outline", "Outline", "The boxes around the art onto that of the first frame"),
    ("match", "Best match", "Each frame where it agrees best with its neighbours"),
)
