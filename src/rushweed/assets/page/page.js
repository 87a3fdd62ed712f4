const { Picture, Shipment, readPng, eased } = RushweedReader;
const WIDE = 320, HIGH = 180; // px of the game's picture
const LETTERS = { l: LEFT, r: RIGHT, u: UP, d: DOWN, j: JUMP };
const KEY_OF = {
  ArrowLeft: "l", KeyA: "l", ArrowRight: "r", KeyD: "r", ArrowUp: "u", KeyW: "u", ArrowDown: "d", KeyS: "d", Space: "j",
};
const UNIT = 256; // places are told in 1/256 px
const ROOM = 4096; // edges near a body at most
const DEEP = 8; // cells below the level from which one is put back
const SLOW = 2000, LANDING_MS = 120;
const INSTEAD = {
  landing: ["standing"], rising: ["falling", "running", "standing"], falling: ["rising", "running", "standing"],
  climbing: ["rising", "standing"], running: ["standing"], standing: ["running"],
};

function halfEven(value) {
  const low = Math.floor(value), rest = value - low;
  return rest > 0.5 || (rest === 0.5 && low % 2 !== 0) ? low + 1 : low;
}

function commonDivisor(a, b) {
  while (b) [a, b] = [b, a % b];
  return Math.abs(a);
}

/** An edge as the mover meets it, from its ends in 1/65536 px. */
function rowOf(x0, y0, x1, y1, side, friction, bounce, owner) {
  const faces = (x1 > x0 ? 1 : 0) + (y1 > y0 ? 2 : 0);
  if (x0 > x1 || (x0 === x1 && y0 > y1)) [x0, y0, x1, y1] = [x1, y1, x0, y0];
  const dx = x1 - x0, dy = y1 - y0, common = Math.max(commonDivisor(dx, dy), 1);
  const p = dy / common, q = dx / common, whole = Math.max(p * p + q * q, 1);
  const row = new Float64Array(EDGE_COLUMNS);
  row.set([x0, y0, x1, y1, side, friction, bounce, owner, p, q]);
  row[EDGE_COS2] = shareOf(q * q, SUB, whole);
  row[EDGE_COSSIN] = Math.sign(p) * shareOf(Math.abs(p) * q, SUB, whole);
  row[EDGE_FACES] = faces;
  return row;
}

function rowsOf(told, owner) {
  const rows = [];
  for (let n = 0; n < told.length; n += 7) {
    const [x0, y0, x1, y1, side, friction, bounce] = told.slice(n, n + 7);
    rows.push(rowOf(x0 * UNIT, y0 * UNIT, x1 * UNIT, y1 * UNIT, side, friction, bounce, owner));
  }
  return rows;
}

/** Edges by square buckets, as near_edges asks for them. */
function bucketsOf(edges, cell) {
  const side = cell * 4 * SUB;
  if (!edges.length) return { edges, offsets: [0, 0], items: [], buckets: [side, 0, 0, 1, 1] };
  const spans = edges.map((e) => [
    Math.floor(e[0] / side), Math.floor(Math.min(e[1], e[3]) / side), Math.floor(e[2] / side), Math.floor(Math.max(e[1], e[3]) / side),
  ]);
  const left = Math.min(...spans.map((s) => s[0])), top = Math.min(...spans.map((s) => s[1]));
  const wide = Math.max(...spans.map((s) => s[2])) - left + 1, deep = Math.max(...spans.map((s) => s[3])) - top + 1;
  const filled = Array.from({ length: wide * deep }, () => []);
  spans.forEach((s, n) => {
    for (let y = s[1]; y <= s[3]; y++) for (let x = s[0]; x <= s[2]; x++) filled[(y - top) * wide + x - left].push(n);
  });
  const offsets = [0], items = [];
  for (const bucket of filled) {
    items.push(...bucket);
    offsets.push(items.length);
  }
  return { edges, offsets, items, buckets: [side, left, top, wide, deep] };
}

