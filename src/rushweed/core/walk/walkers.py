"""Who walks: two ready sets of numbers, the body, what is shown when, and the numbers of the mover."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import ids_of, level_of, put_level
from rushweed.core.document.errors import EditError
from rushweed.core.document.limits import check_walker
from rushweed.core.document.model.animation import Animation, State
from rushweed.core.document.model.level import Level, Walker
from rushweed.core.document.model.project import Project
from rushweed.core.walk import terms as k

LIGHT = Walker()
HEAVY = Walker(
    run=4.5, run_s=0.35, jump=2.0, jump_s=0.32, low_percent=55, fall=30, slope=40, edge_ms=50, land_ms=80,
    climb=2.2, strength=160,
)  # fmt: skip
READY = {"light": LIGHT, "heavy": HEAVY}

MOMENTS = ("standing", "running", "rising", "falling", "climbing", "landing")
GUESSES = {
    "standing": ("stand", "idle", "rest", "wait"),
    "running": ("run", "walk", "move", "jog"),
    "rising": ("rise", "jump", "up"),
    "falling": ("fall", "drop", "down"),
    "climbing": ("climb", "ladder"),
    "landing": ("land",),
}
LANDING_MS = 120  # for which landing is shown
FOOT_SHARE = 0.6  # of its width: how deep a body is that is seen from above
BODY_UNITS = (0.8, 1.8)  # where no animation has a body

Body = tuple[int, int, int, int]


def walker_of(level: Level) -> Walker:
    """The level's own, or the light one."""
    return level.walker or LIGHT


def numbers_only(walker: Walker) -> Walker:
    """A walker's numbers, without whom he is: what the ready sets give."""
    return replace(walker, states=(), body=None, group="")


def ready_name(walker: Walker) -> str:
    """Light, heavy, or own."""
    mine = numbers_only(walker)
    return next((name for name, ready in READY.items() if ready == mine), "own")


def set_walker(project: Project, level_id: str, **fields: Any) -> Project:
    """Change how somebody moves in a level. Raises EditError for numbers nobody can walk by."""
    level = level_of(project, level_id)
    walker = replace(walker_of(level), **fields)
    check_walker(walker)
    if walker.group and not any(g.id == walker.group for g in project.groups):
        raise EditError("That group is gone.", "Choose another.")
    return project if walker == level.walker else put_level(project, replace(level, walker=walker))


def take_ready(project: Project, level_id: str, name: str) -> Project:
    """Give the level one of the ready sets; who walks stays. Raises EditError if there is none so called."""
    if name not in READY:
        raise EditError(f"There is no walker {name!r}.", f"Use {' or '.join(READY)}.")
    mine = walker_of(level_of(project, level_id))
    made = replace(READY[name], states=mine.states, body=mine.body, group=mine.group)
    return set_walker(project, level_id, **{f: getattr(made, f) for f in made.__struct_fields__})


def show_when(project: Project, level_id: str, moment: str, animation_id: str) -> Project:
    """Which animation is shown at one of the walker's moments; "" for the one guessed by its name."""
    if moment not in MOMENTS:
        raise EditError(f"A walker is never {moment!r}.", f"Use {', '.join(MOMENTS)}.")
    if animation_id and all(a.id != animation_id for a in project.animations):
        raise EditError("That animation is gone.", "Choose another.")
    states = tuple(s for s in walker_of(level_of(project, level_id)).states if s.name != moment)
    if animation_id:
        states = (*states, State(moment, animation_id))
    return set_walker(project, level_id, states=states)


def shown_when(project: Project, walker: Walker) -> dict[str, Animation]:
    """The animation of each moment: as it was set, else the first whose name says so. Guesses keep to one
    character: that of the animation guessed first."""
    by_id = {a.id: a for a in project.animations}
    found = {s.name: by_id[s.animation] for s in walker.states if s.animation in by_id}
    sheets: set[str] = {_sheet_of(project, a) for a in found.values()}
    figures = [a for a in project.animations if a.frames and not a.tile]
    for moment in MOMENTS:
        if moment in found:
            continue
        for word in GUESSES[moment]:
            guess = next(
                (a for a in figures
                 if _says(a.name, word) and (not sheets or _sheet_of(project, a) in sheets)),
                None,
            )  # fmt: skip
            if guess is not None:
                found[moment] = guess
                sheets = sheets or {_sheet_of(project, guess)}
                break
    return found


