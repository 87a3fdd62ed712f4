"""Shapes coded by pattern first, colour second: hatch, comb and dots."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPainterPath, QPen, QPixmap, QPolygonF, QTransform

from rushweed.core.cut.spaced import Spaced
from rushweed.core.document.model.shape import Role, Shape, Side
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.primitives import corners
from rushweed.ui.desk.images import array_of
from rushweed.ui.desk.laid_shapes import Laid, outer_edges
from rushweed.ui.desk.many_shapes import ROLES, ManyShapes, Placed
from rushweed.ui.desk.marks import draw_lines
from rushweed.ui.desk.paths import points_path
from rushweed.ui.desk.view import View
from rushweed.ui.kit.theme import Look

MANY = 500  # cells from which shapes are laid down as stamps
MOST_STAMPS = 300  # different ones
MOST_POLYGONS = 20_000
SMALL_PX = 16  # of a cell on screen, below which neither hatch nor casing can be seen
STAMP_RIM = 9  # px around a cell for combs and casings
COLOURS: dict[Role, str] = {"solid": "art_solid", "one-way": "art_oneway", "sensor": "art_sensor"}


class ShapeMarks:
    """Paints any number of shapes; those of one role are filled and outlined in one go."""

    def __init__(self, look: Look) -> None:
        self.look = look
        self._hatch: QPixmap | None = None
        self._dots: QPixmap | None = None
        self._stamps: dict[object, tuple[int, int, QImage]] = {}
        self._stamp_of: dict[str, tuple[Cell, float, float, QImage]] = {}
        self._stamps_for: object = None
        self._polygons: dict[Shape, QPolygonF] = {}
        self._many = ManyShapes()

    def _hatch_brush(self) -> QPixmap:
        if self._hatch is None:
            self._hatch = _pattern(12)
            painter = QPainter(self._hatch)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for shift, colour in (
                (1.2, self.look.colour("art_casing", 0.5)),
                (0, self.look.colour("art_solid", 0.62)),
            ):
                painter.setPen(QPen(colour, 1))
                for start in (-12, 0, 12):
                    painter.drawLine(QLineF(start + shift, 12 + 0.5, start + 12 + shift, 0.5))
            painter.end()
        return self._hatch

    def _dot_brush(self) -> QPixmap:
        if self._dots is None:
            self._dots = _pattern(24)
            painter = QPainter(self._dots)
            for x, y in ((5, 5), (17, 17)):
                painter.fillRect(x - 1, y - 1, 4, 4, self.look.colour("art_casing", 0.5))
                painter.fillRect(x, y, 2, 2, self.look.colour("art_sensor"))
            painter.end()
        return self._dots

    def paint(self, painter: QPainter, view: View, shapes: Iterable[Placed]) -> None:
        """Draw shapes given with their cell's place, in sheet or level px, each by itself."""
        paths = {role: QPainterPath() for role in ("solid", "one-way", "sensor")}
        rings: list[tuple[QPolygonF, Side]] = []
        place = QTransform(view.zoom, 0, 0, view.zoom, view.offset.x(), view.offset.y())
        for shape, x, y in shapes:
            ring = place.map(self._polygon(shape).translated(x, y))
            path = paths[shape.role]
            path.addPolygon(ring)
            path.closeSubpath()
            if shape.role == "one-way":
                rings.append((ring, shape.blocks_from))
        painter.save()
        painter.setBrushOrigin(QPointF(view.offset.x() % 24, view.offset.y() % 24))
        painter.fillPath(paths["solid"], QBrush(self._hatch_brush()))
        painter.fillPath(paths["sensor"], QBrush(self._dot_brush()))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        casing = self.look.colour("art_casing", 0.82)
        self._outline(painter, paths["solid"], self.look.colour("art_solid"), casing, 1)
        self._comb(painter, combs_of(rings, view.offset))
        self._outline(painter, paths["one-way"], self.look.colour("art_oneway"), casing, 2)
        if not paths["sensor"].isEmpty():
            for pen in self._dotted():
                painter.setPen(pen)
                painter.drawPath(paths["sensor"])
        painter.restore()

    def _polygon(self, shape: Shape) -> QPolygonF:
        """The corners of a shape in px of its cell; made once for all shapes that are alike."""
        polygon = self._polygons.get(shape)
        if polygon is None:
            if len(self._polygons) >= MOST_POLYGONS:
                self._polygons.clear()
            polygon = self._polygons[shape] = QPolygonF([QPointF(x, y) for x, y in corners(shape)])
        return polygon

    def paint_cells(
        self, painter: QPainter, view: View, cells: Sequence[Cell], sheet_cells: Sequence[Cell]
    ) -> bool:
        """Draw the shapes of those cells of a sheet that are in sight. Where there are many and they are
        mostly alike, each different one is drawn once and laid down as a stamp; else they are drawn in
        groups, with plainer outlines. False if some are not ready: `make_rest` makes them."""
        if len(cells) <= MANY:
            self.paint(painter, view, [(s, c.rect[0], c.rect[1]) for c in cells for s in c.shapes])
        elif not self._lay_stamps(painter, view, cells):
            small = cells[0].rect[3] * view.zoom < SMALL_PX
            self._paint_groups(painter, view, sheet_cells, small)
            return self._many.complete
        return True

    def make_rest(self) -> bool:
        """Make some of what was not ready, for a moment; whether all is now."""
        self._many.make()
        return self._many.complete

    def _paint_groups(self, painter: QPainter, view: View, cells: Sequence[Cell], small: bool) -> None:
        place = QTransform(view.zoom, 0, 0, view.zoom, view.offset.x(), view.offset.y())
        seen = painter.clipBoundingRect() if painter.hasClipping() else QRectF(painter.viewport())
        within = QRectF(view.to_content(seen.topLeft()), view.to_content(seen.bottomRight()))
        groups = [group.mapped(place) for group in self._many.groups(cells, within)]
        paths = {role: [g.paths[role] for g in groups if role in g.paths] for role in ROLES}
        solid = self.look.colour("art_solid", 0.45) if small else self._hatch_brush()
        sensor = self.look.colour("art_sensor", 0.3) if small else self._dot_brush()
        painter.save()
        painter.setBrushOrigin(QPointF(view.offset.x() % 24, view.offset.y() % 24))
        for fill, mine in ((QBrush(solid), paths["solid"]), (QBrush(sensor), paths["sensor"])):
            for path in mine:
                painter.fillPath(path, fill)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for role in ROLES:
            if small and role == "solid":
                continue  # the fill alone says as much there
            if not small:
                painter.setPen(QPen(self.look.colour("art_casing", 0.82), 1))
                for path in paths[role]:
                    painter.drawPath(path.translated(1, 1))  # a wide pen would take ten times as long
            painter.setPen(QPen(self.look.colour(COLOURS[role]), 1))
            for path in paths[role]:
                painter.drawPath(path)
        one_way = [one for group in groups for one in group.one_way]
        if len(one_way) <= MANY:
            rings = [(place.map(self._polygon(s).translated(x, y)), s.blocks_from) for s, x, y in one_way]
            self._comb(painter, combs_of(rings, view.offset))
        painter.restore()

    def _lay_stamps(self, painter: QPainter, view: View, cells: Sequence[Cell]) -> bool:
        """False if there are too many different ones."""
        different: set[object] = set()
        for cell in cells:
            different.add((cell.shapes, cell.rect[2], cell.rect[3]))
            if len(different) > MOST_STAMPS:
                return False
        key = (view.zoom, self.look.theme)
        if key != self._stamps_for:
            self._stamps_for = key
            self._stamps.clear()
            self._stamp_of.clear()
        zoom, dx, dy = view.zoom, view.offset.x(), view.offset.y()
        known, lay = self._stamp_of, painter.drawImage
        for cell in cells:
            found = known.get(cell.id)
            if found is None or found[0] is not cell:
                stamp = self._stamp(cell, zoom)
                if stamp is None:
                    return False
                left, top = cell.rect[0] * zoom + stamp[0], cell.rect[1] * zoom + stamp[1]
                found = known[cell.id] = (cell, left, top, stamp[2])
            lay(QPointF(found[1] + dx, found[2] + dy), found[3])
        return True

    def _stamp(self, cell: Cell, zoom: float) -> tuple[int, int, QImage] | None:
        """The shapes of a cell with their combs and casings, and where that lies beside the cell, screen px;
        made once for all that are alike."""
        key = (cell.shapes, cell.rect[2], cell.rect[3])
        stamp = self._stamps.get(key)
        if stamp is None and len(self._stamps) < MOST_STAMPS:
            wide, high = (math.ceil(side * zoom) + 2 * STAMP_RIM for side in cell.rect[2:])
            image = QImage(wide, high, QImage.Format.Format_ARGB32_Premultiplied)
            image.fill(Qt.GlobalColor.transparent)
            place = View()
            place.zoom, place.offset = zoom, QPointF(STAMP_RIM, STAMP_RIM)
            painter = QPainter(image)
            self.paint(painter, place, [(s, 0, 0) for s in cell.shapes])
            painter.end()
            ink = array_of(image)[..., 3] > 0
            rows, columns = np.flatnonzero(ink.any(axis=1)), np.flatnonzero(ink.any(axis=0))
            if rows.size:  # no more than what is drawn on
                x, y = int(columns[0]), int(rows[0])
                image = image.copy(x, y, int(columns[-1]) + 1 - x, int(rows[-1]) + 1 - y)
                stamp = (x - STAMP_RIM, y - STAMP_RIM, image)
            else:
                stamp = (0, 0, image)
            self._stamps[key] = stamp
        return stamp

    def paint_merged(self, painter: QPainter, view: View, laid: Sequence[Laid]) -> None:
        """As `paint`, but shapes of one kind that share a whole edge read as one: the outline runs around
        them, bold for solid ones, whose hatch stands only in a band along it."""
        zoom, left, top = view.zoom, view.offset.x(), view.offset.y()
        place = QTransform(zoom, 0, 0, zoom, left, top)
        fills, lines = {}, {}
        for role in ("solid", "one-way", "sensor"):
            rings = [np.array(corners(s), float) + p[:, None] for s, p in laid if s.role == role]
            points = np.concatenate([ring.reshape(-1, 2) for ring in rings] or [np.zeros((0, 2))])
            lengths = np.repeat([r.shape[1] for r in rings], [len(r) for r in rings]).astype(int)
            fills[role] = place.map(points_path(points, lengths))
            edges = outer_edges(rings) * zoom + (left, top, left, top)
            lines[role] = [QLineF(*edge) for edge in edges.tolist()]
        combs: list[QLineF] = []
        for shape, places in laid:
            if shape.role == "one-way":
                ring = np.array(corners(shape), float)
                box = np.concatenate((ring.min(axis=0), ring.max(axis=0)))
                boxes = (box + np.tile(places, 2)) * zoom + (left, top, left, top)
                combs += comb(boxes, shape.blocks_from, view.offset)
        painter.save()
        painter.setBrushOrigin(QPointF(view.offset.x() % 24, view.offset.y() % 24))
        painter.fillPath(fills["sensor"], QBrush(self._dot_brush()))
        painter.setClipPath(fills["solid"], Qt.ClipOperation.IntersectClip)
        hatch = QBrush(self._hatch_brush())
        hatch.setTransform(QTransform.fromTranslate(left % 24, top % 24))  # pens pass the brush's origin over
        painter.setPen(QPen(hatch, 28, cap=Qt.PenCapStyle.SquareCap))
        draw_lines(painter, lines["solid"])
        painter.restore()
        self._comb(painter, combs)
        for role, colour in (("one-way", "art_oneway"), ("solid", "art_solid")):
            for shade, wide in ((self.look.colour("art_casing", 0.82), 4), (self.look.colour(colour), 2)):
                painter.setPen(QPen(shade, wide, cap=Qt.PenCapStyle.SquareCap))
                draw_lines(painter, lines[role])
        for pen in self._dotted():
            painter.setPen(pen)
            draw_lines(painter, lines["sensor"])

    def _comb(self, painter: QPainter, combs: list[QLineF]) -> None:
        for colour, wide in ((self.look.colour("art_casing", 0.82), 4), (self.look.colour("art_oneway"), 2)):
            painter.setPen(QPen(colour, wide, cap=Qt.PenCapStyle.FlatCap))
            draw_lines(painter, combs)

    def _dotted(self) -> list[QPen]:
        """Pens that draw a dotted outline: a fine casing, then dots of 3 px every 12 on darker ones."""
        pens = [QPen(self.look.colour("art_casing", 0.82), 1)]
        for wide, colour in ((5, self.look.colour("art_casing", 0.82)), (3, self.look.colour("art_sensor"))):
            pen = QPen(colour, wide, cap=Qt.PenCapStyle.FlatCap)
            pen.setDashPattern([1, (12 - wide) / wide])
            pen.setDashOffset(-(5 - wide) / 2 / wide)
            pens.append(pen)
        return pens

    @staticmethod
    def _outline(painter: QPainter, path: QPainterPath, line: QColor, casing: QColor, wide: float) -> None:
        if not path.isEmpty():
            join = Qt.PenJoinStyle.MiterJoin
            painter.setPen(QPen(casing, wide + 2, join=join))
            painter.drawPath(path)
            painter.setPen(QPen(line, wide, join=join))
            painter.drawPath(path)

    def sample(self, painter: QPainter, box: QRectF, role: str) -> None:
        """A small picture of a role for buttons and heads."""
        ink = self.look.colour("ink")
        painter.save()
        painter.setClipRect(box)
        if role == "solid":
            painter.setPen(QPen(ink, 1))
            x = box.left() - box.height()
            while x < box.right():
                painter.drawLine(QLineF(x, box.bottom(), x + box.height(), box.top()))
                x += 5
        elif role == "one-way":
            painter.setPen(QPen(ink, 1))
            x = box.left() + 3.5
            while x < box.right():
                painter.drawLine(QLineF(x, box.center().y(), x, box.bottom() - 1))
                x += 4
        else:
            y = box.top() + 3
            odd = False
            while y < box.bottom() - 2:
                x = box.left() + (5 if odd else 3)
                while x < box.right() - 2:
                    painter.fillRect(QRectF(x, y, 2, 2), ink)
                    x += 5
                y += 4
                odd = not odd
        painter.setClipping(False)
        style = Qt.PenStyle.DotLine if role == "sensor" else Qt.PenStyle.SolidLine
        painter.setPen(QPen(ink, 1 if role != "one-way" else 1.5, style))
        frame = box.adjusted(0.5, 0.5, -0.5, -0.5)
        if role == "one-way":
            frame = frame.adjusted(0, 0, 0, -frame.height() / 2)
        painter.drawRect(frame)
        painter.restore()


