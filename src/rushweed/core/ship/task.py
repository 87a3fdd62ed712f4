"""One shipment while it is made: what goes, what each sheet's px are like, and which files are to be."""

from __future__ import annotations

import contextlib
import hashlib
from collections.abc import Callable
from functools import partial
from typing import Any, NamedTuple

import msgspec

from rushweed.core.document.edit import painted_sheets
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.shipping import Way
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.atlas import Part, Plan, parts_of, plan
from rushweed.core.ship.names import Names
from rushweed.core.ship.pack import Packed, pack_groups
from rushweed.core.ship.ways import shipped_part
from rushweed.core.store.files import own_folder, read_file, write_file
from rushweed.core.store.form import level_text

Make = Callable[..., bytes]


class Output(NamedTuple):
    """A file to be: its name, a digest of all it depends on, and how it is made: `prepare` gives a function
    and its arguments, which can be sent to another process. `heavy` is about how many px it has to code;
    `apart` says that it takes so long that another process is worth it."""

    name: str
    key: str
    prepare: Callable[[], tuple[Make, tuple[Any, ...]]]
    heavy: int = 0
    apart: bool = False


class _Memory(msgspec.Struct):
    """What was worked out for earlier shipments, in the project's own folder."""

    parts: dict[str, list[Part]] = {}
    packed: dict[str, list[tuple[int, int, list[tuple[int, int, int]]]]] = {}


class Task:
    """A project shipped a way."""

    def __init__(self, project: Project, stock: PixelCache, way: Way) -> None:
        """Raises EditError where nothing would go."""
        self.project, self.stock, self.way = shipped_part(project, way), stock, way
        self.names = Names(self.project, way)
        self._home = stock.folder / ".rushweed" / "shipped"
        self._known = self._recall()
        self._used = _Memory({}, {})
        self._art: dict[str, str] = {}
        self._level_art: dict[str, str] = {}
        self._seen: dict[str, list[Part]] = {}

    # -- digests -----------------------------------------------------------------------------------

    def art(self, sheet: Sheet) -> str:
        """A digest of a sheet's px, as its files are now."""
        if sheet.id not in self._art:
            source, seen = sheet.source, self.stock.seen
            others = [seen.sha(path) for path in (source.normal, *(v.path for v in source.variants)) if path]
            self._art[sheet.id] = digest(self.stock.art_sha(source), source.steps, source.size, source.crop,
                                         source.columns, others)  # fmt: skip
        return self._art[sheet.id]

    def level_art(self, level: Level) -> str:
        """A digest of all that a level's picture depends on."""
        if level.id not in self._level_art:
            shown = painted_sheets(self.project, [level])
            sheets = [s for s in self.project.sheets if s.id in shown]
            self._level_art[level.id] = digest(
                level_text(level), self.project.animations,
                [(self.art(s), s.cells, s.tune.ppu) for s in sheets], self.project.traits,
            )  # fmt: skip
        return self._level_art[level.id]

    # -- the atlas ---------------------------------------------------------------------------------

    def look(self, sheets: list[Sheet]) -> None:
        """Work out what the cells of sheets show; may be called from several threads."""
        for sheet in sheets:
            if sheet.cells and sheet.tune.wrap != "repeat":
                self._parts(sheet)

    def planned(self) -> Plan:
        """Where everything goes. Raises RushweedError."""
        return plan(self.project, self.way, self._parts, self._pack)

    def _parts(self, sheet: Sheet) -> list[Part]:
        """What each cell shows, as it is remembered."""
        if sheet.id in self._seen:
            return self._seen[sheet.id]
        pages = self.way.pages
        key = digest(self.art(sheet), [c.rect for c in sheet.cells], pages.trim, pages.turned, pages.grid,
                     sheet.tune.wrap)  # fmt: skip
        known = self._known.parts.get(key)
        if known is None or len(known) != len(sheet.cells):
            known = parts_of(sheet, self.stock.pixels(sheet), self.way)
        self._used.parts[key] = self._seen[sheet.id] = known
        return known

    def _pack(self, sizes: list[tuple[int, int]], groups: list[int], limit: int, power: bool) -> list[Packed]:
        key = digest(sizes, groups, limit, power)
        known = self._known.packed.get(key)
        if known is None:
            made = pack_groups(sizes, groups, limit, power)
            known = [(p.width, p.height, [(i, x, y) for i, (x, y) in p.places.items()]) for p in made]
        self._used.packed[key] = known
        return [Packed(w, h, {i: (x, y) for i, x, y in places}) for w, h, places in known]

    # -- memory ------------------------------------------------------------------------------------

    def _memory(self) -> Any:
        return self._home / f"{self.way.id if self.way.id.isalnum() else 'way'}.bin"

    def _recall(self) -> _Memory:
        with contextlib.suppress(OSError, msgspec.DecodeError, ValueError):
            return msgspec.msgpack.decode(read_file(self._memory()), type=_Memory)
        return _Memory({}, {})

    def remember(self) -> None:
        """Keep what was worked out, where the project's folder can be written."""
        with contextlib.suppress(OSError, RushweedError):
            self.stock.seen.write_down()
        if self._used == self._known:
            return
        with contextlib.suppress(OSError, RushweedError):
            own_folder(self.stock.folder / ".rushweed")
            own_folder(self._home)
            write_file(self._memory(), msgspec.msgpack.encode(self._used))


def digest(*parts: Any) -> str:
    """A digest of values that msgspec can write."""
    made = hashlib.blake2b(digest_size=16)
    for part in parts:
        made.update(part if isinstance(part, bytes) else msgspec.msgpack.encode(part))
        made.update(b"\0")
    return made.hexdigest()


def text_output(name: str, make: Callable[[], bytes], *depends: Any) -> Output:
    """A file of text, made in this process from what `depends` stands for."""
    return Output(name, digest(*depends), partial(_ready, make))


def _ready(make: Callable[[], bytes]) -> tuple[Make, tuple[Any, ...]]:
    return _same, (make(),)


def _same(data: bytes) -> bytes:
    return data
