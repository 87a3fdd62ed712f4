"""`rushweed trace`: follow the border of the solid pixels of a picture."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer

from rushweed.cli.common import AsJson, app, errors_told, four
from rushweed.core.document.errors import EditError


@app.command()
def trace(
    image: Path,
    rect: Annotated[str, typer.Option(metavar="X,Y,W,H", help="A part of the picture; else all of it.")] = "",
    threshold: Annotated[int, typer.Option(min=1, max=255, help="Alpha from which a px is solid.")] = 128,
    tolerance: Annotated[float, typer.Option(min=0, help="Px the outline may be off the border.")] = 0.0,
    vertices: Annotated[int | None, typer.Option(min=3, help="So many vertices at most.")] = None,
    as_json: AsJson = False,
) -> None:
    """Follow the border of the solid pixels of a picture."""
    from rushweed.core.pixels.read import read_picture
    from rushweed.core.shape.budget import trace_vertices
    from rushweed.core.shape.primitives import signed_area
    from rushweed.core.shape.trace import trace_outline

    with errors_told():
        alpha = read_picture(image).rgba[..., 3]
        if rect:
            x, y, w, h = four(rect, "--rect")
            if x < 0 or y < 0 or w < 1 or h < 1 or x + w > alpha.shape[1] or y + h > alpha.shape[0]:
                size = f"{alpha.shape[1]} x {alpha.shape[0]} px"
                raise EditError(f"--rect {rect} reaches beyond {image.name}, which is {size}.", "Use less.")
            alpha = alpha[y : y + h, x : x + w]
        if vertices is not None:
            found = trace_vertices(alpha, vertices, threshold)
        else:
            found = trace_outline(alpha, threshold, tolerance)
    rings = [(o.outer.tolist(), [hole.tolist() for hole in o.holes]) for o in found.outlines]
    area = sum(abs(signed_area(tuple(map(tuple, ring)))) for ring, _holes in rings)
    area -= sum(abs(signed_area(tuple(map(tuple, hole)))) for _ring, holes in rings for hole in holes)
    if as_json:
        polygons = [{"outer": outer, "holes": holes} for outer, holes in rings]
        print(json.dumps({"polygons": polygons, "area": area, "max_error": found.error}))
        return
    many = "1 part" if len(rings) == 1 else f"{len(rings)} parts"
    print(f"{many}, {found.vertices} vertices, {area:g} px, at most {found.error:.2f} px off the border")