/** How far something on a path is from where it starts, 1/65536 px, after so many steps. */
function displaced(path, steps) {
  if (!path) return [0, 0];
  const far = eased(path, (steps * 1000) / STEPS);
  return path.offset_px.map((way) => halfEven(way * far * UNIT) * (SUB / UNIT));
}

function shifted(rows, dx, dy) {
  return rows.map((row) => {
    const out = row.slice();
    out[EDGE_X0] += dx;
    out[EDGE_X1] += dx;
    out[EDGE_Y0] += dy;
    out[EDGE_Y1] += dy;
    return out;
  });
}

/** The place of the frame that a tile shows after so many ms. */
function frameOf({ play, ms }, after) {
  const order = ms.map((_one, n) => n);
  if (play === "there-and-back") for (let n = ms.length - 2; n > 0; n--) order.push(n);
  const whole = order.reduce((sum, n) => sum + ms[n], 0);
  if (play === "once" && after >= whole) return order[order.length - 1];
  let left = after % whole;
  for (const n of order) {
    left -= ms[n];
    if (left < 0) return n;
  }
  return order[order.length - 1];
}

/** Whether a stretch has points within an open box. */
function crosses(row, box) {
  let start = 0, end = 1;
  for (const [from, along, low, high] of [[row[0], row[2] - row[0], box[0], box[2]], [row[1], row[3] - row[1], box[1], box[3]]]) {
    if (along === 0) {
      if (from <= low || from >= high) return false;
      continue;
    }
    const one = (low - from) / along, two = (high - from) / along;
    start = Math.max(start, Math.min(one, two));
    end = Math.min(end, Math.max(one, two));
  }
  return start < end;
}

/** Something that is pushed. Alone it slides upright; in a walk that was kept it goes as it went then. */
class Pushed {
  constructor(told, owner) {
    Object.assign(this, told);
    this.owner = owner;
    this.turn = 0;
    const left = Math.min(...told.rings.flatMap((r) => r.points.map((p) => p[0])));
    const right = Math.max(...told.rings.flatMap((r) => r.points.map((p) => p[0])));
    const top = Math.min(...told.rings.flatMap((r) => r.points.map((p) => p[1])));
    const bottom = Math.max(...told.rings.flatMap((r) => r.points.map((p) => p[1])));
    this.box = { middle: ((left + right) / 2) * SUB, foot: bottom * SUB };
    this.numbers = new Float64Array(NUMBERS);
    this.numbers[P_WIDE] = Math.round((right - left) * SUB);
    this.numbers[P_HIGH] = Math.round((bottom - top) * SUB);
    this.state = standing([0, 0]);
    this.state[MODE] = AIR;
    this.place(halfEven(told.at[0] * UNIT) * UNIT, halfEven(told.at[1] * UNIT) * UNIT);
  }

  place(x, y) {
    this.x = x;
    this.y = y;
    this.state[X] = x + Math.round(this.box.middle);
    this.state[Y] = y + Math.round(this.box.foot);
  }

  /** What the walker meets of it. */
  edges() {
    const cos = Math.cos(this.turn), sin = Math.sin(this.turn), made = [];
    for (const ring of this.rings) {
      const at = ring.points.map(([x, y]) => [
        halfEven((x * cos - y * sin + this.x / SUB) * UNIT) * (SUB / UNIT), halfEven((x * sin + y * cos + this.y / SUB) * UNIT) * (SUB / UNIT),
      ]);
      at.forEach(([x0, y0], n) => {
        const [x1, y1] = at[(n + 1) % at.length];
        const dx = x1 - x0, dy = y1 - y0;
        const faces = [true, dx > 0, dy > 0, dx < 0, dy < 0][ring.side];
        if ((dx || dy) && faces) made.push(rowOf(x0, y0, x1, y1, ring.side, ring.friction, ring.bounce, this.owner));
      });
    }
    return made;
  }

