// Which exposures are chosen, by the frames they begin on; and what is picked up from them. Exposures are in order.
import type { Exposure, Shown } from "../types.ts";

// [distance from the first, frames, drawing]
export type Piece = [number, number, string];

// The place of the exposure seen on a frame; -1 where there is none.
export function placeAt(exposures: readonly Shown[], frame: number): number {
  let low = 0;
  let high = exposures.length - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    const one = exposures[middle];
    if (one.frame > frame) high = middle - 1;
    else if (endOf(one) <= frame) low = middle + 1;
    else return middle;
  }
  return -1;
}

export const shownAt = <E extends Shown>(exposures: readonly E[], frame: number): E | undefined => exposures[placeAt(exposures, frame)];
export const endOf = (exposure: Shown): number => exposure.frame + exposure.frames;
const frames = (exposures: readonly Shown[]) => exposures.map((one) => one.frame);

// All from the exposure on one frame to that on another.
export function fromTo(exposures: readonly Shown[], one: number, other: number): number[] {
  const [a, b] = [placeAt(exposures, Math.min(one, other)), placeAt(exposures, Math.max(one, other))];
  return a < 0 || b < 0 ? [] : frames(exposures.slice(a, b + 1));
}

// Those that begin on frames from first on and before end.
export const within = (exposures: readonly Shown[], first: number, end: number): number[] =>
  frames(exposures.filter((one) => one.frame >= first && one.frame < end));

// Those that show a drawing.
export const showing = (exposures: readonly Shown[], drawing: string): number[] => frames(exposures.filter((one) => one.drawing === drawing));

// One more, or one less.
export const toggled = (chosen: readonly number[], frame: number): number[] =>
  chosen.includes(frame) ? chosen.filter((one) => one !== frame) : [...chosen, frame].sort((a, b) => a - b);

// The exposures seen on some frames, each once.
export const seenOn = (exposures: readonly Exposure[], chosen: readonly number[]): Exposure[] =>
  [...new Set(chosen.map((frame) => shownAt(exposures, frame)))].filter((one) => one !== undefined);

// What is still chosen when the exposures are others: those that are now seen where the chosen ones began.
export const still = (exposures: readonly Exposure[], chosen: readonly number[]): number[] => frames(seenOn(exposures, chosen));

// The chosen exposures as pieces to be laid elsewhere.
export function lifted(exposures: readonly Exposure[], chosen: readonly number[]): Piece[] {
  const own = seenOn(exposures, chosen);
  return own.map((one) => [one.frame - (own[0]?.frame ?? 0), one.frames, one.drawing]);
}

const lengthOf = (pieces: readonly Piece[]) => Math.max(0, ...pieces.map(([at, count]) => at + count));

// Pieces laid over and over until so many frames are full; the last is cut.
export function looped(pieces: readonly Piece[], count: number): Piece[] {
  const long = lengthOf(pieces);
  const found: Piece[] = [];
  for (let by = 0; long && by < count; by += long) {
    for (const [at, held, drawing] of pieces) if (by + at < count) found.push([by + at, Math.min(held, count - by - at), drawing]);
  }
  return found;
}

// What the exposures look like while a seam is dragged: what begins on a frame begins on another, one side gets longer,
// and what is passed over is covered.
export function withSeam<E extends Shown>(exposures: readonly E[], frame: number, to: number): E[] {
  const longer = placeAt(exposures, frame) - (to > frame ? 1 : 0);
  const moved = (one: E, i: number) => {
    if (i < longer) return [one.frame, Math.min(endOf(one), to)] as const;
    if (i > longer) return [Math.max(one.frame, to), endOf(one)] as const;
    return [Math.min(one.frame, to), Math.max(endOf(one), to)] as const;
  };
  return exposures
    .map((one, i) => {
      const [first, end] = moved(one, i);
      return { ...one, frame: first, frames: end - first };
    })
    .filter((one) => one.frames > 0);
}
