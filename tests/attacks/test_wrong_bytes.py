"""Wrong bytes in pictures, textures, journals and shipped folders get a sentence, and harm nothing else."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.attacks.bytes import attack_bytes
from tests.attacks.test_disk_faults import small

__all__ = ["small"]  # the fixture


@pytest.mark.parametrize("seed", [11, 12, 13])
def test_wrong_bytes_do_no_harm(demo_master: Path, small: Path, seed: int) -> None:  # noqa: F811
    attack_bytes(demo_master, small, seed)
