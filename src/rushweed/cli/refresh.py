"""`rushweed refresh`: take up pictures that other programs have changed."""

from __future__ import annotations

import json

from rushweed.cli.common import AsJson, ProjectPath, app, changing, errors_told
from rushweed.core.store.saves import save_and_remember


@app.command()
def refresh(project: ProjectPath, as_json: AsJson = False) -> None:
    """Take up pictures that other programs have changed, also in size; cells, shapes and levels follow."""
    from rushweed.core.cut.reload import refresh as renew
    from rushweed.core.level.losses import aside_words
    from rushweed.core.pixels.cache import PixelCache

    with errors_told(), changing(project) as (folder, value):
        stock, before = PixelCache(folder.path), value
        value, changed = renew(value, stock)
        save_and_remember(folder, value)
        stock.seen.keep([s.source for s in value.sheets], stock.to_keep, prune=True)
    rows = []
    for sheet, found in changed:
        moved = found.moves[0].words if found.moves else ""
        rows.append({"sheet": sheet.name, "from": list(sheet.source.size), "to": list(found.source.size),
                     "moved": moved, "aside": aside_words(before, value, sheet.id)})  # fmt: skip
    if as_json:
        print(json.dumps({"changed": rows}))
        return
    for row in rows:
        size = f"{row['from'][0]} x {row['from'][1]} to {row['to'][0]} x {row['to'][1]} px, {row['moved']}."
        what = size if row["from"] != row["to"] else "its new pixels are taken up."
        print(f"{row['sheet']}: {what} {row['aside']}".rstrip())
    if not rows:
        print("No picture has changed.")