  /** A step of its own: pushed by `way` of the walker, slowed by the ground, falling. */
  advance(walk, way) {
    const { state, numbers } = this, unit = (walk.ppu * SUB) / (STEPS * STEPS);
    const pull = Math.round((walk.strength * unit) / this.weight), slow = Math.round(12 * unit);
    state[VX] = way && way[0] ? toward(state[VX], way[0] * walk.numbers[P_RUN], pull) : toward(state[VX], 0, slow);
    if (walk.top) state[VY] = way && way[1] ? toward(state[VY], way[1] * walk.numbers[P_RUN], pull) : toward(state[VY], 0, slow);
    else state[VY] += Math.round(40 * unit);
    const far = Math.abs(state[VX]) + SUB, deep = Math.abs(state[VY]) + SUB, half = numbers[P_WIDE] / 2;
    const count = walk.near([state[X] - half - far, state[Y] - numbers[P_HIGH] - deep, state[X] + half + far, state[Y] + deep]);
    const before = [state[X], state[Y]];
    const [stuck] = across(state, numbers, walk.ground.near, count, state[VX], this.owner);
    if (stuck > 0) state[VX] = 0;
    const [left, ground] = along(state, numbers, walk.ground.near, count, state[VY], [0, this.owner]);
    if (left > 0) state[VY] = 0;
    if (!walk.top) {
      state[MODE] = ground >= 0 && left > 0 ? GROUND : AIR;
      state[OWNER] = state[MODE] === GROUND ? walk.ground.near[ground][EDGE_OWNER] : -1;
    }
    return this.moved(before);
  }

  /** Take its place from its box; how far it came. */
  moved(before) {
    const by = [this.state[X] - before[0], this.state[Y] - before[1]];
    this.x += by[0];
    this.y += by[1];
    return by;
  }
}

function standing(feet) {
  const state = new Float64Array(STATE_SIZE);
  state[X] = state[SAFE_X] = halfEven(feet[0] * UNIT) * (SUB / UNIT);
  state[Y] = state[SAFE_Y] = halfEven(feet[1] * UNIT) * (SUB / UNIT);
  state[OWNER] = -1;
  state[FACING] = 1;
  state[LANDED] = STEPS;
  return state;
}

/** One walker in a level. */
class Walk {
  constructor(level, told, start, track) {
    this.level = level;
    this.numbers = Float64Array.from(told.numbers);
    this.ppu = level.walker.px_per_unit;
    this.strength = level.walker.strength_units_per_s2;
    this.top = level.view !== "side";
    this.world = told.world || (told.world = bucketsOf(rowsOf(told.edges, -1), Math.max(...level.cell_px)));
    this.ground = {
      grid: this.world, climbs: told.climbs, box: new Float64Array(4),
      near: Array.from({ length: ROOM }, () => new Float64Array(EDGE_COLUMNS)),
    };
    this.movers = told.movers.map((one, owner) => ({ path: one.path, edges: rowsOf(one.edges, owner) }));
    this.pushed = told.pushed.map((one, n) => new Pushed(one, this.movers.length + n));
    this.playing = (told.playing || []).map((one) => ({ ...one, rows: one.edges.map((edges) => rowsOf(edges, -1)) }));
    this.playingEdges = [];
    this.shown = null;
    this.track = track || null;
    this.trackAt = 0;
    this.start = start;
    this.state = standing(start);
    this.step = 0;
    this.falls = 0;
    this.safe = [[this.state[SAFE_X], this.state[SAFE_Y]]]; // where he stood safely after each step
    this.movedMovers = this.movers.flatMap((m) => shifted(m.edges, ...displaced(m.path, 0)));
    this.bodyEdges = this.pushed.flatMap((one) => one.edges());
    this.play(0);
  }

  get feet() {
    return [this.state[X] / SUB, this.state[Y] / SUB];
  }

  get moving() {
    return [...this.movedMovers, ...this.bodyEdges, ...this.playingEdges];
  }

  near(box) {
    return near_edges(this.ground.grid, this.moving, box, this.ground.near);
  }

