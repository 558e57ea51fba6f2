// How a picture is laid on the anchor, and on another picture.
import assert from "node:assert/strict";
import { test } from "node:test";
import { boxOf, laid, overlaid } from "../../tinfork/web/browser/chart/registration.ts";

test("a picture lies with its anchor on the middle", () => {
  const on = laid({ href: "a.png", width: 300, height: 260, x: 150, y: 86, scale: 0.5, turn: 3 });
  assert.deepEqual(on, { href: "a.png", left: -75, top: -43, wide: 150, high: 130, turned: "rotate(3)" });
});

test("what is drawn is found in pixels of the picture", () => {
  const data = new Uint8ClampedArray(4 * 4 * 4);
  for (const [x, y] of [[1, 2], [2, 2]]) data[(y * 4 + x) * 4 + 3] = 255;
  assert.deepEqual(boxOf(data, 4, 4, 0.5), { left: 2, right: 6, top: 4 });
  assert.deepEqual(boxOf(new Uint8ClampedArray(64), 4, 4, 1), { left: 0, right: 4, top: 0 });
});

test("one upper lip is laid on another, whatever the sizes of the pictures", () => {
  const beneath = { x: 100, y: 50, scale: 1 };
  const drawing = { x: 0, y: 0, scale: 0.5 };
  const { x, y } = overlaid(drawing, { left: 20, right: 60, top: 8 }, beneath, { left: 80, right: 140, top: 40 });
  assert.deepEqual({ x, y }, { x: 20, y: 28 });
  assert.equal(((20 + 60) / 2 - x) * drawing.scale, ((80 + 140) / 2 - beneath.x) * beneath.scale);
  assert.equal((8 - y) * drawing.scale, (40 - beneath.y) * beneath.scale);
});
