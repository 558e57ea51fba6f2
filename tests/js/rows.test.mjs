// What stands on the rows of the exposure sheet.
import assert from "node:assert/strict";
import { test } from "node:test";
import { beginHere, beginning, begun, sceneTimecode, timecode } from "../../tinfork/web/browser/sheet/rows.ts";

const exposures = [{ frame: 0, frames: 5, drawing: "rest" }, { frame: 5, frames: 1, drawing: "press" }, { frame: 6, frames: 4, drawing: "open" }];
const word = (text, start, said = true) => ({ text, start, said, sounds: [{ ipa: "f", start }, { ipa: "ɒ", start: start + 0.05 }] });
const stave = (character, ...words) => ({ character, lines: [{ start: words[0].start, words }] });

test("timecode counts frames as the engine does", () => {
  assert.equal(timecode(86400 + 25, 24), "01:00:01:01");
  assert.equal(timecode(30 * 3600, 30000 / 1001), "01:00:00:00");
  assert.equal(sceneTimecode(0, 1, 24), "00:00:00:00");
  assert.equal(sceneTimecode(25, 1001, 24), "00:00:42:18");
});

test("words and sounds stand where they begin, each with who says it", () => {
  const staves = [stave("Marit", word("Fog", 0.5), word("lost", 0.6, false)), stave("Pock", word("Ticket", 0.5))];
  const { words, ipa, lines } = begun(staves, 1, 24);
  assert.deepEqual(words.map((own) => [...own]), [[[12, "Fog"]], [[12, "Ticket"]]]);
  assert.deepEqual([...ipa], [[12, "f f"], [13, "ɒ ɒ"]]);
  assert.deepEqual([...lines], [12]);
  assert.deepEqual([...begun(staves.slice(0, 1), 2, 24).words[0]], [[6, "Fog"]]);
});

test("on twos the drawing that is seen longer stands in the row", () => {
  const named = (found) => [...found].map(([row, one]) => [row, one.drawing]);
  assert.deepEqual(named(beginning(exposures, 1)), [[0, "rest"], [5, "press"], [6, "open"]]);
  assert.deepEqual(named(beginning(exposures, 2)), [[0, "rest"], [2, "press"], [3, "open"]]);
});

test("a drawing begins where it is written, until the next begins", () => {
  assert.deepEqual(beginHere(exposures, 7, "purse"), { verb: "lay", what: { frame: 7, pieces: [[0, 3, "purse"]] } });
  assert.deepEqual(beginHere(exposures, 0, ""), { verb: "lay", what: { frame: 0, pieces: [[0, 5, ""]] } });
});
