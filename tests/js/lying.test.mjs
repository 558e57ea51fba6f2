import assert from "node:assert/strict";
import test from "node:test";
import { layerTransform, mouthTransform, moved, moveOf } from "../../tinfork/web/browser/face/lying.ts";
import { shownOn } from "../../tinfork/web/browser/lib/spoken.ts";

test("keys move, size and turn what is chosen, with Shift ten times as far", () => {
  assert.deepEqual(moveOf("ArrowLeft", false), { x: -1, y: 0, times: 1, turn: 0 });
  assert.deepEqual(moveOf("ArrowDown", true), { x: 0, y: 10, times: 1, turn: 0 });
  assert.equal(moveOf("+", false).times * moveOf("-", false).times, 1);
  assert.equal(moveOf("[", false).turn + moveOf("]", false).turn, 0);
  assert.equal(moveOf("a", false), null);
});

test("a layer has a scale and the mouth a size", () => {
  const layer = moved({ x: 1, y: 2, scale: 0.5, turn: 0 }, { x: 3, y: 4, times: 2, turn: 5 });
  assert.deepEqual(layer, { x: 4, y: 6, scale: 1, turn: 5 });
  assert.equal(layerTransform(layer), "translate(4 6) rotate(5) scale(1)");
  const mouth = moved({ x: 0, y: 0, size: 1.25, turn: 0 }, { x: 0, y: 0, times: 2, turn: 0 });
  assert.equal(mouthTransform(mouth), "translate(0 0) rotate(0) scale(2.5)");
});

test("a frame shows the exposure it lies in, and the last one after the end", () => {
  const track = [[0, 4, "rest"], [4, 2, "open"]];
  assert.equal(shownOn(track, 3), "rest");
  assert.equal(shownOn(track, 4), "open");
  assert.equal(shownOn(track, 99), "open");
  assert.equal(shownOn([], 0), undefined);
});
