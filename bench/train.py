"""`python -m bench.train`: learns the weights of grids, kinds and key colours, and writes them.

Reads the labelled sheets beside this file (bench/real_art), whose pictures `./run bench real-art` fetches,
and made-up ones (bench/sheets.py). Real sheets are also laid out anew, with other gaps, margins, lines and
rows, because few games have each kind. How well it does is always told for games that were left out.
"""

from __future__ import annotations

import os
import pickle
import sys
import time
from collections.abc import Callable, Sequence
from multiprocessing import Pool
from pathlib import Path
from typing import Any, NamedTuple

import msgspec
import numpy as np
from scipy.special import expit

from bench import kinds
from bench.labels import ART, Sheet, games_of, key_labels, kind_labels, sheet_labels
from bench.learning import Group, bounds_of, evenly, fit_ranking, fit_yes_no, model_of, scaling
from bench.relaid import relaid
from bench.sheets import KINDS, make
from rushweed.core import ranking
from rushweed.core.cut.axis_features import AXIS_FEATURES, axis_features
from rushweed.core.cut.candidates import Step, candidates
from rushweed.core.cut.grid import ink_sums
from rushweed.core.cut.propose import (
    GRID_FEATURES,
    SURE,
    Examined,
    describe_pairs,
    examine,
    likely_pairs,
    propose,
)
from rushweed.core.cut.take import KIND_FEATURES, kind_features
from rushweed.core.pixels.key import FEATURES as KEY_FEATURES
from rushweed.core.pixels.key import SURE as SURE_OF_KEY
from rushweed.core.pixels.key import candidate_features, may_be_keyed
from rushweed.core.pixels.read import read_picture

WEIGHTS = Path(ranking.__file__).with_name("weights.json")
MADE_UP = "made-up"
DRAWN_GRIDS = ("lined", "padded", "framed", "hexes")
UP = frozenset((
    "differ", "differ_peak", "differ_half", "differ_third", "differ_best", "differ_first", "equal",
    "equal_peak", "equal_first", "columns", "columns_peak", "mask", "mask_peak", "mask_half",
    "mask_third", "mask_best", "mask_first", "edge", "edge_odd", "edge_third", "edge_half", "edge_local",
    "edge_phase", "edge_clear", "inner", "alpha", "alpha_odd", "alpha_phase", "alpha_clear", "cross",
    "cross_odd", "cross_half", "cross_phase", "cross_clear", "uncut", "less_cut", "centred", "divides",
    "content", "left_over", "gap_clear", "gap_contrast", "x", "y", "least", "below_x", "below_y", "held",
    "alone", "isolated", "gap_clean", "gap_drawn",
))  # fmt: skip
DOWN = frozenset(("differ_double", "equal_double", "small", "idle", "one_plain"))
LEFT_OUT = 4  # games at a time
THIN = ("gap_drawn", "differ_peak", "edge", "cross_phase", "cross_clear", "divides", "mask_first")
LOOKED_AT, DRAWN_EACH = 160, 24  # made-up sheets in all, and of each kind drawn for grids
KIND_SHARES = {"grid": 2.6, "pieces": 1.0, "single": 1.6}  # a grid that is missed costs most
PIECES_SHARE = 3.5  # of pieces, where they are told from single pictures
MADE_UP_GRIDS, MADE_UP_SHARE = 3.0, 6.0  # made-up sheets beside those of a game, for grids and for kinds
PENALTY = {"axis": 0.05, "pair": 0.1, "key": 0.01, "kind": 2.0}


class Looked(NamedTuple):
    """A labelled sheet as the models see it; `seen` without what is too large to keep."""

    label: Sheet
    steps: list[list[Step]]
    values: list[np.ndarray]
    seen: Examined


def looked(rgba: np.ndarray, label: Sheet) -> Looked:
    seen = examine(rgba)
    steps = [candidates(axis) for axis in seen.axes]
    values = [axis_features(a, s).astype(np.float32) for a, s in zip(seen.axes, steps, strict=True)]
    light = tuple(a._replace(**{f: np.zeros(0) for f in a._fields if isinstance(getattr(a, f), np.ndarray)})
                  for a in seen.axes)  # fmt: skip
    return Looked(label, steps, values, seen._replace(axes=light))  # type: ignore[arg-type]


