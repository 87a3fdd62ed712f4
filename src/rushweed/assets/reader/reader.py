"""Reads what Rushweed shipped for a game: frames, animations, levels. Python's standard library is enough.

    shipment = Shipment("shipped")
    screen = Picture(320, 180)
    shipment.draw_frame(screen, "lamp_lit", 100, 90)
    shipment.draw_animation(screen, "walk", 250, 160, 90)          # as it looks 250 ms after its start
    shipment.draw_level(screen, "pier", left=0, top=0, ms=0)
    screen.save("picture.ppm")

Coordinates are px, x right and y down. The rules of drawing are those of docs/formats.md of Rushweed. This file
is in the public domain (CC0-1.0): change it as you like.
"""

import json
import math
import struct
import zlib
from pathlib import Path


class Picture:
    """Px in rows from the top, four bytes each: red, green, blue, alpha (straight)."""

    def __init__(self, width, height, px=None):
        self.width, self.height = width, height
        self.px = bytearray(width * height * 4) if px is None else px

    def part(self, x, y, width, height):
        """A rectangle of it, as a new picture."""
        rows = (self.px[((y + n) * self.width + x) * 4 :][: width * 4] for n in range(height))
        return Picture(width, height, bytearray(b"".join(rows)))

    def turned(self, orientation):
        """Mirrored left and right where the orientation is 4 or more, then turned by quarters clockwise."""
        width, height = self.width, self.height
        px = [bytes(self.px[n * 4 : n * 4 + 4]) for n in range(width * height)]
        rows = [px[n * width : (n + 1) * width] for n in range(height)]
        if orientation & 4:
            rows = [row[::-1] for row in rows]
        for _ in range(orientation & 3):
            rows = [list(row) for row in zip(*rows[::-1])]
        flat = bytearray(b"".join(b"".join(row) for row in rows))
        return Picture(len(rows[0]) if rows else 0, len(rows), flat)

    def tinted(self, tint):
        """Colours multiplied by red, green, blue (255 keeps them)."""
        if tint is None or list(tint) == [255, 255, 255]:
            return self
        px = bytearray(self.px)
        for channel in range(3):
            px[channel::4] = bytes((v * tint[channel] + 127) // 255 for v in px[channel::4])
        return Picture(self.width, self.height, px)

    def put(self, over, x, y, opacity=1.0):
        """Lay another picture over this one with its top left at x, y."""
        for row in range(max(y, 0), min(y + over.height, self.height)):
            for column in range(max(x, 0), min(x + over.width, self.width)):
                at = ((row - y) * over.width + column - x) * 4
                self._lay((row * self.width + column) * 4, over.px[at : at + 4], opacity)

    def _lay(self, at, over, opacity):
        alpha = over[3] if opacity >= 1 else round(over[3] * opacity)
        if alpha == 255:
            self.px[at : at + 4] = over[:3] + b"\xff"
            return
        if alpha == 0:
            return
        below = self.px[at + 3] * (255 - alpha) // 255
        total = alpha + below
        safe = max(total, 1)
        for n in range(3):
            self.px[at + n] = (over[n] * alpha + self.px[at + n] * below + safe // 2) // safe
        self.px[at + 3] = total

    def save(self, path):
        """A PPM file, which has no alpha."""
        rgb = bytearray(self.width * self.height * 3)
        for n in range(3):
            rgb[n::3] = self.px[n::4]
        Path(path).write_bytes(b"P6 %d %d 255\n" % (self.width, self.height) + rgb)


def read_png(data):
    """A PNG of up to 8 bits a channel, without interlacing, as a Picture."""
    if data[:8] != b"\x89PNG\r\n\x1a\n":
        raise ValueError("this is no PNG; WebP pages need a decoder of your own (Shipment's `decode`)")
    at, packed, palette, clear = 8, b"", b"", b""
    width = height = bits = colour = 0
    while at < len(data):
        size, kind = struct.unpack_from(">I4s", data, at)
        body = data[at + 8 : at + 8 + size]
        if kind == b"IHDR":
            width, height, bits, colour, _method, _filters, interlaced = struct.unpack(">IIBBBBB", body)
            if bits > 8 or interlaced:
                raise ValueError("PNGs of 16 bits and interlaced ones are not read here")
        elif kind == b"PLTE":
            palette = body
        elif kind == b"tRNS":
            clear = body
        elif kind == b"IDAT":
            packed += body
        at += 12 + size
    channels = {0: 1, 2: 3, 3: 1, 4: 2, 6: 4}[colour]
    rows = _unfiltered(
        zlib.decompress(packed), height, (width * channels * bits + 7) // 8, max(channels * bits // 8, 1)
    )
    out = bytearray(width * height * 4)
    for y, row in enumerate(rows):
        if bits < 8:
            row = [row[x * bits // 8] >> (8 - bits - x * bits % 8) & (1 << bits) - 1 for x in range(width)]
        here = slice(y * width * 4, (y + 1) * width * 4)
        line = bytearray(b"\xff" * width * 4)
        if colour == 3:
            table = [
                palette[3 * i : 3 * i + 3] + (clear[i : i + 1] or b"\xff") for i in range(len(palette) // 3)
            ]
            line = bytearray(b"".join(table[i] for i in row[:width]))
        elif colour in (0, 4):
            scale = 255 // ((1 << bits) - 1)
            for n in range(3):
                line[n::4] = bytes(v * scale for v in row[::channels])
            if colour == 4:
                line[3::4] = row[1::2]
        else:
            for n in range(channels):
                line[n::4] = row[n::channels]
        out[here] = line
    return Picture(width, height, out)


def _unfiltered(data, height, wide, step):
    """The rows of a PNG, each guess of its filter added."""
    above, rows = bytearray(wide), []
    for y in range(height):
        kind, row = data[y * (wide + 1)], bytearray(data[y * (wide + 1) + 1 : (y + 1) * (wide + 1)])
        for x in range(wide if kind else 0):
            left = row[x - step] if x >= step else 0
            up = above[x]
            corner = above[x - step] if x >= step else 0
            if kind == 1:
                guess = left
            elif kind == 2:
                guess = up
            elif kind == 3:
                guess = (left + up) // 2
            else:
                a, b, c = abs(up - corner), abs(left - corner), abs(left + up - 2 * corner)
                guess = left if a <= b and a <= c else up if b <= c else corner
            row[x] = (row[x] + guess) & 255
        rows.append(row)
        above = row
    return rows


class Shipment:
    """A folder as it was shipped. `decode` turns the bytes of a page into a Picture."""

    def __init__(self, folder, decode=read_png):
        self.folder, self._decode = Path(folder), decode
        self.manifest = json.loads((self.folder / "manifest.json").read_text("utf-8"))
        self.frames = self.manifest["frames"]
        self.animations = {a["id"]: a for a in self.manifest.get("animations", ())}
        self._place = {frame["id"]: n for n, frame in enumerate(self.frames)}
        self._over = next((t["name"] for t in self.manifest.get("traits", ()) if t.get("id") == "over"), None)
        self._pictures, self._cells, self._levels = {}, {}, {}

    # -- frames ------------------------------------------------------------------------------------------

    def place(self, frame):
        """The place of a frame in the list, by its id or its name."""
        if frame in self._place:
            return self._place[frame]
        return next(n for n, one in enumerate(self.frames) if one["name"] == frame)

    def picture(self, file):
        """The picture in a file, read once."""
        if file not in self._pictures:
            self._pictures[file] = self._decode((self.folder / file).read_bytes())
        return self._pictures[file]

    def art(self, place):
        """What stands on the page for a frame, turned as it is drawn; it lies at `offset_px` in the cell."""
        frame = self.frames[place]
        page = self.picture(self.manifest["pages"][frame["page"]]["file"])
        art = page.part(*frame["rect_px"])
        return art.turned(frame.get("orientation", 0)) if frame.get("orientation", 0) else art

    def cell(self, place):
        """A frame as a tile: its whole cell; what its offset carries out of it is not there."""
        if place not in self._cells:
            frame = self.frames[place]
            whole = Picture(*frame["size_px"])
            _copy(whole, self.art(place), *frame.get("offset_px", (0, 0)))
            self._cells[place] = whole
        return self._cells[place]

    def draw_frame(self, target, frame, x, y, mirrored=False, opacity=1.0):
        """Draw a frame (its id or name) with its pivot at x, y."""
        thing = {"at_px": [x, y], "mirrored": mirrored}
        self._draw_thing(target, thing, self.place(frame), (x, y), (0, 0), {"opacity": opacity})

    def frame_at(self, animation, ms):
        """The place of the frame that an animation shows after so many ms."""
        frames = [f for f in animation["frames"] if f[0] in self._place]
        order = list(range(len(frames)))
        if animation["play"] == "there-and-back":
            order += order[-2:0:-1]
        whole = sum(frames[n][1] for n in order)
        if animation["play"] == "once" and ms >= whole:
            return self._place[frames[order[-1]][0]]
        left = ms % whole
        for n in order:
            left -= frames[n][1]
            if left < 0:
                return self._place[frames[n][0]]
        return self._place[frames[order[-1]][0]]

    def animation(self, name):
        """An animation by its id or its name."""
        if name in self.animations:
            return self.animations[name]
        return next(a for a in self.animations.values() if a["name"] == name)

    def draw_animation(self, target, name, ms, x, y, mirrored=False):
        """Draw what an animation shows after so many ms, with its pivot at x, y."""
        frame = self.frames[self.frame_at(self.animation(name), ms)]["id"]
        self.draw_frame(target, frame, x, y, mirrored)

    # -- levels ------------------------------------------------------------------------------------------

    def level(self, name):
        """A level's file, by its name or id."""
        if name not in self._levels:
            part = next(v for v in self.manifest["levels"] if name in (v["id"], v["name"]))
            self._levels[name] = json.loads((self.folder / part["file"]).read_text("utf-8"))
        return self._levels[name]

    def draw_level(self, target, name, left=None, top=None, ms=0):
        """Draw what a camera sees of a level whose picture has its top left at left, top, level px."""
        level = self.level(name)
        cw, ch = level["cell_px"]
        if left is None:
            left, top = level["bounds_cells"][0] * cw, level["bounds_cells"][1] * ch
        middle = (left + target.width / 2, top + target.height / 2)
        layers = [
            x for x in enumerate(level["layers"]) if x[1].get("shown", True) and x[1].get("opacity", 1) > 0
        ]
        foot = level.get("order", "layer") == "foot"
        by_foot = []
        for number, layer in layers:
            if layer.get("front"):
                continue
            shift = _shift(level, layer, middle, ms)
            self._ground(target, level, (number, layer), shift, (left, top), by_foot if foot else None)
            for thing in level.get("things", ()):
                if thing["layer"] == number:
                    place, at = self._shown(thing, ms)
                    if place is None:
                        continue
                    call = (thing, place, at, (left - nearest(shift[0]), top - nearest(shift[1])), layer)
                    if foot:
                        by_foot.append((at[1] + shift[1], number, len(by_foot), call))
                    else:
                        self._draw_thing(target, *call)
        for _foot, _number, _n, call in sorted(by_foot, key=lambda one: one[:3]):
            if len(call) == 5:
                self._draw_thing(target, *call)
            else:
                target.put(*call)
        for number, layer in layers:
            if layer.get("front"):
                shift = _shift(level, layer, middle, ms)
                self._ground(target, level, (number, layer), shift, (left, top), None)
                for thing in level.get("things", ()):
                    place, at = self._shown(thing, ms)
                    if thing["layer"] == number and place is not None:
                        corner = (left - nearest(shift[0]), top - nearest(shift[1]))
                        self._draw_thing(target, thing, place, at, corner, layer)

    def _ground(self, target, level, numbered, shift, corner, by_foot):
        """The tiles, backdrop or picture of a layer, told with its number; tiles that stand go to `by_foot`
        if there is one."""
        number, layer = numbered
        opacity = layer.get("opacity", 1)
        x0, y0 = nearest(shift[0]) - corner[0], nearest(shift[1]) - corner[1]
        if layer["kind"] in ("backdrop", "picture"):
            self._backdrop(target, layer, x0, y0, opacity)
            return
        cw, ch = level["cell_px"]
        for column, row, place, turn in tiles_of(level, layer):
            x, y = column * cw, row * ch
            line = self.frames[place].get("traits", {}).get(self._over)
            tile = _cropped(self.cell(place).turned(turn) if turn else self.cell(place), cw, ch)
            if by_foot is not None and line is not None:
                at = (nearest(x + shift[0]) - corner[0], nearest(y + shift[1]) - corner[1])
                by_foot.append(
                    (
                        y + shift[1] + ch - line,
                        number,
                        len(by_foot),
                        (tile.tinted(layer.get("tint")), *at, opacity),
                    )
                )
            elif -cw < x + x0 < target.width and -ch < y + y0 < target.height:
                target.put(tile.tinted(layer.get("tint")), x + x0, y + y0, opacity)

    def _backdrop(self, target, layer, x0, y0, opacity):
        file = layer.get("picture")
        if file is None and layer.get("frame") is None:
            return
        art = (self.picture(file) if file else self.cell(layer["frame"])).tinted(layer.get("tint"))
        if layer.get("stretch"):
            art = _stretched(art, target.width, target.height)
        xs = range(x0 % art.width - art.width, target.width, art.width) if layer.get("repeat") else [x0]
        ys = range(y0 % art.height - art.height, target.height, art.height) if layer.get("repeat_y") else [y0]
        for y in ys:
            for x in xs:
                target.put(art, x, y, opacity)

    def _shown(self, thing, ms):
        """The place of the frame that a thing shows, and where its pivot stands."""
        path, place = thing.get("path"), self._place.get(thing["shows"])
        if place is None:
            animation = self.animations.get(thing["shows"])
            if animation is None or not animation["frames"]:
                return None, None
            place = self.frame_at(animation, ms)
            path = path or animation.get("path")
        x, y = thing["at_px"]
        if path:
            far = _eased(path, ms)
            x, y = x + path["offset_px"][0] * far, y + path["offset_px"][1] * far
        return place, (x, y)

    def _draw_thing(self, target, thing, place, at, corner, layer):
        """Draw a thing that stands `at` a place, with the tint and the opacity of its layer."""
        opacity = layer.get("opacity", 1)
        frame, art = self.frames[place], self.art(place).tinted(thing.get("tint")).tinted(layer.get("tint"))
        offset, pivot = frame.get("offset_px", (0, 0)), frame["pivot_px"]
        turn, scale = thing.get("turn_degrees", 0), thing.get("scale", (1, 1))
        mirror = -1 if thing.get("mirrored") else 1
        if turn % 360 == 0 and list(scale) == [1, 1]:
            left, top = at[0] - pivot[0] + offset[0], at[1] - pivot[1] + offset[1]
            if mirror < 0:
                art, left = art.turned(4), at[0] + pivot[0] - offset[0] - art.width
            x, y = nearest(left), nearest(top)
            target.put(art, x - corner[0], y - corner[1], opacity)
            return
        cos, sin = math.cos(math.radians(turn)), math.sin(math.radians(turn))
        a, b = cos * scale[0] * mirror, -sin * scale[1]
        c, d = sin * scale[0] * mirror, cos * scale[1]
        px, py = pivot[0] - offset[0], pivot[1] - offset[1]
        e, f = at[0] - a * px - b * py, at[1] - c * px - d * py
        xs = [e, a * art.width + e, a * art.width + b * art.height + e, b * art.height + e]
        ys = [f, c * art.width + f, c * art.width + d * art.height + f, d * art.height + f]
        x0, y0 = math.floor(min(xs) + 1e-9), math.floor(min(ys) + 1e-9)
        wide, high = max(math.ceil(max(xs) - 1e-9) - x0, 1), max(math.ceil(max(ys) - 1e-9) - y0, 1)
        out, share = Picture(wide, high), a * d - b * c
        for row in range(high):
            for column in range(wide):
                across, down = column + 0.5 + x0 - e, row + 0.5 + y0 - f
                u = math.floor((d * across - b * down) / share + 1e-9)
                v = math.floor((a * down - c * across) / share + 1e-9)
                if 0 <= u < art.width and 0 <= v < art.height:
                    here, there = (row * wide + column) * 4, (v * art.width + u) * 4
                    out.px[here : here + 4] = art.px[there : there + 4]
        target.put(out, x0 - corner[0], y0 - corner[1], opacity)


def tiles_of(level, layer):
    """Each tile of a layer: its column and row in the level, the place of its frame, its orientation."""
    left, top = level["bounds_cells"][:2]
    for row, runs in enumerate(layer.get("rows", ())):
        column = left
        for count, place, turn in runs:
            for n in range(count if place >= 0 else 0):
                yield column + n, top + row, place, turn
            column += count
    for row, cells in enumerate(layer.get("cells", ())):
        for column, value in enumerate(cells):
            if value >= 0:
                yield left + column, top + row, value >> 3, value & 7


def nearest(value):
    """The nearest whole px, of two the one further right or down."""
    return math.floor(value + 0.5)


def _shift(level, layer, middle, ms):
    """How far a layer is moved when the picture's middle is there, level px."""
    moved = []
    for n in (0, 1):
        lag = 1 - layer.get("parallax", (1, 1))[n]
        shift = (middle[n] - level["start_px"][n]) * lag + layer.get("offset_px", (0, 0))[n]
        if layer["kind"] == "backdrop":
            shift += layer.get("drift_px_per_s", (0, 0))[n] * ms / 1000 + (layer.get("top_px", 0) if n else 0)
        moved.append(shift)
    return moved


def _eased(path, ms):
    """How far along its path something is, 0 to 1."""
    share = max(ms, 0) / path["ms"]
    if path["play"] == "once":
        share = min(share, 1.0)
    elif path["play"] == "loop":
        share %= 1
    else:
        share = 1 - abs(share % 2 - 1)
    if path["easing"] == "in":
        return share * share
    if path["easing"] == "out":
        return 1 - (1 - share) * (1 - share)
    if path["easing"] == "both":
        return 2 * share * share if share < 0.5 else 1 - 2 * (1 - share) * (1 - share)
    return share


def _copy(target, art, x, y):
    """Put px as they are; what lies outside is left out."""
    for row in range(max(-y, 0), min(art.height, target.height - y)):
        first, last = max(-x, 0), min(art.width, target.width - x)
        if last > first:
            there = ((y + row) * target.width + x + first) * 4
            target.px[there : there + (last - first) * 4] = art.px[
                (row * art.width + first) * 4 : (row * art.width + last) * 4
            ]


def _cropped(tile, width, height):
    if tile.width <= width and tile.height <= height:
        return tile
    return tile.part(0, 0, min(tile.width, width), min(tile.height, height))


def _stretched(art, width, height):
    out = Picture(width, height)
    for y in range(height):
        for x in range(width):
            at = (y * art.height // height * art.width + x * art.width // width) * 4
            out.px[(y * width + x) * 4 : (y * width + x) * 4 + 4] = art.px[at : at + 4]
    return out