def combs_of(rings: Sequence[tuple[QPolygonF, Side]], origin: QPointF) -> list[QLineF]:
    """The comb ticks of rings, screen px, each with the side that stops; see `comb`."""
    lines: list[QLineF] = []
    for blocks_from in {blocks_from for _ring, blocks_from in rings}:
        boxes = [ring.boundingRect().getCoords() for ring, own in rings if own == blocks_from]
        lines += comb(np.array(boxes, float), blocks_from, origin)
    return lines


def comb(boxes: np.ndarray, blocks_from: Side, origin: QPointF) -> list[QLineF]:
    """Comb ticks of 7 px, 8 apart as counted from `origin`, hanging in each box (left, top, right, bottom;
    float (n, 4)) from the side opposite the one that stops."""
    upright = blocks_from in ("top", "bottom")
    near, far = (boxes[:, 0], boxes[:, 2]) if upright else (boxes[:, 1], boxes[:, 3])
    across = (origin.x() if upright else origin.y()) % 8
    first = np.ceil((near + 3 - across) / 8) * 8 + across
    ticks = Spaced(first, np.full(len(boxes), 8), np.maximum(np.ceil((far - 1 - first) / 8), 0).astype(int))
    side = {"top": 3, "bottom": 1, "left": 2, "right": 0}[blocks_from]
    reach = 7 if blocks_from in ("top", "left") else -7
    begins = zip(ticks.places.tolist(), boxes[:, side][ticks.of].tolist(), strict=True)
    if upright:
        return [QLineF(along, at, along, at + reach) for along, at in begins]
    return [QLineF(at, along, at + reach, along) for along, at in begins]


def diamond(
    painter: QPainter, at: QPointF, radius: float, fill: QColor, edge: QColor, wide: float = 2
) -> None:
    painter.setPen(QPen(edge, wide))
    painter.setBrush(fill)
    painter.drawPolygon(
        at + QPointF(0, -radius), at + QPointF(radius, 0), at + QPointF(0, radius), at + QPointF(-radius, 0)
    )


def _pattern(side: int) -> QPixmap:
    pixmap = QPixmap(side, side)
    pixmap.fill(Qt.GlobalColor.transparent)
    return pixmap
