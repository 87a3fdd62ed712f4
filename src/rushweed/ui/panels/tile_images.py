"""Small images of single cells: no whole picture is made an image for the few tiles that are seen of it."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterable

from PyQt6.QtGui import QImage

from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.level.render import cell_pixels
from rushweed.ui.desk.images import SheetImages, image_of
from rushweed.ui.panels.arriving import Reading
from rushweed.ui.session import Session

KEPT = 4096  # images
LARGE = 128  # px: of cells twice as large or more only some px are taken

_Key = tuple[str, tuple[int, int, int, int], tuple[int, int]]  # of a picture, a cell in it, and its shift


class TileImages(Reading):
    """`update` is called when the pictures are there that tiles waited for."""

    def __init__(self, session: Session, images: SheetImages, update: Callable[[], object]) -> None:
        super().__init__(session, update)
        self._images = images
        self._kept: OrderedDict[_Key, QImage] = OrderedDict()

    def begin_with(self, tiles: Iterable[tuple[Sheet, Cell]]) -> None:
        """A drawing begins in which these tiles are seen."""
        self.begin({s.id: s for s, cell in tiles if _key(s, cell) not in self._kept}.values())

    def image(self, sheet: Sheet, cell: Cell) -> QImage | None:
        """The cell as it stands in a level, shifted; None where its picture is still to come."""
        key = _key(sheet, cell)
        made = self._kept.get(key)
        if made is not None:
            self._kept.move_to_end(key)
            return made
        if not self._images.ready or self.lacks(sheet) or not self.has_room():
            return None
        art = cell_pixels(self._session.stock.pixels_or_blank(sheet), cell)
        step = max(min(art.shape[:2]) // LARGE, 1)
        made = image_of(art[::step, ::step])
        if not self._session.stock.is_broken(sheet):
            self._kept[key] = made
            if len(self._kept) > KEPT:
                self._kept.popitem(last=False)
        return made


def _key(sheet: Sheet, cell: Cell) -> _Key:
    return sheet.source.key, cell.rect, cell.shift
