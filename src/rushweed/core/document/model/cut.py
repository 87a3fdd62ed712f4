"""How a sheet was cut."""

from __future__ import annotations

from typing import Literal

from rushweed.core.document.model.base import Frozen


class GridCut(Frozen, frozen=True, tag_field="by", tag="size"):
    """Cells of one size in px; `left_out` and `kept` are (column, row) places decided by hand."""

    cell: tuple[int, int]
    margin: tuple[int, int] = (0, 0)
    spacing: tuple[int, int] = (0, 0)
    leave_out_empty: bool = True
    left_out: tuple[tuple[int, int], ...] = ()
    kept: tuple[tuple[int, int], ...] = ()


class CountCut(Frozen, frozen=True, tag_field="by", tag="count"):
    """So many columns and rows; the cell size comes out by division."""

    columns: int
    rows: int
    margin: tuple[int, int] = (0, 0)
    spacing: tuple[int, int] = (0, 0)
    leave_out_empty: bool = True
    left_out: tuple[tuple[int, int], ...] = ()
    kept: tuple[tuple[int, int], ...] = ()


class PiecesCut(Frozen, frozen=True, tag_field="by", tag="pieces"):
    """Free-form pieces: small parts join what is at most `join` px away, with `any_size` large ones too;
    those under `least` px are dropped. `fit` is tight boxes, or equal cells with the pieces centred or
    standing at their foot."""

    join: int = 0
    least: int = 1
    any_size: bool = False
    fit: Literal["tight", "centre", "feet"] = "tight"


class GuidesCut(Frozen, frozen=True, tag_field="by", tag="guides"):
    """Columns and rows that can each be moved: `columns` are the sheet px where each begins, and last where
    one more would; `rows` likewise. The last `spacing` px of each are the gutter to the next."""

    columns: tuple[int, ...]
    rows: tuple[int, ...]
    spacing: tuple[int, int] = (0, 0)
    leave_out_empty: bool = True
    left_out: tuple[tuple[int, int], ...] = ()
    kept: tuple[tuple[int, int], ...] = ()


class HandCut(Frozen, frozen=True, tag_field="by", tag="hand"):
    """Cells drawn or moved by hand: they are what they are."""


EvenCut = GridCut | CountCut
Cut = EvenCut | PiecesCut | GuidesCut | HandCut
