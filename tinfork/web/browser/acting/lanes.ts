// Drawing the Acting view: ruler, the voice with its pitch and loudness, words, mouth, and a lane for each part.
import type { Part } from "../lib/face/matrices.ts";
import type { ActedLane } from "../lib/store/actedlane.ts";
import { fpsOf } from "../lib/store/clock.ts";
import { placeAt } from "../lib/store/exposures.ts";
import { fitTall, inks, MONO, TEXT } from "../lib/time/canvas.ts";
import { clipWave, type Drawing, drawingOf, inAndOut, RULER, ruler } from "../lib/time/ruler.ts";
import type { ActingState, Melody } from "./state.ts";

const VOICE = 76;
const WORDS = 22;
const MOUTH = 24;
const HEAD = RULER + VOICE + WORDS + MOUTH;
const LEAST = 34;
const NAME = 96;
const SCALES: Record<string, number> = { x: 12, y: 14, turn: 10, size: 0.3, stretch: 0.15, bend: 0.3, facing: 45 };
const CROWDED = 1; // pixels of a frame, under which only what stands out is drawn
const HIGHEST = 44; // semitones over 50 Hz

// How far a value of a dial reaches to the edge of its lane.
export const scaleOf = (dial: string): number => SCALES[dial];
export const signOf = (dial: string): number => (dial === "y" ? -1 : 1);

export const laneHeight = (canvas: HTMLCanvasElement, count: number): number => Math.max(LEAST, Math.floor(((canvas.parentElement?.clientHeight ?? 0) - HEAD - 6) / Math.max(1, count)));
export const topOf = (place: number, height: number): number => HEAD + place * height;
export const placeAtY = (y: number, height: number): number => Math.floor((y - HEAD) / height);

// Frames in sight beside what every drawing of time has.
interface Drawn extends Drawing<ActingState> {
  first: number;
  end: number;
}

export function drawLanes(canvas: HTMLCanvasElement, view: ActingState): void {
  const high = laneHeight(canvas, view.parts.length);
  const fitted = fitTall(canvas, HEAD + high * view.parts.length + 4);
  const draw: Drawn = { ...drawingOf(fitted, inks(), view), first: Math.max(0, Math.floor(view.left)), end: Math.ceil(view.left + fitted.width / view.perFrame) };
  ruler(draw);
  phraseGround(draw);
  voice(draw);
  spoken(draw);
  mouths(draw);
  view.parts.forEach((part, place) => {
    lane(draw, part, topOf(place, high), high);
  });
  marks(draw);
  const places = { left: view.left, perFrame: view.perFrame, lanes: HEAD, laneHeight: high, ribbon: HEAD - MOUTH / 2 };
  for (const [name, place] of Object.entries(places)) canvas.dataset[name] = String(place);
}

// The phrases: a band under all lanes, ruled where it is locked, and their key moments.
function phraseGround({ context, ink, view, x, height, first, end }: Drawn) {
  for (const [line, from, to] of view.acted.lines) {
    if (to < first || from > end) continue;
    const own = view.acted.phrases[line];
    context.fillStyle = ink.sheet;
    context.fillRect(x(from), RULER, (to - from) * view.perFrame, height - RULER);
    if (own?.locked) {
      context.fillStyle = ink["tin-deep"];
      context.fillRect(x(from), RULER, (to - from) * view.perFrame, 3);
    }
    context.fillStyle = ink.beet;
    for (const at of view.acted.moments?.[line] ?? []) {
      context.beginPath();
      context.moveTo(x(at) - 5, RULER);
      context.lineTo(x(at) + 5, RULER);
      context.lineTo(x(at), RULER + 8);
      context.fill();
    }
  }
}

function voice(draw: Drawn) {
  const { ink, view } = draw;
  const fps = fpsOf(view.rate);
  for (const clip of view.stave.clips) clipWave(draw, clip, { y: RULER + 2, height: VOICE - 4 }, fps, ink["verdigris-pale"]);
  if (view.melody) melodyOf(draw, view.melody);
}

// How loud and how high the voice is.
function melodyOf({ context, ink, view, x, first, end }: Drawn, melody: Melody) {
  const step = Math.max(1, Math.round(1 / view.perFrame));
  const at = (frame: number, list: readonly number[]) => list[frame - melody.first] ?? 0;
  const bottom = RULER + VOICE - 3;
  context.strokeStyle = ink["tin-deep"];
  context.lineWidth = 1;
  context.beginPath();
  for (let frame = first; frame < end; frame += step) context.lineTo(x(frame + 0.5), bottom - (at(frame, melody.loudness) / 100) * (VOICE - 8));
  context.stroke();
  context.strokeStyle = ink.copper;
  context.lineWidth = 2;
  context.beginPath();
  let on = false;
  for (let frame = first; frame < end; frame += step) {
    const pitch = at(frame, melody.pitch);
    if (pitch) context[on ? "lineTo" : "moveTo"](x(frame + 0.5), bottom - (Math.min(HIGHEST, pitch) / HIGHEST) * (VOICE - 10));
    on = Boolean(pitch);
  }
  context.stroke();
}

