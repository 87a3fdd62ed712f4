"""Tune: units, pivots, textures."""
