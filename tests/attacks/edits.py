"""Every edit function of the core with wild arguments; new ones are found by themselves.

An edit function is a public one whose first parameter is a Project and which returns one. Its arguments are
made from its annotations and the names of its parameters: ids that exist, others that do not, wild numbers,
texts and rectangles. What it takes must be saved and opened again as it is.
"""

from __future__ import annotations

import importlib
import inspect
import pkgutil
import random
import types
import typing
from collections.abc import Callable, Iterator, Mapping
from functools import partial
from typing import Any

import msgspec
import numpy as np

import rushweed.core
from rushweed.core.cut.edit import remove_cells
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.limits import check_values
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level, Room, Thing, TileLayer, Walker
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import AutoSet, Box, Trait
from rushweed.core.document.model.sheet import Credit, NineSlice, Recipe, Sheet, Tune
from rushweed.core.document.model.shipping import Way
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.level.outline_faults import Fault
from rushweed.core.level.stamp import Stamp
from rushweed.core.level.wide import Selected
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.ways import ways_of
from rushweed.core.store.folder import Folder
from rushweed.core.store.form import animation_text, level_text, sheet_text
from rushweed.core.walk.walkers import MOMENTS

READY_MADE = {  # they put a part that others have made and answer for
    "put_animation", "put_sheet", "put_level", "put_layer", "put_cells", "change_cells", "change_shapes",
}  # fmt: skip
FROM_DISK = {"add_gathered", "take_up", "refresh"}  # they take what was read from pictures
FIELDS = {  # of which part `**fields` are
    "set_credit": Credit, "change_layer": TileLayer, "change_set": AutoSet,
    "set_material": Box, "set_margins": NineSlice, "change_trait": Trait,
    "tune_sheets": Tune, "change": Recipe, "change_things": Thing,
    "change_level": Level, "change_room": Room, "set_walker": Walker,
    "change_way": Way,
}  # fmt: skip
NOT_FIELDS = ("id", "tiles", "x", "y", "w", "h", "layers", "things", "rooms", "table")
NUMBERS = (0, 1, 2, 3, 5, 8, 16, 40, -1, -7, 255, 256, 4097, 70_000, 10**9, -(10**9), 2**40)
SHARES = (0.5, -0.5, 0.0, 1.0, 0.1, 3.75, -1e6, 1e12, 1e300, float("nan"), float("inf"), 5e-324)
TEXTS = (
    "",
    "a",
    "walk",
    "²",
    "ß①",
    "a\nb",
    "\0",
    "../up",
    "\ud800",
    "x" * 20_000,
    "{sheet}_{row}",
    " ",
    "=1",
)


def edit_functions() -> dict[str, Callable[..., Any]]:
    """All of them by module and name."""
    found = {}
    for module in pkgutil.walk_packages(rushweed.core.__path__, "rushweed.core."):
        loaded = importlib.import_module(module.name)
        for name, function in vars(loaded).items():
            own = inspect.isfunction(function) and function.__module__ == module.name
            if own and not name.startswith("_") and name not in READY_MADE | FROM_DISK and _is_edit(function):
                found[f"{module.name.removeprefix('rushweed.core.')}.{name}"] = function
    return found


def _is_edit(function: Callable[..., Any]) -> bool:
    names = function.__annotations__
    first = next(iter(inspect.signature(function).parameters), "")
    gives = str(names.get("return", ""))
    return names.get(first) == "Project" and (gives == "Project" or gives.startswith("tuple[Project"))


