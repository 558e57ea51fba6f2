// Drawings between two others, as tinfork.core.exposure.betweens has them: both are held against one table.
import type { Drawing } from "../facetypes.ts";
import type { Ease, Shown } from "../types.ts";
import { easeOn, isDrawn } from "./easing.ts";

const WEIGHTS: [keyof Drawing, number][] = [
  ["jaw", 1.6],
  ["width", 0.9],
  ["rounding", 1.2],
  ["press", 1],
  ["tuck", 1],
  ["upper_teeth", 0.35],
  ["lower_teeth", 0.25],
  ["tongue", 0.5],
];
const JAW_LEAPS = 0.3;
const ROUNDING_LEAPS = 0.6;
const OPENER = 0.04;
const BETWEEN = 0.75;
const LEAST = 2;

type Place = number[];
const placeOf = (drawing: Drawing): Place => WEIGHTS.map(([name]) => Number(drawing[name]));
const distance = (one: Place, other: Place) => Math.sqrt(WEIGHTS.reduce((sum, [, weight], at) => sum + weight * (one[at] - other[at]) ** 2, 0));

// Which of some drawings lies between two; none where they are near enough to be cut, or nothing lies there.
export function drawingBetween(one: Drawing, other: Drawing, drawings: readonly Drawing[]): Drawing | null {
  const leaps = Math.abs(one.jaw - other.jaw) >= JAW_LEAPS;
  if (!leaps && Math.abs(one.rounding - other.rounding) < ROUNDING_LEAPS) return null;
  const [from, to] = [placeOf(one), placeOf(other)];
  const apart = distance(from, to);
  const middle = from.map((value, at) => (value + to[at]) / 2);
  let found: [number, Drawing] | null = null;
  for (const drawing of drawings) {
    const place = placeOf(drawing);
    const lies = distance(place, from) <= BETWEEN * apart && distance(place, to) <= BETWEEN * apart;
    const opens = !leaps || drawing.jaw >= Math.min(one.jaw, other.jaw) + OPENER;
    const far = distance(place, middle);
    if (lies && opens && (!found || far < found[0])) found = [far, drawing];
  }
  return found?.[1] ?? null;
}

// The drawing between that is seen on a frame, in place of the exposure it lies in; null where there is none.
export function betweenOn<E extends Shown & { pinned?: boolean }>(exposures: readonly E[], place: number, frame: number, eases: readonly Ease[], drawings: readonly Drawing[]): string | null {
  const [before, after] = [exposures[place] as E | undefined, exposures[place + 1] as E | undefined];
  if (!eases.length || !before || !after || before.pinned || !isDrawn(eases, after.frame)) return null;
  const count = Math.min(easeOn(eases, after.frame), before.frames - LEAST);
  if (frame < after.frame - count) return null;
  const [one, other] = [before, after].map(({ drawing }) => drawings.find(({ name }) => name === drawing));
  if (!one || !other || one.mood !== other.mood) return null;
  const alike = drawings.filter(({ mood, special }) => mood === one.mood && !special);
  return drawingBetween(one, other, alike)?.name ?? null;
}
