// What one part of a face does on a frame: the same arithmetic as tinfork.core.acting, on what the server sends of it.
import { smooth } from "./easing.ts";

// drawing: null for the part's rest
export interface Pose {
  dials: Record<string, number>;
  drawing: string | null;
  alone: boolean;
}
export type Poses = Record<string, Pose>;

// Time, for what of a face moves: the frame, and what a part shows on one, null for its rest.
export interface Moment {
  frame: number;
  drawing(part: string, frame: number): string | null;
}

interface GestureBody {
  frame: number;
  frames: number;
  kind: string;
  line: number;
  amount: number;
  accepted: boolean;
  dials: Record<string, [number, number][]>;
  shown: [number, number, string][];
}

// A gesture as it is seen: seen is how much of it.
export interface Gesture extends GestureBody {
  id: number;
  seen: number;
}

// Of each dial by frame its value and ease; drawings set, by first frame; gestures by number.
export interface LaneMaps {
  keys: Record<string, Record<string, [number, number]>>;
  shows: Record<string, [number, string]>;
  gestures: Record<string, GestureBody>;
  of: { lead: number; alone: boolean };
}

interface Keys {
  frames: number[];
  values: number[];
  eases: number[];
}

// Entries of maps that are others now; null for those that are gone.
export type Patch = { [key: string]: unknown };

const HOLD = 2;
const STRAIGHT = 1;

// The number of entries of an ordered list that come no later than a frame.
function upTo(frames: readonly number[], frame: number): number {
  let [low, high] = [0, frames.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (frames[middle] <= frame) low = middle + 1;
    else high = middle;
  }
  return low;
}

function between({ frames, values, eases }: Keys, frame: number): number {
  if (!frames.length) return 0;
  const before = Math.max(0, upTo(frames, frame) - 1);
  const after = Math.min(before + 1, frames.length - 1);
  if (after === before || eases[before] === HOLD) return values[before];
  const share = Math.min(1, Math.max(0, (frame - frames[before]) / (frames[after] - frames[before])));
  return values[before] + (eases[before] === STRAIGHT ? share : smooth(share)) * (values[after] - values[before]);
}

const keysOf = (points: readonly [number, number][]): Keys => ({
  frames: points.map(([frame]) => frame),
  values: points.map(([, value]) => value),
  eases: points.map(() => 0),
});

const isMap = (value: unknown): value is Patch => typeof value === "object" && value !== null && !Array.isArray(value) && !("frame" in value);

// Entries that are others now, put into nested maps.
function put(into: Patch, from: Patch): void {
  for (const [key, value] of Object.entries(from)) {
    if (value === null) delete into[key];
    else if (isMap(value) && into[key]) put(into[key] as Patch, value);
    else into[key] = value;
  }
}

const nothing = (): LaneMaps => ({ keys: {}, shows: {}, gestures: {}, of: { lead: 0, alone: false } });

// One part's lane, of maps as the server sends them; a patch changes some of their entries. amountOf(line): how much is
// seen of the gestures of a phrase.
export class ActedLane {
  maps: LaneMaps;
  keys: Record<string, Keys> = {};
  shows: { frame: number; frames: number; drawing: string }[] = [];
  gestures: Gesture[] = [];
  dials: string[] = [];
  readonly amountOf: (line: number) => number;
  #firsts: number[] = [];
  #begins: number[] = [];
  #longest = 0;
  #dense = new Map<string, Float32Array>();

  constructor(maps: Partial<LaneMaps> = {}, amountOf: (line: number) => number = () => 1) {
    this.amountOf = amountOf;
    this.maps = { ...nothing(), ...maps };
    this.#order();
  }

  apply(patch: Patch): void {
    put(this.maps as unknown as Patch, patch);
    this.#order();
  }

  // How much is seen of gestures is another now.
  anew(): void {
    this.#order();
  }