def _look_real(label: Sheet) -> Looked:
    return looked(read_picture(ART / label.file).rgba, label)


def _look_relaid(args: tuple[Sheet, int]) -> list[Looked]:
    label, count = args
    rgba = read_picture(ART / label.file).rgba
    rng = np.random.default_rng(len(label.file) * 7919 + rgba.shape[1])
    made = (relaid(rgba, label, rng) for _ in range(count))
    return [looked(*one) for one in made if one is not None]


def _look_drawn(args: tuple[str, int]) -> Looked:
    one = kinds.draw(*args)
    return looked(one.rgba, Sheet(f"{MADE_UP}/{one.made}", one.cell, one.margin, one.spacing))


def _look_made(seed: int) -> Looked:
    one = make(KINDS[seed % len(KINDS)], seed)
    return looked(one.rgba, Sheet(f"{MADE_UP}/{one.kind}", one.cell, one.margin, one.spacing))


# -- grids -----------------------------------------------------------------------------------------


def shares_of(sheets: Sequence[Looked], share: float) -> np.ndarray:
    games = games_of(sheets)
    return evenly(games, share) * np.where(np.array(games) == MADE_UP, MADE_UP_GRIDS, 1.0)


def axis_groups(sheets: Sequence[Looked], mean: np.ndarray, spread: np.ndarray, share: float) -> list[Group]:
    """One group an axis, two a sheet, in order."""
    groups = []
    for sheet, weight in zip(sheets, shares_of(sheets, share), strict=True):
        label = sheet.label
        for axis in (0, 1):
            exact = np.array([label.is_exactly(axis, step) for step in sheet.steps[axis]])
            right = exact if exact.any() else np.array([label.has(axis, s.cell) for s in sheet.steps[axis]])
            groups.append(Group((sheet.values[axis] - mean) / spread, right, label.game, weight))
    return groups


def thinned(groups: Sequence[Group]) -> list[Group]:
    """Fewer wrong steps to learn from: those that look best, and some at random."""
    rng, places = np.random.default_rng(0), [AXIS_FEATURES.index(name) for name in THIN]
    made = []
    for g in groups:
        count = len(g.right)
        if count > 170:
            likely = np.argsort(-g.values[:, places].sum(axis=1))[:90]
            keep = np.unique(
                np.concatenate((np.flatnonzero(g.right), likely, rng.choice(count, 60, False), [0]))
            )
            g = g._replace(values=g.values[keep], right=g.right[keep])
        made.append(g)
    return made


def pair_groups(
    sheets: Sequence[Looked], scores: Sequence[np.ndarray], share: float
) -> tuple[list[Group], list[list[tuple[Step, Step]]]]:
    """One group a sheet: its likely pairs described, not scaled yet, and the pairs."""
    groups, all_pairs = [], []
    for n, (sheet, weight) in enumerate(zip(sheets, shares_of(sheets, share), strict=True)):
        own = [scores[2 * n], scores[2 * n + 1]]
        places = likely_pairs(sheet.seen.axes, sheet.steps, own)
        pairs = [(sheet.steps[0][i], sheet.steps[1][j]) for i, j in places]
        if places:
            wide = [v.astype(float) for v in sheet.values]
            values = describe_pairs(sheet.seen, sheet.steps, own, wide, places, ink_sums(sheet.seen.mask))
        else:
            values = np.zeros((0, len(GRID_FEATURES)))
        exact = np.array(
            [sheet.label.is_exactly(0, x) and sheet.label.is_exactly(1, y) for x, y in pairs], bool
        )
        right = (
            exact if exact.any() else np.array([sheet.label.takes(x.cell, y.cell) for x, y in pairs], bool)
        )
        groups.append(Group(values, right, sheet.label.game, weight))
        all_pairs.append(pairs)
    return groups, all_pairs


