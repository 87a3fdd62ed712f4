"""Proposals: candidates, features and weights fit one another, and every kind of made-up sheet is known."""

from __future__ import annotations

import json

import numpy as np
import pytest

from bench.kinds import draw, figure
from bench.labels import key_labels, keys_in, kind_labels, kinds_in, read, sheet_labels
from bench.relaid import relaid
from bench.sheets import make
from rushweed.core.cut.axis_features import AXIS_FEATURES, axis_features
from rushweed.core.cut.candidates import Step, candidates
from rushweed.core.cut.grid import MOST_CELLS, ink_sums
from rushweed.core.cut.measure import connected_parts
from rushweed.core.cut.propose import GRID_FEATURES, describe_pairs, examine, likely_pairs, propose
from rushweed.core.cut.take import KIND_FEATURES, choices, kind_features, lettering, sheet_chance
from rushweed.core.document.model.cut import CountCut, GridCut, PiecesCut
from rushweed.core.pixels.key import FEATURES as KEY_FEATURES
from rushweed.core.pixels.key import candidate_features
from rushweed.core.pixels.markers import marker_rows
from rushweed.core.ranking import Model, chance, chances, model, weights


@pytest.mark.parametrize(
    ("name", "features"),
    [
        ("grid_axis", AXIS_FEATURES), ("grid_pair", GRID_FEATURES), ("kind_grid", KIND_FEATURES),
        ("kind_pieces", KIND_FEATURES), ("key_colour", KEY_FEATURES), ("key_present", KEY_FEATURES),
    ],
)  # fmt: skip
def test_the_weights_are_for_the_features_that_are_measured(name: str, features: tuple[str, ...]) -> None:
    made = model(name, features)
    assert len(made.weights) == len(made.mean) == len(made.spread) == len(features) == len(set(features))
    assert all(s > 0 for s in made.spread) and np.isfinite(made.weights).all()
    with pytest.raises(ValueError, match="train them again"):
        model(name, features[:-1])


def test_the_weights_tell_what_they_were_learned_from_and_how_well_they_do() -> None:
    known = weights()
    assert known.sets["real"] == len(sheet_labels()) and known.made.startswith("20")
    assert known.scores["cell_first"] > 0.85 and known.scores["cell_among_three"] > 0.93
    assert known.scores["key_best_right"] > 0.95 and known.scores["key_taken_falsely"] <= 0.02


def test_what_is_measured_fits_the_features_on_any_size() -> None:
    rng = np.random.default_rng(2)
    for width, height in ((1, 1), (4, 300), (300, 4), (5, 5), (17, 9), (64, 64), (257, 31)):
        rgba = rng.integers(0, 255, (height, width, 4), np.uint8)
        seen = examine(rgba)
        for axis in seen.axes:
            values = axis_features(axis, candidates(axis))
            assert values.shape[1] == len(AXIS_FEATURES) and np.isfinite(values).all()
        found = propose(rgba, seen=seen)
        assert np.isfinite(kind_features(rgba, seen, found)).all()
        assert choices(rgba).ranked()
        if height >= 3 and width >= 3:
            colours, values = candidate_features(rgba)
            assert values.shape == (len(colours), len(KEY_FEATURES)) and np.isfinite(values).all()


@pytest.mark.parametrize("width", range(1, 14))
def test_the_smallest_pictures_are_looked_at_too(width: int) -> None:
    for height in (1, 2, 5, 9, 30):
        noise = np.random.default_rng(width).integers(0, 256, (height, width, 4)).astype(np.uint8)
        assert choices(noise).ranked() and choices(np.zeros_like(noise)).ranked()


@pytest.mark.parametrize("fill", [(0, 0, 0, 0), (255, 0, 255, 255), (9, 9, 9, 255)])
def test_a_picture_of_one_colour_breaks_nothing(fill: tuple[int, int, int, int]) -> None:
    rgba = np.empty((40, 70, 4), np.uint8)
    rgba[:] = fill
    assert isinstance(choices(rgba).best, (CountCut, GridCut))


@pytest.mark.parametrize("made", ["lined", "padded", "framed", "hexes"])
def test_the_right_cell_is_nearly_always_among_the_candidates(made: str) -> None:
    right = 0
    for seed in range(700, 710):
        drawn = draw(made, seed)
        axes = examine(drawn.rgba).axes
        right += sum(drawn.cell[n] in {step.cell for step in candidates(axes[n])} for n in (0, 1))
    assert right >= 18, f"{right} of 20"


