// What stands on the rows of an exposure sheet, as tinfork.core.shot.sheet has it; frames count from 0.
import { endOf, placeAt } from "../desk/selection.js";
import { frameAt } from "../lib/clock.js";

export const timecode = (frame, fps) => {
  const nominal = Math.ceil(fps - 1e-9);
  const seconds = Math.floor(frame / nominal);
  return [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60, frame % nominal].map((n) => String(n).padStart(2, "0")).join(":");
};

// What begins on each row: words, ipa and lines by rows.
export function begun(staves, step, fps) {
  const words = new Map();
  const ipa = new Map();
  const lines = new Set();
  const put = (map, seconds, text) => {
    const row = Math.floor(Math.max(0, frameAt(seconds, fps)) / step);
    map.set(row, map.has(row) ? `${map.get(row)} ${text}` : text);
    return row;
  };
  const all = staves.flatMap((stave) => stave.lines.map((line) => ({ stave, line }))).sort((a, b) => a.line.start - b.line.start);
  for (const { stave, line } of all) {
    const said = line.words.filter((word) => word.said);
    said.forEach((word, number) => {
      const whose = number === 0 && staves.length > 1 ? `${stave.character}: ` : "";
      const row = put(words, word.start, whose + word.text);
      if (number === 0) lines.add(row);
      for (const sound of word.sounds) put(ipa, sound.start, sound.ipa);
    });
  }
  return { words, ipa, lines };
}

// The exposure that begins in each row: of two the one that is seen longer.
export function beginning(exposures, step) {
  const found = new Map();
  for (const one of exposures) {
    const row = Math.floor(one.frame / step);
    if (!found.has(row) || one.frames > found.get(row).frames) found.set(row, one);
  }
  return found;
}

// The edit that lets a drawing begin on a frame: until the exposure that is there now ends.
export function beginHere(exposures, frame, drawing) {
  const own = exposures[placeAt(exposures, frame)];
  const end = own ? endOf(own) : frame + 1;
  return { verb: "lay", what: { frame, pieces: [[0, end - frame, drawing]] } };
}
