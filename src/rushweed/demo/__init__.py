"""Tidelamp: the demo project, its art drawn by this package."""

from pathlib import Path

ART = Path(__file__).parent / "art"