def test_every_even_part_of_a_long_axis_is_a_candidate() -> None:
    """Many steps are looked at there, and only the likelier ones closely; what leaves nothing over always."""
    noise = np.random.default_rng(5).integers(0, 255, (20, 1140, 4), np.uint8)
    cells = {step.cell for step in candidates(examine(noise).axes[0]) if not (step.margin or step.gap)}
    assert {n for n in range(4, 571) if 1140 % n == 0} <= cells


@pytest.mark.parametrize("made", ["lined", "padded", "framed"])
def test_every_candidate_has_room_for_a_cell(made: str) -> None:
    for seed in range(20):
        for axis in examine(draw(made, seed).rgba[:32]).axes:
            assert all(step.margin + step.cell <= axis.length for step in candidates(axis))


def test_bare_room_around_one_row_belongs_to_its_cells() -> None:
    rgba = np.zeros((64, 320, 4), np.uint8)
    for column in range(5):
        rgba[1:63, 64 * column + 3 : 64 * column + 60] = figure(np.random.default_rng(column), 57, 62)
    heights = {step.cell for step in candidates(examine(rgba).axes[1])}
    assert 64 in heights and 62 not in heights and 31 in heights
    filled = np.concatenate((rgba[1:63], np.zeros((66, 320, 4), np.uint8)))
    assert Step(62) in candidates(examine(filled).axes[1]), "a sheet that was filled up to 128 px"


@pytest.mark.parametrize(("made", "least"), [("lined", 30), ("padded", 20), ("framed", 30), ("hexes", 27)])
def test_grids_of_every_made_up_kind_are_found(made: str, least: int) -> None:
    right = 0
    for seed in range(500, 532):
        drawn = draw(made, seed)
        grids = propose(drawn.rgba).grids
        right += bool(grids) and grids[0].cell == drawn.cell
    assert right >= least, f"{right} of 32"


@pytest.mark.parametrize(
    ("made", "kind", "least"),
    [("font", PiecesCut, 6), ("packed", PiecesCut, 6), ("single", CountCut, 6), ("lettering", CountCut, 4)],
)
def test_pieces_and_single_pictures_are_told_from_grids(made: str, kind: type, least: int) -> None:
    right = sum(isinstance(choices(draw(made, seed).rgba).best, kind) for seed in range(600, 608))
    assert right >= least, f"{right} of 8"


def test_letters_of_a_word_stand_on_one_line_and_close() -> None:
    word = np.array([(x, 4 + x % 3, x + 8, 20) for x in range(0, 60, 10)])
    assert lettering(word) == (1.0, pytest.approx(1 - 2 / 15))
    assert lettering(word[::-1]) == lettering(word), "in any order"
    spread = word * (4, 1, 4, 1)
    assert lettering(spread - (0, 0, 24, 0)) == (1.0, 0.0), "frames stand apart"
    packed = np.array([(x, y, x + 8, y + 8) for y in (0, 12, 24) for x in (0, 10, 20)])
    line, close = lettering(packed)
    assert line < 0.5 and close == 0
    many = np.array([(x, 4, x + 8, 20) for x in range(0, 400, 10)])
    assert lettering(many) == (1.0, 0.0), "a type, not a word"
    assert lettering(word[:2]) == (0.0, 0.0)


def test_a_numbered_sheet_is_told_from_a_frame() -> None:
    assert sheet_chance(make("frames", 2).rgba) > 0.9 > 0.5 > sheet_chance(draw("single", 3).rgba)
    assert sum(sheet_chance(make("tiles", seed).rgba) > 0.5 for seed in range(5)) >= 4


def test_chances_add_up_and_the_surest_pair_is_first() -> None:
    found = propose(make("spaced", 4).rgba)
    assert found.grids[0].score == max(g.score for g in found.grids) <= 1
    assert sum(g.score for g in found.grids) <= 1.001
    assert found.grids[0].named_features.keys() == set(GRID_FEATURES)
    assert chances(np.array([0.0, 0.0])).tolist() == [0.5, 0.5] and chance(0) == 0.5
    assert Model(("a", "b"), (1, 0), (2, 1), (3, -1), 0.5).scores(np.array([[3.0, 2.0]])).tolist() == [1.5]


