"""The core from a script. Exit codes: 0 done, 1 findings, 2 error."""

from __future__ import annotations

import json
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any, get_args

import typer

from rushweed.core.document.errors import EditError, RushweedError, file_reason
from rushweed.core.document.model import CountCut, Cut, GridCut, PiecesCut, Project, Sheet, Transfer
from rushweed.core.store.folder import Folder

app = typer.Typer(add_completion=False, no_args_is_help=False, pretty_exceptions_enable=False)

ProjectPath = Annotated[Path, typer.Argument(metavar="PROJECT", help="The project's folder.")]
AsJson = Annotated[bool, typer.Option("--json", help="Print JSON and nothing else.")]


def fail(error: RushweedError) -> None:
    print(f"rushweed: {error}", file=sys.stderr)
    raise typer.Exit(2)


@contextmanager
def errors_told() -> Iterator[None]:
    """A RushweedError inside becomes its sentence on stderr and exit code 2."""
    try:
        yield
    except RushweedError as error:
        fail(error)


@contextmanager
def changing(path: Path) -> Iterator[tuple[Folder, Project]]:
    """Open a project for writing; refused while a window has it."""
    folder = Folder(path)
    if not folder.is_project:
        folder.open()  # tells what is wrong
    if not folder.lock():
        raise EditError(f"{path} is open in another Rushweed.", "Close it there, then run this again.")
    try:
        project = folder.open()
        kept = folder.kept()
        if kept is not None:
            raise EditError(
                f"{path} holds {kept.edits} unsaved edits of a window that did not close.",
                "Open it once to take them back or discard them.",
            )
        yield folder, project
    finally:
        folder.unlock()


def find_sheet(project: Project, name: str) -> Sheet:
    """A sheet by name, id or name without its ending."""
    for sheet in project.sheets:
        if name in (sheet.name, sheet.id, Path(sheet.name).stem):
            return sheet
    raise EditError(
        f"The project has no sheet {name}.", f"It has: {', '.join(s.name for s in project.sheets) or 'none'}."
    )


def pair(text: str, what: str, marks: str = "x,") -> tuple[int, int]:
    """Two whole numbers such as 16x16 or 1,2; one number stands for both."""
    for mark in marks:
        text = text.replace(mark, " ")
    try:
        numbers = [int(part) for part in text.split()]
    except ValueError:
        numbers = []
    if len(numbers) == 1:
        numbers *= 2
    if len(numbers) != 2:
        raise EditError(f"{what} {text!r} is not two whole numbers.", "Write it as 16x16 or 1,1.")
    return numbers[0], numbers[1]


def transfer_named(name: str) -> Transfer:
    """How values are meant, by name. Raises EditError."""
    for transfer in get_args(Transfer):
        if name.lower() == transfer:
            return transfer  # type: ignore[no-any-return]
    raise EditError(f"There is no transfer {name!r}.", "Use srgb or linear.")


def four(text: str, what: str) -> tuple[int, int, int, int]:
    """Four whole numbers such as 0,0,16,16."""
    try:
        x, y, w, h = (int(part) for part in text.replace(",", " ").split())
    except ValueError:
        raise EditError(f"{what} {text!r} is not four whole numbers.", "Write it as 0,0,16,16.") from None
    return x, y, w, h


@app.command()
def new(
    folder: Annotated[Path, typer.Argument(metavar="DIR")],
    name: Annotated[str, typer.Option(help="What the project is called; else the folder's name.")] = "",
) -> None:
    """Make a new, empty project."""
    with errors_told():
        Folder.create(folder, name or folder.resolve().name)
        print(f"Made {folder}.")


