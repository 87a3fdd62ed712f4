"""`rushweed shape`: give cells shapes, common ones, outlines from their pixels, or what twins have."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated

import typer

from rushweed.cli.common import ProjectPath, app, changing, errors_told, find_cells, find_sheet, four, grouped
from rushweed.core.document.errors import EditError
from rushweed.core.store.saves import save_and_remember

if TYPE_CHECKING:
    from rushweed.core.document.model.project import Project
    from rushweed.core.document.model.shape import Shape
    from rushweed.core.document.model.sheet import Cell, Sheet
    from rushweed.core.pixels.cache import PixelCache

ROLES, SIDES = ("solid", "one-way", "sensor"), ("top", "bottom", "left", "right")


@dataclass
class ShapeOptions:
    """Which shapes, and how they are found."""

    give: Annotated[str, typer.Option(metavar="NAME", help="A common shape, such as full.")] = ""
    box: Annotated[str, typer.Option(metavar="X,Y,W,H", help="A box in px of the cell.")] = ""
    outline: Annotated[bool, typer.Option("--outline", help="Outlines from the pixels.")] = False
    fill: Annotated[bool, typer.Option("--fill", help="What is proposed for cells without one.")] = False
    clear: Annotated[bool, typer.Option("--clear", help="No shapes.")] = False
    tolerance: Annotated[float, typer.Option(min=0, help="Px an outline may be off the border.")] = 1.0
    threshold: Annotated[int, typer.Option(min=1, max=255, help="Alpha from which a px is solid.")] = 128
    vertices: Annotated[int | None, typer.Option(min=3, help="So many vertices an outline at most.")] = None
    convex: Annotated[bool, typer.Option("--convex", help="Outlines in convex parts.")] = False
    role: Annotated[str, typer.Option(metavar="solid|one-way|sensor")] = "solid"
    blocks_from: Annotated[str, typer.Option(metavar="top|bottom|left|right", help="Of one-way shapes.")] = (
        "top"
    )


@app.command()
@grouped
def shape(
    project: ProjectPath,
    sheet: str,
    told: ShapeOptions,
    cells: Annotated[str, typer.Option(metavar="NAMES", help="Cells such as rock_*; else all.")] = "",
) -> None:
    """Give shapes to cells of a sheet."""
    from rushweed.core.pixels.cache import PixelCache
    from rushweed.core.shape.edit import clear_shapes, give_common, set_role, set_shapes, shaped_counts
    from rushweed.core.shape.primitives import COMMON

    with errors_told(), changing(project) as (folder, value):
        if sum((bool(told.give), bool(told.box), told.outline, told.fill, told.clear)) != 1:
            raise EditError("shape needs one of --give, --box, --outline, --fill or --clear.", "Say which.")
        if told.role not in ROLES or told.blocks_from not in SIDES:
            raise EditError(
                f"{told.role}, {told.blocks_from} is no role or side.", "See rushweed shape --help."
            )
        home, stock = find_sheet(value, sheet), PixelCache(folder.path)
        chosen = find_cells(value, cells, home)
        ids = [cell.id for cell in chosen]
        role, side = told.role, told.blocks_from
        if told.give:
            if told.give not in COMMON:
                raise EditError(
                    f"There is no common shape {told.give!r}.", f"Use one of: {', '.join(COMMON)}."
                )
            value = give_common(value, ids, told.give, role, side)  # type: ignore[arg-type]
        elif told.box:
            from rushweed.core.document.model.shape import Box

            x, y, w, h = four(told.box, "--box")
            value = set_shapes(value, ids, (Box(x=x, y=y, w=w, h=h),))
            value = set_role(value, ids, role, side)  # type: ignore[arg-type]
        elif told.clear:
            value = clear_shapes(value, ids)
        else:
            value = _from_pixels(value, home, chosen, stock, told)
            if told.outline:
                value = set_role(value, ids, role, side)  # type: ignore[arg-type]
        save_and_remember(folder, value)
        shaped, bare = shaped_counts(value, home.id)
    print(f"{home.name}: {shaped} cells have shapes, {bare} have none.")


def _from_pixels(
    project: Project, sheet: Sheet, cells: list[Cell], stock: PixelCache, told: ShapeOptions
) -> Project:
    """Outlines of cells, or with --fill what is proposed for those without a shape."""
    from rushweed.core.shape.budget import trace_vertices
    from rushweed.core.shape.edit import give_each
    from rushweed.core.shape.propose import propose_shapes, shapes_of
    from rushweed.core.shape.trace import trace_masks

    rgba, threshold = stock.pixels(sheet), told.threshold
    given: dict[str, tuple[Shape, ...]]
    if told.fill:
        only = tuple(c.id for c in cells)
        given = {p.cell: p.shapes for p in propose_shapes(sheet.cells, rgba, only, told.tolerance)}
        return give_each(project, given)
    parts = {
        c.id: rgba[c.rect[1] : c.rect[1] + c.rect[3], c.rect[0] : c.rect[0] + c.rect[2], 3] for c in cells
    }
    if told.vertices is not None:
        found = {
            i: trace_vertices(a, told.vertices, threshold) for i, a in parts.items() if (a >= threshold).any()
        }
    else:
        traced = trace_masks([alpha >= threshold for alpha in parts.values()], told.tolerance)
        found = dict(zip(parts, traced, strict=True))
    given = {i: shapes_of(outlines, told.convex) for i, outlines in found.items()}
    return give_each(project, {i: shapes for i, shapes in given.items() if shapes})
