"""A lamp over a normal map."""

import numpy as np
import pytest

from rushweed.core.document.model.steps import Enlarge, Mirror, Recolour, Step, Turn
from rushweed.core.pixels.prepare import prepared, prepared_normals
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


@pytest.mark.parametrize(
    ("step", "vector"),
    [
        (Turn(1), (0, -1)), (Turn(2), (-1, 0)), (Turn(3), (0, 1)), (Mirror("across"), (-1, 0)),
        (Mirror("down"), (1, 0)), (Recolour(hue=90), (1, 0)), (Enlarge(2), (1, 0)),
    ],
)  # fmt: skip
def test_the_vectors_of_a_normal_map_turn_with_their_picture(step: Step, vector: tuple[int, int]) -> None:
    right = np.full((4, 6, 4), 255, np.uint8)
    right[..., :3] = (255, 128, 128)
    made = prepared_normals(right, (step,), "n.png")
    got = np.rint(made[0, 0, :2].astype(float) / 127.5 - 1).astype(int)
    assert tuple(got) == vector
    assert made.shape[:2] == prepared(right, (step,)).shape[:2]


def test_four_quarter_turns_give_a_normal_map_back() -> None:
    rng = np.random.default_rng(3)
    normals = rng.integers(0, 256, (5, 7, 4), np.uint8)
    assert (prepared_normals(normals, (Turn(1),) * 4, "n.png") == normals).all()
