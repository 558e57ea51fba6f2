// The mirror draws mouths of ours as the engine does: both are held against one table, number by number.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { pictureOn } from "../../tinfork/web/browser/lib/face/drawnface.ts";
import { placeBetween, styledMouth } from "../../tinfork/web/browser/lib/face/mouth.ts";

const table = JSON.parse(readFileSync("tests/mouths.json", "utf8"));
const NUMBER = /-?\d+(\.\d+)?/g;
const drawn = (svg) => svg.replaceAll(/\s*transform="[^"]*"/g, "");

test("a mouth is drawn as the engine draws it", () => {
  assert.ok(table.length > 40);
  for (const [place, style, svg] of table) {
    const own = styledMouth(place, "m", style);
    assert.equal(own.replaceAll(NUMBER, "#"), drawn(svg).replaceAll(NUMBER, "#"));
    const [mine, theirs] = [own, drawn(svg)].map((one) => one.match(NUMBER).map(Number));
    mine.forEach((value, at) => assert.ok(Math.abs(value - theirs[at]) < 0.11, `${value} is not ${theirs[at]}`));
  }
});

test("between two places all goes its share of the way", () => {
  const [one, other] = [table[0][0], table[10][0]];
  assert.deepEqual(placeBetween(one, other, 0), one);
  const half = placeBetween(one, other, 0.5);
  for (const name of Object.keys(one)) assert.ok(Math.abs(half[name] - (one[name] + other[name]) / 2) < 1e-9);
});

test("a drawing that moves plays over and over by the scene's frames, or once from where it is seen", () => {
  assert.deepEqual([10, 11, 12, 13, 14, 15, 16, 17].map((frame) => pictureOn(3, 2, false, frame, 11)), [2, 2, 0, 0, 1, 1, 2, 2]);
  assert.deepEqual([11, 12, 13, 14, 15, 16, 17].map((frame) => pictureOn(3, 2, true, frame, 11)), [0, 0, 1, 1, 2, 2, 2]);
});
