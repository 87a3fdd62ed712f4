/* Reads what Rushweed shipped for a game: frames, animations, levels. It needs no other library.
 *
 *   const shipment = await RushweedReader.load("shipped/");      // in a browser
 *   const screen = new RushweedReader.Picture(320, 180);
 *   shipment.drawFrame(screen, "lamp_lit", 100, 90);
 *   shipment.drawAnimation(screen, "walk", 250, 160, 90);       // as it looks 250 ms after its start
 *   shipment.drawLevel(screen, "pier", 0, 0, 0);
 *   screen.toCanvas(document.querySelector("canvas"));
 *
 * Elsewhere: new RushweedReader.Shipment(manifest, {file: picture}, {file: level}) with what you read yourself.
 * Coordinates are px, x right and y down. The rules of drawing are those of docs/formats.md of Rushweed. This file
 * is in the public domain (CC0-1.0): change it as you like.
 */
(function (root) {
  "use strict";

  /** Px in rows from the top, four bytes each: red, green, blue, alpha (straight). */
  class Picture {
    constructor(width, height, data) {
      this.width = width;
      this.height = height;
      this.data = data || new Uint8ClampedArray(width * height * 4);
      this.words = new Uint32Array(this.data.buffer, this.data.byteOffset, width * height);
    }

    clear() {
      this.words.fill(0);
    }

    /** A rectangle of it, as a new picture. */
    part(x, y, width, height) {
      const out = new Picture(width, height);
      for (let row = 0; row < height; row++) {
        const from = (y + row) * this.width + x;
        out.words.set(this.words.subarray(from, from + width), row * width);
      }
      return out;
    }

    /** Mirrored left and right where the orientation is 4 or more, then turned by quarters clockwise. */
    turned(orientation) {
      let { width, height } = this;
      let words = this.words;
      if (orientation & 4) {
        const next = new Uint32Array(words.length);
        for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) next[y * width + x] = words[y * width + width - 1 - x];
        words = next;
      }
      for (let n = 0; n < (orientation & 3); n++) {
        const next = new Uint32Array(words.length);
        for (let y = 0; y < width; y++) for (let x = 0; x < height; x++) next[y * height + x] = words[(height - 1 - x) * width + y];
        words = next;
        [width, height] = [height, width];
      }
      return new Picture(width, height, new Uint8ClampedArray(words.slice().buffer));
    }

    /** Colours multiplied by red, green, blue (255 keeps them). */
    tinted(tint) {
      if (!tint || (tint[0] === 255 && tint[1] === 255 && tint[2] === 255)) return this;
      const out = this.part(0, 0, this.width, this.height);
      for (let n = 0; n < out.data.length; n += 4)
        for (let c = 0; c < 3; c++) out.data[n + c] = Math.floor((out.data[n + c] * tint[c] + 127) / 255);
      return out;
    }

    /** Lay another picture over this one with its top left at x, y. */
    put(over, x, y, opacity = 1) {
      const x0 = Math.max(x, 0), x1 = Math.min(x + over.width, this.width);
      const y0 = Math.max(y, 0), y1 = Math.min(y + over.height, this.height);
      const from = over.data, to = this.data;
      for (let row = y0; row < y1; row++) {
        let there = (row - y) * over.width + x0 - x, here = row * this.width + x0;
        for (let column = x0; column < x1; column++, there++, here++) {
          let alpha = from[there * 4 + 3];
          if (opacity < 1) alpha = halfEven(alpha * opacity);
          if (alpha === 255) {
            this.words[here] = over.words[there];
          } else if (alpha > 0) {
            const i = here * 4, j = there * 4;
            const below = Math.floor((to[i + 3] * (255 - alpha)) / 255);
            const total = alpha + below, half = total >> 1;
            to[i] = Math.floor((from[j] * alpha + to[i] * below + half) / total);
            to[i + 1] = Math.floor((from[j + 1] * alpha + to[i + 1] * below + half) / total);
            to[i + 2] = Math.floor((from[j + 2] * alpha + to[i + 2] * below + half) / total);
            to[i + 3] = total;
          }
        }
      }
    }

    /** Put px as they are; what lies outside is left out. */
    copy(art, x, y) {
      for (let row = Math.max(-y, 0); row < Math.min(art.height, this.height - y); row++)
        for (let column = Math.max(-x, 0); column < Math.min(art.width, this.width - x); column++)
          this.words[(y + row) * this.width + x + column] = art.words[row * art.width + column];
    }

    /** Show it on a canvas of the browser, which becomes as large. */
    toCanvas(canvas) {
      if (canvas.width !== this.width || canvas.height !== this.height) {
        canvas.width = this.width;
        canvas.height = this.height;
      }
      canvas.getContext("2d").putImageData(new ImageData(this.data, this.width, this.height), 0, 0);
    }
  }

  /** The nearest whole number, of two the even one. */
  function halfEven(value) {
    const low = Math.floor(value), rest = value - low;
    return rest > 0.5 || (rest === 0.5 && low % 2 !== 0) ? low + 1 : low;
  }

  /** The nearest whole px, of two the one further right or down. */
  function nearest(value) {
    return Math.floor(value + 0.5);
  }

  function modulo(value, by) {
    return ((value % by) + by) % by;
  }

  /** How far along its path something is, 0 to 1. */
  function eased(path, ms) {
    let share = Math.max(ms, 0) / path.ms;
    if (path.play === "once") share = Math.min(share, 1);
    else if (path.play === "loop") share %= 1;
    else share = 1 - Math.abs((share % 2) - 1);
    if (path.easing === "in") return share * share;
    if (path.easing === "out") return 1 - (1 - share) * (1 - share);
    if (path.easing === "both") return share < 0.5 ? 2 * share * share : 1 - 2 * (1 - share) * (1 - share);
    return share;
  }

  /** A shipment: its manifest, its pictures and its levels by the names of their files. */
  class Shipment {
    constructor(manifest, pictures, levels) {
      this.manifest = manifest;
      this.pictures = pictures;
      this.frames = manifest.frames;
      this.places = new Map(this.frames.map((frame, n) => [frame.id, n]));
      this.names = new Map(this.frames.map((frame, n) => [frame.name, n]).reverse());
      this.animations = new Map((manifest.animations || []).map((a) => [a.id, a]));
      this.over = ((manifest.traits || []).find((trait) => trait.id === "over") || {}).name; // of tiles that stand
      this.levels = new Map();
      for (const part of manifest.levels || [])
        for (const name of [part.name, part.id]) if (levels[part.file]) this.levels.set(name, levels[part.file]);
      this.kept = new Map();
    }

    /** The place of a frame in the list, by its id or its name. */
    place(frame) {
      return this.places.has(frame) ? this.places.get(frame) : this.names.get(frame);
    }

    /** Something worked out once. */
    once(key, make) {
      if (!this.kept.has(key)) this.kept.set(key, make());
      return this.kept.get(key);
    }

    /** What stands on the page for a frame, turned as it is drawn; it lies at `offset_px` in the cell. */
    art(place, tint) {
      return this.once(`art ${place} ${tint || ""}`, () => {
        const frame = this.frames[place];
        const page = this.pictures[this.manifest.pages[frame.page].file];
        return page.part(...frame.rect_px).turned(frame.orientation || 0).tinted(tint);
      });
    }

    /** A frame as a tile of a level: its whole cell, turned, within `width` x `height` px. */
    tile(place, turn, width, height, tint) {
      return this.once(`tile ${place} ${turn} ${width} ${height} ${tint || ""}`, () => {
        const frame = this.frames[place];
        const whole = new Picture(...frame.size_px);
        whole.copy(this.art(place), ...(frame.offset_px || [0, 0]));
        const turned = whole.turned(turn);
        return turned.part(0, 0, Math.min(turned.width, width), Math.min(turned.height, height)).tinted(tint);
      });
    }

    /** Draw a frame (its id or name) with its pivot at x, y. */
    drawFrame(target, frame, x, y, mirrored = false, opacity = 1) {
      this.drawThing(target, { mirrored }, this.place(frame), [x, y], [0, 0], null, opacity);
    }

    /** The place of the frame that an animation shows after so many ms. */
    frameAt(animation, ms) {
      const frames = animation.frames.filter((one) => this.places.has(one[0]));
      const order = frames.map((_one, n) => n);
      if (animation.play === "there-and-back") for (let n = frames.length - 2; n > 0; n--) order.push(n);
      const whole = order.reduce((sum, n) => sum + frames[n][1], 0);
      let last = frames[order[order.length - 1]][0];
      if (!(animation.play === "once" && ms >= whole)) {
        let left = modulo(ms, whole);
        for (const n of order) {
          left -= frames[n][1];
          if (left < 0) {
            last = frames[n][0];
            break;
          }
        }
      }
      return this.places.get(last);
    }

    /** An animation by its id or its name. */
    animation(name) {
      return this.animations.get(name) || [...this.animations.values()].find((a) => a.name === name);
    }

    /** Draw what an animation shows after so many ms, with its pivot at x, y. */
    drawAnimation(target, name, ms, x, y, mirrored = false, opacity = 1) {
      const place = this.frameAt(this.animation(name), ms);
      this.drawThing(target, { mirrored }, place, [x, y], [0, 0], null, opacity);
    }

    /** Draw what a camera sees of a level whose picture has its top left at left, top, level px.
     * `extra` {foot, draw} is somebody who is drawn among what stands, or before the layers in front. */
    drawLevel(target, name, left, top, ms = 0, extra = null) {
      const level = typeof name === "string" ? this.levels.get(name) : name;
      const middle = [left + target.width / 2, top + target.height / 2];
      const foot = level.order === "foot";
      const byFoot = [];
      const layers = level.layers.map((layer, number) => ({ layer, number }))
        .filter(({ layer }) => layer.shown !== false && (layer.opacity === undefined || layer.opacity > 0));
      const things = (number, layer, shift, each) => {
        for (const thing of level.things || []) {
          if (thing.layer !== number) continue;
          const [place, at] = this.shown(thing, ms);
          if (place === undefined) continue;
          const corner = [left - nearest(shift[0]), top - nearest(shift[1])];
          each(at, () => this.drawThing(target, thing, place, at, corner, layer.tint, layer.opacity));
        }
      };
      for (const { layer, number } of layers) {
        if (layer.front) continue;
        const shift = this.shift(level, layer, middle, ms);
        this.ground(target, level, layer, shift, [left, top], foot ? byFoot : null, number, ms);
        things(number, layer, shift, (at, draw) => (foot ? byFoot.push({ foot: at[1] + shift[1], number, draw }) : draw()));
      }
      if (extra) byFoot.push({ foot: extra.foot, number: layers.length, draw: extra.draw });
      byFoot.map((one, n) => ({ ...one, n })).sort((a, b) => a.foot - b.foot || a.number - b.number || a.n - b.n)
        .forEach((one) => one.draw());
      for (const { layer, number } of layers) {
        if (!layer.front) continue;
        const shift = this.shift(level, layer, middle, ms);
        this.ground(target, level, layer, shift, [left, top], null, number, ms);
        things(number, layer, shift, (_at, draw) => draw());
      }
    }

    /** How far a layer is moved when the picture's middle is there, level px. */
    shift(level, layer, middle, ms) {
      return [0, 1].map((n) => {
        let shift = (middle[n] - level.start_px[n]) * (1 - (layer.parallax || [1, 1])[n]) + (layer.offset_px || [0, 0])[n];
        if (layer.kind === "backdrop") shift += ((layer.drift_px_per_s || [0, 0])[n] * ms) / 1000 + (n ? layer.top_px || 0 : 0);
        return shift;
      });
    }

    /** The tiles, backdrop or picture of a layer; tiles that stand by their foot go to `byFoot`, if there is one. */
    ground(target, level, layer, shift, corner, byFoot, number, ms) {
      const opacity = layer.opacity === undefined ? 1 : layer.opacity;
      const x0 = nearest(shift[0]) - corner[0], y0 = nearest(shift[1]) - corner[1];
      if (layer.kind === "backdrop" || layer.kind === "picture") {
        this.backdrop(target, layer, x0, y0, opacity);
        return;
      }
      const [cw, ch] = level.cell_px;
      const [first, above, columns] = level.bounds_cells;
      const grid = this.grid(level, number);
      const low = Math.max(Math.floor(-x0 / cw) - first, 0), high = Math.min(Math.ceil((target.width - x0) / cw) - first, columns);
      const upper = Math.max(Math.floor(-y0 / ch) - above, 0), lower = Math.min(Math.ceil((target.height - y0) / ch) - above, grid.length);
      for (let row = upper; row < lower; row++)
        for (let column = low; column < high; column++) {
          const value = grid[row][column];
          if (value < 0) continue;
          const place = this.playing(value >> 3, ms);
          const x = (first + column) * cw, y = (above + row) * ch;
          const tile = this.tile(place, value & 7, cw, ch, layer.tint);
          const line = (this.frames[value >> 3].traits || {})[this.over];
          if (byFoot && line !== undefined) {
            const at = [nearest(x + shift[0]) - corner[0], nearest(y + shift[1]) - corner[1]];
            byFoot.push({ foot: y + shift[1] + ch - line, number, draw: () => target.put(tile, at[0], at[1], opacity) });
          } else target.put(tile, x + x0, y + y0, opacity);
        }
    }

    /** The frame that a tile shows: one that plays shows that of its animation, where `ms` is not null. */
    playing(place, ms) {
      if (ms === null || !this.tileAnimations) return place;
      const animation = this.tileAnimations.get(this.frames[place].id);
      return animation ? this.frameAt(animation, ms) : place;
    }

    /** Let tiles play from now on. */
    playTiles() {
      const tiles = [...this.animations.values()].filter((a) => a.tile && a.frames.length);
      this.tileAnimations = new Map(tiles.map((a) => [a.frames[0][0], a]));
    }

    /** The tiles of a layer, row by row: frame * 8 + orientation, -1 where it is empty. */
    grid(level, number) {
      const layer = level.layers[number];
      if (layer.cells) return layer.cells;
      return this.once(`grid ${level.id} ${number}`, () =>
        (layer.rows || []).map((runs) => {
          const row = [];
          for (const [count, place, turn] of runs) for (let n = 0; n < count; n++) row.push(place < 0 ? -1 : place * 8 + turn);
          return row;
        }));
    }

    backdrop(target, layer, x0, y0, opacity) {
      if (!layer.picture && (layer.frame === undefined || layer.frame === null)) return;
      const key = `backdrop ${layer.picture || layer.frame} ${layer.tint || ""} ${layer.stretch ? `${target.width} ${target.height}` : ""}`;
      const art = this.once(key, () => {
        const whole = layer.picture ? this.pictures[layer.picture] : this.tile(layer.frame, 0, 1 << 20, 1 << 20, null);
        return (layer.stretch ? stretched(whole, target.width, target.height) : whole).tinted(layer.tint);
      });
      const spots = (start, side, room, again) => {
        const made = [];
        for (let at = again ? modulo(start, side) - side : start; again ? at < room : !made.length; at += side) made.push(at);
        return made;
      };
      for (const y of spots(y0, art.height, target.height, layer.repeat_y))
        for (const x of spots(x0, art.width, target.width, layer.repeat)) target.put(art, x, y, opacity);
    }

    /** The place of the frame that a thing shows, and where its pivot stands. */
    shown(thing, ms) {
      let place = this.places.get(thing.shows), path = thing.path;
      if (place === undefined) {
        const animation = this.animations.get(thing.shows);
        if (!animation || !animation.frames.some((one) => this.places.has(one[0]))) return [undefined, null];
        place = this.frameAt(animation, ms);
        path = path || animation.path;
      }
      let [x, y] = thing.at_px;
      if (path) {
        const far = eased(path, ms);
        x += path.offset_px[0] * far;
        y += path.offset_px[1] * far;
      }
      return [place, [x, y]];
    }

    drawThing(target, thing, place, at, corner, tint, opacity = 1) {
      const frame = this.frames[place], [ox, oy] = frame.offset_px || [0, 0], pivot = frame.pivot_px;
      const turn = thing.turn_degrees || 0, scale = thing.scale || [1, 1], mirror = thing.mirrored ? -1 : 1;
      let art = this.art(place, thing.tint);
      if (tint) art = art.tinted(tint);
      if (turn % 360 === 0 && scale[0] === 1 && scale[1] === 1) {
        let left = at[0] - pivot[0] + ox;
        if (mirror < 0) {
          left = at[0] + pivot[0] - ox - art.width;
          art = art.turned(4);
        }
        target.put(art, nearest(left) - corner[0], nearest(at[1] - pivot[1] + oy) - corner[1], opacity);
        return;
      }
      const angle = (turn * Math.PI) / 180, cos = Math.cos(angle), sin = Math.sin(angle);
      const a = cos * scale[0] * mirror, b = -sin * scale[1], c = sin * scale[0] * mirror, d = cos * scale[1];
      const px = pivot[0] - ox, py = pivot[1] - oy;
      const e = at[0] - a * px - b * py, f = at[1] - c * px - d * py;
      const { width: w, height: h } = art;
      const xs = [e, a * w + e, a * w + b * h + e, b * h + e], ys = [f, c * w + f, c * w + d * h + f, d * h + f];
      const x0 = Math.floor(Math.min(...xs) + 1e-9), y0 = Math.floor(Math.min(...ys) + 1e-9);
      const wide = Math.max(Math.ceil(Math.max(...xs) - 1e-9) - x0, 1), high = Math.max(Math.ceil(Math.max(...ys) - 1e-9) - y0, 1);
      const out = new Picture(wide, high), share = a * d - b * c;
      for (let row = 0; row < high; row++)
        for (let column = 0; column < wide; column++) {
          const across = column + 0.5 + x0 - e, down = row + 0.5 + y0 - f;
          const u = Math.floor((d * across - b * down) / share + 1e-9), v = Math.floor((a * down - c * across) / share + 1e-9);
          if (u >= 0 && u < w && v >= 0 && v < h) out.words[row * wide + column] = art.words[v * w + u];
        }
      target.put(out, x0 - corner[0], y0 - corner[1], opacity);
    }
  }

  function stretched(art, width, height) {
    const out = new Picture(width, height);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        out.words[y * width + x] = art.words[Math.floor((y * art.height) / height) * art.width + Math.floor((x * art.width) / width)];
    return out;
  }

  /** A PNG of up to 8 bits a channel, without interlacing, every px as it was. */
  async function readPng(bytes) {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    let width = 0, height = 0, bits = 8, colour = 6, palette = [], clear = [];
    const packed = [];
    for (let at = 8; at < bytes.length; ) {
      const size = view.getUint32(at), kind = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
      const body = bytes.subarray(at + 8, at + 8 + size);
      if (kind === "IHDR") {
        [width, height, bits, colour] = [view.getUint32(at + 8), view.getUint32(at + 12), body[8], body[9]];
        if (bits > 8 || body[12]) throw new Error("PNGs of 16 bits and interlaced ones are not read here");
      } else if (kind === "PLTE") palette = body;
      else if (kind === "tRNS") clear = body;
      else if (kind === "IDAT") packed.push(body);
      at += 12 + size;
    }
    const stream = new Blob(packed).stream().pipeThrough(new DecompressionStream("deflate"));
    const data = new Uint8Array(await new Response(stream).arrayBuffer());
    const channels = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 }[colour];
    const wide = (width * channels * bits + 7) >> 3, step = Math.max((channels * bits) >> 3, 1);
    const out = new Picture(width, height);
    let above = new Uint8Array(wide);
    for (let y = 0; y < height; y++) {
      const filter = data[y * (wide + 1)], row = data.slice(y * (wide + 1) + 1, (y + 1) * (wide + 1));
      for (let x = 0; filter && x < wide; x++) {
        const left = x >= step ? row[x - step] : 0, up = above[x], corner = x >= step ? above[x - step] : 0;
        if (filter === 1) row[x] += left;
        else if (filter === 2) row[x] += up;
        else if (filter === 3) row[x] += (left + up) >> 1;
        else {
          const a = Math.abs(up - corner), b = Math.abs(left - corner), c = Math.abs(left + up - 2 * corner);
          row[x] += a <= b && a <= c ? left : b <= c ? up : corner;
        }
      }
      above = row;
      for (let x = 0; x < width; x++) {
        const i = (y * width + x) * 4;
        if (colour === 3 || (colour === 0 && bits < 8)) {
          const value = bits === 8 ? row[x] : (row[(x * bits) >> 3] >> (8 - bits - ((x * bits) & 7))) & ((1 << bits) - 1);
          if (colour === 3) {
            out.data.set(palette.subarray(value * 3, value * 3 + 3), i);
            out.data[i + 3] = value < clear.length ? clear[value] : 255;
          } else out.data.fill((value * 255) / ((1 << bits) - 1), i, i + 3).fill(255, i + 3, i + 4);
        } else if (colour === 0 || colour === 4) {
          out.data.fill(row[x * channels], i, i + 3);
          out.data[i + 3] = colour === 4 ? row[x * 2 + 1] : 255;
        } else {
          for (let n = 0; n < 3; n++) out.data[i + n] = row[x * channels + n];
          out.data[i + 3] = colour === 6 ? row[x * 4 + 3] : 255;
        }
      }
    }
    return out;
  }

  /** A picture in bytes: PNG read here, any other by the browser, which may change half-clear px a little. */
  async function pictureFrom(bytes) {
    if (bytes[0] === 0x89 && bytes[1] === 0x50) return readPng(bytes);
    const image = await createImageBitmap(new Blob([bytes]), { premultiplyAlpha: "none", colorSpaceConversion: "none" });
    const canvas = document.createElement("canvas");
    canvas.width = image.width;
    canvas.height = image.height;
    const pen = canvas.getContext("2d", { willReadFrequently: true });
    pen.drawImage(image, 0, 0);
    return new Picture(image.width, image.height, pen.getImageData(0, 0, image.width, image.height).data);
  }

  /** Read a shipment in a browser, from a folder's address that ends on a slash. */
  async function load(home) {
    const manifest = await (await fetch(home + "manifest.json")).json();
    const levels = {}, pictures = {};
    for (const part of manifest.levels || []) levels[part.file] = await (await fetch(home + part.file)).json();
    const shown = Object.values(levels).flatMap((level) => level.layers.map((layer) => layer.picture)).filter(Boolean);
    for (const file of [...manifest.pages.map((page) => page.file), ...shown])
      pictures[file] = await pictureFrom(new Uint8Array(await (await fetch(home + file)).arrayBuffer()));
    return new Shipment(manifest, pictures, levels);
  }

  const exported = { Picture, Shipment, load, pictureFrom, readPng, nearest, eased };
  if (typeof module !== "undefined" && module.exports) module.exports = exported;
  else root.RushweedReader = exported;
})(typeof globalThis !== "undefined" ? globalThis : this);
