"""Tidelamp: the demo project, its art drawn by this package."""
