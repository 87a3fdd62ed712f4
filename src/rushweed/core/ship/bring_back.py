"""Makes a project of a shipment: sheets from the pages, and all that manifest and levels hold."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Any

import numpy as np

from rushweed.core.document.errors import EditError, StoreError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.model.animation import Animation, Frame, State
from rushweed.core.document.model.animation import Path as Way
from rushweed.core.document.model.cut import HandCut
from rushweed.core.document.model.level import (
    BackdropLayer,
    Layer,
    Level,
    PictureLayer,
    Room,
    Run,
    Thing,
    ThingLayer,
    TileLayer,
    Tiles,
    Walker,
)
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import (
    AutoPart,
    AutoSet,
    Box,
    Circle,
    CollisionGroup,
    Polygon,
    Shape,
    Told,
    Trait,
)
from rushweed.core.document.model.sheet import Cell, Credit, NineSlice, Sheet, Source, Tune, Variant
from rushweed.core.level.chunks import put_region
from rushweed.core.shape.traits import READY
from rushweed.core.ship import level_file
from rushweed.core.ship import manifest as m
from rushweed.core.ship.names import unique_files
from rushweed.core.ship.png import packed_png
from rushweed.core.ship.read_back import Art, Checked
from rushweed.core.store.files import write_file
from rushweed.core.store.folder import Folder, file_name

FLAT = (128, 128, 255, 255)  # a normal that looks straight at the viewer


def bring_back(checked: Checked, into: Path) -> tuple[Folder, Project]:
    """Make a project folder of a shipment. Raises StoreError for one that has problems, and where the place
    is taken."""
    if checked.problems:
        raise StoreError(
            f"{checked.folder} is not whole: {checked.problems[0]}.", "Ship it again, then bring it back."
        )
    folder, _empty = Folder.create(into, checked.manifest.project)
    try:
        project = _Bringing(checked, into).project(_empty.id)
        folder.save(project)
    except EditError as error:
        raise StoreError(error.problem, error.cure) from error
    return folder, project


class _Bringing:
    def __init__(self, checked: Checked, into: Path) -> None:
        self.checked, self.manifest, self.into = checked, checked.manifest, into
        self.art = Art(checked)
        self.frames: dict[str, list[m.FramePart]] = {}
        for frame in self.manifest.frames:
            self.frames.setdefault(frame.sheet, []).append(frame)
        self.traits = {t.name: t for t in self.manifest.traits}
        self.sheet_ids = {s.name: s.id for s in self.manifest.sheets}

    def project(self, project_id: str) -> Project:
        man = self.manifest
        files = unique_files({s.id: Path(file_name(s.name)).stem for s in man.sheets})
        ready = {t.id: t for t in READY}
        traits = [Trait(t.id or new_id(), t.name, t.kind, tuple(t.choices)) for t in man.traits]  # type: ignore[arg-type]
        return Project(
            project_id, man.project,
            tuple(self._sheet(part, files[part.id]) for part in man.sheets),
            tuple(self._level(part) for part in man.levels),
            tuple(
                Animation(
                    a.id, a.name, tuple(Frame(cell, ms) for cell, ms in a.frames), a.play, _way(a.path),  # type: ignore[arg-type]
                    a.body_px, a.tile,
                )
                for a in man.animations
            ),
            groups=tuple(CollisionGroup(g.id, g.name, tuple(g.ignores)) for g in man.groups),
            traits=tuple(t for t in traits if ready.get(t.id) != t),
            autosets=tuple(
                AutoSet(
                    a.id, a.name, a.by,  # type: ignore[arg-type]
                    tuple(AutoPart(man.frames[t.frame].id, t.joins, t.weight) for t in a.tiles),
                )
                for a in man.auto_sets
            ),
        )  # fmt: skip

    # -- sheets --------------------------------------------------------------------------------------------

    def _sheet(self, part: m.SheetPart, stem: str) -> Sheet:
        frames = self.frames.get(part.name, [])
        page = self.manifest.pages[frames[0].page] if frames else None
        path = f"art/{stem}.png"
        whole = self._whole_picture(part)
        rgba = self._picture(part, frames, None, 1) if whole is None else whole
        data = packed_png(rgba)
        write_file(self.into / path, data)
        normal, variants = "", []
        if any(self.manifest.pages[f.page].normals for f in frames):
            normal = f"art/{stem}_normals.png"
            write_file(self.into / normal, packed_png(self._picture(part, frames, "normals", 1)))
        for scale in sorted({int(s) for f in frames for s in self.manifest.pages[f.page].larger}):
            larger = f"art/{stem}@{scale}x.png"
            made = packed_png(self._picture(part, frames, str(scale), scale))
            write_file(self.into / larger, made)
            variants.append(Variant(scale, larger, hashlib.sha256(made).hexdigest()))
        source = Source(
            path, hashlib.sha256(data).hexdigest(), part.size_px, normal=normal, variants=tuple(variants)
        )
        credit = next((c for c in self.manifest.credits if c.sheet == part.name), m.CreditPart(part.name))
        states = next((s.states for s in self.manifest.states if s.sheet == part.name), [])
        tune: dict[str, Any] = {}
        if page is not None:
            tune = {
                "ppu": frames[0].px_per_unit, "filter": page.filter, "mipmaps": page.mipmaps,
                "wrap": page.wrap, "alpha": page.alpha, "codec": page.codec, "group": page.group,
                "transfer": page.transfer,
            }  # fmt: skip
        return Sheet(
            part.id, part.name, source, HandCut() if frames else None,
            Tune(pivot=part.pivot_share, gutter=part.gutter_px, pad=part.pad, limit=part.limit_px, **tune),  # type: ignore[arg-type]
            Credit(
                credit.author, credit.title, credit.link, credit.licence, credit.attribution, credit.changes
            ),
            group=part.folder,
            states=tuple(State(name, animation) for name, animation in states),
            cells=tuple(self._cell(frame) for frame in frames),
        )  # fmt: skip

    def _whole_picture(self, part: m.SheetPart) -> np.ndarray | None:
        """The picture of a sheet that a level shows whole."""
        for level in self.checked.levels.values():
            for layer in level.layers:
                if layer.sheet == part.name and layer.picture is not None:
                    rgba = self.art.file(layer.picture)
                    if (rgba.shape[1], rgba.shape[0]) == part.size_px:
                        return rgba
        return None

    def _picture(
        self, part: m.SheetPart, frames: list[m.FramePart], what: str | None, scale: int
    ) -> np.ndarray:
        """A sheet's picture, its normal map or a larger one: each frame where it was cut from."""
        width, height = part.size_px[0] * scale, part.size_px[1] * scale
        out = np.zeros((height, width, 4), np.uint8)
        if what == "normals":
            out[:] = FLAT
        for frame in frames:
            page = self.manifest.pages[frame.page]
            file = page.file if what is None else page.normals if what == "normals" else page.larger.get(what)
            if file is None:
                continue
            art = self.art.frame(frame, file, scale)
            x = (frame.sheet_px[0] + frame.offset_px[0] - frame.shift_px[0]) * scale
            y = (frame.sheet_px[1] + frame.offset_px[1] - frame.shift_px[1]) * scale
            if x < 0 or y < 0 or x + art.shape[1] > width or y + art.shape[0] > height:
                raise StoreError(
                    f"{frame.sheet} {frame.name} lies outside the picture it was cut from.", "Ship again."
                )
            out[y : y + art.shape[0], x : x + art.shape[1]] = art
        return out

    def _cell(self, frame: m.FramePart) -> Cell:
        return Cell(
            frame.id, frame.name, (*frame.sheet_px, *frame.size_px), frame.pivot_px,
            tuple(_shape(shape) for shape in frame.shapes), shift=frame.shift_px,
            stretch=_stretch(frame.nine),
            traits=tuple(
                Told(self.traits[name].id, v) for name, v in frame.traits.items() if name in self.traits
            ),
        )  # fmt: skip

    # -- levels --------------------------------------------------------------------------------------------

    def _level(self, part: m.LevelPart) -> Level:
        file = self.checked.levels[part.file]
        frames = self.manifest.frames
        used = sorted({f for layer in file.layers for f in _frames_of(layer)})
        index = {frame: n for n, frame in enumerate(used, 1)}
        names: list[str] = []
        for layer in file.layers:
            names.append(unique_name(layer.name, names))
        layers = [
            self._layer(v, n, file.bounds_cells, index) for v, n in zip(file.layers, names, strict=True)
        ]
        things = tuple(
            Thing(
                t.id or new_id(), t.shows, t.at_px, layers[t.layer].id, t.mirrored, _way(t.path), t.motion,  # type: ignore[arg-type]
                t.turns, t.weight, t.damping, t.pin_px, t.turn_degrees, t.scale, t.tint,
            )
            for t in file.things
        )  # fmt: skip
        return Level(
            file.id, file.name, file.view, file.cell_px, file.bounds_cells,  # type: ignore[arg-type]
            tuple(frames[n].id for n in used), tuple(layers), file.start_px, things,
            tuple(Room(new_id(), r.name, r.area_cells, r.camera) for r in file.rooms),  # type: ignore[arg-type]
            file.order, file.group, part.board_px, _walker(file.walker),  # type: ignore[arg-type]
            tuple(
                Run(r.id, r.name, file.id, r.start_px, r.steps, tuple(r.keys), r.end_px, r.must)
                for r in file.runs
            ),
        )  # fmt: skip

    def _layer(
        self, part: level_file.LayerPart, name: str, bounds: tuple[int, int, int, int], index: dict[int, int]
    ) -> Layer:
        across, down = part.parallax
        look: dict[str, Any] = {
            "shown": part.shown, "opacity_percent": part.opacity * 100, "tint": part.tint, "parallax": across,
            "parallax_y": down if down != across else None, "offset": part.offset_px, "front": part.front,
        }  # fmt: skip
        if part.kind == "tiles":
            return TileLayer(new_id(), name, _tiles(part, bounds, index), part.solid, **look)
        if part.kind == "things":
            return ThingLayer(new_id(), name, **look)
        sheet = self.sheet_ids.get(part.sheet or "", "")
        if part.kind == "picture":
            return PictureLayer(new_id(), name, sheet, **look)
        return BackdropLayer(
            id=new_id(), name=name, sheet=sheet, top=part.top_px, repeat=part.repeat, repeat_y=part.repeat_y,
            drift=part.drift_px_per_s, stretch=part.stretch, **look,
        )  # fmt: skip


