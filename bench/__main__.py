"""`./run bench [B7 B9 ...]`: one row each, ours, the reference, their ratio and what is allowed; kept in
results.json, from which docs/speed.md is made. `./run bench growth` draws the picture in it."""

from __future__ import annotations

import sys

from bench import (
    crowd,
    cutting,
    find,
    growth,
    heartbeat,
    levels,
    monkey,
    real,
    registering,
    shapes,
    shipping,
    soft,
    starting,
    textures,
    walking,
)
from bench.results import keep
from bench.row import Row
from rushweed.core import ready

ROWS = {
    "B1": cutting.piece_boxes,
    "B2": cutting.proposals,
    "C3": cutting.shares,
    "G3": find.keys,
    "G4": find.enlarged,
    "B3": shapes.outlines,
    "S7": shapes.twins,
    "S4": shapes.overlay,
    "B4": textures.codecs,
    "B4b": textures.fine_codecs,
    "B4c": textures.phone_codecs,
    "T3": textures.proof_frame,
    "B5": shipping.packing,
    "B6": levels.filling,
    "B7": levels.brush_step,
    "B7b": levels.moving_about,
    "B8": levels.save_and_open,
    "B9": starting.first_window,
    "B10": shipping.ship_again,
    "B11": levels.memory,
    "B12": shipping.many_sheets,
    "P11": levels.merged_outline,
    "W1": walking.step,
    "W2": walking.frames,
    "W3": walking.reached,
    "M1": crowd.memory,
    "L1": crowd.light,
    "F1": crowd.findings,
    "hour": crowd.hour,
    "heart": heartbeat.rows,
    "monkey": monkey.rows,
    "real-art": real.rows,
    "soft": soft.rows,
    "jitter": registering.rows,
}

OF_REAL_ART = ("real-art", "soft", "jitter")  # what they find is not kept
APART = (*OF_REAL_ART, "heart", "hour", "monkey")  # run when they are named


def main() -> None:
    ready.load()  # as a window has done a moment after it opened
    if sys.argv[1:] == ["growth"]:
        growth.main()
        return
    wanted = sys.argv[1:] or [name for name in ROWS if name not in APART]
    print(f"{'row':4} {'work':46} {'ours':>11} {'reference':>11} {'ratio':>7} {'at most':>8}")
    for name in wanted:
        found = []
        for row in ROWS[name]():
            show(name, row)
            found.append(row)
        if name not in OF_REAL_ART:
            keep({name: found})


def show(name: str, row: Row) -> None:
    ok = "" if row.ratio <= row.at_most else "  SLOW"
    print(
        f"{name:4} {row.work:46} {row.ours:>11} {row.reference:>11} {row.ratio:7.2f} {row.at_most:8.2f}{ok}"
        f"{'  ' + row.note if row.note else ''}",
        flush=True,
    )


main()
