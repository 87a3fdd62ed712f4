"""Builds the Tidelamp project from its pictures with the same edits that a person makes."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace

from rushweed.core.animate.body import set_tile
from rushweed.core.animate.timeline import animate, animate_rows, set_ms, set_path, set_state
from rushweed.core.cut.edit import cut_sheet
from rushweed.core.document.edit import put_sheet, set_credit
from rushweed.core.document.ids import natural_key
from rushweed.core.document.model.animation import Path as MovePath
from rushweed.core.document.model.cut import CountCut, Cut, GridCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, Shape
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.gather import Gathering, add_gathered
from rushweed.core.pixels.series import Batch
from rushweed.core.shape.autotile import add_set, lay_template
from rushweed.core.shape.edit import give_common, set_shapes
from rushweed.core.shape.groups import add_group, set_material, set_touch
from rushweed.core.shape.traits import tell
from rushweed.core.store.folder import Folder
from rushweed.core.tune.edit import PLACES, tune_sheets
from rushweed.core.tune.recipe import suited
from rushweed.demo import ART
from rushweed.demo.boardwalk import NAMES
from rushweed.demo.levels import paint_pier, paint_saltings, sheet_named

ORDER = (
    "boardwalk.png", "marsh.png", "wren.png", "lamps.png", "eel.bmp", "panel.png", "sky.png", "crate.png",
    "lamps_4x.png",
)  # fmt: skip
CUTS: dict[str, Cut] = {
    "boardwalk.png": GridCut((16, 16), (1, 1), (1, 1)),
    "marsh.png": GridCut((16, 16)),
    "wren.png": GridCut((24, 32)),
    "eel.bmp": CountCut(3, 2),
    "panel.png": CountCut(1, 1),
    "sky.png": CountCut(1, 1),
    "crate.png": CountCut(1, 1),
}
PIVOTS = {"boardwalk.png": "top left", "marsh.png": "top left", "sky.png": "top left", "panel.png": "centre"}
TITLES = {
    "boardwalk.png": "Tidelamp boardwalk", "marsh.png": "Tidelamp marsh", "wren.png": "Wren, keeper of lamps",
    "eel.bmp": "Channel eel", "panel.png": "Rope panel", "sky.png": "Dusk over the marsh",
    "crate.png": "Tidelamp boardwalk",
}  # fmt: skip


def build(folder: Path, art: Path = ART, name: str = "Tidelamp") -> tuple[Folder, Project, PixelCache]:
    """Make the demo project in a new folder and save it."""
    place, project = Folder.create(folder, name)
    stock = PixelCache(folder)
    gathering = Gathering(folder, project)
    for file in ORDER:
        got = gathering.take(Batch((art / file,), file))[0]
        if got.sheet is None or got.picture is None:
            raise got.fault or RuntimeError(f"{file} is there twice")
        stock.put(got.picture)
        project = add_gathered(project, [suited(project, got)])
    sheets = {sheet.name: sheet for sheet in project.sheets}
    for file, cut in CUTS.items():
        project = cut_sheet(project, sheets[file].id, cut, stock.pixels(sheets[file]))
    herons = sorted((art / "heron").iterdir(), key=lambda p: natural_key(p.name))
    got = gathering.take(Batch(tuple(herons), "heron"))[0]
    project = add_gathered(project, [suited(project, got)])
    project = _animated(_named(project))
    for file, place_name in PIVOTS.items():
        project = tune_sheets(project, [sheets[file].id], pivot=PLACES[place_name])
    heron = sheet_named(project, "heron")
    project = tune_sheets(project, [sheets["panel.png"].id], filter="linear")
    project = set_credit(
        project, [heron.id], author="The Tidelamp workshop", title="Heron of the marsh", licence="CC0-1.0"
    )
    for file, title in TITLES.items():
        project = set_credit(
            project,
            [sheets[file].id],
            author="The Tidelamp workshop",
            title=title,
            licence="CC0-1.0",
            link="https://tidelamp.example/pack",
        )
    project = _shaped(project)
    project = _told(project)
    project = _joined(project)
    project = paint_pier(project)
    project = paint_saltings(project)
    place.save(project)
    return place, project, stock


def _named(project: Project) -> Project:
    """Names for the tiles of the boardwalk, the marsh and the frames of Wren."""
    spots = [n for n in NAMES if n != "-"]
    rows = {0: "idle", 1: "walk", 2: "climb", 3: "light"}
    for file in ("boardwalk.png", "marsh.png", "wren.png", "eel.bmp", "panel.png", "sky.png", "crate.png"):
        sheet = sheet_named(project, file)
        cells = []
        for i, cell in enumerate(sheet.cells):
            if file == "boardwalk.png":
                name = spots[i]
            elif file == "wren.png":
                name = f"{rows[cell.rect[1] // 32]}_{cell.rect[0] // 24}"
            elif file == "marsh.png":
                name = _marsh_name(cell.rect[0] // 16, cell.rect[1] // 16)
            elif file == "eel.bmp":
                name = f"swim_{i}"
            else:
                name = Path(file).stem
            cells.append(replace(cell, name=name))
        project = put_sheet(project, replace(sheet, cells=tuple(cells)))
    return project


def _animated(project: Project) -> Project:
    """Wren's rows as animations with the game's words for them; the walk is left to be registered."""
    wren = sheet_named(project, "wren.png")
    project, ids = animate_rows(project, wren.id)
    for animation_id, ms in zip(ids, (220, 90, 140, 120), strict=True):
        project = set_ms(project, animation_id, ms)
    for state, animation_id in zip(("idle", "moving", "climbing", "lighting"), ids, strict=True):
        project = set_state(project, wren.id, state, animation_id)
    heron = next(a for a in project.animations if a.name == "heron")
    project = set_path(project, heron.id, MovePath((96, -12), 2400, "both"))
    return set_ms(project, heron.id, 80)


def _marsh_name(column: int, row: int) -> str:
    if row < 4:
        return f"{('mud', 'grass', 'plank')[column // 4]}_{column % 4}{row}"
    lines = (
        "water_0 water_1 water_2 water_3 reeds_0 reeds_1 reeds_2 reeds_3 lily_pad lily_bloom stone stump",
        "mud_stone mud_stump mud_shells mud_tuft grass_tuft grass_stone grass_stump grass_bloom",
        "loose_lily loose_bloom loose_stone loose_tuft loose_stump",
    )
    return lines[row - 4].split()[column]


def _shaped(project: Project) -> Project:
    cells = {cell.name: cell.id for cell in sheet_named(project, "boardwalk.png").cells}

    def ids(*starts: str) -> list[str]:
        return [i for name, i in cells.items() if name.startswith(starts)]

    deck: tuple[Shape, ...] = (Box(0, 0, 16, 9, "one-way"),)
    step: tuple[Shape, ...] = (Box(0, 7, 16, 9, "one-way"),)
    ledge: tuple[Shape, ...] = (Box(0, 0, 16, 4, "one-way"),)
    climb: tuple[Shape, ...] = (Box(3, 0, 10, 16, "sensor"),)
    for shapes, starts in ((deck, "deck"), (step, "step"), (ledge, "ledge"), (climb, "ladder")):
        project = set_shapes(project, ids(starts), shapes)
    project = give_common(project, ids("bank", "mud"), "full")
    for name, form in (
        ("ramp_up_a", "gentle slope up, lower"),
        ("ramp_up_b", "gentle slope up, upper"),
        ("ramp_down_a", "gentle slope down, upper"),
        ("ramp_down_b", "gentle slope down, lower"),
        ("slope_up", "slope up"),
        ("slope_down", "slope down"),
        ("stair_up", "slope up"),
    ):
        project = give_common(project, [cells[name]], form)
    project = set_shapes(project, [cells["crate"]], (Box(1, 3, 14, 13),))
    project = set_shapes(project, [cells["barrel"]], (Box(1, 0, 14, 15),))
    marsh = sheet_named(project, "marsh.png")
    water = [c.id for c in marsh.cells if c.name.startswith(("water", "lily"))]
    project = give_common(project, water, "full", "sensor")
    stones = [c.id for c in marsh.cells if c.name in ("stone", "stump", "mud_stone", "mud_stump")]
    return set_shapes(project, stones, (Box(3, 5, 10, 8),))


def _told(project: Project) -> Project:
    """Groups, what tiles are made of, where one may come in, and what stands over Wren's feet."""
    cells = {cell.name: cell.id for cell in sheet_named(project, "boardwalk.png").cells}

    def ids(*starts: str) -> list[str]:
        return [i for name, i in cells.items() if name.startswith(starts)]

    project, ground = add_group(project, "ground")
    project, _people = add_group(project, "people")
    project, spirits = add_group(project, "marsh lights")
    project = set_touch(project, ground.id, spirits.id, False)
    project = set_material(project, ids("bank", "mud", "ramp", "slope"), group=ground.id)
    project = set_material(project, ids("mud"), friction=0.5)
    for surface, starts in (("wood", ("deck", "step", "ledge", "stair")), ("grass", ("bank", "ramp", "slope")),
                            ("mud", ("mud",))):  # fmt: skip
        project = tell(project, ids(*starts), "surface", surface)
    project = tell(project, ids("rail"), "over", 6.0)
    reeds = [c.id for c in sheet_named(project, "marsh.png").cells if c.name.startswith("reeds")]
    project = tell(project, reeds, "over", 2.0)
    project = tell(project, ids("ladder"), "climb", True)
    return tell(project, ids("ladder"), "entry", "top bottom")


def _joined(project: Project) -> Project:
    """The marsh's three shores as sets that choose themselves, and the water that plays."""
    marsh = sheet_named(project, "marsh.png")
    cells = {cell.name: cell.id for cell in marsh.cells}
    for name in ("mud", "grass", "plank"):
        project, made = add_set(project, name, "corners")
        project = lay_template(project, made.id, marsh, cells[f"{name}_00"], (4, 4))
    project, water = animate(project, [cells[f"water_{i}"] for i in range(4)], "water", 260)
    return set_tile(project, water, True)
