"""The Proof: the selection as the game will draw it, at true size beside the yardstick. Never off."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.level.edit import sheets_shown
from rushweed.core.pixels.read import read_picture
from rushweed.core.tune.figure import figure_of, plain_figure
from rushweed.core.tune.nine import stretched
from rushweed.core.tune.sample import premultiply, straighten, texture_of
from rushweed.core.tune.scene import Kept, Props, Scene, Staging, Subject, compose, is_floor
from rushweed.core.tune.units import plain
from rushweed.demo import ART
from rushweed.ui.desk.images import image_of
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import IconButton, label, row
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.arriving import Reading
from rushweed.ui.panels.panel import Panel
from rushweed.ui.panels.proof_controls import MOST_ZOOM, ProofControls
from rushweed.ui.panels.proof_picture import ProofPicture
from rushweed.ui.session import Session, later
from rushweed.ui.session.level_pictures import Wanted

FRAME_MS = 16
TURN_A_SECOND = 24.0  # degrees
DRIFT_PX, DRIFT_S = 6.0, 9.0  # how far, in px of the art, and how long there and back


def scene_props() -> Props:
    """The sky and the floor that every Proof is set with, and a plain figure."""
    sky = read_picture(ART / "sky.png").rgba
    floor = read_picture(ART / "boardwalk.png").rgba[1:17, 18:34]
    return Props(sky, floor, plain_figure())


def drift_at(seconds: float) -> tuple[float, float]:
    """How far the drifting art is from its place, px: slowly there and back, by less than a px a frame."""
    share = (seconds / DRIFT_S) % 1
    there = 2 * share if share < 0.5 else 2 - 2 * share
    return (there - 0.5) * DRIFT_PX, (0.5 - there) * DRIFT_PX / 3


class Proof(Panel):
    """Draws with the core's sampler, which reads as a graphics card does."""

    topics = frozenset({"sheets", "animations", "levels", "selection", "stage"})

    def __init__(self, look: Look, icons: Icons, session: Session) -> None:
        super().__init__(session)
        self.look = look
        self._props: Props | None = None
        self._figure_of: tuple[object, object] | None = None  # what the figure was found in
        self._behind: Kept = {}
        self._behind_before: Kept = {}
        self._key: object = None
        self.clock: Callable[[], float] = time.monotonic
        self.mode = ChoiceRow(look, [("still", "Still"), ("turn", "Turns"), ("drift", "Drifts")])
        self.mode.setToolTip("As it stands, turning about its pivot, or drifting by parts of a px")
        self.mode.edited.connect(self._set_moving)
        self.fold = IconButton(look, icons, "sliders-horizontal", "How the Proof is set")
        self.fold.pressed.connect(self._fold)
        self.controls = ProofControls(look, icons)
        self.controls.edited.connect(self.refresh)
        self.controls.hide()
        self.picture = ProofPicture(look)
        self.picture.lamp_moved.connect(self._move_lamp)
        self.picture.divided.connect(self._divide)
        self.picture.zoomed.connect(self._zoom)
        self.picture.fitted.connect(lambda: self.controls.set(zoom=0.0))
        self.picture.corner_moved.connect(self._move_corner)
        self._lamp = (0.78, 0.3)  # shares of the picture's width and height
        self._nine: tuple[int, int] | None = None  # size in px of the art
        self.foot = [label("", "mono") for _ in range(4)]
        top, foot = QWidget(), QWidget()
        top.setFixedHeight(32)
        foot.setFixedHeight(32)
        top.setLayout(row(label("Proof", "head"), None, self.mode, self.fold, spacing=4))
        foot.setLayout(row(self.foot[0], None, self.foot[1], None, self.foot[2], None, self.foot[3]))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 0, 8, 0)
        layout.setSpacing(0)
        layout.addWidget(top)
        layout.addWidget(self.picture, 1)
        layout.addWidget(foot)
        layout.addWidget(self.controls)
        self._soon = later(self, 60, self.refresh)
        self._reading = Reading(session, self._soon.start)
        self._read_for: tuple[str, object] = (
            "",
            None,
        )  # the level, and all sheets, whose pictures were waited for
        self.ticks = QTimer(self)
        self.ticks.setTimerType(Qt.TimerType.PreciseTimer)
        self.ticks.setInterval(FRAME_MS)
        self.ticks.timeout.connect(self.refresh)
        session.played.connect(self.refresh)
        session.textures.ready.connect(self.refresh)

    def resizeEvent(self, event: object) -> None:
        self._soon.start()

    def follow(self, topics: frozenset[str]) -> None:
        """The scene follows once a turn; a level a moment later, once the Desk has drawn it, and one that is
        being painted after each stroke."""
        if self.session.stage not in ("paint", "walk"):
            self.refresh()
        elif topics != {"project"} or not self.session.document.gesturing:
            if not self._soon.isActive():  # else one change after another would put it off
                self._soon.start()

    # -- how it is set ---------------------------------------------------------------------------------

    def _fold(self) -> None:
        self.controls.setVisible(self.controls.isHidden())
        self.fold.show_active(not self.controls.isHidden())

    def rest(self) -> None:
        """Stand still, whatever was chosen."""
        self.mode.show_value("still")
        self._set_moving("still")

    def _set_moving(self, mode: str) -> None:
        if mode == "still":
            self.ticks.stop()
        else:
            self.ticks.start()
        self.refresh()

    def _zoom(self, factor: float) -> None:
        scene = self.picture.scene
        if scene is not None:
            now = self.controls.staging.zoom or scene.enlarged / self.devicePixelRatioF()
            self.controls.set(zoom=round(min(max(now * factor, 0.05), MOST_ZOOM), 2))

    def _divide(self, share: float) -> None:
        self.picture.divider = share
        self.picture.update()

    def staging(self) -> Staging:
        """As set by hand, and moved by the clock."""
        staging = self.controls.staging
        if self.mode.value == "turn":
            return staging._replace(turn=(staging.turn + self.clock() * TURN_A_SECOND) % 360)
        if self.mode.value == "drift":
            return staging._replace(drift=drift_at(self.clock()))
        return staging

    # -- drawing ---------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Draw again if anything that shows has changed."""
        ratio = self.devicePixelRatioF()
        size = (round(self.picture.width() * ratio), round(self.picture.height() * ratio))
        if not self.isVisible() or min(size) < 8:
            return
        self.session.picture_size = size
        paints = self.session.stage in ("paint", "walk") and self.session.selection.level is not None
        self.mode.setVisible(not paints)
        self.fold.setVisible(not paints)
        if self._props is None:
            self._props = scene_props()
        self._take_figure()
        if paints:
            self._show_level(size)
        else:
            self._show_scene(size, ratio)

    def _waits_for(self, sheets: list[Sheet]) -> bool:
        """Whether large pictures have to be read first; it is drawn again when that is done."""
        self._reading.begin(sheets)
        return any(self._reading.lacks(sheet) for sheet in sheets)

    def _take_figure(self) -> None:
        """The project's own character as the figure, once it has one."""
        project = self.session.project
        parts = project.sheets, project.animations
        if self._figure_of is not None and all(a is b for a, b in zip(self._figure_of, parts, strict=True)):
            return
        self._figure_of = parts
        figure = figure_of(project, self.session.stock.pixels_or_blank)
        if not np.array_equal(figure, self.props.figure):
            self._props = self.props._replace(figure=figure)
            self._behind.clear()
            self._behind_before.clear()
            self._key = None

    def _subject(self) -> tuple[Sheet | None, Cell | None]:
        sheet = self.session.selection.sheet
        cell = self.session.selection.cell or (sheet.cells[0] if sheet and sheet.cells else None)
        if self.session.stage == "animate" and self.session.played_cell:
            found = self.session.cells_by_id.get(self.session.played_cell)
            if found is not None:
                sheet, cell = found
        if cell is not None and cell.shift != (0, 0):
            dx, dy = cell.shift
            cell = msgspec.structs.replace(cell, pivot=(cell.pivot[0] - dx, cell.pivot[1] - dy))
        return sheet, cell

    def _show_scene(self, size: tuple[int, int], ratio: float) -> None:
        sheet, cell = self._subject()
        if sheet is not None and self._waits_for([sheet]):
            return
        staging, textures = self.staging(), self.session.textures
        nine = self.session.proofs_nine and cell is not None and cell.stretch is not None
        texture, rect, waiting = None, (0, 0, 0, 0), False
        if sheet is not None and cell is not None:
            texture, rect, waiting = textures.of(sheet, cell)
        normals = self.session.stock.normals(sheet) if sheet and cell else None
        lamp = self._lamp if normals is not None else None
        key = (sheet.tune if sheet else None, cell, sheet.source if sheet else None, size, staging, lamp,
               id(texture), waiting, self.controls.compare, nine, self._nine)  # fmt: skip
        if key == self._key:
            return
        self._key = key
        picture = self.picture
        picture.lamp = picture.box = picture.before = None
        picture.words = "compressing …" if waiting else ""
        if sheet is None or cell is None or texture is None:
            scene = self._composed(Subject(sheet) if sheet else None, size, staging, ratio)
        elif nine:
            scene = self._stretched(Subject(sheet, cell, texture, rect), size, staging, ratio)
        else:
            rgba = self.session.stock.pixels_or_blank(sheet)
            floor = is_floor(cell, rgba)
            if normals is not None:
                alone = Subject(sheet, cell, None, (0, 0, *cell.rect[2:]), floor)
                lit = self._lit(alone, rgba, normals, size, staging, ratio)
                texture, rect = texture_of(lit, sheet.tune.filter), (0, 0, *cell.rect[2:])
            scene = self._composed(Subject(sheet, cell, texture, rect, floor), size, staging, ratio)
            if self.controls.compare:
                drawn, part = textures.plain(sheet, cell)
                before = compose(
                    self.props,
                    Subject(sheet, cell, drawn, part, floor),
                    size,
                    staging,
                    ratio,
                    self._behind_before,
                )
                picture.before = image_of(before.picture)
        picture.scene = scene
        self._put(scene.picture)
        self._tell(self.words(sheet, cell, scene, ratio))

    @property
    def props(self) -> Props:
        assert self._props is not None
        return self._props

    def _composed(
        self, subject: Subject | None, size: tuple[int, int], staging: Staging, ratio: float
    ) -> Scene:
        return compose(self.props, subject, size, staging, ratio, self._behind)

    def words(self, sheet: Sheet | None, cell: Cell | None, scene: Scene, ratio: float) -> list[str]:
        words = ["", "", "", ""]
        if sheet:
            words[0] = sheet.tune.filter
            words[2] = f"{plain(sheet.tune.ppu, 3)} PPU"
            words[3] = f"×{plain(scene.enlarged / ratio, 2)}"
            if cell:
                words[1] = f"{cell.rect[2] / sheet.tune.ppu:.2f} × {cell.rect[3] / sheet.tune.ppu:.2f} u"
        return words

    def _lit(
        self, subject: Subject, rgba: np.ndarray, normals: np.ndarray, size: tuple[int, int],
        staging: Staging, ratio: float,
    ) -> np.ndarray:  # fmt: skip
        """The px of a cell under the lamp of the Proof."""
        from rushweed.core.tune.light import lit

        cell = subject.cell
        assert cell is not None
        at = (self._lamp[0] * size[0], self._lamp[1] * size[1])
        self.picture.lamp = QPointF(at[0] / ratio, at[1] / ratio)
        x, y, w, h = cell.rect
        part = (slice(y, y + h), slice(x, x + w))
        # Where the pivot will stand is known once the scene is set without the cell.
        scene = self._composed(subject, size, staging, ratio)
        lamp = tuple(cell.pivot[i] + (at[i] - scene.pivot[i]) / scene.enlarged for i in (0, 1))
        return lit(rgba[part], normals[part], (lamp[0], lamp[1]))

    def _move_lamp(self, at: QPointF) -> None:
        box = self.picture.rect()
        across, down = at.x() / max(box.width(), 1), at.y() / max(box.height(), 1)
        self._lamp = (min(max(across, 0.0), 1.0), min(max(down, 0.0), 1.0))
        self.refresh()

    # -- nine-slice ------------------------------------------------------------------------------------

    def _stretched(self, subject: Subject, size: tuple[int, int], staging: Staging, ratio: float) -> Scene:
        """A cell at any size, from the upper left of the picture; its corner can be dragged."""
        sheet, cell, texture = subject.sheet, subject.cell, subject.texture
        assert cell is not None and cell.stretch is not None and texture is not None
        behind = self._composed(Subject(sheet, cell), size, staging, ratio)
        scale = behind.enlarged
        most = (int((size[0] / ratio - 16) * ratio / scale), int((size[1] / ratio - 16) * ratio / scale))
        wanted = self._nine or (cell.rect[2] * 2, cell.rect[3])
        made_size = (max(min(wanted[0], most[0]), 1), max(min(wanted[1], most[1]), 1))
        made = stretched(texture, subject.rect, cell.stretch, made_size, scale)
        picture = premultiply(behind.picture)
        left = top = round(8 * ratio)
        part = picture[top : top + made.shape[0], left : left + made.shape[1]]
        made = made[: part.shape[0], : part.shape[1]]
        part *= 1 - made[..., 3:] / 255
        part += made
        self.picture.box = QRectF(8, 8, made.shape[1] / ratio, made.shape[0] / ratio)
        units = " × ".join(f"{side / sheet.tune.ppu:.2f}" for side in made_size)
        self.picture.words = f"{made_size[0]} × {made_size[1]} px  {units} u"
        return behind._replace(picture=straighten(picture))

    def _move_corner(self, at: QPointF) -> None:
        scene = self.picture.scene
        if scene is not None:
            scale = scene.enlarged / self.devicePixelRatioF()
            self._nine = (max(round((at.x() - 8) / scale), 1), max(round((at.y() - 8) / scale), 1))
            self.refresh()

    # -- a level ---------------------------------------------------------------------------------------

    def _show_level(self, size: tuple[int, int]) -> None:
        project, level = self.session.project, self.session.selection.level
        assert level is not None
        key = (project.sheets, level, size)
        if self._key is not None and isinstance(self._key, tuple) and len(self._key) == 3:
            if all(a is b or a == b for a, b in zip(self._key, key, strict=True)):
                return
        if self._read_for[0] != level.id or self._read_for[1] is not project.sheets:
            if self._waits_for(sheets_shown(project, level)):
                return
            self._read_for = (level.id, project.sheets)
        self._key = key
        from rushweed.core.level.render import Figure, Seen

        seen = Seen(walker=Figure(self.props.figure, level.start), picture=size)
        wanted = Wanted(project, level, picture_area(level.start, size), seen)
        self.session.level_pictures.draw("Proof", wanted, partial(self._show_drawn, wanted))

    def _show_drawn(self, wanted: Wanted, picture: np.ndarray) -> None:
        """A level as it was drawn beside the window, unless the Proof shows something else by now."""
        if self.session.stage not in ("paint", "walk") or self.session.selection.level_id != wanted.level.id:
            return
        from rushweed.core.walk.walkers import units_of

        _left, _top, width, height = wanted.area
        self.picture.scene = self.picture.lamp = self.picture.before = self.picture.box = None
        self.picture.words = "at the start"
        self._put(picture)
        ppu = units_of(wanted.project, wanted.level)
        self._tell(["nearest", f"{width} × {height} px", f"{width / ppu:g} × {height / ppu:g} u", "×1"])

    def _put(self, rgba: np.ndarray) -> None:
        self.picture.image = image_of(rgba)
        self.picture.update()

    def _tell(self, words: list[str]) -> None:
        for made, text in zip(self.foot, words, strict=True):
            made.setText(text)


def picture_area(start: tuple[float, float], size: tuple[int, int]) -> tuple[int, int, int, int]:
    """The part of a level that the game's picture shows at the start: the feet a little below the middle."""
    width, height = size
    return round(start[0] - width * 0.4), round(start[1] - height * 0.66), width, height
