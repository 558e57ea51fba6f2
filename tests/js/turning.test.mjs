import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";

import { matrixOf, times } from "../../tinfork/web/browser/lib/face/matrices.ts";
import { mouthsView } from "../../tinfork/web/browser/lib/face/drawnface.ts";
import { inverse, onHead, slid } from "../../tinfork/web/browser/lib/face/turning.ts";

const table = JSON.parse(readFileSync("tests/turning.json", "utf8"));
const near = (one, other, what) => one.forEach((value, i) => assert.ok(Math.abs(value - other[i]) < 1e-3, `${what}, ${i}: ${value} is not ${other[i]}`));

test("the page lays on a head that turns what the core lays on it", () => {
  for (const [relief, axis, facing, matrix] of table) near(slid(relief, axis, facing), matrix, `${relief} at ${facing}`);
});

test("a piece that faces the front is where its part is, and a nod carries what slides", () => {
  const head = matrixOf({ x: 0, y: 90 }, { turn: 12, y: 5 });
  const part = times(head, matrixOf({ x: 4, y: -60 }, { x: 3 }));
  near(onHead([46, 66, "on"], 0, 0, head, part), part, "front");
  near(times(head, inverse(head)), [1, 0, 0, 1, 0, 0], "inverse");
  near(onHead([46, 66, "on"], 0, 40, head, head), times(head, slid([46, 66, "on"], 0, 40)), "on the head itself");
});

test("mouths are seen in the view that is nearest to where a head faces by its dial, the front first", () => {
  const faces = { front: 0, "three-quarter left": -45, "three-quarter right": 45, "side right": 90, odd: 0 };
  const seen = [-90, -23, -22, 0, 22, 23, 67, 68].map((facing) => mouthsView("front", facing, faces));
  assert.deepEqual(seen, ["three-quarter left", "three-quarter left", "front", "front", "front", "three-quarter right", "three-quarter right", "side right"]);
  assert.equal(mouthsView("side right", -90, faces), "side right");
  assert.equal(mouthsView("front", 40, {}), "front");
});