@app.command()
def gather(
    project: ProjectPath,
    files: list[Path],
    as_json: AsJson = False,
    apart: Annotated[bool, typer.Option("--apart", help="Numbered pictures each by itself.")] = False,
) -> None:
    """Bring pictures into a project; a bad file is named and the rest go on."""
    from rushweed.core.cut.take import sheet_chance
    from rushweed.core.pixels.gather import Gathered, Gathering, add_gathered, files_in
    from rushweed.core.tune.recipe import suited

    with errors_told(), changing(project) as (folder, value):
        gathering = Gathering(folder.path, value, sheet_chance)
        results: list[Gathered] = []
        for batch in gathering.batches(files_in(files, results), not apart):
            results += [suited(value, r)._replace(picture=None) for r in gathering.take(batch)]
        value = add_gathered(value, results)
        folder.save(value)
    faults = [r for r in results if r.fault]
    if as_json:
        report: dict[str, Any] = {
            "gathered": [r.sheet.name for r in results if r.sheet],
            "along": [{"file": str(r.path), "with": r.along, "as": r.note} for r in results if r.along],
            "same": [{"file": str(r.path), "as": r.same} for r in results if r.same],
            "unsure": sorted({str(path) for r in results for path in r.numbered}),
            "failed": [{"file": str(r.path), "problem": str(r.fault)} for r in faults],
        }
        print(json.dumps(report))
    else:
        for r in results:
            if r.sheet:
                note = f", {r.note}" if r.note else ""
                note += "; unsure, --apart parts them" if r.numbered and r.animation else ""
                print(f"{r.sheet.name}  {r.sheet.source.size[0]} x {r.sheet.source.size[1]} px{note}")
            elif r.along:
                print(f"{r.path.name} goes along with {r.along} as its {r.note}.")
            elif r.same:
                print(f"{r.path.name} is the same picture as {r.same}.")
    for r in faults:
        print(f"rushweed: {r.fault}", file=sys.stderr)
    if faults:
        raise typer.Exit(2)


@app.command()
def cut(
    project: ProjectPath,
    sheet: str,
    grid: Annotated[str, typer.Option(metavar="WxH", help="Size of a cell in px.")] = "",
    count: Annotated[str, typer.Option(metavar="CxR", help="Columns and rows.")] = "",
    margin: Annotated[str, typer.Option(metavar="X,Y", help="Px before the first cell.")] = "0",
    spacing: Annotated[str, typer.Option(metavar="X,Y", help="Px between cells.")] = "0",
    pieces: Annotated[bool, typer.Option("--pieces", help="Cut into free-form pieces.")] = False,
    join: Annotated[int | None, typer.Option(min=0, help="Px within which parts are one piece.")] = None,
    auto: Annotated[bool, typer.Option("--auto", help="Take the first proposal.")] = False,
    keep_empty: Annotated[bool, typer.Option(help="Keep cells without art.")] = False,
) -> None:
    """Cut a sheet by a grid or into pieces; what it leaves over is told."""
    from rushweed.core.cut.edit import cut_sheet
    from rushweed.core.cut.grid import grid_of
    from rushweed.core.cut.islands import propose_join
    from rushweed.core.cut.propose import ink_of
    from rushweed.core.cut.take import choices
    from rushweed.core.pixels.stock import Stock

    with errors_told(), changing(project) as (folder, value):
        if sum((bool(grid), bool(count), pieces, auto)) != 1:
            raise EditError(
                "cut needs one of --grid, --count, --pieces or --auto.", "For example --grid 16x16."
            )
        found = find_sheet(value, sheet)
        pixels = Stock(folder.path).pixels(found)
        room = (pair(margin, "--margin"), pair(spacing, "--spacing"))
        how: Cut
        if grid:
            how = GridCut(pair(grid, "--grid"), *room, leave_out_empty=not keep_empty)
        elif count:
            how = CountCut(*pair(count, "--count"), *room, leave_out_empty=not keep_empty)
        elif pieces:
            how = PiecesCut(join if join is not None else propose_join(ink_of(pixels)[0]))
        else:
            how = choices(pixels).best
        value = cut_sheet(value, found.id, how, pixels)
        folder.save(value)
        cells = find_sheet(value, found.id).cells
    if not isinstance(how, (GridCut, CountCut)):
        within = how.join if isinstance(how, PiecesCut) else 0
        print(f"{found.name}: {len(cells)} pieces, parts within {within} px joined.")
        return
    lines = grid_of(how, found.source.size, found.name)
    empty = lines.columns * lines.rows - len(cells)
    print(
        f"{found.name}: {len(cells)} cells of {lines.cell[0]} x {lines.cell[1]} px, {empty} empty left out."
    )
    if any(lines.left_over):
        print(f"{lines.left_over[0]} px are left over on the right, {lines.left_over[1]} px below.")


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
    from rushweed.core.shape.primitives import signed_area
    from rushweed.core.shape.trace import trace_outline, trace_vertices

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


