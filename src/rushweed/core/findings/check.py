"""All rules together, faults first."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from rushweed.core.document.model import Project
from rushweed.core.findings import animate, cut, gather, paint, shape, tune
from rushweed.core.findings.finding import Finding
from rushweed.core.pixels.stock import Stock

Rule = Callable[[Project, Stock], Iterator[Finding]]

RULES: tuple[Rule, ...] = (
    gather.missing_source,
    gather.changed_source,
    gather.kept_aside,
    gather.attribution_missing,
    gather.companions,
    cut.nothing_cut,
    cut.cut_art,
    paint.gone_cells,
    paint.gone_things,
    animate.frames_gone,
    animate.feet_drift,
    animate.states_without,
    cut.grid_remainder,
    cut.holds_neighbours,
    tune.over_limit,
    tune.linear_pixel_art,
    tune.no_gutter,
    tune.blocks_spoil,
    tune.wrong_size,
    shape.crossing_edges,
    shape.fractional_shapes,
    shape.outside_tile,
    shape.auto_conflicts,
    shape.auto_gaps,
    shape.body_below_feet,
    paint.mixed_ppu,
    gather.missing_licence,
)


def check(project: Project, stock: Stock) -> list[Finding]:
    """Every finding of a project, faults before hints, each kind in the order of the stages."""
    found = [finding for rule in RULES for finding in rule(project, stock)]
    return sorted(found, key=lambda finding: finding.weight != "fault")
