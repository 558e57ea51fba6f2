// What the panels say, apart from the page that shows it.
import assert from "node:assert/strict";
import { test } from "node:test";
import { clipFacts } from "../../tinfork/web/browser/sound/panels.ts";
import { halves, stateOf } from "../../tinfork/web/browser/desk/words.ts";

const word = { text: "harbour", sounds: [1, 2, 3, 4], said: true, confidence: 0.834, pinned: [], decided: false, guessed: false, extra: [] };

test("a word says how it is known", () => {
  assert.equal(stateOf(word), "83% sure");
  assert.equal(stateOf({ ...word, guessed: true, extra: [[0, 1]] }), "83% sure · pronunciation guessed · speech beside it is not written");
  assert.equal(stateOf({ ...word, pinned: [0] }), "set by hand");
  assert.equal(stateOf({ ...word, said: false }), "written, but not heard");
  assert.equal(stateOf({ ...word, said: false, decided: true }), "not said: a person decided so");
});

test("a word is parted where its sound is, and never into nothing", () => {
  assert.deepEqual(halves(word, 2), { first: "harb", second: "our" });
  assert.deepEqual(halves({ ...word, text: "a" }, 1), { first: "a", second: "a" });
});

test("findings are told at the frames of the scene where they are heard", () => {
  const finding = { kind: "clipped", grave: true, text: "clipped", places: [[0.5], [1.5], [9]] };
  const sound = { seconds: 10, rate: 48000, channels: 2, original: "/", notes: [], findings: [finding] };
  const clip = { id: 1, sound: 7, name: "Fog", start: 100, offset: 24, frames: 48, gain: 0, channel: -1 };
  const facts = clipFacts(clip, { startFrame: 1001, sound: { sounds: { 7: sound } } }, 24);
  assert.deepEqual(facts.findings[0].places, [{ frame: 112, text: "1113" }]);
  assert.equal(facts.at, 1101);
  assert.deepEqual(facts.channels.map((one) => one.name), ["all mixed", "channel 1", "channel 2"]);
});