  carried(state, numbers, owner, dx, dy) {
    return carry(state, numbers, this.ground, this.moving, owner, [dx, dy]);
  }

  /** One step with these keys held. */
  advance(keys) {
    const push = this.leans();
    let crushed = false;
    this.movers.forEach((mover, owner) => {
      const [x0, y0] = displaced(mover.path, this.step), [x1, y1] = displaced(mover.path, this.step + 1);
      const dx = x1 - x0, dy = y1 - y0;
      if ((!dx && !dy) || !mover.edges.length) return;
      crushed = this.carried(this.state, this.numbers, owner, dx, dy) || crushed;
      if (!this.track)
        for (const one of this.pushed) {
          const before = [one.state[X], one.state[Y]];
          this.carried(one.state, one.numbers, owner, dx, dy);
          one.moved(before);
        }
      this.movedMovers = this.movedMovers.map((row) => (row[EDGE_OWNER] === owner ? shifted([row], dx, dy)[0] : row));
    });
    this.pushAll(push);
    crushed = this.play(this.step + 1) || crushed;
    step(this.state, keys, this.numbers, this.ground, this.moving);
    this.step += 1;
    if (crushed || this.isOut()) this.putBack();
    if (this.playing.length) {
      this.safe.push([this.state[SAFE_X], this.state[SAFE_Y]]);
      if (this.safe.length > 60 * STEPS + 1) this.safe.shift();
    }
  }

  pushAll(push) {
    if (!this.pushed.length) return;
    const before = this.pushed.map((one) => [one.x, one.y, one.turn]);
    if (this.track) {
      for (; this.trackAt < this.track.length && this.track[this.trackAt][0] <= this.step + 1; this.trackAt++) {
        const [, n, x, y, turn] = this.track[this.trackAt];
        this.pushed[n].place(x * UNIT, y * UNIT);
        this.pushed[n].turn = turn / 1e6;
      }
    } else this.pushed.forEach((one, n) => one.advance(this, push && push.body === n ? push.way : null));
    let changed = false;
    this.pushed.forEach((one, n) => {
      const dx = one.x - before[n][0], dy = one.y - before[n][1];
      if (dx || dy) this.carried(this.state, this.numbers, one.owner, dx, dy);
      if (dx || dy || one.turn !== before[n][2]) {
        changed = true;
        this.bodyEdges = [...this.bodyEdges.filter((row) => row[EDGE_OWNER] !== one.owner), ...(one.turn === before[n][2] && !this.track
          ? shifted(this.bodyEdges.filter((row) => row[EDGE_OWNER] === one.owner), dx, dy) : one.edges())];
      }
    });
    if (changed) settle(this.state, this.numbers, this.ground, this.moving);
  }

  /** Meet the tiles that play as they are after a step; whether one has closed on him. */
  play(after) {
    if (!this.playing.length) return false;
    const half = this.numbers[P_WIDE] / 2, { state } = this, wide = Math.max(...this.level.cell_px) * SUB;
    const box = [state[X] - half, state[Y] - this.numbers[P_HIGH], state[X] + half, state[Y]];
    const frames = this.playing.map((one) => frameOf(one, (after * 1000) / STEPS)).join();
    const now = `${frames} ${Math.floor(box[0] / wide)} ${Math.floor(box[1] / wide)}`;
    if (this.shown && now === this.shown[1]) return false;
    const closes = this.shown && frames !== this.shown[0], far = 8 * wide;
    this.shown = [frames, now];
    this.playingEdges = this.playing.flatMap((one) => one.rows[frameOf(one, (after * 1000) / STEPS)].filter((row) =>
      row[EDGE_X1] >= box[0] - far && row[EDGE_X0] <= box[2] + far && Math.max(row[EDGE_Y0], row[EDGE_Y1]) >= box[1] - far &&
      Math.min(row[EDGE_Y0], row[EDGE_Y1]) <= box[3] + far));
    return Boolean(closes) && this.playingEdges.some((row) => row[EDGE_SIDE] === SOLID && crosses(row, box));
  }

