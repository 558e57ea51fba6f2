// The mirror eases seams as the engine does: both are held against one table.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { blendOn } from "../../tinfork/web/browser/lib/store/easing.ts";

const table = JSON.parse(readFileSync("tests/easing.json", "utf8"));

test("of two drawings as much is seen as the engine says", () => {
  assert.ok(table.length > 500);
  for (const [before, after, ease, at, share] of table) {
    const exposures = [{ frame: 0, frames: before, drawing: "rest" }, { frame: before, frames: after, drawing: "open" }];
    const place = at < 0 ? 0 : 1;
    const found = blendOn(exposures, place, before + at, [[0, 100, ease]]);
    const other = place ? 1 - share : share;
    assert.ok(Math.abs((found?.[1] ?? 0) - other) < 1e-6, `${[before, after, ease, at]}: ${found?.[1]} for ${other}`);
    if (found) assert.equal(found[0], exposures[1 - place]);
  }
});

test("the ease that was set last holds, and a seam between the same drawings is none", () => {
  const exposures = [{ frame: 0, frames: 9, drawing: "rest" }, { frame: 9, frames: 9, drawing: "open" }, { frame: 18, frames: 9, drawing: "open" }];
  assert.equal(blendOn(exposures, 1, 9, [[0, 30, 4], [9, 1, 0]]), null);
  assert.notEqual(blendOn(exposures, 1, 9, [[9, 1, 0], [0, 30, 4]]), null);
  assert.equal(blendOn(exposures, 1, 17, [[0, 30, 4]]), null);
});
