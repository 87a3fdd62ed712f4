import random
from pathlib import Path

from tests.attacks.shipping import shipping_kills


def test_a_kill_while_shipping_leaves_a_whole_shipment(demo_folder: Path, tmp_path: Path) -> None:
    shipping_kills(demo_folder, tmp_path / "out", random.Random(3), 2)
    left = [p.name for p in tmp_path.iterdir() if p.name not in ("out", demo_folder.name)]
    assert all(name.startswith(".out.shipping-") for name in left)
