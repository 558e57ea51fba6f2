import assert from "node:assert/strict";
import { test } from "node:test";
import { outside } from "../../tinfork/web/browser/lib/face/drawnface.ts";

const picture = { left: 10, top: 10, right: 110, bottom: 130 };

test("what lies inside its picture reaches out of it by nothing", () => {
  assert.equal(outside(picture, picture), 0);
  assert.equal(outside({ left: 20, top: 30, right: 90, bottom: 100 }, picture), 0);
});

test("what reaches out on any side is told by how far", () => {
  assert.equal(outside({ ...picture, left: 4 }, picture), 6);
  assert.equal(outside({ ...picture, top: 3 }, picture), 7);
  assert.equal(outside({ ...picture, right: 115, bottom: 132 }, picture), 5);
});
