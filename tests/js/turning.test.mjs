import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";

import { matrixOf, times } from "../../tinfork/web/browser/lib/face/matrices.ts";
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