  /** The pushed thing that he leans on, and which way. */
  leans() {
    const body = Math.floor(this.state[PUSHES] / 4) - 1 - this.movers.length;
    return body >= 0 ? { body, way: [[1, 0], [-1, 0], [0, 1], [0, -1]][this.state[PUSHES] % 4] } : null;
  }

  isOut() {
    const [left, top, columns, rows] = this.level.bounds_cells, [cw, ch] = this.level.cell_px, [x, y] = this.feet;
    return y > (top + rows) * ch + DEEP * ch || x < left * cw - 64 * cw || x > (left + columns) * cw + 64 * cw;
  }

  /** The last place where he stood safely and which no tile that plays fills now; else the start. */
  safePlace() {
    const now = [this.state[SAFE_X], this.state[SAFE_Y]];
    if (!this.playing.length) return now;
    const rows = this.playing.flatMap((one) => one.rows[frameOf(one, (this.step * 1000) / STEPS)]).filter((row) => row[EDGE_SIDE] === SOLID);
    const half = this.numbers[P_WIDE] / 2, high = this.numbers[P_HIGH];
    for (const [x, y] of [now, ...this.safe.slice().reverse()])
      if (!rows.some((row) => crosses(row, [x - half, y - high, x + half, y]))) return [x, y];
    const start = standing(this.start);
    return [start[X], start[Y]];
  }

  putBack() {
    const fresh = standing([0, 0]);
    [fresh[X], fresh[Y]] = this.safePlace();
    [fresh[SAFE_X], fresh[SAFE_Y]] = [fresh[X], fresh[Y]];
    fresh[KEYS] = this.state[KEYS];
    fresh[FACING] = this.state[FACING];
    this.state = fresh;
    this.falls += 1;
  }
}

/** Where the picture looks: after the walker with a dead zone, ahead of him, never out of his room. */
class Camera {
  constructor(level) {
    this.level = level;
    this.room = undefined;
  }

  /** The room he is in, or the level: its box in px, how its camera goes, and its name. */
  bounds(feet) {
    const [cw, ch] = this.level.cell_px, x = feet[0] / cw, y = (feet[1] - 1) / ch;
    const inside = (this.level.rooms || []).filter(({ area_cells: a }) => a[0] <= x && x < a[0] + a[2] && a[1] <= y && y < a[1] + a[3]);
    inside.sort((a, b) => a.area_cells[2] * a.area_cells[3] - b.area_cells[2] * b.area_cells[3]);
    const room = inside[0], area = room ? room.area_cells : this.level.bounds_cells;
    return { box: [area[0] * cw, area[1] * ch, (area[0] + area[2]) * cw, (area[1] + area[3]) * ch],
             goes: room ? room.camera || "follows" : "follows", name: room ? room.name : "" };
  }

  follow(feet, high, facing, steps) {
    const { box, goes, name } = this.bounds(feet);
    if (name !== this.room) {
      [this.x, this.y, this.ahead, this.room] = [feet[0], feet[1] - high / 2, 0, name];
    } else
      for (let n = 0; n < Math.min(steps, STEPS); n++) {
        this.ahead += (facing * 24 - this.ahead) / 24;
        const x = feet[0] + this.ahead, y = feet[1] - high / 2, wide = WIDE / 8, tall = HIGH / 5;
        this.x += (Math.min(Math.max(this.x, x - wide), x + wide) - this.x) / 6;
        this.y += (Math.min(Math.max(this.y, y - tall), y + tall) - this.y) / 6;
      }
    if (goes === "still" || goes === "down") this.x = (box[0] + box[2]) / 2;
    if (goes === "still" || goes === "across") this.y = (box[1] + box[3]) / 2;
    const within = (middle, side, low, top) => (top - low <= side ? (low + top) / 2 : Math.min(Math.max(middle, low + side / 2), top - side / 2));
    this.x = within(this.x, WIDE, box[0], box[2]);
    this.y = within(this.y, HIGH, box[1], box[3]);
    return [Math.round(this.x - WIDE / 2), Math.round(this.y - HIGH / 2)];
  }
}