def out_of_fold(
    groups: Sequence[Group], learned: Sequence[Group], names: tuple[str, ...], penalty: float
) -> list[np.ndarray]:
    """The scores of each group by weights that were learned without its game, and some others."""
    bounds, found, start = bounds_of(names, UP, DOWN), [np.zeros(0)] * len(groups), None
    games = sorted({g.game for g in groups})
    for first in range(0, len(games), LEFT_OUT):
        out = games[first : first + LEFT_OUT]
        start = fit_ranking([g for g in learned if g.game not in out], penalty, bounds, start)
        for n, g in enumerate(groups):
            if g.game in out:
                found[n] = g.values @ start
    return found


def top_cells(pairs: list[tuple[Step, Step]], scores: np.ndarray, most: int = 3) -> list[tuple[int, int]]:
    order = np.argsort(-scores, kind="stable")
    return list(dict.fromkeys((pairs[n][0].cell, pairs[n][1].cell) for n in order))[:most]


def learn_grids(real: list[Looked], others: list[Looked], say: Callable[[str], None]) -> dict[str, Any]:
    mean, spread = scaling(np.concatenate([v for sheet in real for v in sheet.values]).astype(float))
    groups = axis_groups(real, mean, spread, 1.0)
    extra = axis_groups(others, mean, spread, 0.7)
    learned = thinned(groups + extra)
    say("steps along one axis")
    scores = out_of_fold(groups + extra, learned, AXIS_FEATURES, PENALTY["axis"])
    axis = fit_ranking(learned, PENALTY["axis"], bounds_of(AXIS_FEATURES, UP, DOWN))
    say("pairs of steps")
    described, pairs = pair_groups(real + others, scores, 1.0)
    pair_mean, pair_spread = scaling(np.concatenate([g.values for g in described[: len(real)]]))
    shares = [1.0] * len(real) + [0.3] * len(others)
    ready = [
        g._replace(values=(g.values - pair_mean) / pair_spread, weight=g.weight * share)
        for g, share in zip(described, shares, strict=True)
    ]
    held_out = out_of_fold(ready, ready, GRID_FEATURES, PENALTY["pair"])
    pair = fit_ranking(ready, PENALTY["pair"], bounds_of(GRID_FEATURES, UP, DOWN))
    first = three = sure = sure_wrong = 0
    wrong = []
    for sheet, own, score in zip(real, pairs, held_out, strict=False):
        cells = top_cells(own, score)
        right = [sheet.label.takes(*c) for c in cells]
        likely = ranking.chances(score)
        share = sum(p for p, (x, y) in zip(likely, own, strict=True) if (x.cell, y.cell) == cells[0])
        first, three = first + right[0], three + any(right)
        sure, sure_wrong = sure + (share >= SURE), sure_wrong + (share >= SURE and not right[0])
        if not right[0]:
            wrong.append(f"  {sheet.label.file.rsplit('/', 1)[-1]} {sheet.label.cell}: {cells} {share:.2f}")
    count = len(real)
    say("\n".join(wrong))
    return {
        "models": {
            "grid_axis": model_of(AXIS_FEATURES, mean, spread, axis),
            "grid_pair": model_of(GRID_FEATURES, pair_mean, pair_spread, pair),
        },
        "scores": {"cell_first": first / count, "cell_among_three": three / count, "sure": sure / count,
                   "sure_and_wrong": sure_wrong / max(sure, 1)},
    }  # fmt: skip


# -- key colours -----------------------------------------------------------------------------------


def _look_key(
    args: tuple[str, tuple[int, int, int] | None],
) -> tuple[str, bool, np.ndarray, np.ndarray] | None:
    file, key = args
    rgba = read_picture(ART / file).rgba
    if not may_be_keyed(rgba):
        return None
    colours, values = candidate_features(rgba)
    right = np.array(
        [key is not None and max(abs(a - b) for a, b in zip(c, key, strict=True)) <= 2 for c in colours]
    )
    return file, key is not None, values, right


