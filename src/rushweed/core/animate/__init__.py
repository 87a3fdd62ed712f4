"""Frames that move: order and time, registering, paths."""