@app.command()
def tune(
    project: ProjectPath,
    sheets: list[str],
    ppu: Annotated[float | None, typer.Option(help="Pixels per unit.")] = None,
    pivot: Annotated[str, typer.Option(metavar="NAME|X,Y", help="A place such as bottom, or px.")] = "",
    filter: Annotated[str, typer.Option(metavar="nearest|linear")] = "",
    codec: Annotated[str, typer.Option(metavar="NAME", help="none, indexed, bc1, bc3, bc7 or etc2.")] = "",
    mipmaps: Annotated[bool | None, typer.Option("--mipmaps/--no-mipmaps", help="With mipmaps.")] = None,
    gutter: Annotated[int | None, typer.Option(metavar="PX", help="Px of repeated edge a cell.")] = None,
    transfer: Annotated[str, typer.Option(metavar="NAME", help="Values of the texture: srgb, linear.")] = "",
    recipe: Annotated[str, typer.Option(metavar="NAME", help="Follow a recipe; fit: the fitting one.")] = "",
) -> None:
    """Set pixels per unit, pivot, filter, compression and the rest of sheets."""
    from rushweed.core.pixels.stock import Stock
    from rushweed.core.tune.codec.compress import codec_named
    from rushweed.core.tune.edit import parse_pivot, set_pivot_px, tune_sheets
    from rushweed.core.tune.recipe import fitting, give, recipes_of

    with errors_told(), changing(project) as (folder, value):
        if filter not in ("", "nearest", "linear"):
            raise EditError(f"{filter!r} is no filter.", "Use nearest or linear.")
        ids = [find_sheet(value, name).id for name in sheets]
        share = None
        if pivot:
            point, is_share = parse_pivot(pivot)
            if is_share:
                share = point
            else:
                cells = [c.id for s in value.sheets if s.id in ids for c in s.cells]
                value = set_pivot_px(value, cells, *point)
        if recipe == "fit":
            stock = Stock(folder.path)
            for name in sheets:
                found = find_sheet(value, name)
                fit, why = fitting(stock.pixels(found))
                value = give(value, [found.id], fit.id)
                print(f"{found.name}: {fit.name}, {why}")
        elif recipe:
            chosen = next((r.id for r in recipes_of(value) if recipe in (r.id, r.name)), None)
            if chosen is None:
                known = ", ".join(r.name for r in recipes_of(value))
                raise EditError(f"There is no recipe {recipe!r}.", f"Use fit or one of {known}.")
            value = give(value, ids, chosen)
        given = {"ppu": ppu, "filter": filter or None, "mipmaps": mipmaps, "gutter": gutter}
        fields: dict[str, Any] = {name: v for name, v in given.items() if v is not None}
        if codec:
            fields["codec"] = codec_named(codec)
        if transfer:
            fields["transfer"] = transfer_named(transfer)
        value = tune_sheets(value, ids, share, **fields)
        folder.save(value)
    print(f"Tuned {len(ids)} {'sheet' if len(ids) == 1 else 'sheets'}.")


