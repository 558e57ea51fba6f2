// What a verb would change, as frames: outlined before it is done, asked of the server, and told after. Pure.
import type { Exposure, Span } from "../types.ts";
import { endOf, seenOn, shownAt } from "./exposures.ts";

// "pick": another drawing; "chosen": what is chosen; "here": the exposure at the playhead; "tap": a hold from the playhead
// on; "paste": what was copied, from the playhead on; "range": in to out; "repeat": behind what is repeated.
export type Aim = "pick" | "chosen" | "here" | "tap" | "paste" | "range" | "repeat" | "earlier" | "later" | "hold on";

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

// What is repeated: what is chosen, from its first to its last; or in to out.
export function repeated(now: Situation): Span | null {
  const own = chosenIn(now);
  return own.length ? [own[0][0], own[own.length - 1][1]] : now.range;
}

// Until the next that is pinned, as far as it is held there at the most.
function heldOn(now: Situation): Span[] {
  const [own] = chosenIn(now).slice(-1);
  if (!own) return [];
  const next = now.exposures.find((one) => one.frame >= own[1] && one.pinned);
  return [[own[0], next?.frame ?? now.frames]];
}

function picked(now: Situation): Span[] {
  if (now.filling) return now.range ? [now.range] : [];
  if (now.playing) return from(now, now.frame, now.hold);
  return now.chosen.length ? chosenIn(now) : hereIn(now);
}

const AIMS: Record<Aim, (now: Situation) => Span[]> = {
  pick: picked,
  chosen: chosenIn,
  here: hereIn,
  tap: (now) => from(now, Math.min(now.frame, now.frames - 1), now.hold),
  paste: (now) => from(now, now.frame, now.copied ?? 0),
  range: ({ range }) => (range ? [range] : []),
  repeat: (now) => {
    const own = repeated(now);
    return own ? from(now, own[1], (own[1] - own[0]) * (now.times ?? 1)) : [];
  },
  earlier: (now) => chosenIn(now).map(([first, end]) => [Math.max(0, first - 1), end]),
  later: (now) => chosenIn(now).map(([first, end]) => [first, Math.min(now.frames, end + 1)]),
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