/** The level on the screen, walked in. */
class Game {
  constructor(shipment, worlds, canvas, told) {
    Object.assign(this, { shipment, worlds, canvas, told });
    this.screen = new Picture(WIDE, HIGH);
    this.held = new Set();
    this.paused = false;
  }

  open(level, run) {
    this.level = level;
    this.world = this.worlds[level.id];
    this.run = run || null;
    this.replay = run ? keysOf(run) : null;
    this.walk = this.world ? new Walk(level, this.world, run ? run.start_px : level.start_px, run ? this.world.tracks[run.id] : null) : null;
    this.camera = new Camera(level);
    this.since = ["", 0];
    this.look = level.start_px.slice();
    this.drawn = 0;
    this.due = 0;
    this.ended = false; // a walk that was kept has come to its end: he stands there until a key is pressed
    this.draw(0);
  }

  keys() {
    if (this.replay) return this.replay[this.walk.step] || 0;
    return [...this.held].reduce((sum, letter) => sum | LETTERS[letter], 0);
  }

  /** So many steps on. */
  advance(steps) {
    for (let n = 0; n < steps; n++) {
      if (!this.walk) {
        for (const [letter, x, y] of [["l", -1, 0], ["r", 1, 0], ["u", 0, -1], ["d", 0, 1]])
          if (this.held.has(letter)) this.look = [this.look[0] + x, this.look[1] + y];
        continue;
      }
      if (this.replay && this.walk.step >= this.run.steps) {
        this.finished();
        break;
      }
      this.walk.advance(this.keys());
    }
  }

  finished() {
    const [x, y] = this.walk.feet, end = this.run.end_px, [cw, ch] = this.level.cell_px;
    const there = !end || (Math.abs(x - end[0]) <= cw / 2 && Math.abs(y - end[1]) <= ch / 2);
    this.told(`${this.run.name}: ${there ? "arrived" : "did not arrive"} at ${x.toFixed(1)}, ${y.toFixed(1)} px after ${(this.run.steps / STEPS).toFixed(1)} s. Any key walks on.`);
    this.replay = null;
    this.ended = true;
  }

  moment() {
    const { state, top } = this.walk;
    if (state[MODE] === CLIMB) return "climbing";
    if (state[MODE] === AIR && !top) return state[VY] < 0 ? "rising" : "falling";
    if (Math.abs(state[VX]) > SLOW || (top && Math.abs(state[VY]) > SLOW)) return "running";
    return !top && state[LANDED] * 1000 < LANDING_MS * STEPS ? "landing" : "standing";
  }

  /** Draw the walker with his feet where he is; `corner` is the picture's top left. */
  figure(corner) {
    const walk = this.walk, shown = this.level.walker.shown || {}, [bx, by, wide, high] = this.level.walker.body_px;
    let moment = this.moment();
    if (moment === "landing" && !shown.landing) moment = "standing";
    if (moment !== this.since[0] || walk.step < this.since[1]) this.since = [moment, walk.step];
    const name = [moment, ...INSTEAD[moment]].find((one) => shown[one] && this.shipment.animation(shown[one]));
    const mirrored = walk.state[FACING] < 0, [x, y] = walk.feet;
    if (!name) {
      const box = new Picture(wide, high);
      box.words.fill(0xff2b51b4);
      this.screen.put(box, Math.floor(x - wide / 2 + 0.5) - corner[0], Math.floor(y - high + 0.5) - corner[1]);
      return;
    }
    const ms = moment === "climbing" ? Math.abs(y) * 12 : ((walk.step - this.since[1]) * 1000) / STEPS;
    const place = this.shipment.frameAt(this.shipment.animation(shown[name]), ms);
    this.shipment.drawThing(this.screen, { mirrored }, place, [x - bx - wide / 2, y - by - high], corner, null, 1);
  }

