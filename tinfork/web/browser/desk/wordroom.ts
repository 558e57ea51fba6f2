// How far the edge of a word or of a sound can be moved.
import type { Word } from "../lib/types.ts";
import { sameWord } from "./state.ts";
import { edgesOf } from "./words.ts";

// Sounds keep so many seconds.
const LEAST = 0.01;
// Seconds between two edges that are one.
const TOGETHER = 1e-4;

// The least and the most time an edge can have: sounds keep their least, pinned edges stay, words do not run into each
// other. said: the words of the stave that are said, in order; seconds: of the scene.
export function roomOf(word: Word, edge: number, said: readonly Word[], seconds: number): [number, number] {
  const edges = edgesOf(word);
  const last = word.sounds.length;
  const place = said.findIndex((one) => sameWord(one, word));
  const meets = (theirs: number) => Math.abs(theirs - edges[edge]) < TOGETHER;
  if (edge === 0) {
    const before = said[place - 1] as Word | undefined;
    const pin = Math.min(last, ...word.pinned.filter((one) => one > 0));
    const low = before && meets(before.end) ? before.start + LEAST * before.sounds.length : (before?.end ?? 0);
    return [low, edges[pin] - LEAST * pin];
  }
  if (edge === last) {
    const after = said[place + 1] as Word | undefined;
    const pin = Math.max(0, ...word.pinned.filter((one) => one < last));
    const high = after && meets(after.start) ? after.end - LEAST * after.sounds.length : (after?.start ?? seconds);
    return [edges[pin] + LEAST * (last - pin), high];
  }
  return [edges[edge - 1] + LEAST, edges[edge + 1] - LEAST];
}
