import assert from "node:assert/strict";
import { test } from "node:test";

import { bare, joined, missing, withPatch, withSlice, without } from "../../tinfork/web/browser/lib/store/lanes.ts";

const word = (text, at, start) => ({ text, at, start, end: start + 0.2, said: true, extra: [], pinned: [], sounds: [["b", start, start + 0.2, 0.9]] });
const line = (place, start) => ({ place, id: 10 + place, text: `line ${place}`, start, end: start + 0.2, words: [word("fog", [place, 0], start)] });
const exposure = (frame, frames, drawing = "rest") => ({ frame, frames, drawing, pinned: false });
const head = { id: 7, version: 3, frames: 100, clips: [5, 6] };
const clips = new Map([[5, { id: 5 }]]);

function stave() {
  const first = { ...head, first: 0, end: 50, lines: [line(0, 0.5)], exposures: [exposure(0, 10), exposure(10, 5, "open"), exposure(15, 45)] };
  const second = { ...head, first: 50, end: 100, lines: [line(1, 3)], exposures: [exposure(15, 45), exposure(60, 40, "half")] };
  return withSlice(withSlice(bare(first, clips), first), second);
}

test("slices make a whole", () => {
  const whole = stave();
  assert.deepEqual(whole.lines.map((one) => one.place), [0, 1]);
  assert.deepEqual(whole.lines[0].words[0].sounds[0], { ipa: "b", start: 0.5, end: 0.7, confidence: 0.9 });
  assert.deepEqual(whole.exposures.map((one) => [one.frame, one.frames]), [[0, 10], [10, 5], [15, 45], [60, 40]]);
  assert.deepEqual(whole.known, [[0, 100]]);
  assert.deepEqual(whole.clips, [{ id: 5 }]);
});

test("an edit changes what it says and nothing else", () => {
  const patch = { id: 7, version: 4, frames: 100, renumbered: false, numbers: [0], lines: [line(0, 0.9)], drawn: [[8, 20]], stale: [[60, 80]], exposures: [exposure(0, 12), exposure(12, 4, "open"), exposure(16, 44)] };
  const after = withPatch(stave(), patch);
  assert.equal(after.version, 4);
  assert.equal(after.lines[0].start, 0.9);
  assert.equal(after.lines.length, 2);
  assert.deepEqual(after.exposures.map((one) => [one.frame, one.frames, one.drawing]), [[0, 12, "rest"], [12, 4, "open"], [16, 44, "rest"], [60, 40, "half"]]);
  assert.deepEqual(missing(after, [0, 40], 30), [60, 80]);
});

test("a line that is no longer heard goes, and lines with new places are all asked for again", () => {
  const gone = withPatch(stave(), { version: 4, renumbered: false, numbers: [1], lines: [], drawn: [], stale: [], exposures: [] });
  assert.deepEqual(gone.lines.map((one) => one.place), [0]);
  const anew = withPatch(stave(), { version: 4, renumbered: true });
  assert.deepEqual(missing(anew, [40, 60], 1000), [40, 60]);
  assert.equal(anew.character, stave().character);
});

test("what is in view is asked for first, then what comes after, then what lies before", () => {
  const some = { frames: 100, known: [[30, 50], [60, 70]] };
  assert.deepEqual(missing(some, [40, 65], 99), [50, 60]);
  assert.deepEqual(missing(some, [60, 70], 99), [70, 100]);
  assert.deepEqual(missing({ ...some, known: [[30, 100]] }, [60, 70], 20), [0, 20]);
  assert.equal(missing({ ...some, known: [[0, 100]] }, [0, 9], 9), null);
});

test("stretches are joined and taken from one another", () => {
  assert.deepEqual(joined([[4, 6], [0, 2], [2, 3], [8, 8]]), [[0, 3], [4, 6]]);
  assert.deepEqual(without([[0, 5], [8, 12]], [3, 9]), [[0, 3], [9, 12]]);
});
