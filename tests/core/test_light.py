"""A lamp over a normal map."""

import numpy as np

from rushweed.core.tune.light import lit


def test_px_that_look_at_the_lamp_are_bright_and_alpha_stays() -> None:
    rgba = np.full((16, 16, 4), (120, 120, 120, 200), np.uint8)
    right, left = np.full((16, 16, 4), 255, np.uint8), np.full((16, 16, 4), 255, np.uint8)
    right[..., :3], left[..., :3] = (218, 128, 218), (38, 128, 218)
    one, other = lit(rgba, right, (30, 8)), lit(rgba, left, (30, 8))
    assert one[..., 0].mean() > other[..., 0].mean() + 20
    assert (one[..., 3] == 200).all()


def test_a_clear_normal_looks_at_the_viewer() -> None:
    rgba = np.full((8, 8, 4), 200, np.uint8)
    flat = np.full((8, 8, 4), 255, np.uint8)
    flat[..., :3] = (128, 128, 255)
    clear = np.zeros((8, 8, 4), np.uint8)
    assert np.abs(lit(rgba, flat, (4, 4)).astype(int) - lit(rgba, clear, (4, 4))).max() <= 2
