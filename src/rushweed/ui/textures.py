"""The textures of the sheets as a game would read them, compressed in the background and kept."""

from __future__ import annotations

from collections import OrderedDict
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.document.model import Cell, Codec, Sheet
from rushweed.core.pixels.stock import Stock
from rushweed.core.tune.sample import Texture, texture_of
from rushweed.core.tune.texture import Laid, Rect, laid_out
from rushweed.ui.work import Job, Workshop

if TYPE_CHECKING:
    from rushweed.core.tune.codec.compress import Costs

KEPT_LAID = 6
KEPT_COSTS = 40
MOST_WHOLE = 1 << 20  # px up to which a sheet is made a texture as a whole
REACH = 64  # px around a cell that its mipmaps read, where only a part is made


class Textures(QObject):
    """Read by the Proof and the Tune stage; `ready` speaks when a compression has been worked out."""

    ready = pyqtSignal()

    def __init__(self, stock: Stock, workshop: Workshop) -> None:
        super().__init__()
        self.stock, self.workshop = stock, workshop
        self._laid: OrderedDict[object, Laid] = OrderedDict()
        self._costs: OrderedDict[object, Costs] = OrderedDict()
        self._jobs: dict[object, Job] = {}
        self._texture: tuple[object, tuple[Texture, Rect]] | None = None

    def laid(self, sheet: Sheet) -> Laid:
        """The sheet's picture as the texture holds it, before compression."""
        key = _layout_key(sheet)
        found = self._laid.get(key)
        if found is None:
            found = self._laid[key] = laid_out(sheet, self.stock.pixels_or_blank(sheet))
            while len(self._laid) > KEPT_LAID:
                self._laid.popitem(last=False)
        return found

    def cost(self, sheet: Sheet, codec: Codec) -> Costs | None:
        """What a codec costs and spoils on this sheet, or None while it is being worked out."""
        key = (_layout_key(sheet), codec, sheet.tune.mipmaps)
        found = self._costs.get(key)
        if found is not None:
            self._costs.move_to_end(key)
            return found
        if key not in self._jobs:
            rgba, mipmaps = self.laid(sheet).rgba, sheet.tune.mipmaps

            def work(job: Job) -> Costs:
                from rushweed.core.tune.codec.compress import costs  # late: the codecs are large

                return costs(rgba, codec, mipmaps, lambda share: job.tell(share, "Compressing"))

            job = self._jobs[key] = self.workshop.start("Compressing", work, slow=True)
            job.done.connect(lambda made: self._keep(key, made))
            job.ended.connect(lambda: self._jobs.pop(key, None))
        return None

    def _keep(self, key: object, made: Costs) -> None:
        self._costs[key] = made
        while len(self._costs) > KEPT_COSTS:
            self._costs.popitem(last=False)
        self.ready.emit()

    def forget_others(self, sheet: Sheet) -> None:
        """Stop working out what belongs to another sheet or to settings that are no longer so."""
        mine = _layout_key(sheet)
        for key, job in list(self._jobs.items()):
            if isinstance(key, tuple) and key[0] != mine:
                job.cancel()
                del self._jobs[key]

    def of(self, sheet: Sheet, cell: Cell) -> tuple[Texture, Rect, bool]:
        """The texture to draw a cell from, where the cell lies in it, and whether its compression is
        still awaited."""
        tune = sheet.tune
        made = self.cost(sheet, tune.codec) if tune.codec != "none" else None
        waiting = made is None and tune.codec != "none"
        key = (_layout_key(sheet), tune.filter, tune.mipmaps, tune.alpha, tune.codec, waiting, cell.rect)
        if self._texture is None or self._texture[0] != key:
            laid = self.laid(sheet)
            rgba = made.rgba if made is not None else laid.rgba
            self._texture = key, _texture(rgba, laid.rects.get(cell.id, cell.rect), sheet)
        texture, rect = self._texture[1]
        return texture, rect, waiting

    def plain(self, sheet: Sheet, cell: Cell) -> tuple[Texture, Rect]:
        """The cell as it was drawn: nearest, nothing compressed."""
        x, y, w, h = cell.rect
        rgba = self.stock.pixels_or_blank(sheet)
        return texture_of(rgba[y : y + h, x : x + w]), (0, 0, w, h)


def _layout_key(sheet: Sheet) -> object:
    tune = sheet.tune
    rects = tuple(c.rect for c in sheet.cells) if tune.gutter else ()
    return (sheet.source.key, tune.gutter, tune.pad, tune.wrap, rects)


def _texture(rgba: np.ndarray, rect: Rect, sheet: Sheet) -> tuple[Texture, Rect]:
    """The texture, or of a large one the part that can be read, and the cell in it."""
    tune = sheet.tune
    x, y, w, h = rect
    if rgba.shape[0] * rgba.shape[1] > MOST_WHOLE and tune.wrap == "clamp":
        step = REACH if tune.mipmaps else 2
        left, top = max((x - step) // step * step, 0), max((y - step) // step * step, 0)
        right, bottom = -(-(x + w + step) // step) * step, -(-(y + h + step) // step) * step
        rgba = rgba[top:bottom, left:right]
        x, y = x - left, y - top
    return texture_of(rgba, tune.filter, tune.mipmaps, tune.wrap, tune.alpha), (x, y, w, h)
