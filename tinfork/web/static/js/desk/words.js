// What is said of words, and which of them are to be looked at.
import { DOUBTFUL, isSet, sameWord } from "./staves.js";

export const allWords = (stave) => stave.lines.flatMap((line) => line.words.map((word) => ({ line, word })));
export const wordAt = (stave, place) => allWords(stave).find((one) => sameWord(one.word, place));

// Words to look at, the least sure first; what a person set is not among them.
export function doubtful(stave) {
  const doubt = ({ word }) => (!word.said || isUnwritten(word) ? -1 : word.confidence);
  return allWords(stave)
    .filter(({ word }) => !isSet(word) && doubt({ word }) < DOUBTFUL)
    .sort((a, b) => doubt(a) - doubt(b));
}

export const percent = (share) => `${Math.round(share * 100)}%`;

// What was said and nobody wrote has its sounds, and in brackets what it may be.
export const isUnwritten = (word) => word.text.startsWith("(") && !isSet(word);
export const guessOf = (word) => (isUnwritten(word) && word.text !== "(sounds)" ? word.text.slice(1, -1) : "");

export function stateOf(word) {
  if (isUnwritten(word)) return "heard, and not written";
  if (!word.said) return word.decided ? "not said: a person decided so" : "written, but not heard";
  const unwritten = word.extra.length ? " · speech beside it is not written" : "";
  const guessed = word.guessed ? " · pronunciation guessed" : "";
  return (isSet(word) ? "set by hand" : `${percent(word.confidence)} sure`) + guessed + unwritten;
}

// Where a word's letters are parted when it is split before one of its sounds.
export function halves(word, sound) {
  const at = Math.max(1, Math.round((word.text.length * sound) / word.sounds.length));
  return { first: word.text.slice(0, at), second: word.text.slice(at) || word.text };
}