function spoken({ context, ink, view, x, width }: Drawn) {
  const fps = fpsOf(view.rate);
  context.font = `13px ${TEXT}`;
  context.fillStyle = ink.ink;
  context.textAlign = "left";
  const top = RULER + VOICE;
  let free = 0;
  for (const line of view.stave.lines) {
    if (x(line.end * fps) < 0 || x(line.start * fps) > width) continue;
    for (const word of line.words) {
      const left = x(word.start * fps);
      if (!word.said || left < free || left > width) continue;
      const wide = (word.end - word.start) * fps * view.perFrame;
      if (wide < 5) continue;
      const need = context.measureText(word.text).width;
      if (need > wide + 12) continue;
      context.fillText(word.text, Math.max(left, 0), top + 15);
      free = left + need + 4;
    }
  }
}

// The mouth as a ribbon: as high as the jaw is open.
function mouths({ context, ink, view, x, first, end }: Drawn) {
  const { exposures } = view.stave;
  const middle = RULER + VOICE + WORDS + MOUTH / 2;
  context.fillStyle = ink.verdigris;
  let drawn = -1;
  for (let i = Math.max(0, placeAt(exposures, first)); i < exposures.length && exposures[i].frame < end; i += 1) {
    const { frame, frames, drawing } = exposures[i];
    if (Math.round(x(frame + frames)) === drawn) continue;
    drawn = Math.round(x(frame + frames));
    const half = 0.7 + (view.jaws.get(drawing) ?? 0) * (MOUTH / 2 - 2);
    context.fillRect(x(frame), middle - half, Math.max(1, frames * view.perFrame - 0.5), 2 * half);
  }
}

function lane(draw: Drawn, part: Part, top: number, high: number) {
  const { context, ink, view, width } = draw;
  const own = part.name === view.part;
  context.fillStyle = own ? ink["verdigris-pale"] : ink.tin;
  context.fillRect(0, top, own ? 4 : width, own ? high : 1);
  const acted = view.acted.lane(part.name);
  if (own) {
    context.fillStyle = ink.copper;
    context.fillRect(0, top, width, 1);
    context.fillRect(0, top + high - 1, width, 1);
  }
  const labels = [...runs(draw, part, acted, top, high), ...gestures(draw, part, acted, top, high)];
  const shown = own ? [...acted.dials.filter((dial) => dial !== view.dial), view.dial] : acted.dials;
  for (const dial of shown) curve(draw, acted, dial, top, high, own && dial === view.dial);
  if (own) keys(draw, acted, top, high);
  context.font = `12px ${TEXT}`;
  for (const [text, left, base] of labels) label(draw, text, left, base, ink["tin-deep"]);
  context.font = `600 12px ${TEXT}`;
  label(draw, own ? `${part.name} · ${view.dial}` : part.name, 10, top + 15, own ? ink.ink : ink["tin-deep"]);
}

// What is written in a lane, from its left and on its base line.
type Label = [text: string, left: number, base: number];

// A text on a ground of its own, so that no curve goes through it.
function label({ context, ink }: Drawn, text: string, left: number, base: number, colour: string) {
  context.fillStyle = ink.paper;
  context.fillRect(left - 2, base - 11, context.measureText(text).width + 4, 14);
  context.fillStyle = colour;
  context.fillText(text, left, base);
}

export const yOf = (value: number, dial: string, top: number, high: number): number => top + high / 2 - signOf(dial) * Math.max(-1, Math.min(1, value / SCALES[dial])) * (high / 2 - 5);

// A dial as one line, a point for each pixel or each frame, whichever is fewer.
function curve({ context, ink, view, x, first, end, width }: Drawn, acted: ActedLane, dial: string, top: number, high: number, chosen: boolean) {
  context.strokeStyle = chosen ? ink.ink : ink["tin-deep"];
  context.lineWidth = chosen ? 1.75 : 1;
  context.globalAlpha = chosen ? 1 : 0.7;
  context.beginPath();
  const step = Math.max(1, Math.ceil(1 / view.perFrame));
  const dense = acted.dense(dial, view.frames);
  let flat: number | null = null;
  for (let frame = first; frame < end + step; frame += step) {
    const value = dense[Math.min(frame, view.frames - 1)] ?? 0;
    // What stays the same needs no points.
    const next = dense[Math.min(frame + step, view.frames - 1)] ?? 0;
    if (flat === value && next === value && frame + step < end) continue;
    flat = value;
    context.lineTo(Math.min(width, x(frame + 0.5)), yOf(value, dial, top, high));
  }
  context.stroke();
  context.globalAlpha = 1;
}

