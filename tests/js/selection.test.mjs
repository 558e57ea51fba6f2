// Choosing exposures, picking them up, and what is seen while a seam is dragged.
import assert from "node:assert/strict";
import { test } from "node:test";
import { likeliest, nextLikely, shapeAt } from "../../tinfork/web/browser/desk/likely.ts";
import { fromTo, lifted, looped, placeAt, showing, still, toggled, within, withSeam } from "../../tinfork/web/browser/lib/store/exposures.ts";

const track = [[0, 4, "rest"], [4, 2, "press"], [6, 4, "open"], [10, 3, "press"], [13, 3, "rest"]].map(([frame, frames, drawing]) => ({ frame, frames, drawing }));
const rows = (exposures) => exposures.map(({ frame, frames, drawing }) => `${frame}+${frames} ${drawing}`);

test("an exposure is found by any of its frames", () => {
  assert.deepEqual([0, 3, 4, 9, 15, 16, -1].map((frame) => placeAt(track, frame)), [0, 0, 1, 2, 4, -1, -1]);
  assert.equal(placeAt([], 0), -1);
});

test("exposures are chosen from one to another, within a range and by drawing", () => {
  assert.deepEqual(fromTo(track, 11, 5), [4, 6, 10]);
  assert.deepEqual(fromTo(track, 5, 99), []);
  assert.deepEqual(within(track, 4, 13), [4, 6, 10]);
  assert.deepEqual(showing(track, "press"), [4, 10]);
  assert.deepEqual(toggled([4, 10], 6), [4, 6, 10]);
  assert.deepEqual(toggled([4, 6], 4), [6]);
});

test("what is chosen stays chosen where it is seen now", () => {
  assert.deepEqual(still([{ frame: 0, frames: 6, drawing: "rest" }, { frame: 6, frames: 10, drawing: "open" }], [4, 6, 10, 99]), [0, 6]);
});

test("what is picked up keeps its distances and fills a range in a loop", () => {
  const pieces = lifted(track, [4, 10]);
  assert.deepEqual(pieces, [[0, 2, "press"], [6, 3, "press"]]);
  assert.deepEqual(looped([[0, 2, "a"], [2, 1, "b"]], 7), [[0, 2, "a"], [2, 1, "b"], [3, 2, "a"], [5, 1, "b"], [6, 1, "a"]]);
  assert.deepEqual(looped([], 7), []);
});

test("a dragged seam is seen as it would be", () => {
  assert.deepEqual(rows(withSeam(track, 6, 7)), ["0+4 rest", "4+3 press", "7+3 open", "10+3 press", "13+3 rest"]);
  assert.deepEqual(rows(withSeam(track, 6, 3)), ["0+3 rest", "3+7 open", "10+3 press", "13+3 rest"]);
  assert.deepEqual(rows(withSeam(track, 6, 11)), ["0+4 rest", "4+7 press", "11+2 press", "13+3 rest"]);
});

test("asked for once more, the five likeliest drawings come one after the other, and then the first again", () => {
  const ranked = ["a", "b", "c", "d", "e", "f"].map((name) => ({ name }));
  const next = (shown) => nextLikely(ranked, shown)?.name;
  assert.deepEqual(["z", "a", "d", "e", "f"].map(next), ["a", "b", "e", "a", "a"]);
  assert.equal(nextLikely([], "a"), undefined);
});

test("the likeliest drawing looks like the sound that is heard", () => {
  const sounds = [{ ipa: "oʊ", start: 1, end: 2 }];
  const stave = { aims: { oʊ: ["round", "purse"] }, lines: [{ start: 1, end: 2, words: [{ said: true, sounds }] }] };
  assert.deepEqual([0, 26, 44].map((frame) => shapeAt(stave, frame, 24)), ["rest", "round", "purse"]);
  const drawings = [{ name: "shut", jaw: 0, rounding: 0 }, { name: "o", jaw: 0.6, rounding: 0.8 }, { name: "wide", jaw: 0.9, rounding: 0 }];
  assert.deepEqual(likeliest(drawings, { jaw: 0.7, rounding: 0.75 }, { jaw: 1.6, rounding: 1.2 }).map((one) => one.name), ["o", "wide", "shut"]);
});
