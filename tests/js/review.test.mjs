import assert from "node:assert/strict";
import { test } from "node:test";
import { answersTo, nextNote, notesOn, standing, threads } from "../../tinfork/web/browser/lib/review.ts";

const note = (id, given = {}) => ({ id, on: 0, who: "Hilde", own: false, text: "", frame: 0, end: 0, place: null, line: [], version: 0, done: false, when: "", ...given });
const ids = (notes) => notes.map(({ id }) => id);
const NOTES = [note(1, { frame: 30, end: 40 }), note(2, { frame: 10, end: 10 }), note(3, { frame: 5, end: 5, done: true }), note(4, { on: 1, frame: 30 }), note(5, { frame: 10, end: 12 }), note(6, { on: 1, frame: 30 })];

test("notes lie by frame, those that are done last, answers under what they answer", () => {
  assert.deepEqual(ids(threads(NOTES)), [2, 5, 1, 3]);
  assert.deepEqual(ids(answersTo(NOTES.toReversed(), 1)), [4, 6]);
});

test("a note is seen from its first frame to its last, until it is done", () => {
  const seen = (frame) => ids(notesOn(NOTES, frame));
  assert.deepEqual([9, 10, 11, 12, 13, 5, 29, 30, 40, 41].map(seen), [[], [2, 5], [5], [5], [], [], [], [1], [1], []]);
});

test("one goes from open note to open note, round the end", () => {
  const go = (frame, step) => nextNote(NOTES, frame, step)?.id ?? null;
  assert.deepEqual([0, 10, 29, 30].map((frame) => go(frame, 1)), [2, 1, 1, 2]);
  assert.deepEqual([31, 30, 10].map((frame) => go(frame, -1)), [1, 5, 1]);
  assert.equal(nextNote([note(1, { done: true })], 0, 1), null);
});

test("how a review stands is said in a sentence", () => {
  const version = (...kinds) => ({ number: 2, who: "Brede", when: "", said: kinds.map((kind) => ({ kind, who: "Hilde", when: "" })) });
  assert.equal(standing({ versions: [], changed: false }), "Not shown for review yet.");
  assert.equal(standing({ versions: [version()], changed: false }), "Version 2 is to be looked at.");
  assert.equal(standing({ versions: [version("approved", "changes")], changed: true }), "Version 2 was approved by Hilde. It has changed since.");
  assert.equal(standing({ versions: [version("changes")], changed: false }), "Hilde wants changes to version 2.");
});
