"""`rushweed propose`: say which grids, or how many pieces, a picture seems to have."""

from __future__ import annotations

import json
from pathlib import Path

from rushweed.cli.common import AsJson, app, errors_told
from rushweed.core.document.model.cut import GridCut, PiecesCut


@app.command()
def propose(image: Path, as_json: AsJson = False) -> None:
    """Say which grids, or how many pieces, a picture seems to have."""
    from rushweed.core.cut.islands import pieces
    from rushweed.core.cut.propose import ink_of
    from rushweed.core.cut.take import choices
    from rushweed.core.pixels.key import key_candidates
    from rushweed.core.pixels.read import read_picture
    from rushweed.core.pixels.true_pixel import true_pixel

    with errors_told():
        rgba = read_picture(image).rgba
        found = choices(rgba)
        best = found.best
        keys, true = key_candidates(rgba), true_pixel(rgba)
    kind = "pieces" if isinstance(best, PiecesCut) else "grid" if isinstance(best, GridCut) else "single"
    if as_json:
        grids = [
            {"cell": g.cell, "margin": g.margin, "spacing": g.spacing, "columns": g.columns, "rows": g.rows,
             "score": g.score, "probability": round(g.score * found.of_grid, 4), "evidence": g.evidence,
             "features": {name: value for name, value in g.named_features.items() if value}}
            for g in found.grids
        ]  # fmt: skip
        rects = pieces(ink_of(rgba)[0], found.join) if found.pieces else []
        probabilities = {"grid": found.of_grid, "pieces": (1 - found.of_grid) * found.of_pieces}
        report = {
            "size": [rgba.shape[1], rgba.shape[0]],
            "key_colour": keys[0].colour if keys and keys[0].sure else None,
            "key_candidates": [
                {"colour": key.colour, "tolerance": key.tolerance, "probability": key.chance,
                 "evidence": key.evidence}
                for key in keys
            ],
            "true_pixel": true.factor if true else 1, "grids": grids,
            "pieces": {"join": found.join, "rects": rects}, "best": kind, "sure": found.sure,
            "regions": [
                {"rect": b.rect, "cell": [b.cell, b.rect[3]], "margin": [b.margin, 0], "spacing": [b.gap, 0],
                 "probability": b.chance}
                for b in found.bands
            ],
            "probabilities": {k: round(v, 4) for k, v in probabilities.items()},
        }  # fmt: skip
        print(json.dumps(report))
        return
    for g in found.grids:
        print(f"{g.score:.2f}  {g.words()}  {g.columns} x {g.rows} cells, {g.evidence}")
    if found.pieces:
        print(f"{found.pieces} pieces, small parts within {found.join} px joined")
    if found.bands:
        print(f"{len(found.bands)} strips with cells of their own, {len(found.band_cells)} cells")
    for key in keys:
        if key.sure or key.chance > 0.1:
            print(f"key colour: {key.evidence}" + ("" if key.sure else ", unsure"))
    if true:
        print(f"enlarged {true.factor} times: {true.evidence}")
    print(f"best: {kind}" + ("" if found.sure else ", unsure"))
