"""Animate: frames become motion."""