  draw(steps) {
    const walk = this.walk, ms = (walk ? walk.step : this.drawn) * 1000 / STEPS;
    const feet = walk ? walk.feet : this.look, high = walk ? this.level.walker.body_px[3] : 0;
    const corner = this.camera.follow(feet, high, walk ? walk.state[FACING] : 0, steps);
    this.drawn += steps;
    const things = (this.level.things || []).map((thing) => {
      const one = walk && walk.pushed.find((body) => body.thing === thing.id);
      if (!one) return thing;
      return { ...thing, at_px: [one.x / SUB, one.y / SUB], turn_degrees: (thing.turn_degrees || 0) + (one.turn * 180) / Math.PI };
    });
    this.screen.clear();
    const extra = walk ? { foot: feet[1], draw: () => this.figure(corner) } : null;
    this.shipment.drawLevel(this.screen, { ...this.level, things }, corner[0], corner[1], ms, extra);
    this.screen.toCanvas(this.canvas);
    this.corner = corner;
  }

  /** A frame of the browser: as many steps as the time that has passed asks for. */
  frame(now) {
    const passed = Math.min(now - (this.last === undefined ? now : this.last), 200);
    this.last = now;
    if (!this.paused && !this.ended) {
      this.due += (passed * STEPS) / 1000;
      const steps = Math.floor(this.due);
      this.due -= steps;
      if (steps > 0) {
        const falls = this.walk ? this.walk.falls : 0;
        this.advance(steps);
        this.draw(steps);
        if (this.walk && this.walk.falls > falls) this.told("Fell, and was put back.");
      }
    }
    requestAnimationFrame((later) => this.frame(later));
  }
}

function keysOf(run) {
  const changes = new Map(run.keys || []), made = [];
  let held = 0;
  for (let n = 0; n < run.steps; n++) {
    if (changes.has(n)) held = [...new Set(changes.get(n))].reduce((sum, letter) => sum | LETTERS[letter], 0);
    made.push(held);
  }
  return made;
}

function make(kind, text, into) {
  const made = document.createElement(kind);
  if (text) made.textContent = text;
  into.append(made);
  return made;
}

