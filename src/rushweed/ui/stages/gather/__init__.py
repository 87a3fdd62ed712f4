"""Gather: pictures come in and are prepared."""
