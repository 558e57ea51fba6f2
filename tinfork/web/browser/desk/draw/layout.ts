// Where things lie on the canvas of staves, in CSS pixels.
import { RULER } from "../../lib/time/ruler.ts";
import type { DeskState } from "../state.ts";

export const NAME = 18;
export const WORDS = 34;
export const IPA = 18;
export const RIBBON = 62;
export const LABELS = 16;
export const LINE = 12;
export const FOLDED = 34;
export const SMALL = 3; // what is no wider is drawn plainly
export const CROWDED = 0.5; // pixels of a frame; where it has no more, exposures share pixels and are drawn together
const LEAST_WAVE = 54;
const MOST_WAVE = 420;
const BESIDE_WAVE = NAME + WORDS + IPA + RIBBON + LABELS + 10;

// Each stave's waveform is so high, and begins at tops; the last of tops is where the last stave ends.
export interface Layout {
  wave: number;
  tops: number[];
}

type Staves = Pick<DeskState, "staves" | "folded">;

// room: the height there is. Waveforms share what words and ribbons leave.
export function layoutOf(view: Staves, room: number): Layout {
  const folded = view.staves.filter((stave) => view.folded.has(stave.id)).length;
  const share = (room - folded * FOLDED - RULER - 8) / Math.max(1, view.staves.length - folded) - BESIDE_WAVE;
  const wave = Math.round(Math.min(MOST_WAVE, Math.max(LEAST_WAVE, share)));
  const tops = [RULER];
  for (const stave of view.staves) tops.push(tops[tops.length - 1] + (view.folded.has(stave.id) ? FOLDED : staveHeight(wave)));
  return { wave, tops };
}

// The staves that are folded so that all are in sight: the active one stands open, and from the first on as many as fit.
export function foldedToFit(staves: DeskState["staves"], active: number, room: number): Set<number> {
  const opened = staveHeight(LEAST_WAVE) - FOLDED;
  const fits = Math.max(1, Math.floor((room - RULER - 8 - staves.length * FOLDED) / opened));
  const others = staves.map((_, number) => number).filter((number) => number !== active);
  return new Set(others.slice(fits - 1).map((number) => staves[number].id));
}

export const staveHeight = (wave: number): number => BESIDE_WAVE + wave;

// Where the words, the ribbon begin under the top of a stave.
export const wordsUnder = (top: number, wave: number): number => top + NAME + wave;
export const ribbonUnder = (top: number, wave: number): number => wordsUnder(top, wave) + WORDS + IPA;
