// What is said of words, and which of them are to be looked at.
import type { Line, Stave, Word, WordPlace } from "../lib/types.ts";
import { sameWord } from "./state.ts";

export interface Place {
  line: Line;
  word: Word;
}

// A word that is less sure than this is to be looked at.
export const DOUBTFUL = 0.7;

export const allWords = (stave: Stave): Place[] => stave.lines.flatMap((line) => line.words.map((word) => ({ line, word })));
export const wordAt = (stave: Stave, place: { at: WordPlace } | null): Place | undefined => (place ? allWords(stave).find((one) => sameWord(one.word, place)) : undefined);
export const isSet = (word: Word): boolean => word.decided || word.pinned.length > 0;
export const edgesOf = (word: Word): number[] => [...word.sounds.map((sound) => sound.start), word.end];

// Words to look at, the least sure first; what a person set is among them only where it leaves its sounds no room.
export function doubtful(stave: Stave): Place[] {
  const otherwise = new Map(stave.lines.flatMap((line) => [...saidOtherwise(stave, line)]));
  const doubt = ({ word }: Place) => (otherwise.has(word) ? -2 : !word.said || isUnwritten(word) || word.tight ? -1 : word.confidence);
  return allWords(stave)
    .filter((one) => (!isSet(one.word) || one.word.tight || otherwise.has(one.word)) && doubt(one) < DOUBTFUL)
    .sort((a, b) => doubt(a) - doubt(b));
}

// What is said in place of words of a line, or beside them, as script and recording were compared; nothing where the line
// was read as it is not written any more.
export function saidOtherwise(stave: Stave, line: Line): Map<Word, string> {
  const found = new Map<Word, string>();
  if (!Object.keys(stave.otherwise).length) return found;
  for (const [number, word] of line.words.filter((one) => !isUnwritten(one)).entries()) {
    const [said, written] = stave.otherwise[`${line.id} ${number}`] ?? [];
    if (said && written === line.text) found.set(word, said);
  }
  return found;
}

export const percent = (share: number): string => `${Math.round(share * 100)}%`;

// What was said and nobody wrote has its sounds, and in brackets what it may be.
export const isUnwritten = (word: Word): boolean => word.text.startsWith("(") && !isSet(word);
export const guessOf = (word: Word): string => (isUnwritten(word) && word.text !== "(sounds)" ? word.text.slice(1, -1) : "");

export function stateOf(word: Word): string {
  if (isUnwritten(word)) return "heard, and not written";
  if (!word.said) return word.decided ? "not said: a person decided so" : "written, but not heard";
  const unwritten = word.extra.length ? " · speech beside it is not written" : "";
  const guessed = word.guessed ? " · pronunciation guessed" : "";
  const tight = word.tight ? " · too little room beside a seam you set" : "";
  return (isSet(word) ? "set by hand" : `${percent(word.confidence)} sure`) + tight + guessed + unwritten;
}

// Where a word's letters are parted when it is split before one of its sounds.
export function halves(word: Word, sound: number): { first: string; second: string } {
  const at = Math.max(1, Math.round((word.text.length * sound) / word.sounds.length));
  return { first: word.text.slice(0, at), second: word.text.slice(at) || word.text };
}
