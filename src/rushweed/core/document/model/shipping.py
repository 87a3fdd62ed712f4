"""Ways to ship."""

from __future__ import annotations

from typing import Literal

from rushweed.core.document.model.base import Frozen

Sides = Literal["any", "four", "power"]
Makes = Literal["game", "plain", "page"]
Texture = Literal["tuned", "never", "none", "bc1", "bc3", "bc7", "etc2"]
PlainPart = Literal["frames", "rows", "gif", "apng", "webp", "outlines", "tiles", "pictures", "licences"]
PLAIN_PARTS: tuple[PlainPart, ...] = (
    "frames", "rows", "gif", "apng", "webp", "outlines", "tiles", "pictures", "licences",
)  # fmt: skip


class Pages(Frozen, frozen=True):
    """How frames are laid on pages of at most `limit` px a side, whose `sides` are any, multiples of 4 or
    powers of two. Around each frame its edge is repeated for `gutter` px, or more where its sheet asks for
    it. With `trim` clear borders are left out; with `turned` a picture that equals another mirrored or
    turned is placed once; with `grid` the cells of an evenly cut sheet stand whole at one pitch on pages of
    their own. The first `clean` mipmaps of a page never mix neighbours."""

    gutter: int = 2
    limit: int = 2048
    sides: Sides = "four"
    trim: bool = True
    turned: bool = False
    grid: bool = False
    clean: int = 2


class Way(Frozen, frozen=True):
    """A way to ship: what it `makes`, and the `folder` it goes to, from the project's own. Of `sheets`,
    `levels` and `animations` None means all; with a level or an animation goes what it shows.

    For a game: the `pages`, the form of their `picture`, the codec of their `texture` ("tuned" as each sheet
    says, "never" no texture), and the form of a level's `tiles`. For plain files: the `parts`, frames
    `whole` or trimmed, pictures of levels at all `scales`, and once more with their `shapes`.
    """

    id: str
    name: str
    makes: Makes = "game"
    folder: str = ""
    sheets: tuple[str, ...] | None = None
    levels: tuple[str, ...] | None = None
    animations: tuple[str, ...] | None = None
    pages: Pages = Pages()
    picture: Literal["png", "webp"] = "png"
    texture: Texture = "tuned"
    tiles: Literal["runs", "cells"] = "runs"
    parts: tuple[PlainPart, ...] = PLAIN_PARTS
    whole: bool = False
    scales: tuple[int, ...] = (1,)
    shapes: bool = False
