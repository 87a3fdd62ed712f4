"""All rules, and what each sort of finding is."""

from __future__ import annotations

from rushweed.core.document.model.project import LeftAlone, Project
from rushweed.core.findings import animate, cut, gather, paint, shape, tune
from rushweed.core.findings.finding import Finding
from rushweed.core.findings.rule import Checks, Rule
from rushweed.core.pixels.cache import PixelCache

RULES: tuple[Rule, ...] = (
    Rule("project", gather.missing_source, {"missing-source": "A sheet whose picture is gone or broken."}),
    Rule("project", gather.changed_source, {
        "changed-source": "A picture whose file holds another picture than the one that is shown."}),
    Rule("project", gather.kept_aside, {
        "kept-aside": "Cells that lie outside their picture since that shrank."}),
    Rule("sheet", gather.attribution_missing, {
        "missing-attribution": "A licence that asks for its author where nobody is named.",
        "unknown-licence": "A licence that is no SPDX expression."}),
    Rule("project", gather.companions, {
        "normal-map": "A normal map that is missing or of another size.",
        "variant": "A larger variant that is missing or not as large as it says."}),
    Rule("sheet", cut.nothing_cut, {"nothing-cut": "A cut that leaves no cell."}),
    Rule("sheet", cut.cut_art, {"cut-art": "Cells whose border cuts through art."}),
    Rule("sheet", cut.better_grid, {
        "better-grid": "A grid that cuts art or leaves art over where another one fits."}, slow=True),
    Rule("level", paint.gone_cells, {"gone-cell": "Tiles of a level whose cells are gone."}),
    Rule("level", paint.gone_things, {"gone-thing": "Things of a level that show what is gone."}),
    Rule("animation", animate.frames_gone, {"frame-gone": "An animation that shows cells that are gone."}),
    Rule("animation", animate.feet_drift, {
        "feet-drift": "Frames that stand a px or a few off the line of the others."}),
    Rule("animation", animate.pivots_drift, {
        "pivot-drift": "Frames whose pivots wander where their art does not."}),
    Rule("animation", animate.touches_edge, {
        "touches-edge": "Frames whose art is cut off at the edge of its cell."}),
    Rule("project", animate.states_without, {"state-without": "A state without an animation."}),
    Rule("sheet", cut.grid_remainder, {
        "grid-remainder": "Px that lie outside every cell because the grid does not come out even."}),
    Rule("sheet", cut.holds_neighbours, {"neighbour-art": "Cells that hold art of a neighbour."}),
    Rule("sheet", tune.over_limit, {"over-limit": "A picture larger than its way to ship allows."}),
    Rule("sheet", tune.linear_pixel_art, {"linear-pixel-art": "Pixel art that is filtered."}),
    Rule("sheet", tune.no_gutter, {
        "no-gutter": "A filtered sheet whose tiles stand side by side without a gutter."}),
    Rule("sheet", tune.blocks_spoil, {"blocks-spoil": "Pixel art that a block codec would spoil."}),
    Rule("sheet", tune.wrong_size, {
        "texture-size": "A size that a codec or mipmaps cannot use as it is."}),
    Rule("sheet", tune.fractional_fit, {
        "uneven-px": "Pixel art enlarged by a number of times that is not whole."}),
    Rule("level", paint.uneven_things, {}),
    Rule("sheet", shape.crossing_edges, {"crossing-shape": "A shape whose edges cross."}),
    Rule("sheet", shape.fractional_shapes, {"fractional-shape": "A shape with corners between pixels."}),
    Rule("sheet", shape.outside_tile, {"shape-outside": "A shape that reaches outside its cell."}),
    Rule("animation", shape.shape_below_feet, {
        "shape-below-feet": "Shapes of frames that reach below the lowest ink of their frame."}),
    Rule("project", shape.auto_conflicts, {
        "auto-conflict": "Tiles that stand in more than one auto-tile set.",
        "auto-gone": "An auto-tile set with tiles whose cells are gone."}),
    Rule("project", shape.auto_gaps, {"auto-gap": "An auto-tile set that has no tile for a case."}),
    Rule("animation", shape.body_below_feet, {
        "body-below-feet": "A body that reaches below the feet of every frame."}),
    Rule("level", paint.without_shape, {
        "without-shape": "Tiles of ground on a solid layer that have no shape."}),
    Rule("level", paint.do_not_meet, {
        "do-not-meet": "Neighbours whose shapes leave a step or a slot that is hardly seen."}),
    Rule("level", paint.mixed_ppu, {
        "mixed-ppu": "A level whose sheets do not share their pixels per unit."}),
    Rule("project", gather.name_clash, {
        "name-clash": "Sheets, levels or animations whose names differ in capitals alone or not at all."}),
    Rule("project", gather.unused_sheet, {"unused-sheet": "A sheet that nothing shows."}),
    Rule("project", gather.missing_licence, {
        "missing-licence": "A sheet that says nothing of its licence."}),
)  # fmt: skip
ABOUT = {
    "never-reached": "A thing or sensor of a level that the walker cannot touch.",
    "catches": "A place where a walk catches although the ground looks level.",
    **{name: about for rule in RULES for name, about in rule.about.items()},
}


def checks() -> Checks:
    """Something that checks one project again and again, looking anew only at what changed."""
    return Checks(RULES)


def check(project: Project, stock: PixelCache) -> list[Finding]:
    """Every finding of a project, faults before hints, each kind in the order of the stages."""
    return checks().run(project, stock)


def left_alone(project: Project, findings: list[Finding]) -> list[tuple[Finding, LeftAlone]]:
    """The findings that a person leaves as they are, each with what was said of it."""
    known = {left.id: left for left in project.left_alone}
    pairs = [(finding, known.get(finding.key)) for finding in findings]
    return [(f, left) for f, left in pairs if left is not None and len(f.place.cells) <= left.cells]
