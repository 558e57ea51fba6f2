// What parts of a face do on a frame: the same arithmetic as tinfork.core.acting, on what the server sends of it.

import { smooth } from "./easing.js";

/** @typedef {[number, number, number, number, number, number]} Matrix a b c d e f, as SVG has them
 * @typedef {{dials: Record<string, number>, drawing: string | null, alone: boolean}} Pose
 * @typedef {{name: string, x: number, y: number, on: string, rest: string, drawings: string[], role: string}} Part
 * @typedef {{frame: number, frames: number, kind: string, line: number, amount: number, seen: number, accepted: boolean, dials: Record<string, [number, number][]>, shown: [number, number, string][]}} Gesture
 */

const HOLD = 2;
const STRAIGHT = 1;
/** @type {Matrix} */
const PLAIN = [1, 0, 0, 1, 0, 0];

// The number of entries of an ordered list that come no later than a frame.
function upTo(frames, frame) {
  let [low, high] = [0, frames.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (frames[middle] <= frame) low = middle + 1;
    else high = middle;
  }
  return low;
}

function between(frames, values, eases, frame) {
  if (!frames.length) return 0;
  const before = Math.max(0, upTo(frames, frame) - 1);
  const after = Math.min(before + 1, frames.length - 1);
  if (after === before || eases[before] === HOLD) return values[before];
  const share = Math.min(1, Math.max(0, (frame - frames[before]) / (frames[after] - frames[before])));
  return values[before] + (eases[before] === STRAIGHT ? share : smooth(share)) * (values[after] - values[before]);
}

// One part's lane, of maps as the server sends them; a patch changes some of their entries.
export class ActedLane {
  // amountOf(line): how much is seen of the gestures of a phrase.
  constructor(maps, amountOf = (_line) => 1) {
    this.amountOf = amountOf;
    this.maps = { keys: {}, shows: {}, gestures: {}, of: { lead: 0, alone: false }, ...maps };
    this.#order();
  }

  // Entries of maps that are others now; null for those that are gone.
  apply(patch) {
    const put = (into, from) => {
      for (const [key, value] of Object.entries(from)) {
        if (value === null) delete into[key];
        else if (typeof value === "object" && !Array.isArray(value) && !("frame" in value) && into[key]) put(into[key], value);
        else into[key] = value;
      }
    };
    put(this.maps, patch);
    this.#order();
  }

  // How much is seen of gestures is another now.
  anew() {
    this.#order();
  }

