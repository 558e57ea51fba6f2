// The mirror puts drawings between where the engine does: both are held against one table.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { betweenOn, drawingBetween } from "../../tinfork/web/browser/lib/store/betweens.ts";
import { blendOn } from "../../tinfork/web/browser/lib/store/easing.ts";

const { drawings, between } = JSON.parse(readFileSync("tests/betweens.json", "utf8"));
const named = (name) => drawings.find((one) => one.name === name);
const track = [
  { frame: 0, frames: 6, drawing: "rest" },
  { frame: 6, frames: 3, drawing: "open" },
  { frame: 9, frames: 2, drawing: "press" },
];
const seen = (exposures, eases) => [...Array(11).keys()].map((frame) => betweenOn(exposures, frame < 6 ? 0 : frame < 9 ? 1 : 2, frame, eases, drawings));

test("between two lies what the engine says", () => {
  assert.equal(between.length, 13 * 12);
  for (const [one, other, found] of between) assert.equal(drawingBetween(named(one), named(other), drawings)?.name ?? null, found, `${one}, ${other}`);
});

test("it is seen at the end of the one before, where there is room and nobody chose that", () => {
  const eases = [[0, 20, 2, true]];
  assert.deepEqual(seen(track, eases), [null, null, null, null, "half", "half", null, null, "ajar", null, null]);
  assert.deepEqual(seen(track, [[0, 20, 2]]), Array(11).fill(null));
  assert.deepEqual(seen([{ ...track[0], pinned: true }, ...track.slice(1)], eases).slice(0, 6), Array(6).fill(null));
  assert.equal(blendOn(track, 0, 5, eases), null);
  assert.notEqual(blendOn(track, 0, 5, [[0, 20, 4]]), null);
});

test("a drawing of another mood, or one for hands alone, is none", () => {
  const moody = drawings.map((one) => (one.name === "half" ? { ...one, special: true } : one));
  assert.notEqual(betweenOn(track, 0, 5, [[0, 20, 2, true]], moody), "half");
  const sad = drawings.map((one) => (one.name === "open" ? { ...one, mood: "sad" } : one));
  assert.equal(betweenOn(track, 0, 5, [[0, 20, 2, true]], sad), null);
});
