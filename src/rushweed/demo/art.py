"""Writes the Tidelamp pack: `python -m rushweed.demo.art` renews the pictures beside this file."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
from PIL import Image

from rushweed.demo import ART, boardwalk, keeper, marsh, pieces


def pictures() -> dict[str, np.ndarray]:
    """Every picture of the pack by file name, uint8 (height, width, 3 or 4)."""
    lamps = pieces.lamps().rgba()
    drawn = {
        "boardwalk.png": boardwalk.boardwalk().rgba(),
        "marsh.png": marsh.marsh().rgba(),
        "wren.png": keeper.wren().rgba(),
        "lamps.png": lamps,
        "eel.bmp": pieces.eel(),
        "panel.png": pieces.panel().rgba(),
        "sky.png": pieces.sky().rgba(),
        "crate.png": pieces.crate().rgba(),
        "lamps_4x.png": lamps.repeat(4, axis=0).repeat(4, axis=1),
    }
    for i in range(12):
        drawn[f"heron/heron_{i + 1}.png"] = pieces.heron(i).rgba()
    return drawn


def write(folder: Path) -> list[Path]:
    """Write the pack into `folder`; the bytes depend on the drawing alone."""
    written = []
    for name, pixels in pictures().items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        Image.fromarray(pixels).save(path)
        written.append(path)
    return written


if __name__ == "__main__":
    for made in write(Path(sys.argv[1]) if len(sys.argv) > 1 else ART):
        print(made)