def learn_keys(pool: Any) -> dict[str, Any]:
    looked_at = [d for d in pool.map(_look_key, key_labels(), chunksize=4) if d is not None]
    mean, spread = scaling(np.concatenate([values for _f, _k, values, _r in looked_at]))
    weights = evenly([file.split("/")[0] for file, *_ in looked_at])
    groups = [Group((v - mean) / spread, r, f.split("/")[0], w)
              for (f, _k, v, r), w in zip(looked_at, weights, strict=True)]  # fmt: skip

    def fit(own: list[Group]) -> tuple[np.ndarray, np.ndarray, float]:
        colour = fit_ranking(own, PENALTY["key"])
        tops = [int(np.argmax(g.values @ colour)) for g in own]
        top = np.array([g.values[t] for g, t in zip(own, tops, strict=True)])
        yes = np.array([float(g.right[t]) for g, t in zip(own, tops, strict=True)])
        return colour, *fit_yes_no(top, yes, np.array([g.weight for g in own]), PENALTY["key"])

    right = keyed = silent = false = 0
    for game in sorted({g.game for g in groups}):
        colour, present, bias = fit([g for g in groups if g.game != game])
        for (_file, is_keyed, _v, _r), g in zip(looked_at, groups, strict=True):
            if g.game == game:
                top = int(np.argmax(g.values @ colour))
                taken = ranking.chance(float(g.values[top] @ present + bias)) >= SURE_OF_KEY
                keyed, right = keyed + is_keyed, right + bool(g.right[top])
                silent, false = silent + (taken and is_keyed), false + (taken and not is_keyed)
    colour, present, bias = fit(groups)
    return {
        "models": {"key_colour": model_of(KEY_FEATURES, mean, spread, colour),
                   "key_present": model_of(KEY_FEATURES, mean, spread, present, bias)},
        "scores": {"key_best_right": right / keyed, "key_taken_silently": silent / keyed,
                   "key_taken_falsely": false / (len(groups) - keyed)},
    }  # fmt: skip


# -- kinds -----------------------------------------------------------------------------------------


def _look_kind(args: tuple[str, str]) -> tuple[str, str, np.ndarray]:
    """Of a labelled file, or of a drawn picture or made-up sheet named by its kind and number."""
    file, kind = args
    if file.startswith(MADE_UP):
        _made_up, made, number = file.split("/")
        rgba = make(made, int(number)).rgba if made in KINDS else kinds.draw(made, int(number)).rgba
    else:
        rgba = read_picture(ART / file).rgba
    seen = examine(rgba)
    return file, kind, kind_features(rgba, seen, propose(rgba, seen=seen))[0]


