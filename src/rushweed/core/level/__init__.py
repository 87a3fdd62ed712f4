"""Levels: cells in chunks, brushes, and how they look."""
