// The browser's clock says what the engine's does: both are held against one table.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { frameAfter, frameAt } from "../../tinfork/web/browser/lib/store/clock.ts";

const table = JSON.parse(readFileSync("tests/clock.json", "utf8"));

test("times fall on the frames the engine puts them on", () => {
  assert.ok(table.length > 300);
  for (const [numerator, denominator, seconds, at, after] of table) {
    const fps = numerator / denominator;
    assert.deepEqual([frameAt(seconds, fps), frameAfter(seconds, fps)], [at, after], `${seconds} s at ${fps} fps`);
  }
});