def test_pairs_never_take_both_axes_whole() -> None:
    drawn = draw("lined", 7)
    seen = examine(drawn.rgba)
    steps = [candidates(a) for a in seen.axes]
    values = [axis_features(a, s) for a, s in zip(seen.axes, steps, strict=True)]
    scores = [np.zeros(len(s)) for s in steps]
    pairs = likely_pairs(seen.axes, steps, scores)
    assert pairs and all(
        steps[0][i].cell < seen.axes[0].length or steps[1][j].cell < seen.axes[1].length for i, j in pairs
    )
    described = describe_pairs(seen, steps, scores, values, pairs, ink_sums(seen.mask))
    assert described.shape == (len(pairs), len(GRID_FEATURES)) and np.isfinite(described).all()


@pytest.mark.parametrize("kind", ["lined", "padded", "framed", "font", "packed"])
def test_features_of_many_steps_are_those_of_each_by_itself(kind: str) -> None:
    rng = np.random.default_rng(3)
    for axis in examine(draw(kind, 11).rgba).axes:
        steps = candidates(axis)
        together = axis_features(axis, steps)
        for n in rng.integers(0, len(steps), 40).tolist():
            assert axis_features(axis, steps[n : n + 1])[0] == pytest.approx(together[n], abs=1e-9), steps[n]


