"""The project: frozen structs that hold tuples, so that a snapshot never changes.

Coordinates are pixels, x right, y down. A cell's rectangle counts from the sheet's top left, a pivot
and a shape from their cell's top left, a level from cell (0, 0); levels grow to negative columns too.
"""
