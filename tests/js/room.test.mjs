// How the Sound view shares its room, and which page of a view somebody opened last.
import assert from "node:assert/strict";
import { test } from "node:test";
import { trackHeight } from "../../tinfork/web/browser/sound/tracks.ts";
import { keepTab, keptTab } from "../../tinfork/web/browser/lib/kept.ts";

test("tracks share the room there is, none too low to read and none taller than helps", () => {
  assert.equal(trackHeight(300, 1), 300);
  assert.equal(trackHeight(301, 2), 150);
  assert.equal(trackHeight(321, 1), 320);
  assert.equal(trackHeight(167, 2), 84);
  assert.equal(trackHeight(170, 2), 85);
  assert.equal(trackHeight(200, 0), 200);
});

test("the page somebody opened last is open again, where there is one of that name", () => {
  const kept = new Map();
  globalThis.localStorage = { getItem: (name) => kept.get(name) ?? null, setItem: (name, value) => kept.set(name, value) };
  assert.equal(keptTab("desk", "mouths", ["word"]), "mouths");
  keepTab("desk", "word");
  assert.equal(keptTab("desk", "mouths", ["word"]), "word");
  assert.equal(keptTab("sound", "clip", ["word"]), "clip");
  keepTab("desk", "gone");
  assert.equal(keptTab("desk", "mouths", ["word"]), "mouths");
});
