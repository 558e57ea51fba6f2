// What stands on the rows of an exposure sheet, as tinfork.core.shot.sheet has it; frames count from 0.
import { frameAt } from "../lib/store/clock.ts";
import { endOf, type Piece, shownAt } from "../lib/store/exposures.ts";
import type { Exposure, Stave } from "../lib/types.ts";

export const timecode = (frame: number, fps: number): string => {
  const nominal = Math.ceil(fps - 1e-9);
  const seconds = Math.floor(frame / nominal);
  return [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60, frame % nominal].map((n) => String(n).padStart(2, "0")).join(":");
};

// Of a frame counted from 0: by the scene's own count, and from nought on where that begins with 1.
export const sceneTimecode = (frame: number, start: number, fps: number): string => timecode(counted(frame, start), fps);
export const counted = (frame: number, start: number): number => frame + (start === 1 ? 0 : start);

export interface Begun {
  // Of each stave.
  words: Map<number, string>[];
  ipa: Map<number, string>;
  lines: Set<number>;
}

// What begins on each row.
export function begun(staves: readonly Pick<Stave, "character" | "lines">[], step: number, fps: number): Begun {
  const words = staves.map(() => new Map<number, string>());
  const ipa = new Map<number, string>();
  const lines = new Set<number>();
  const put = (map: Map<number, string>, seconds: number, text: string) => {
    const row = Math.floor(Math.max(0, frameAt(seconds, fps)) / step);
    map.set(row, map.has(row) ? `${map.get(row)} ${text}` : text);
    return row;
  };
  const all = staves.flatMap((stave) => stave.lines.map((line) => ({ stave, line }))).sort((a, b) => a.line.start - b.line.start);
  for (const { stave, line } of all) {
    const said = line.words.filter((word) => word.said);
    said.forEach((word, number) => {
      const row = put(words[staves.indexOf(stave)], word.start, word.text);
      if (number === 0) lines.add(row);
      for (const sound of word.sounds) put(ipa, sound.start, sound.ipa);
    });
  }
  return { words, ipa, lines };
}

// The exposure that begins in each row: of two the one that is seen longer.
export function beginning(exposures: readonly Exposure[], step: number): Map<number, Exposure> {
  const found = new Map<number, Exposure>();
  for (const one of exposures) {
    const row = Math.floor(one.frame / step);
    const other = found.get(row);
    if (!other || one.frames > other.frames) found.set(row, one);
  }
  return found;
}

// The edit that lets a drawing begin on a frame: until the exposure that is there now ends.
export function beginHere(exposures: readonly Exposure[], frame: number, drawing: string): { verb: string; what: { frame: number; pieces: Piece[] } } {
  const own = shownAt(exposures, frame);
  const end = own ? endOf(own) : frame + 1;
  return { verb: "lay", what: { frame, pieces: [[0, end - frame, drawing]] } };
}