@app.command()
def compress(
    image: Path,
    codec: Annotated[str, typer.Option(metavar="NAME", help="none, indexed, bc1, bc3, bc7 or etc2.")],
    out: Annotated[Path, typer.Option("--out", metavar="FILE.ktx2", help="Where to; a PNG if indexed.")],
    mipmaps: Annotated[bool, typer.Option("--mipmaps", help="With all mipmaps.")] = False,
    transfer: Annotated[str, typer.Option(metavar="NAME", help="srgb, or linear for normal maps.")] = "srgb",
    as_json: AsJson = False,
) -> None:
    """Write a picture as a texture, and say what the compression costs and spoils."""
    from rushweed.core.pixels.read import read_picture
    from rushweed.core.store.files import write_file
    from rushweed.core.tune.codec.compress import (
        EXACT,
        codec_named,
        coded,
        container,
        decoded,
        memory_bytes,
        png_bytes,
        size_rules,
        spoiled,
    )
    from rushweed.core.tune.ktx2 import write_ktx2

    with errors_told():
        name = codec_named(codec)
        ending = ".png" if name == "indexed" else ".ktx2"
        if out.suffix.lower() != ending:
            raise EditError(
                f"{name} is written as a {ending} file, not as {out.name}.", f"End it on {ending}."
            )
        rgba = read_picture(image).rgba
        size = (rgba.shape[1], rgba.shape[0])
        if name == "indexed":
            data, made = png_bytes(rgba, True), decoded(coded(rgba, name), name, size)
        else:
            texture = container(rgba, name, mipmaps, transfer=transfer_named(transfer))
            data, made = write_ktx2(texture), decoded(texture.levels[0], name, size)
        try:
            write_file(out, data)
        except OSError as error:
            raise EditError(f"{out} could not be written: {file_reason(error)}.", "Choose another.") from None
        lost = spoiled(rgba, made)
        rules = size_rules(size, name, mipmaps)
    memory = memory_bytes(size, name, mipmaps)
    psnr = None if lost.psnr >= EXACT else round(lost.psnr, 2)
    if as_json:
        report = {
            "codec": name, "size": list(size), "file_bytes": len(data), "memory_bytes": memory, "psnr": psnr,
            "exact": psnr is None, "worst_block": list(lost.worst), "worst_psnr": round(lost.worst_psnr, 2),
            "size_rules": rules,
        }  # fmt: skip
        print(json.dumps(report))
        return
    for rule in rules:
        print(f"rushweed: {rule}", file=sys.stderr)
    quality = "exact" if psnr is None else f"PSNR {psnr:.2f} dB"
    print(f"{out}: {len(data)} bytes, {memory} on the card, {quality}")


@app.command()
def refresh(project: ProjectPath, as_json: AsJson = False) -> None:
    """Take up pictures that other programs have changed, also in size; cells, shapes and levels follow."""
    from rushweed.core.cut.reload import refresh as renew
    from rushweed.core.level.losses import aside_words
    from rushweed.core.pixels.stock import Stock

    with errors_told(), changing(project) as (folder, value):
        stock, before = Stock(folder.path), value
        value, changed = renew(value, stock)
        folder.save(value)
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


@app.command()
def check(project: ProjectPath, as_json: AsJson = False) -> None:
    """Print the findings; exit 1 if one of them is a fault."""
    from rushweed.core.findings.check import check as find
    from rushweed.core.pixels.stock import Stock

    with errors_told():
        folder = Folder(project)
        found = find(folder.open(), Stock(folder.path))
    if as_json:
        rows = [
            {"rule": f.rule, "weight": f.weight, "text": f.text, "fix": f.fix.label if f.fix else None}
            for f in found
        ]
        print(json.dumps(rows))
    else:
        for f in found:
            print(f"{f.weight}: {f.text}")
        if not found:
            print("Nothing found.")
    if any(f.weight == "fault" for f in found):
        raise typer.Exit(1)


@app.command()
def ship(
    project: ProjectPath,
    out: Annotated[Path, typer.Option("--out", metavar="DIR", help="Where the game's files go.")],
    gutter: Annotated[int, typer.Option(min=0, max=16, help="Px of repeated edge around frames.")] = 2,
    page: Annotated[int, typer.Option(min=64, max=16384, help="Largest side of an atlas page.")] = 2048,
    any_size: Annotated[bool, typer.Option(help="Pages need not be powers of two.")] = False,
    jobs: Annotated[int, typer.Option(min=1, max=64, help="Files encoded at a time.")] = 2,
    whole_cells: Annotated[bool, typer.Option(help="Do not trim clear borders.")] = False,
) -> None:
    """Write atlas, manifest, levels and credits."""
    from rushweed.core.pixels.stock import Stock
    from rushweed.core.ship.atlas import AtlasSettings
    from rushweed.core.ship.build import ship as build

    with errors_told():
        folder = Folder(project)
        settings = AtlasSettings(gutter, page, not any_size, not whole_cells)
        done = build(folder.open(), Stock(folder.path), out, settings, jobs=jobs)
    pages = "1 page" if done.pages == 1 else f"{done.pages} pages"
    print(f"Shipped {done.frames} frames on {pages} to {out}, {len(done.files)} files.")