@pytest.mark.parametrize("kind", ["lined", "padded", "hexes"])
def test_features_say_what_their_names_promise(kind: str) -> None:
    """Some of them worked out one px after the other."""
    for axis in examine(draw(kind, 12).rgba).axes:
        steps = [s for s in candidates(axis) if (axis.length - s.margin + s.gap) // (s.cell + s.gap) > 1]
        found = [dict(zip(AXIS_FEATURES, row, strict=True)) for row in axis_features(axis, steps).tolist()]
        usual = float(np.mean(axis.edge[1:-1])) + 1e-3
        for (cell, margin, gap), named in zip(steps, found, strict=True):
            pitch = cell + gap
            starts = range(margin, axis.length - cell + 1, pitch)
            lines = [place for start in starts[1:] for place in (start, start - gap)]
            edge = float(np.mean(axis.edge[lines]))
            ratio = np.log((edge + 0.02 * usual + 1e-9) / (1.02 * usual + 1e-9))
            assert named["edge"] == pytest.approx(min(max(ratio, -3), 3), abs=1e-9)
            inside = [px for start in starts[1:] for px in range(start - gap, start)]
            if gap:
                assert named["gap_clear"] == pytest.approx(float(np.mean(axis.separator[inside])), abs=1e-9)
            else:
                assert named["gap"] == named["gap_clear"] == named["gap_contrast"] == 0
            weights = cut = 0.0
            for begin, end, weight in axis.parts.tolist():
                first, last = (begin - margin) // pitch, (end - 1 - margin) // pitch
                in_gap = (end - 1 - margin) % pitch >= cell and end - begin > gap
                weights, cut = weights + weight, cut + weight * (first != last or in_gap)
            if weights:
                assert named["uncut"] == pytest.approx(-cut / weights, abs=1e-6)


@pytest.mark.parametrize("ground", [(0, 0, 0, 255), (0, 0, 0, 0), (90, 70, 200, 255)])
@pytest.mark.parametrize(("cell", "line"), [((30, 22), 1), ((50, 50), 2), ((14, 9), 1)])
def test_drawn_lines_tell_their_gaps_from_all_others(
    ground: tuple[int, ...], cell: tuple[int, int], line: int
) -> None:
    """Blots of the ground's and other colours in cells with lines around them; some cells are empty, and the
    sheet goes on a little after the last line."""
    rng = np.random.default_rng(5)
    (wide, high), columns, rows = cell, 7, 5
    rgba = np.empty((rows * (high + line) + line + 2, columns * (wide + line) + line + 3, 4), np.uint8)
    rgba[:] = ground
    for row in range(rows):
        for column in range(columns - (row == 2) * 3):
            y, x = line + row * (high + line), line + column * (wide + line)
            blot = rng.random((high - 2, wide - 2)) < 0.6
            rgba[y + 1 : y + high - 1, x + 1 : x + wide - 1][blot] = (*rng.integers(0, 200, 3), 255)
    for column in range(columns + 1):
        rgba[:-2, column * (wide + line) : column * (wide + line) + line] = (255, 0, 255, 255)
    for row in range(rows + 1):
        rgba[row * (high + line) : row * (high + line) + line, :-3] = (255, 0, 255, 255)
    place = AXIS_FEATURES.index("gap_drawn")
    for axis, side in zip(examine(rgba).axes, cell, strict=True):
        steps = candidates(axis)
        drawn = axis_features(axis, steps)[:, place]
        right = steps.index(Step(side, line, line))
        assert drawn[right] > 0.8 and drawn[right] == drawn.max()
        assert (np.delete(drawn, right) < drawn[right]).all() and not drawn[[s.gap == 0 for s in steps]].any()


def test_proposing_ends_where_it_is_told_to() -> None:
    class Ended(Exception):
        pass

    def at(most: float) -> list[float]:
        told: list[float] = []

        def tell(share: float) -> None:
            told.append(share)
            if share >= most:
                raise Ended

        with pytest.raises(Ended):
            choices(draw("font", 3).rgba, tell)
        return told

    assert len(at(0.1)) == 1 and at(0.5) == [0.3, 0.6]


def test_large_masks_are_labelled_at_half_size_and_boxes_stay_in_place() -> None:
    mask = np.zeros((2400, 2400), bool)
    mask[100:200, 300:420] = mask[1000:1010, 2000:2200] = True
    assert sorted(map(tuple, connected_parts(mask)[:, :4].astype(int).tolist())) == [
        (300, 100, 420, 200), (2000, 1000, 2200, 1010)
    ]  # fmt: skip


def test_rows_of_marks_are_seen_at_either_edge_and_nowhere_else() -> None:
    font = draw("font", 3).rgba
    assert marker_rows(font) == (1, 0) and marker_rows(font[::-1]) == (0, 1)
    assert marker_rows(font[1:]) == (0, 0) and marker_rows(draw("packed", 3).rgba) == (0, 0)


def test_a_sheet_laid_out_anew_holds_its_cells_where_its_label_says() -> None:
    made = make("frames", 0)
    from bench.labels import Sheet

    label = Sheet("made-up/frames", made.cell, made.margin, made.spacing)
    whole = {made.rgba[y : y + made.cell[1], x : x + made.cell[0]].tobytes()
             for y in range(0, made.rgba.shape[0] - made.cell[1] + 1, made.cell[1])
             for x in range(0, made.rgba.shape[1] - made.cell[0] + 1, made.cell[0])}  # fmt: skip
    rng, seen = np.random.default_rng(1), 0
    for _ in range(30):
        one = relaid(made.rgba, label, rng)
        assert one is not None
        rgba, at = one
        (w, h), (x, y) = at.cell, at.margin
        if (w, h) == made.cell and rgba[..., 3].min() == 0:
            seen += rgba[y : y + h, x : x + w].tobytes() in whole
    assert seen >= 5


def test_the_labels_name_each_picture_once_and_say_one_thing_of_it() -> None:
    files = [s.file for s in sheet_labels()]
    assert len(set(files)) == len(files) == 444
    kinds = dict(kind_labels())
    assert set(kinds.values()) == {"grid", "pieces", "single"} and all(kinds[f] == "grid" for f in files)
    keys: dict[str, object] = {}
    for file, key in key_labels():
        assert keys.setdefault(file, key) == key
    assert sum(key is None for key in keys.values()) >= 200
    assert json.dumps(sorted(keys))
    aside = read("aside.json")
    apart = {file.split("/")[0] for file, _kind in kinds_in(aside)}
    assert not apart & {file.split("/")[0] for file in {*files, *kinds, *keys}}, (
        "nothing is learned from them"
    )
    assert {key[0].split("/")[0] for key in keys_in(aside)} <= apart


def test_noise_of_a_large_side_gets_no_grid_of_more_cells_than_a_sheet_may_have() -> None:
    noise = np.random.default_rng(5).integers(0, 256, (1200, 1200, 4), np.uint8)
    for grid in propose(noise).grids:
        assert grid.columns * grid.rows <= MOST_CELLS
