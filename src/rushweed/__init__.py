"""Rushweed: a desktop workbench for 2D games, from a picture to a level that ships."""

__version__ = "0.2.0"