class Arguments:
    """Makes arguments for edit functions on one project."""

    def __init__(self, project: Project, stock: PixelCache, rng: random.Random) -> None:
        self.project, self.stock, self.rng = project, stock, rng
        self.sheet = rng.choice(project.sheets)
        self.level = rng.choice(project.levels) if project.levels else None

    def of(self, function: Callable[..., Any]) -> dict[str, Any]:
        """One set, by name. A parameter of a kind not known here raises TypeError."""
        hints = typing.get_type_hints(function)
        made: dict[str, Any] = {}
        for parameter in list(inspect.signature(function).parameters.values())[1:]:
            if parameter.kind is parameter.VAR_KEYWORD:
                made |= self._fields(FIELDS[function.__name__])
            elif parameter.default is parameter.empty or self.rng.random() < 0.5:
                made[parameter.name] = self.value(parameter.name, hints[parameter.name])
        return made

    def _fields(self, part: type) -> dict[str, Any]:
        hints = typing.get_type_hints(part)
        names = [n for n in part.__struct_fields__ if n not in NOT_FIELDS]
        return {n: self.value(n, hints[n]) for n in self.rng.sample(names, self.rng.randint(1, 2))}

    def ids(self, name: str) -> list[str]:
        """The ids that a parameter of this name may stand for; those of cells are of one sheet."""
        project, level = self.project, self.level
        kinds: dict[str, Iterator[str]] = {
            "sheet": (s.id for s in project.sheets), "level": (v.id for v in project.levels),
            "layer": (x.id for x in level.layers) if level else iter(()),
            "animation": (a.id for a in project.animations), "set": (s.id for s in project.autosets),
            "group": (g.id for g in project.groups), "one": (g.id for g in project.groups),
            "other": (g.id for g in project.groups), "trait": (t.id for t in project.traits),
            "way": (w.id for w in ways_of(project)), "like": (w.id for w in ways_of(project)),
            "recipe": (r.id for r in project.recipes),
            "room": (r.id for r in level.rooms) if level else iter(()),
            "run": (r.id for r in level.runs) if level else iter(()), "moment": iter(MOMENTS),
            "stamp": (s.id for s in project.stamps),
            "thing": (t.id for t in level.things) if level else iter(()),
        }  # fmt: skip
        if name in ("old_id", "new_id"):
            return list(kinds["sheet"])
        kind = name.split("_")[0]
        if kind in ("cell", "source", "shows", "first", "order", "cells", "tile", "old", "new"):
            return [c.id for c in self.sheet.cells]
        if kind == "part":
            return [*kinds["sheet"], *kinds["level"]]
        return list(kinds.get(kind, ()))

    def value(self, name: str, kind: Any) -> Any:
        """A value for a parameter or field."""
        rng, origin, inner = self.rng, typing.get_origin(kind), typing.get_args(kind)
        if origin in (typing.Union, types.UnionType):
            return self.value(name, rng.choice(inner))
        if origin is typing.Literal:
            return rng.choice(inner)
        if name == "spots" and np.ndarray in inner:
            return tuple(np.array([rng.choice((0, 1, 5, 9, -3, 200)) for _ in range(4)]) for _ in range(2))
        if kind is types.NoneType:
            return None
        if kind is str:
            known = self.ids(name)
            return rng.choice(known) if known and rng.random() < 0.9 else rng.choice(TEXTS)
        if kind is bool:
            return rng.random() < 0.5
        if kind is int:
            return rng.choice(NUMBERS)
        if kind is float:
            return rng.choice((*NUMBERS, *SHARES))
        if origin is tuple and inner[-1] is not Ellipsis:
            return tuple(self.value(name, each) for each in inner)
        if origin is dict or isinstance(origin, type) and issubclass(origin, Mapping):
            return {key: self.value("", inner[1]) for key in self._some("cell")}
        if isinstance(origin, type) and issubclass(origin, typing.Iterable):
            if inner[0] is str and self.ids(name):
                return tuple(self._some(name))
            return tuple(self.value(name, inner[0]) for _ in range(rng.randint(0, 3)))
        return self._part(name, kind)

    def _some(self, name: str) -> list[str]:
        known = self.ids(name) or ["nobody"]
        return self.rng.sample(known, self.rng.randint(1, min(len(known), 3)))

    def _part(self, name: str, kind: Any) -> Any:
        """Arrays, stamps and parts of the document."""
        rng, level = self.rng, self.level
        if kind is PixelCache:
            return self.stock
        if kind is np.ndarray:
            rgba = self.stock.pixels_or_blank(self.sheet)
            return rgba[..., 3] > 0 if name == "mask" else rgba
        if kind is Fault:
            return Fault("step", (rng.choice(SHARES[:5]) * 64, rng.choice((0.0, 17.5, -300.0))))
        if kind is Finding:
            place = Place("cut", sheet=self.sheet.id, cells=tuple(self._some("cell")))
            cure = Fix(
                "Remove them", partial(remove_cells, sheet_id=self.sheet.id, cell_ids=self._some("cell"))
            )
            return Finding("cut-art", rng.choice(("fault", "hint")), rng.choice(TEXTS), place, cure)
        if kind is Selected:
            left, top = (rng.choice((0, 1, 5, -3, 200)) for _ in range(2))
            return Selected(left, top, np.random.default_rng(rng.randint(0, 99)).random((4, 6)) < 0.5)
        if kind is Stamp:
            cells = tuple(self._some("cell"))
            slots = np.array([[rng.randint(0, len(cells)) for _ in range(rng.randint(1, 3))]])
            return Stamp(cells, slots, np.zeros_like(slots))
        ready: dict[type, tuple[Any, ...]] = {
            Sheet: self.project.sheets, Level: self.project.levels,
            AutoSet: self.project.autosets, Thing: level.things if level else (),
            Animation: self.project.animations,
        }  # fmt: skip
        if ready.get(kind):
            return rng.choice(ready[kind])
        if isinstance(kind, type) and issubclass(kind, msgspec.Struct):
            hints = typing.get_type_hints(kind)
            return kind(**{n: self.value(n, hints[n]) for n in kind.__struct_fields__})
        if isinstance(kind, type) and issubclass(kind, tuple) and hasattr(kind, "_fields"):
            hints = typing.get_type_hints(kind)
            return kind(**{n: self.value(n, hints[n]) for n in kind._fields})
        raise TypeError(f"how to make {name}: {kind}?")


def texts(project: Project) -> list[bytes]:
    """What the files of the parts hold."""
    parts = (*map(sheet_text, project.sheets), *map(level_text, project.levels))
    parts += (msgspec.json.encode((project.stamps, project.ways, project.left_alone)),)
    return [*parts, *map(animation_text, project.animations)]


def attack_edits(folder: Folder, project: Project, stock: PixelCache, seed: int) -> tuple[int, int]:
    """Every edit function once, one on the other, saved and opened after each that held. Returns how many
    held and how many were refused. Raises AssertionError where what was saved is not what is opened."""
    rng, base = random.Random(seed), project
    functions = sorted(edit_functions().items())
    rng.shuffle(functions)
    held = refused = 0
    for name, function in functions:
        wish = Arguments(project, stock, rng).of(function)
        try:
            made = function(project, **wish)
            made = made[0] if isinstance(made, tuple) else made
            check_values(project, made)
            folder.save(made)
        except RushweedError as error:
            assert str(error).isprintable() and len(str(error)) < 1200, (name, wish)
            refused += 1
            continue
        except Exception as error:
            raise AssertionError(f"{name} with {wish}") from error
        held += 1
        try:
            opened = Folder(folder.path).open()
        except RushweedError as error:
            raise AssertionError(f"{name} with {wish} is saved and does not open: {error}") from error
        assert texts(opened) == texts(made), f"{name} with {wish} is opened as another"
        project = made if sum(len(s.cells) for s in made.sheets) < 2_000 and made.sheets else base
    return held, refused
