"""One shipment while it is made: what goes, what each sheet's px are like, and which files are to be."""

from __future__ import annotations

import contextlib
import hashlib
from collections.abc import Callable, Collection
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple

import msgspec
import numpy as np

from rushweed.core.document.edit import painted_sheets
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.shipping import Way
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.atlas import PART, Plan, parts_of, plan
from rushweed.core.ship.names import Names
from rushweed.core.ship.pack import Packed, pack_groups
from rushweed.core.ship.placing import Listed
from rushweed.core.ship.standing import State, settled
from rushweed.core.ship.stretches import Stretches, Table, stretches_of
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
    """What was worked out for earlier shipments, in the project's own folder: rows of PART, and of pages
    their sizes and the rows of what stands where, as bytes; the states of shipped files by their paths, and
    by their names the stretches they were packed in."""

    parts: dict[str, bytes] = {}
    packed: dict[str, list[tuple[int, int, bytes]]] = {}
    stood: dict[str, State] = {}
    stretches: dict[str, Table] = {}


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
        self._seen: dict[str, np.ndarray] = {}
        self._packed: dict[str, Stretches] = {}

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

    @property
    def stood(self) -> dict[str, State]:
        """The states in which shipped files were as they were written, by their paths."""
        return self._known.stood

    def fresh(self) -> list[Sheet]:
        """The sheets whose cells have to be looked at, as no earlier shipment did."""
        sheets = [s for s in self.project.sheets if s.cells and s.tune.wrap != "repeat"]
        return [sheet for sheet in sheets if self._recalled(sheet) is None]

    def look(self, sheets: list[Sheet]) -> None:
        """Work out what the cells of sheets show; may be called from several threads."""
        for sheet in sheets:
            self._parts(sheet)

    def planned(self) -> Plan:
        """Where everything goes. Raises RushweedError."""
        return plan(self.project, self.way, self._parts, self._pack)

    def _parts(self, sheet: Sheet) -> np.ndarray:
        """What each cell shows, as it is remembered."""
        found = self._recalled(sheet)
        if found is None:
            found = parts_of(sheet, self.stock.pixels(sheet), self.way)
            self._used.parts[self._key(sheet)] = found.tobytes()
            self._seen[sheet.id] = found
        return found

    def _recalled(self, sheet: Sheet) -> np.ndarray | None:
        """The same, where it was worked out before."""
        found = self._seen.get(sheet.id)
        if found is None:
            key = self._key(sheet)
            known = self._known.parts.get(key, b"")
            if len(known) == len(sheet.cells) * PART.itemsize:
                self._used.parts[key] = known
                self._seen[sheet.id] = found = np.frombuffer(known, PART)
        return found

    def _key(self, sheet: Sheet) -> str:
        pages = self.way.pages
        return digest(self.art(sheet), [c.rect for c in sheet.cells], pages.trim, pages.turned, pages.grid,
                      sheet.tune.wrap)  # fmt: skip

    def _pack(self, sizes: np.ndarray, groups: np.ndarray, limit: int, power: bool) -> list[Packed]:
        key = digest(sizes.tobytes(), groups.tobytes(), limit, power)
        known = self._known.packed.get(key)
        if known is None:
            made = pack_groups(sizes, groups, limit, power)
            known = [(p.width, p.height, p.places.astype("<i8").tobytes()) for p in made]
        self._used.packed[key] = known
        return [Packed(w, h, np.frombuffer(rows, "<i8").reshape(-1, 3)) for w, h, rows in known]

    # -- files that are shipped already ------------------------------------------------------------

    def stretches(self, out: Path, name: str, listed: Listed | None) -> Stretches:
        """What a shipped picture was packed in, to be used again in its new bytes."""
        made = stretches_of(out / name, self._known.stretches.get(name, []), listed)
        self._packed[name] = made
        return made

    # -- memory ------------------------------------------------------------------------------------

    def _memory(self) -> Any:
        return self._home / f"{self.way.id if self.way.id.isalnum() else 'way'}.bin"

    def _recall(self) -> _Memory:
        with contextlib.suppress(OSError, msgspec.DecodeError, ValueError):
            return msgspec.msgpack.decode(read_file(self._memory()), type=_Memory)
        return _Memory({}, {})

    def remember(self, out: Path, names: Collection[str]) -> None:
        """Keep what was worked out, and that some files stand in a folder as they were written, where the
        project's folder can be written."""
        with contextlib.suppress(OSError, RushweedError):
            self.stock.seen.write_down()
        self._used.stood = settled(out, names)
        tables = {name: made.table for name, made in self._packed.items()}
        self._used.stretches = {n: t for n, t in {**self._known.stretches, **tables}.items() if n in names}
        if self._used == self._known:
            return
        with contextlib.suppress(OSError, RushweedError):
            own_folder(self.stock.folder / ".rushweed")
            own_folder(self._home)
            write_file(self._memory(), msgspec.msgpack.encode(self._used))


def digest(*parts: Any) -> str:
    """A digest of values that msgspec can write."""
    return hashlib.blake2b(msgspec.msgpack.encode(parts), digest_size=16).hexdigest()


def text_output(name: str, make: Callable[[], bytes], *depends: Any) -> Output:
    """A file of text, made in this process from what `depends` stands for."""
    return Output(name, digest(*depends), partial(_ready, make))


def _ready(make: Callable[[], bytes]) -> tuple[Make, tuple[Any, ...]]:
    return _same, (make(),)


def _same(data: bytes) -> bytes:
    return data
