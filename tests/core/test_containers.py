"""Every frame is in the file with its own time: empty ones, equal ones, all of them."""

from __future__ import annotations

import io
from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from rushweed.core.animate.containers import apng, gif, webp
from rushweed.core.animate.export import hundredths, indexed
from rushweed.core.document.errors import EditError
from rushweed.core.pixels.read import decode

Write = Callable[[np.ndarray, list[int], int], bytes]


def gif_of(frames: np.ndarray, times: list[int], loop: int) -> bytes:
    return gif(*indexed(frames), hundredths(times), loop)


WRITERS: list[tuple[Write, str]] = [(apng, "PNG"), (gif_of, "GIF"), (webp, "WEBP")]


def art(seed: int, width: int = 9, height: int = 7) -> np.ndarray:
    rng = np.random.default_rng(seed)
    rgba = np.zeros((height, width, 4), np.uint8)
    rgba[..., :3] = rng.integers(0, 4, (height, width, 3)) * 60
    rgba[..., 3] = np.where(rng.random((height, width)) < 0.7, 255, 0)
    rgba[rgba[..., 3] == 0] = 0
    return rgba


def read_back(data: bytes) -> tuple[list[np.ndarray], list[int], int]:
    """The frames, their ms and the loop count, by Pillow alone."""
    with Image.open(io.BytesIO(data)) as image:
        frames, times = [], []
        for n in range(getattr(image, "n_frames", 1)):
            image.seek(n)
            frames.append(np.array(image.convert("RGBA")))
            times.append(round(float(image.info["duration"])))
        return frames, times, int(image.info.get("loop", 1))


def seen(frame: np.ndarray) -> np.ndarray:
    return np.where(frame[..., 3:] > 0, frame, 0)


@pytest.mark.parametrize(("write", "form"), WRITERS)
def test_empty_and_equal_frames_stay_frames(write: Write, form: str) -> None:
    one, empty = art(1), np.zeros((7, 9, 4), np.uint8)
    frames = np.stack([one, empty, empty, one, one, art(2)])
    times = [40, 70, 130, 250, 90, 1000]
    data = write(frames, times, 0)
    got, ms, loop = read_back(data)
    assert ms == times and loop == 0
    assert all((seen(a) == seen(b)).all() for a, b in zip(got, frames, strict=True))
    ours = decode(data, f"x.{form.lower()}")
    assert ours.format == form and ours.times == tuple(times)


@pytest.mark.parametrize(("write", "form"), WRITERS)
def test_an_empty_first_frame_and_a_single_round(write: Write, form: str) -> None:
    frames = np.stack([np.zeros((7, 9, 4), np.uint8), art(5)])
    got, ms, loop = read_back(write(frames, [100, 200], 1))
    assert len(got) == 2 and ms == [100, 200] and loop in (0, 1)
    assert not got[0][..., 3].any() and (seen(got[1]) == frames[1]).all()


@settings(max_examples=25)
@given(
    st.lists(st.tuples(st.integers(0, 3), st.integers(1, 300)), min_size=2, max_size=8),
    st.integers(1, 40),
    st.integers(1, 40),
)
def test_any_row_of_frames_comes_back(wanted: list[tuple[int, int]], width: int, height: int) -> None:
    frames = np.stack([art(seed, width, height) if seed else np.zeros((height, width, 4), np.uint8)
                       for seed, _ms in wanted])  # fmt: skip
    times = [ms for _seed, ms in wanted]
    for write, form in WRITERS:
        got, ms, _loop = read_back(write(frames, times, 0))
        assert len(got) == len(frames)
        assert all((seen(a) == seen(b)).all() for a, b in zip(got, frames, strict=True)), form
        if form != "GIF":
            assert ms == times
        else:
            assert ms == [10 * t for t in hundredths(times)]


def test_frames_of_minutes_are_told_or_refused() -> None:
    frames = np.stack([art(1), art(2)])
    assert read_back(apng(frames, [90_000, 3_600_000], 0))[1] == [90_000, 3_600_000]
    assert read_back(webp(frames, [90_000, 3_600_000], 0))[1] == [90_000, 3_600_000]
    with pytest.raises(EditError, match="too long for a GIF"):
        gif_of(frames, [90_000, 3_600_000], 0)
