"""Which frame is shown when, and where something stands on its path."""

from __future__ import annotations

from collections.abc import Sequence

from rushweed.core.document.model.animation import Animation, Easing, Frame, Path, Play


def order_of(count: int, play: Play) -> list[int]:
    """The places of one round: there and back shows the first and last frame once."""
    forward = list(range(count))
    return forward + forward[-2:0:-1] if play == "there-and-back" else forward


def round_ms(animation: Animation) -> int:
    """How long one round lasts, in ms."""
    return sum(animation.frames[n].ms for n in order_of(len(animation.frames), animation.play))


def frame_at(animation: Animation, ms: float) -> int:
    """The place of the frame shown `ms` after the start; a round that plays once stays on its last."""
    frames: Sequence[Frame] = animation.frames
    if not frames:
        return 0
    order = order_of(len(frames), animation.play)
    whole = sum(frames[n].ms for n in order)
    if animation.play == "once" and ms >= whole:
        return order[-1]
    left = ms % whole
    for n in order:
        left -= frames[n].ms
        if left < 0:
            return n
    return order[-1]


def start_of(animation: Animation, place: int) -> int:
    """The ms after which a frame is first shown."""
    return sum(f.ms for f in animation.frames[:place])


def eased(share: float, easing: Easing) -> float:
    """How far along at a share 0..1 of the time: evenly, or slow at the start, the end or both (squared)."""
    if easing == "in":
        return share * share
    if easing == "out":
        return 1 - (1 - share) * (1 - share)
    if easing == "both":
        return 2 * share * share if share < 0.5 else 1 - 2 * (1 - share) * (1 - share)
    return share


def place_on(path: Path, ms: float) -> tuple[float, float]:
    """Where something stands on its path after `ms`: px from where it was put."""
    share = max(ms, 0.0) / path.ms
    if path.play == "once":
        share = min(share, 1.0)
    elif path.play == "loop":
        share %= 1
    else:
        share = 1 - abs(share % 2 - 1)
    far = eased(share, path.easing)
    return path.offset[0] * far, path.offset[1] * far