def _says(name: str, word: str) -> bool:
    """Whether a word of a name begins so."""
    return any(part.startswith(word) for part in _words(name))


@lru_cache(maxsize=4096)
def _words(name: str) -> tuple[str, ...]:
    """The words of a name in small letters, without what is no letter."""
    return tuple("".join(c if c.isalpha() else " " for c in name.casefold()).split())


def _sheet_of(project: Project, animation: Animation) -> str:
    first = animation.frames[0].cell if animation.frames else ""
    return next((s.id for s in project.sheets if any(c.id == first for c in s.cells)), "")


def body_of(project: Project, walker: Walker, ppu: float, top: bool = False) -> Body:
    """x, y, w, h in px from the feet: the walker's own, else that of his animations, else the usual box; seen
    from above only its lower part, on which he stands."""
    if walker.body is not None:
        return walker.body
    shown = shown_when(project, walker)
    bodies = (shown[moment].body for moment in MOMENTS if moment in shown)
    body = next((b for b in bodies if b is not None), None)
    if body is None:
        wide, high = (max(round(side * ppu), 1) for side in BODY_UNITS)
        body = -(wide // 2), -high, wide, high
    if top:
        x, y, wide, high = body
        low = max(min(high, round(wide * FOOT_SHARE)), 1)
        body = x, y + high - low, wide, low
    return body


def gravity_of(walker: Walker) -> float:
    """What pulls him down, units a second squared: it follows from how high and how long he jumps."""
    return 2 * max(walker.jump, 1 / 16) / (walker.jump_s * walker.jump_s)


def numbers_of(walker: Walker, body: Body, ppu: float, top: bool) -> np.ndarray:
    """The walker in whole numbers for the mover: int64, by the P_ names of kernels.py."""
    out = np.zeros(k.NUMBERS, np.int64)

    def speed(units: float) -> int:
        return round(units * ppu * k.SUB / k.STEPS)

    out[k.P_WIDE], out[k.P_HIGH] = body[2] * k.SUB, body[3] * k.SUB
    out[k.P_RUN] = speed(walker.run)
    steps = max(walker.run_s * k.STEPS, 1.0)
    out[k.P_ACCEL] = max(round(out[k.P_RUN] / steps), 1)
    out[k.P_AIR] = max(out[k.P_ACCEL] * 3 // 4, 1)
    out[k.P_GRAVITY] = max(round(gravity_of(walker) * ppu * k.SUB / k.STEPS**2), 1)
    out[k.P_JUMP] = speed(2 * walker.jump / walker.jump_s)
    out[k.P_CUT] = round(walker.low_percent * 256 / 100)
    out[k.P_TAN] = round(math.tan(math.radians(walker.slope)) * 1024) * (k.SUB // 1024)
    out[k.P_STEP] = round(walker.step_px * k.SUB)
    out[k.P_GRACE] = round(walker.edge_ms * k.STEPS / 1000)
    out[k.P_WISH] = round(walker.land_ms * k.STEPS / 1000)
    out[k.P_CLIMB] = speed(walker.climb)
    out[k.P_FALL] = speed(walker.fall)
    out[k.P_TOP] = 1 if top else 0
    out[k.P_CORNER] = round(walker.corner_px * k.SUB)
    out[k.P_EIGHT] = 1 if walker.eight else 0
    return out


def units_of(project: Project, level: Level) -> float:
    """Px of a unit in a level: those of the first sheet its tiles come from."""
    ids = set(level.table)
    first = next((s for s in project.sheets if not ids.isdisjoint(ids_of(s))), None)
    return first.tune.ppu if first is not None else float(level.cell[0])
