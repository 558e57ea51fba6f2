// What a verb would change, as frames: outlined before it is done, asked of the server, and told after. Pure.
import type { Exposure, Span } from "../types.ts";
import { endOf, seenOn, shownAt } from "./exposures.ts";

// "pick": another drawing; "chosen": what is chosen, else the exposure at the playhead; "here": that one; "tap": a hold
// from the playhead on; "paste": what was copied, from the playhead on; "range": in to out; "fill": what is laid there;
// "repeat": behind what is repeated.
export type Aim = "pick" | "chosen" | "here" | "tap" | "paste" | "range" | "fill" | "repeat" | "earlier" | "later" | "hold on";

// frames: of the scene; hold: how long a drawing is laid by ear; copied, times: how many frames were copied, how often
// something is repeated; filling: whether the next drawing fills in to out.
export interface Situation {
  exposures: readonly Exposure[];
  chosen: readonly number[];
  frame: number;
  frames: number;
  range: Span | null;
  hold: number;
  playing?: boolean;
  filling?: boolean;
  copied?: number;
  times?: number;
}

const spanOf = (one: Exposure): Span => [one.frame, endOf(one)];

// Frames from one on, as far as the scene has them.
const from = ({ frames }: Situation, first: number, count: number): Span[] => (count > 0 && first < frames ? [[first, Math.min(frames, first + count)]] : []);

const chosenIn = ({ exposures, chosen }: Situation): Span[] => seenOn(exposures, chosen).map(spanOf);

function hereIn({ exposures, frame }: Situation): Span[] {
  const here = shownAt(exposures, frame);
  return here ? [spanOf(here)] : [];
}

const meantIn = (now: Situation): Span[] => (now.chosen.length ? chosenIn(now) : hereIn(now));

// What is repeated: what is chosen, from its first to its last; or in to out.
export function repeated(now: Situation): Span | null {
  const own = chosenIn(now);
  return own.length ? [own[0][0], own[own.length - 1][1]] : now.range;
}

// Until the next that is pinned, as far as it is held there at the most.
function heldOn(now: Situation): Span[] {
  const [own] = meantIn(now).slice(-1);
  if (!own) return [];
  const next = now.exposures.find((one) => one.frame >= own[1] && one.pinned);
  return [[own[0], next?.frame ?? now.frames]];
}

// Spans that are laid, with what they leave too little of: a bit of what was decided that is shorter than a hold, and
// than it was, is free again (tinfork.core.exposure.verbs.lay).
export function withBits({ exposures, hold }: Situation, spans: readonly Span[]): Span[] {
  const freed = (at: number, side: "before" | "after") => {
    const own = exposures.find((one) => one.frame < at && at < endOf(one));
    if (!own?.pinned) return at;
    const left = side === "before" ? at - own.frame : endOf(own) - at;
    if (left >= Math.min(hold, own.frames)) return at;
    return side === "before" ? own.frame : endOf(own);
  };
  const begins = (frame: number) => spans.some(([first]) => first === frame);
  const ends = (frame: number) => spans.some(([, end]) => end === frame);
  return spans.map(([first, end]) => [ends(first) ? first : freed(first, "before"), begins(end) ? end : freed(end, "after")]);
}

const tapped = (now: Situation): Span[] => from(now, Math.min(now.frame, now.frames - 1), now.hold);

// The frames a drawing is laid on by ear; null where there is no room.
export const tapOf = (now: Situation): Span | null => tapped(now).at(0) ?? null;

const filled = (now: Situation): Span[] => withBits(now, now.range ? [now.range] : []);

function picked(now: Situation): Span[] {
  if (now.filling) return filled(now);
  if (now.playing) return withBits(now, tapped(now));
  return meantIn(now);
}

// What slides so many frames later, negative earlier: where it was and where it comes to lie.
export const slidBy = (by: number, now: Situation): Span[] => meantIn(now).map(([first, end]) => [Math.max(0, first + Math.min(by, 0)), Math.min(now.frames, end + Math.max(by, 0))]);

const AIMS: Record<Aim, (now: Situation) => Span[]> = {
  pick: picked,
  chosen: meantIn,
  here: hereIn,
  tap: (now) => withBits(now, tapped(now)),
  paste: (now) => withBits(now, from(now, now.frame, now.copied ?? 0)),
  fill: filled,
  range: ({ range }) => (range ? [range] : []),
  repeat: (now) => {
    const own = repeated(now);
    return own ? withBits(now, from(now, own[1], (own[1] - own[0]) * (now.times ?? 1))) : [];
  },
  earlier: (now) => slidBy(-1, now),
  later: (now) => slidBy(1, now),
  "hold on": heldOn,
};

export const aimOf = (what: Aim, now: Situation): Span[] => AIMS[what](now);

// What was changed, in words, and how much of it is not in view. startFrame: the number of the scene's first frame.
export function toldOf(spans: readonly Span[], startFrame: number, view: Span): string {
  if (!spans.length) return "";
  const many = spans.length === 1 ? "1 exposure" : `${spans.length} exposures`;
  const count = spans.reduce((sum, [first, end]) => sum + end - first, 0);
  const away = spans.filter(([first, end]) => end <= view[0] || first >= view[1]).length;
  const unseen = away === 0 ? "" : away === spans.length ? ", outside what is in view" : `, ${away} of them outside what is in view`;
  return `${many}, ${count === 1 ? "1 frame" : `${count} frames`}, from ${spans[0][0] + startFrame}${unseen}`;
}
