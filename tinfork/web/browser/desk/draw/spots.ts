// What lies at a point of the canvas of staves, and what of it can be taken hold of.
import { fpsOf } from "../../lib/store/clock.ts";
import { shownAt } from "../../lib/store/exposures.ts";
import type { TimeView } from "../../lib/time/ruler.ts";
import type { Line, Stave, Word } from "../../lib/types.ts";
import type { DeskState } from "../state.ts";
import { edgesOf } from "../words.ts";
import { IPA, layoutOf, LINE, NAME, RIBBON, WORDS, wordsUnder } from "./layout.ts";

const NEAR = 5;
const NAME_WIDTH = 90;

export type Lane = "ruler" | "name" | "folded" | "wave" | "line" | "words" | "sounds" | "ribbon";

// number: of the stave, -1 for none; under: whether the ribbon's labels are meant; seam: the frame of one that can be
// dragged; edge: of a word, which of its edges; sound: which of its sounds, -1 for none.
export interface Spot {
  frame: number;
  number: number;
  lane: Lane;
  under?: boolean;
  seam?: number;
  word?: Word;
  line?: Line;
  edge?: number;
  sound?: number;
}

// What lies at a point: which stave and which of its lanes; in the lanes of words and sounds, what can be taken hold of.
export function spotAt(view: DeskState, room: number, x: number, y: number): Spot {
  const frame = Math.floor(view.left + x / view.perFrame);
  const { wave, tops } = layoutOf(view, room);
  const number = tops.findIndex((top, i) => y >= top && y < (tops[i + 1] ?? -1));
  if (number < 0) return { frame, number: -1, lane: "ruler" };
  if (y < tops[number] + NAME && x < NAME_WIDTH) return { frame, number, lane: "name" };
  if (view.folded.has(view.staves[number].id)) return { frame, number, lane: "folded" };
  const inside = y - wordsUnder(tops[number], wave);
  if (inside < -6) return { frame, number, lane: "wave" };
  if (inside >= WORDS + IPA) return { frame, number, lane: "ribbon", under: inside >= WORDS + IPA + RIBBON, ...seamAt(view, view.staves[number], x) };
  const lane = inside < LINE ? "line" : inside < WORDS ? "words" : "sounds";
  return { frame, number, lane, ...held(view, view.staves[number], lane, x) };
}

// The seam between two exposures that can be taken hold of at a point.
function seamAt(view: TimeView, stave: Stave, x: number): { seam?: number } {
  const frame = Math.round(view.left + x / view.perFrame);
  const near = Math.min(NEAR, view.perFrame / 3);
  const begins = shownAt(stave.exposures, frame)?.frame === frame;
  return begins && frame > 0 && Math.abs((frame - view.left) * view.perFrame - x) <= near ? { seam: frame } : {};
}

function held(view: TimeView, stave: Stave, lane: Lane, x: number): Partial<Spot> {
  const fps = fpsOf(view.rate);
  const place = (time: number) => (time * fps - view.left) * view.perFrame;
  const time = (view.left + x / view.perFrame) / fps;
  const { lines } = stave;
  if (lane === "line") return heldLine(lines, time, (word) => x >= place(word.start) - 2 && x <= place(word.start) + 8 * word.text.length + 8);
  let nearest: { distance: number; word?: Word; edge?: number } = { distance: NEAR };
  for (const line of lines) {
    if (place(line.end) < x - NEAR || place(line.start) > x + NEAR) continue;
    for (const word of line.words.filter((one) => one.said)) {
      edgesOf(word).forEach((edge, k) => {
        const outer = k === 0 || k === word.sounds.length;
        const distance = Math.abs(place(edge) - x) + (k === 0 ? 0 : 0.01);
        if (distance < nearest.distance && (outer || lane === "sounds")) nearest = { distance, word, edge: k };
      });
    }
  }
  if (nearest.word) return { word: nearest.word, edge: nearest.edge };
  const word = lines.flatMap((line) => line.words).find((one) => one.said && one.start <= time && time < one.end);
  if (!word) return {};
  return { word, sound: lane === "sounds" ? word.sounds.findIndex((sound) => sound.start <= time && time < sound.end) : -1 };
}

// In the lane of lines: a word that was not heard, where it stands, or else the line.
function heldLine(lines: readonly Line[], time: number, near: (word: Word) => boolean): Partial<Spot> {
  const missing = lines.flatMap((line) => line.words).find((word) => !word.said && near(word));
  if (missing) return { word: missing };
  const line = lines.find((one) => one.start <= time && time < one.end);
  return line ? { line, word: line.words.find((word) => word.said) } : {};
}
