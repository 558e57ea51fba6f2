// Staves are folded so that all of them are in sight.
import assert from "node:assert/strict";
import { test } from "node:test";
import { FOLDED, foldedToFit, layoutOf, staveHeight } from "../../tinfork/web/browser/desk/draw/layout.ts";
import { RULER } from "../../tinfork/web/browser/lib/time/ruler.ts";

const LEAST = staveHeight(54);
const staves = [1, 2, 3, 4].map((id) => ({ id }));
const room = (open, all) => RULER + 8 + open * LEAST + (all - open) * FOLDED;

test("as many stand open as fit, the active one first", () => {
  assert.deepEqual(foldedToFit(staves, 0, room(2, 4)), new Set([3, 4]));
  assert.deepEqual(foldedToFit(staves, 3, room(2, 4)), new Set([2, 3]));
  assert.deepEqual(foldedToFit(staves, 0, room(2, 4) - 1), new Set([2, 3, 4]));
  assert.deepEqual(foldedToFit(staves, 2, 0), new Set([1, 2, 4]));
  assert.deepEqual(foldedToFit(staves, 0, room(4, 4)), new Set());
});

test("they end where the room ends", () => {
  for (const all of [1, 2, 3, 4]) {
    const view = { staves: staves.slice(0, all), folded: foldedToFit(staves.slice(0, all), 0, room(2, all)) };
    assert.ok(layoutOf(view, room(2, all)).tops.at(-1) + 8 <= room(2, all) || all === 1, String(all));
  }
});