def _frames_of(layer: level_file.LayerPart) -> set[int]:
    runs = {frame for row in layer.rows for _count, frame, _turn in row}
    return {f for f in runs | {value >> 3 for row in layer.cells for value in row} if f >= 0}


def _tiles(part: level_file.LayerPart, bounds: tuple[int, int, int, int], index: dict[int, int]) -> Tiles:
    left, top, columns, rows = bounds
    held = np.zeros((rows, columns), np.uint32)
    for y, row in enumerate(part.rows):
        x = 0
        for count, frame, turn in row:
            if frame >= 0:
                held[y, x : x + count] = index[frame] * 8 + turn
            x += count
    for y, cells in enumerate(part.cells):
        held[y] = [index[v >> 3] * 8 + (v & 7) if v >= 0 else 0 for v in cells]
    return put_region(Tiles(), left, top, held) if held.any() else Tiles()


def _way(path: m.PathPart | None) -> Way | None:
    return Way(path.offset_px, path.ms, path.easing, path.play) if path is not None else None  # type: ignore[arg-type]


def _shape(part: m.ShapePart) -> Shape:
    look: dict[str, Any] = {
        "role": part.role, "blocks_from": part.blocks_from or "top", "friction": part.friction,
        "bounce": part.bounce, "group": part.group,
    }  # fmt: skip
    if part.circle_px is not None:
        return Circle(*part.circle_px, **look)
    points = part.points_px
    if len(points) == 4:
        (x, y), (right, bottom) = points[0], points[2]
        if points[1] == (right, y) and points[3] == (x, bottom):
            return Box(x, y, right - x, bottom - y, **look)
    return Polygon(tuple(points), **look)


def _stretch(nine: m.NinePart | None) -> NineSlice | None:
    if nine is None:
        return None
    return NineSlice(nine.left_px, nine.top_px, nine.right_px, nine.bottom_px, *nine.fill)  # type: ignore[arg-type]


def _walker(part: level_file.WalkerPart | None) -> Walker | None:
    if part is None:
        return None
    return Walker(
        part.run_units_per_s, part.run_s, part.jump_units, part.jump_s, part.low_percent,
        part.fall_units_per_s, part.slope_degrees, part.step_px, part.edge_ms, part.land_ms,
        part.climb_units_per_s, part.corner_px, part.eight, part.strength_units_per_s2, part.group,
        part.body_px, tuple(State(moment, shown) for moment, shown in part.shown.items()),
    )  # fmt: skip
