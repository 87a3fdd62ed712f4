"""Ways to ship: named settings kept with the project; some come ready, one for each kind of need."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from rushweed.core.document.edit import animated_sheets, painted_sheets
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.limits import check_way
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shipping import Pages, Way
from rushweed.core.walk.walkers import shown_when, walker_of

DESKTOP = Way("desktop", "Desktop game")
PHONE = Way("phone", "Phone game", texture="etc2", picture="webp", pages=Pages(sides="power", turned=True))
TILES = Way(
    "grids", "Even grids", pages=Pages(0, sides="any", trim=False, grid=True), texture="never", tiles="cells"
)
PLAIN = Way("plain", "Plain files", makes="plain")
PAGE = Way("page", "Page to walk in", makes="page", pages=Pages(sides="any"), texture="never")
READY = (DESKTOP, PHONE, TILES, PLAIN, PAGE)
ABOUT = {
    "desktop": "Pages, manifest and levels, textures as each sheet says",
    "phone": "The same with ETC2 textures and WebP pages, mirrored pictures placed once",
    "grids": "Each evenly cut sheet whole, cell by cell at one pitch: read by arithmetic alone",
    "plain": "Single frames, moving pictures, outlines, tables and pictures of levels",
    "page": "One file for a browser, to walk in",
}


def ways_of(project: Project) -> tuple[Way, ...]:
    """The ready ones, as they are or as this project changed them, then its own."""
    own = {w.id: w for w in project.ways}
    ready = {w.id for w in READY}
    return (*(own.get(w.id, w) for w in READY), *(w for w in project.ways if w.id not in ready))


def way_of(project: Project, way_id: str) -> Way:
    """Raises EditError if there is none with that id."""
    found = next((w for w in ways_of(project) if w.id == way_id), None)
    if found is None:
        raise EditError("That way to ship is gone.", "Choose another.")
    return found


def way_named(project: Project, name: str) -> Way:
    """By its name or its id, whatever the case. Raises EditError if there is none."""
    wanted = name.strip().casefold()
    for way in ways_of(project):
        if wanted in (way.name.casefold(), way.id.casefold()):
            return way
    names = ", ".join(w.name for w in ways_of(project))
    raise EditError(f"{project.name} has no way to ship called {name!r}.", f"Use one of {names}.")


def add_way(project: Project, name: str, like: str = "desktop") -> tuple[Project, str]:
    """A way of the person's own, as another is; returns its id too."""
    model = way_of(project, like)
    free = unique_name(name.strip() or "way", {w.name for w in ways_of(project)})
    made = replace(model, id=new_id(), name=free, folder="")
    return replace(project, ways=(*project.ways, made)), made.id


def change_way(project: Project, way_id: str, **fields: Any) -> Project:
    """Change a way. Raises EditError for a name that is taken, or what cannot be shipped so."""
    way = way_of(project, way_id)
    made = replace(way, **fields)
    check_way(made)
    if any(w.name == made.name.strip() for w in ways_of(project) if w.id != way_id):
        raise EditError(f"A way to ship cannot be called {made.name!r}.", "Use a name that no other has.")
    made = replace(made, name=made.name.strip())
    if made == way:
        return project
    rest = [w for w in project.ways if w.id != way_id]
    at = next((i for i, w in enumerate(project.ways) if w.id == way_id), len(rest))
    return replace(project, ways=(*rest[:at], made, *rest[at:]))


def remove_way(project: Project, way_id: str) -> Project:
    """Take a way off the list; a ready one becomes again as it came."""
    way_of(project, way_id)
    return replace(project, ways=tuple(w for w in project.ways if w.id != way_id))


def shipped_part(project: Project, way: Way) -> Project:
    """What goes: the chosen sheets, levels and animations, and all that the levels and animations show.
    Raises EditError where that is nothing."""
    levels = tuple(v for v in project.levels if way.levels is None or v.id in way.levels)
    shown = {thing.shows for level in levels for thing in level.things}
    walkers = {a.id for level in levels for a in shown_when(project, walker_of(level)).values()}
    painted = {cell for level in levels for cell in level.table}
    animations = tuple(
        a for a in project.animations
        if way.animations is None or a.id in way.animations or a.id in shown or a.id in walkers
        or (a.tile and a.frames and a.frames[0].cell in painted)
    )  # fmt: skip
    part = replace(project, levels=levels, animations=animations)
    if way.sheets is not None:
        wanted = set(way.sheets) | painted_sheets(project, levels) | animated_sheets(part)
        part = replace(part, sheets=tuple(s for s in project.sheets if s.id in wanted))
    if not any(sheet.cells for sheet in part.sheets):
        if not any(sheet.cells for sheet in project.sheets):
            raise EditError(f"{project.name} has no cells to ship.", "Cut a sheet first.")
        raise EditError(f"{way.name} ships nothing that is cut.", "Choose a sheet or a level for it.")
    return part