def learn_kinds(pool: Any) -> dict[str, Any]:
    made_up = [(f"{MADE_UP}/{made}/{n}", kinds.draw(made, n).kind) for made in kinds.KINDS for n in range(20)]
    made_up += [(f"{MADE_UP}/{KINDS[n % len(KINDS)]}/{n}", "grid") for n in range(80)]
    rows = pool.map(_look_kind, kind_labels() + made_up, chunksize=4)
    values = np.array([v for _f, _k, v in rows])
    games, what = [f.split("/")[0] for f, _k, _v in rows], np.array([k for _f, k, _v in rows])
    mean, spread = scaling(values)
    scaled = (values - mean) / spread
    weight = evenly(games) * np.where(np.array(games) == MADE_UP, MADE_UP_SHARE, 1.0)
    total = weight.sum()
    for kind, share in KIND_SHARES.items():
        weight[what == kind] *= share * total / 3 / weight[what == kind].sum()

    def fit(own: np.ndarray) -> tuple[tuple[np.ndarray, float], tuple[np.ndarray, float]]:
        rest = own & (what != "grid")
        by_grid = fit_yes_no(scaled[own], (what[own] == "grid").astype(float), weight[own], PENALTY["kind"])
        pieces = (what[rest] == "pieces").astype(float)
        by_pieces = fit_yes_no(
            scaled[rest], pieces, weight[rest] * np.where(pieces, PIECES_SHARE, 1.0), PENALTY["kind"]
        )
        return by_grid, by_pieces

    told = np.empty(len(what), object)
    for game in sorted(set(games)):
        mine = np.array([g == game for g in games])
        (grid, b0), (piece, b1) = fit(~mine)
        if game == MADE_UP:
            told[mine] = what[mine]
            continue
        is_grid, is_piece = (expit(scaled[mine] @ w + b) for w, b in ((grid, b0), (piece, b1)))
        likely = np.stack((is_grid, (1 - is_grid) * is_piece, (1 - is_grid) * (1 - is_piece)))
        told[mine] = np.array(("grid", "pieces", "single"), object)[likely.argmax(axis=0)]
    (grid, b0), (piece, b1) = fit(np.ones(len(what), bool))
    real = np.array([g != MADE_UP for g in games])
    shares = {f"kind_{k}_right": float((told[real & (what == k)] == k).mean()) for k in KIND_SHARES}
    shares["kind_grid_lost"] = float((told[real & (what == "grid")] == "pieces").mean())
    return {
        "models": {"kind_grid": model_of(KIND_FEATURES, mean, spread, grid, b0),
                   "kind_pieces": model_of(KIND_FEATURES, mean, spread, piece, b1)},
        "scores": shares,
    }  # fmt: skip


def looked_at(
    pool: Any, labels: list[Sheet], say: Callable[[str], None]
) -> tuple[list[Looked], list[Looked]]:
    """The real sheets, and made-up and relaid ones, looked at; RUSHWEED_LOOKED names a file that keeps them
    for the next time, as long as features stay as they are."""
    keep = os.environ.get("RUSHWEED_LOOKED")
    if keep and Path(keep).exists():
        return pickle.loads(Path(keep).read_bytes())  # type: ignore[no-any-return]
    real = pool.map(_look_real, labels, chunksize=4)
    say("real sheets looked at")
    others = pool.map(_look_made, range(LOOKED_AT), chunksize=8)
    others += pool.map(
        _look_drawn, [(made, n) for made in DRAWN_GRIDS for n in range(DRAWN_EACH)], chunksize=8
    )
    for more in pool.imap(_look_relaid, [(label, 4) for label in labels], chunksize=2):
        others += more
    say(f"{len(others)} made-up and relaid ones")
    if keep:
        Path(keep).write_bytes(pickle.dumps((real, others)))
    return real, others


def write(models: dict[str, ranking.Model], scores: dict[str, float], sets: dict[str, int]) -> None:
    known = {k: round(float(v), 4) for k, v in scores.items()}
    text = ranking.Weights(time.strftime("%Y-%m-%d"), sets, known, models)
    WEIGHTS.write_bytes(msgspec.json.format(msgspec.json.encode(text), indent=1) + b"\n")
    ranking.weights.cache_clear()
    ranking.model.cache_clear()


def main() -> None:
    began = time.monotonic()

    def say(words: str) -> None:
        print(f"{time.monotonic() - began:6.0f} s  {words}", flush=True)

    labels = sheet_labels()
    old = ranking.weights() if WEIGHTS.exists() else None
    models, scores = (dict(old.models), dict(old.scores)) if old else ({}, {})
    sets = dict(old.sets) if old else {}
    wanted = sys.argv[1:] or ["keys", "grids", "kinds"]
    for what in wanted:
        with Pool(2) as pool:
            if what == "keys":
                found = learn_keys(pool)
            elif what == "kinds":
                found = learn_kinds(pool)
            else:
                real, others = looked_at(pool, labels, say)
                found = learn_grids(real, others, say)
                made = LOOKED_AT + DRAWN_EACH * len(DRAWN_GRIDS)
                sets = {"real": len(real), MADE_UP: made, "relaid": len(others) - made}
        models |= found["models"]
        scores |= found["scores"]
        write(models, scores, sets)
        say(f"{what} {found['scores']}")


if __name__ == "__main__":
    main()
