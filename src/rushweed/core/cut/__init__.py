"""Sheets into cells."""