async function begin() {
  const data = JSON.parse(document.getElementById("data").textContent);
  const byId = (name) => document.getElementById(name), pictures = {};
  for (const [file, text] of Object.entries(data.pictures))
    pictures[file] = await readPng(Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0)));
  const shipment = new Shipment(data.manifest, pictures, data.levels);
  shipment.playTiles();
  const canvas = byId("screen"), told = (text) => (byId("told").textContent = text);
  const game = new Game(shipment, data.worlds, canvas, told);
  byId("name").textContent = data.manifest.project;

  const fit = () => {
    const scale = Math.max(1, Math.floor(Math.min((innerWidth - 32) / WIDE, (innerHeight - 150) / HIGH)));
    canvas.style.width = `${WIDE * scale}px`;
    canvas.style.height = `${HIGH * scale}px`;
  };
  addEventListener("resize", fit);
  fit();

  const help = matchMedia("(pointer: coarse)").matches
    ? "The arrows below walk and jump." : "Arrows or WASD walk, Space jumps, R begins anew.";
  const tabs = new Map();
  const open = (level, run) => {
    game.open(level, run);
    for (const [id, tab] of tabs) tab.setAttribute("aria-pressed", String(id === level.id));
    const why = data.whys[level.id];
    told(run ? `Replaying ${run.name} ...` : why || help);
    byId("runs").replaceChildren();
    byId("walks").hidden = !(level.runs || []).length || !game.world;
    for (const one of level.runs || []) {
      const button = make("button", `${one.name}, ${(one.steps / STEPS).toFixed(1)} s`, byId("runs"));
      button.onclick = () => {
        open(level, one);
        canvas.focus();
      };
    }
    canvas.focus();
  };
  for (const part of data.manifest.levels || []) {
    const level = data.levels[part.file], tab = make("button", part.name, byId("levels"));
    tabs.set(level.id, tab);
    tab.onclick = () => open(level);
  }

  const wake = () => {
    if (game.replay) game.replay = null;
    if (game.ended) told("");
    game.ended = false;
    game.last = undefined;
  };
  addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || (event.target.tagName === "BUTTON" && event.code === "Space")) return;
    if (event.code === "KeyR") open(game.level);
    const letter = KEY_OF[event.code];
    if (!letter) return;
    event.preventDefault();
    if (!event.repeat) {
      wake();
      game.held.add(letter);
    }
  });
  addEventListener("keyup", (event) => game.held.delete(KEY_OF[event.code]));
  addEventListener("blur", () => game.held.clear());
  for (const button of document.querySelectorAll("#keys button")) {
    const letter = button.dataset.key;
    button.addEventListener("pointerdown", (event) => {
      event.preventDefault();
      wake();
      game.held.add(letter);
    });
    for (const end of ["pointerup", "pointercancel", "pointerleave"]) button.addEventListener(end, () => game.held.delete(letter));
    button.addEventListener("contextmenu", (event) => event.preventDefault());
  }

  animations(shipment, byId("animations"), byId("moving"));
  for (const credit of data.manifest.credits || []) {
    const line = make("li", credit.title || credit.sheet, byId("credits"));
    line.append(`${credit.author ? ` by ${credit.author}` : ""}, ${credit.licence || "licence not stated"}`);
    for (const more of [credit.link, credit.attribution, credit.changes && `changes: ${credit.changes}`]) if (more) line.append(`; ${more}`);
  }
  const first = (data.manifest.levels || [])[0];
  if (first) {
    open(data.levels[first.file]);
    requestAnimationFrame((now) => game.frame(now));
  } else byId("stage").hidden = true;
  window.rushweed = game;
}

/** Every animation in a small picture of its own, playing while it is seen. */
function animations(shipment, into, section) {
  const shown = [...shipment.animations.values()].filter((a) => a.frames.some((one) => shipment.places.has(one[0])));
  section.hidden = !shown.length;
  const playing = shown.map((animation) => {
    const boxes = animation.frames.filter((one) => shipment.places.has(one[0])).map((one) => {
      const frame = shipment.frames[shipment.places.get(one[0])], [ox, oy] = frame.shift_px || [0, 0];
      return [ox - frame.pivot_px[0], oy - frame.pivot_px[1], ox - frame.pivot_px[0] + frame.size_px[0], oy - frame.pivot_px[1] + frame.size_px[1]];
    });
    const left = Math.floor(Math.min(...boxes.map((b) => b[0]))), top = Math.floor(Math.min(...boxes.map((b) => b[1])));
    const picture = new Picture(Math.ceil(Math.max(...boxes.map((b) => b[2]))) - left, Math.ceil(Math.max(...boxes.map((b) => b[3]))) - top);
    const figure = make("figure", "", into), canvas = make("canvas", "", figure);
    make("figcaption", animation.name, figure);
    const scale = Math.max(1, Math.floor(64 / Math.max(picture.width, picture.height)));
    canvas.style.width = `${picture.width * scale}px`;
    canvas.style.height = `${picture.height * scale}px`;
    return { animation, picture, canvas, left, top, place: -1 };
  });
  const play = (now) => {
    for (const one of playing) {
      const place = shipment.frameAt(one.animation, one.animation.play === "once" ? now % 4000 : now);
      if (place === one.place) continue;
      one.place = place;
      one.picture.clear();
      shipment.drawThing(one.picture, {}, place, [-one.left, -one.top], [0, 0], null, 1);
      one.picture.toCanvas(one.canvas);
    }
    requestAnimationFrame(play);
  };
  if (playing.length) requestAnimationFrame(play);
}

begin().catch((error) => {
  document.getElementById("told").textContent = `The page could not begin: ${error.message}`;
  throw error;
});