  // The maps are those of the lane before its lead; from here on all is where it is seen.
  #order() {
    const { keys, shows, gestures, of } = this.maps;
    const { lead } = of;
    this.keys = {};
    for (const [dial, own] of Object.entries(keys)) {
      const there = Object.keys(own).map(Number).sort((one, other) => one - other);
      if (there.length) this.keys[dial] = { frames: there.map((f) => f - lead), values: there.map((f) => own[f][0]), eases: there.map((f) => own[f][1]) };
    }
    this.shows = Object.entries(shows)
      .map(([frame, [frames, drawing]]) => ({ frame: Number(frame) - lead, frames, drawing }))
      .sort((one, other) => one.frame - other.frame);
    this.#firsts = this.shows.map((one) => one.frame);
    this.gestures = Object.entries(gestures)
      .map(([id, one]) => ({ id: Number(id), ...one, frame: one.frame - lead, seen: one.amount * this.amountOf(one.line) }))
      .sort((one, other) => one.frame - other.frame || one.id - other.id);
    this.#dense = new Map();
    this.#begins = this.gestures.map((one) => one.frame);
    this.#longest = Math.max(0, ...this.gestures.map((one) => one.frames));
    this.dials = [...new Set([...Object.keys(this.keys), ...this.gestures.flatMap((one) => Object.keys(one.dials))])];
  }

  get empty(): boolean {
    return !this.dials.length && !this.shows.length && !this.gestures.length;
  }

  // The gestures that may be seen on some frames.
  near(first: number, end = first + 1): Gesture[] {
    return this.gestures.slice(upTo(this.#begins, first - this.#longest), upTo(this.#begins, end - 1)).filter((one) => one.frame + one.frames > first);
  }

  // Where the keys alone have a dial.
  keyed(dial: string, frame: number): number {
    const own = this.keys[dial];
    return own ? between(own, frame) : 0;
  }

  value(dial: string, frame: number, gestures = this.near(frame)): number {
    let found = this.keyed(dial, frame);
    for (const one of gestures) {
      const points = one.dials[dial];
      const at = frame - one.frame;
      const last = points?.at(-1);
      if (!last || at < points[0][0] || at > last[0]) continue;
      found += one.seen * between(keysOf(points), at);
    }
    return found;
  }

  // Where a dial is on every frame of a scene; found once, until the lane is changed.
  dense(dial: string, frames: number): Float32Array {
    const known = this.#dense.get(dial);
    if (known?.length === frames) return known;
    const found = new Float32Array(frames);
    const own = this.keys[dial];
    if (own) for (let frame = 0; frame < frames; frame++) found[frame] = between(own, frame);
    for (const one of this.gestures) if (one.dials[dial]) addGesture(found, one, one.dials[dial]);
    this.#dense.set(dial, found);
    return found;
  }

  // What is shown on a frame; null for the part's rest.
  drawing(frame: number, gestures = this.near(frame)): string | null {
    const own = this.shows[upTo(this.#firsts, frame) - 1];
    if (own && frame < own.frame + own.frames) return own.drawing;
    let found: string | null = null;
    for (const one of gestures) {
      if (one.seen <= 0) continue;
      for (const [at, frames, drawing] of one.shown) {
        if (frame >= one.frame + at && frame < one.frame + at + frames) found = drawing;
      }
    }
    return found;
  }

  pose(frame: number): Pose {
    const gestures = this.near(frame);
    const dials = Object.fromEntries(this.dials.map((dial) => [dial, this.value(dial, frame, gestures)]));
    return { dials, drawing: this.drawing(frame, gestures), alone: this.maps.of.alone };
  }

  // What is shown between two frames, in runs; settled: accepted, or set; set: by a person.
  runs(first: number, end: number): { first: number; end: number; drawing: string; settled: boolean; set: boolean }[] {
    const found = [];
    for (const one of this.near(first, end)) {
      if (one.seen > 0) for (const [at, frames, drawing] of one.shown) found.push({ first: one.frame + at, end: one.frame + at + frames, drawing, settled: one.accepted, set: false });
    }
    for (const { frame, frames, drawing } of this.shows) {
      if (frame < end && frame + frames > first) found.push({ first: frame, end: frame + frames, drawing, settled: true, set: true });
    }
    return found;
  }
}

// What a gesture adds to a dial on every frame.
function addGesture(found: Float32Array, { frame: begins, seen }: Gesture, points: readonly [number, number][]): void {
  for (let i = 0; i + 1 < points.length; i++) {
    const [[from, before], [to, after]] = [points[i], points[i + 1]];
    const last = i + 2 === points.length;
    for (let at = from; at < to || (last && at === to); at++) {
      const frame = begins + at;
      if (frame >= 0 && frame < found.length) found[frame] += seen * (before + smooth((at - from) / (to - from)) * (after - before));
    }
  }
}