  // The maps are those of the lane before its lead; from here on all is where it is seen.
  #order() {
    const { keys, shows, gestures, of } = this.maps;
    const { lead } = of;
    const byFrame = (one, other) => one - other;
    this.keys = {};
    for (const [dial, own] of Object.entries(keys)) {
      const there = Object.keys(own).map(Number).sort(byFrame);
      if (there.length) this.keys[dial] = { frames: there.map((f) => f - lead), values: there.map((f) => own[f][0]), eases: there.map((f) => own[f][1]) };
    }
    this.shows = Object.entries(shows)
      .map(([frame, [frames, drawing]]) => ({ frame: Number(frame) - lead, frames, drawing }))
      .sort((one, other) => one.frame - other.frame);
    this.firsts = this.shows.map((one) => one.frame);
    /** @type {(Gesture & {id: number})[]} */
    this.gestures = Object.entries(gestures)
      .map(([id, one]) => ({ id: Number(id), ...one, frame: one.frame - lead, seen: one.amount * this.amountOf(one.line) }))
      .sort((one, other) => one.frame - other.frame || one.id - other.id);
    this.found = new Map();
    this.begins = this.gestures.map((one) => one.frame);
    this.longest = Math.max(0, ...this.gestures.map((one) => one.frames));
    this.dials = [...new Set([...Object.keys(this.keys), ...this.gestures.flatMap((one) => Object.keys(one.dials))])];
  }

  get empty() {
    return !this.dials.length && !this.shows.length && !this.gestures.length;
  }

  // The gestures that may be seen on some frames.
  near(first, end = first + 1) {
    return this.gestures.slice(upTo(this.begins, first - this.longest), upTo(this.begins, end - 1)).filter((one) => one.frame + one.frames > first);
  }

  // Where the keys alone have a dial.
  keyed(dial, frame) {
    const own = this.keys[dial];
    return own ? between(own.frames, own.values, own.eases, frame) : 0;
  }

  value(dial, frame, gestures = this.near(frame)) {
    let found = this.keyed(dial, frame);
    for (const one of gestures) {
      const points = one.dials[dial];
      const at = frame - one.frame;
      if (!points || at < points[0][0] || at > points.at(-1)[0]) continue;
      const frames = points.map((point) => point[0]);
      const values = points.map((point) => point[1]);
      found += one.seen * between(frames, values, frames.map(() => 0), at);
    }
    return found;
  }

  // Where a dial is on every frame of a scene; found once, until the lane is changed.
  dense(dial, frames) {
    const known = this.found.get(dial);
    if (known?.length === frames) return known;
    const found = new Float32Array(frames);
    const own = this.keys[dial];
    if (own) for (let frame = 0; frame < frames; frame++) found[frame] = between(own.frames, own.values, own.eases, frame);
    for (const one of this.gestures) {
      const points = one.dials[dial];
      if (!points) continue;
      for (let i = 0; i + 1 < points.length; i++) {
        const [[from, before], [to, after]] = [points[i], points[i + 1]];
        const last = i + 2 === points.length;
        for (let at = from; at < to || (last && at === to); at++) {
          const frame = one.frame + at;
          if (frame >= 0 && frame < frames) found[frame] += one.seen * (before + smooth((at - from) / (to - from)) * (after - before));
        }
      }
    }
    this.found.set(dial, found);
    return found;
  }

  // What is shown on a frame; null for the part's rest.
  drawing(frame, gestures = this.near(frame)) {
    const own = this.shows[upTo(this.firsts, frame) - 1];
    if (own && frame < own.frame + own.frames) return own.drawing;
    let found = null;
    for (const one of gestures) {
      if (one.seen <= 0) continue;
      for (const [at, frames, drawing] of one.shown) {
        if (frame >= one.frame + at && frame < one.frame + at + frames) found = drawing;
      }
    }
    return found;
  }

  /** @returns {Pose} */
  pose(frame) {
    const gestures = this.near(frame);
    const dials = {};
    for (const dial of this.dials) dials[dial] = this.value(dial, frame, gestures);
    return { dials, drawing: this.drawing(frame, gestures), alone: this.maps.of.alone };
  }

  // What is shown between two frames, in runs: [first, end, drawing, whether it was set].
  runs(first, end) {
    const found = [];
    for (const one of this.near(first, end)) {
      if (one.seen > 0) for (const [at, frames, drawing] of one.shown) found.push([one.frame + at, one.frame + at + frames, drawing, one.accepted, false]);
    }
    for (const one of this.shows) {
      if (one.frame < end && one.frame + one.frames > first) found.push([one.frame, one.frame + one.frames, one.drawing, true, true]);
    }
    return found;
  }
}

/** @param {any[]} rows
 * @returns {Part[]} */
export const partsOf = (rows) => rows.map(([name, x, y, on, rest, drawings, role]) => ({ name, x, y, on, rest, drawings, role }));

/** @param {Matrix} one
 * @param {Matrix} other
 * @returns {Matrix} the other first, then the one */
export function times([a, b, c, d, e, f], [g, h, i, j, k, m]) {
  return [a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f];
}

/** @param {Part} part
 * @param {Record<string, number>} dials
 * @returns {Matrix} */
export function matrixOf(part, dials) {
  if (!Object.values(dials).some(Boolean)) return PLAIN;
  const { x = 0, y = 0, turn = 0, size = 0, stretch = 0, bend = 0 } = dials;
  const [cos, sin] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  const tall = 1 + stretch;
  /** @type {Matrix} */
  const moved = [cos, sin, -sin, cos, part.x + x, part.y + y];
  const leant = times(times(moved, [1, 0, -bend, 1, 0, 0]), [(1 + size) / tall, 0, 0, (1 + size) * tall, 0, 0]);
  return times(leant, [1, 0, 0, 1, -part.x, -part.y]);
}

/** @param {Part[]} parts
 * @param {Record<string, Pose>} poses
 * @returns {Record<string, Matrix>} where each part is drawn, with all that it hangs on */
export function matrices(parts, poses) {
  const known = new Map(parts.map((part) => [part.name, part]));
  const carried = {};
  const found = {};
  const place = (part) => {
    const pose = poses[part.name];
    const above = known.get(part.on);
    if (above && !carried[above.name]) place(above);
    const under = above ? carried[above.name] : PLAIN;
    found[part.name] = carried[part.name] = times(under, matrixOf(part, pose?.dials ?? {}));
    if (pose?.alone && pose.dials.stretch) carried[part.name] = times(under, matrixOf(part, { ...pose.dials, stretch: 0 }));
  };
  for (const part of parts) if (!found[part.name]) place(part);
  return found;
}

