"""The project: frozen structs that hold tuples, so that a snapshot never changes.

Coordinates are pixels, x right, y down. A cell's rectangle counts from the sheet's top left, a pivot
and a shape from their cell's top left, a level from cell (0, 0); levels grow to negative columns too.

Each part has a module of its own; how sheets are cut is named here too, for scripts that ask for proposals.
"""

from rushweed.core.document.model.cut import GridCut, PiecesCut

__all__ = ["GridCut", "PiecesCut"]