function keys({ context, ink, view, x, first, end }: Drawn, acted: ActedLane, top: number, high: number) {
  const own = acted.keys[view.dial];
  if (!own || view.perFrame < CROWDED) return;
  own.frames.forEach((frame, i) => {
    if (frame < first - 1 || frame > end) return;
    const chosen = view.chosen?.kind === "key" && view.chosen.frame === frame;
    const [left, down] = [x(frame + 0.5), yOf(acted.dense(view.dial, view.frames)[frame] ?? own.values[i], view.dial, top, high)];
    context.fillStyle = chosen ? ink.copper : ink.ink;
    context.beginPath();
    context.moveTo(left - 5, down);
    context.lineTo(left, down - 5);
    context.lineTo(left + 5, down);
    context.lineTo(left, down + 5);
    context.fill();
  });
}

// Drawings: whole where a person set them, hollow where a gesture shows them.
function runs({ context, ink, view, x, first, end }: Drawn, part: Part, acted: ActedLane, top: number, high: number): Label[] {
  const labels: Label[] = [];
  if (!part.drawings.length) return labels;
  const low = top + high - 13;
  context.lineWidth = 1;
  context.font = `12px ${TEXT}`;
  context.strokeStyle = ink.verdigris;
  const hollow = new Path2D();
  const whole = new Path2D();
  for (const { first: from, end: to, drawing, settled } of acted.runs(first, end)) {
    const wide = Math.max(1, (to - from) * view.perFrame - 1);
    (settled ? whole : hollow).rect(x(from), low, wide, 9);
    const name = drawing || "nothing";
    if (wide > 16 && view.perFrame > 5 && context.measureText(name).width < wide + 4) labels.push([name, x(from) + 2, low - 3]);
    if (view.chosen?.kind === "show" && view.chosen.part === part.name && from <= view.chosen.frame && view.chosen.frame < to) {
      context.fillStyle = ink.copper;
      context.fillRect(x(from), low + 10, wide, 2);
    }
  }
  context.fillStyle = ink.verdigris;
  context.fill(whole);
  context.stroke(hollow);
  return labels;
}

// Gestures: a bracket over what each of them moves, broken while it is only proposed.
function gestures({ context, ink, view, x, first, end }: Drawn, part: Part, acted: ActedLane, top: number, high: number): Label[] {
  const labels: Label[] = [];
  const solid = new Path2D();
  const broken = new Path2D();
  const crowded = view.perFrame < CROWDED;
  const levels: number[] = [];
  let free = 0;
  for (const one of acted.near(first, end)) {
    const [left, right] = [x(one.frame + 0.5), x(one.frame + one.frames - 0.5)];
    const path = one.accepted ? solid : broken;
    if (crowded) path.rect(left, top + 2, Math.max(1, right - left), 1);
    else {
      // Those that lie over each other have their brackets one under the other.
      let level = levels.findIndex((until) => until < left);
      if (level < 0) level = levels.length;
      levels[level] = right;
      const high_ = top + 3 + Math.min(level, 2) * 4;
      path.moveTo(left, high_ + 4);
      path.lineTo(left, high_);
      path.lineTo(right, high_);
      path.lineTo(right, high_ + 4);
    }
    if (view.chosen?.kind === "gesture" && view.chosen.part === part.name && view.chosen.id === one.id) {
      context.fillStyle = ink.copper;
      context.globalAlpha = 0.18;
      context.fillRect(left, top + 2, Math.max(3, right - left), high - 4);
      context.globalAlpha = 1;
    }
    if (!crowded && right - left > 34 && left > Math.max(NAME - 20, free)) {
      labels.push([one.kind, left + 3, top + 18]);
      free = left + 34;
    }
  }
  context.strokeStyle = ink.verdigris;
  context.lineWidth = 1.5;
  context.stroke(solid);
  context.setLineDash([3, 3]);
  context.stroke(broken);
  context.setLineDash([]);
  return labels;
}

function marks(draw: Drawn) {
  const { context, view, x, height } = draw;
  inAndOut(draw, RULER, 1, height);
  const at = x(view.time * fpsOf(view.rate));
  context.fillRect(Math.round(at), 0, 2, height);
  context.font = `12px ${MONO}`;
  const { drag } = view;
  if (drag?.told) context.fillText(drag.told, at + 6, RULER + 12);
}