// All lanes of one character, by part.
export class Acted {
  /** @type {{amount: number, rate: number, seed: number, eyes_first: number}} */
  wish = { amount: 1, rate: 16, seed: 1, eyes_first: 3 };
  /** @type {Record<string, {note?: string, amount?: number, locked?: boolean}>} */
  phrases = {};

  /** @type {number} */
  characterId = 0;

  constructor(document) {
    this.take(document);
  }

  take(document) {
    Object.assign(this, document);
    this.#made(document.lanes);
  }

  // What the server says an edit changed.
  apply(document) {
    const { lanes, whole, ...head } = document;
    const before = this.#amounts();
    Object.assign(this, head);
    if (whole) this.#made(whole);
    else if (before !== this.#amounts()) for (const lane of Object.values(this.lanes)) lane.anew();
    for (const [part, patch] of Object.entries(lanes)) {
      this.lanes[part] ??= new ActedLane({}, (line) => this.amountOf(line));
      this.lanes[part].apply(patch);
    }
  }

  #made(lanes) {
    this.lanes = Object.fromEntries(Object.entries(lanes).map(([part, maps]) => [part, new ActedLane(maps, (line) => this.amountOf(line))]));
  }

  // How much is seen of the gestures of a phrase.
  amountOf(line) {
    return this.wish.amount * (this.phrases[line]?.amount ?? 1);
  }

  #amounts() {
    return JSON.stringify([this.wish.amount, Object.entries(this.phrases).map(([line, { amount }]) => [line, amount])]);
  }

  lane(part) {
    return this.lanes[part] ?? new ActedLane({});
  }

  /** @returns {Record<string, Pose>} what each part does on a frame */
  poses(frame) {
    return Object.fromEntries(Object.entries(this.lanes).map(([part, lane]) => [part, lane.pose(frame)]));
  }
}

// The acting of a scene, for pages that only show it: nobody acts until it was asked for, or where it cannot be had.
export class ActingShown {
  /** @type {Acted[]} */
  all = [];
  #versions = "";

  // changed(): it is there, or another than it was.
  constructor(url, changed) {
    this.url = url;
    this.changed = changed;
  }

  // What the parts of a character's face do on a frame.
  poses(character, frame) {
    return this.all.find((one) => one.characterId === character)?.poses(frame) ?? {};
  }

  async look() {
    try {
      const { actings } = await (await fetch(this.url)).json();
      this.all = actings.map((one) => new Acted(one));
    } catch (failed) {
      console.debug(failed);
      this.all = [];
    }
    this.changed();
  }

  // versions: those the scene's documents have now; where any acting has another than it had, it is asked for again.
  async compare(versions) {
    const now = JSON.stringify(Object.entries(versions).filter(([area]) => area.startsWith("acting ")).sort());
    if (this.#versions && this.#versions !== now) await this.look();
    this.#versions = now;
  }
}

// What begins on each row of a sheet, in words, as tinfork.core.shot.action has it.
export function actionRows(actings, step) {
  const found = new Map();
  const several = actings.length > 1;
  for (const acted of actings) {
    const put = (frame, text) => {
      const row = Math.max(0, Math.floor(frame / step));
      const own = several ? `${acted.character}: ${text}` : text;
      const there = found.get(row) ?? [];
      if (!there.includes(own)) found.set(row, [...there, own]);
    };
    for (const [line, first] of acted.lines) if (acted.phrases[line]?.note) put(first, `“${acted.phrases[line].note}”`);
    for (const frames of Object.values(acted.moments ?? {})) for (const frame of frames) put(frame, "key moment");
    for (const [part, lane] of Object.entries(acted.lanes)) {
      for (const one of lane.gestures) if (one.seen) put(one.frame, ["blink", "brows"].includes(one.kind) ? one.kind : `${part} ${one.kind}`);
      for (const one of lane.shows) put(one.frame, `${part}: ${one.drawing || "nothing"}`);
      for (const frame of new Set(Object.values(lane.keys).flatMap((own) => own.frames))) put(frame, `${part} key`);
    }
  }
  return new Map([...found].map(([row, texts]) => [row, texts.join(", ")]));
}
