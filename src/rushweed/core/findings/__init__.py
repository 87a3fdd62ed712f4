"""Faults in plain words, each with its place and, where one exists, its cure."""
