"""The textures of the sheets as a game would read them, compressed in the background and kept."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING
from weakref import ref

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.sheet import Cell, Codec, Sheet
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.tune.sample import Texture, texture_of
from rushweed.core.tune.texture import Laid, Rect, laid_out
from rushweed.ui.session.jobs import How, Job, JobPool

if TYPE_CHECKING:
    from rushweed.core.tune.codec.compress import Costs

KEPT_LAID, KEPT_LAID_BYTES = 6, 96 << 20  # layouts, and what they take, of which one is always kept
KEPT_COSTS = 40
MOST_WHOLE = 1 << 16  # px up to which a sheet is made a texture as a whole
REACH = 64  # px around a cell that its mipmaps read, where only a part is made
MOST_AT_ONCE = 1 << 20  # px of a cell that are made a texture without leaving the window's thread
NOTHING = Texture((np.zeros((1, 1, 4), np.float32),))


class Textures(QObject):
    """Read by the Proof and the Tune stage; `ready` speaks when a compression has been worked out."""

    ready = pyqtSignal()

    def __init__(self, stock: PixelCache, jobs: JobPool) -> None:
        super().__init__()
        self.stock, self.jobs = stock, jobs
        self._laid: OrderedDict[object, Laid] = OrderedDict()
        self._costs: OrderedDict[object, Costs] = OrderedDict()
        self._jobs: dict[object, Job] = {}
        self._faults: set[object] = set()  # what failed, and is not tried again with the same settings
        self._texture: tuple[object, Texture] | None = None
        self._plain: tuple[ref[np.ndarray], Rect, Texture] | None = None  # of px, a cell's place in them
        self._wanted: object = None  # what the texture that is made beside the window is of
        self._cells: object = None  # those that `_places` stands for
        self._places = 0

    def laid(self, sheet: Sheet) -> Laid:
        """The sheet's picture as the texture holds it, before compression."""
        key = self._layout_key(sheet)
        found = self._laid.get(key)
        if found is None:
            found = self._laid[key] = laid_out(sheet, self.stock.pixels_or_blank(sheet))
            sizes = [one.rgba.nbytes for one in self._laid.values()]
            while len(sizes) > 1 and (len(sizes) > KEPT_LAID or sum(sizes) > KEPT_LAID_BYTES):
                self._laid.popitem(last=False)
                sizes.pop(0)
        return found

    def cost(self, sheet: Sheet, codec: Codec) -> Costs | None:
        """What a codec costs and spoils on this sheet, or None while it is being worked out."""
        key = self._cost_key(sheet, codec)
        found = self._costs.get(key)
        if found is not None:
            self._costs.move_to_end(key)
            return found
        if key not in self._jobs and key not in self._faults:
            rgba, mipmaps = self.laid(sheet).rgba, sheet.tune.mipmaps

            def work(job: Job) -> Costs:
                from rushweed.core.tune.codec.compress import costs  # late: the codecs are large

                return costs(rgba, codec, mipmaps, lambda share: job.tell(share, "Compressing"))

            job = self._jobs[key] = self.jobs.start(
                "Compressing",
                work,
                lambda made: self._keep(key, made),
                partial(self._failed, key),
                how=How(slow=True),
            )
            job.ended.connect(lambda: self._forget(key, job))
        return None

    def _forget(self, key: object, job: Job) -> None:
        """A job is over; another may be working on the same by now."""
        if self._jobs.get(key) is job:
            del self._jobs[key]

    def _failed(self, key: object, error: RushweedError) -> None:
        self._faults.add(key)
        self.jobs.unheard.emit(error)
        self.ready.emit()

    def failed(self, sheet: Sheet, codec: Codec) -> bool:
        """Whether this compression of this sheet could not be worked out."""
        return self._cost_key(sheet, codec) in self._faults

    def _cost_key(self, sheet: Sheet, codec: Codec) -> object:
        return (self._layout_key(sheet), codec, sheet.tune.mipmaps)

    def _keep(self, key: object, made: Costs) -> None:
        self._costs[key] = made
        while len(self._costs) > KEPT_COSTS:
            self._costs.popitem(last=False)
        self.ready.emit()

    def forget_others(self, sheet: Sheet) -> None:
        """Stop working out what belongs to another sheet or to settings that are no longer so."""
        mine = self._layout_key(sheet)
        for key, job in list(self._jobs.items()):
            if isinstance(key, tuple) and key[0] != mine:
                job.cancel()
                del self._jobs[key]

    def of(self, sheet: Sheet, cell: Cell) -> tuple[Texture, Rect, bool]:
        """The texture to draw a cell from, where the cell lies in it, and whether its compression is
        still awaited. One texture serves all cells, or of a large sheet the part around this one."""
        tune = sheet.tune
        made = self.cost(sheet, tune.codec) if tune.codec != "none" else None
        waiting = made is None and tune.codec != "none" and not self.failed(sheet, tune.codec)
        laid = self.laid(sheet)
        rgba = made.rgba if made is not None else laid.rgba
        x, y, w, h = laid.rects.get(cell.id, cell.rect)
        part = None
        if rgba.shape[0] * rgba.shape[1] > MOST_WHOLE and tune.wrap == "clamp":
            step = REACH if tune.mipmaps else 2
            left, top = max((x - step) // step * step, 0), max((y - step) // step * step, 0)
            part = (left, top, -(-(x + w + step) // step) * step, -(-(y + h + step) // step) * step)
        key = (self._layout_key(sheet), tune.filter, tune.mipmaps, tune.alpha, tune.codec, waiting, part)
        if self._texture is None or self._texture[0] != key:
            if part is not None:
                rgba = rgba[part[1] : part[3], part[0] : part[2]]
            make = partial(texture_of, rgba, tune.filter, tune.mipmaps, tune.wrap, tune.alpha)
            if rgba.shape[0] * rgba.shape[1] > MOST_AT_ONCE:
                self._make_beside(key, make)
                return NOTHING, (0, 0, w, h), waiting
            self._texture = key, make()
        left, top = part[:2] if part else (0, 0)
        return self._texture[1], (x - left, y - top, w, h), waiting

    def _make_beside(self, key: object, make: Callable[[], Texture]) -> None:
        """Make the texture of a large cell beside the window; `ready` speaks then."""
        self._wanted = key
        if key in self._jobs or key in self._faults:
            return

        def done(made: Texture) -> None:
            if self._wanted == key:
                self._texture = key, made
                self.ready.emit()

        job = self._jobs[key] = self.jobs.start(
            "Making a texture", lambda _job: make(), done, partial(self._failed, key)
        )
        job.ended.connect(lambda: self._forget(key, job))

    def plain(self, sheet: Sheet, cell: Cell) -> tuple[Texture, Rect]:
        """The cell as it was drawn: nearest, nothing compressed."""
        x, y, w, h = cell.rect
        rgba = self.stock.pixels_or_blank(sheet)
        if self._plain is None or self._plain[0]() is not rgba or self._plain[1] != cell.rect:
            self._plain = ref(rgba), cell.rect, texture_of(rgba[y : y + h, x : x + w])
        return self._plain[2], (0, 0, w, h)

    def _layout_key(self, sheet: Sheet) -> object:
        """What the layout of a sheet depends on; equal keys, equal layouts."""
        tune = sheet.tune
        if tune.gutter and self._cells is not sheet.cells:
            self._cells, self._places = sheet.cells, hash(tuple(c.rect for c in sheet.cells))
        return (sheet.source.key, tune.gutter, tune.pad, tune.wrap, self._places if tune.gutter else 0)
