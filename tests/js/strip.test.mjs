import assert from "node:assert/strict";
import { test } from "node:test";
import { heardIn, laid, secondsOf, seenAt, timeOf } from "../../tinfork/web/browser/rushes/strip.ts";

const RATES = { 24: { numerator: 24, denominator: 1 }, 12: { numerator: 12, denominator: 1 }, 23.976: { numerator: 24000, denominator: 1001 } };
const shot = (frames, rate = 24, clips = []) => ({ id: frames, name: "", number: "", rate: RATES[rate], startFrame: 1, frames, version: 0, clips, films: [], seenUrl: "", notesUrl: "" });
const clip = (start, frames, given = {}) => ({ listen: "a", peaks: "", start, offset: 0, frames, whole: 1000, gain: 0, ...given });

test("shots of different rates follow one another without a gap", () => {
  const strip = laid([shot(48), shot(24, 12), shot(24, 23.976)]);
  assert.deepEqual(strip.map(({ begins }) => begins), [0, 2, 4]);
  assert.ok(Math.abs(secondsOf(strip) - 5.001) < 1e-9);
});

test("each frame of each shot is seen, and the next shot's first on time", () => {
  const strip = laid([shot(48), shot(24, 12), shot(2400, 23.976), shot(5)]);
  for (const [at, own] of strip.entries()) {
    for (let frame = 0; frame < own.shot.frames; frame++) assert.deepEqual(seenAt(strip, timeOf(own, frame)), { at, frame });
  }
  assert.deepEqual(seenAt(strip, 2 - 1e-3), { at: 0, frame: 47 });
  assert.deepEqual(seenAt(strip, secondsOf(strip)), { at: 3, frame: 4 });
  assert.deepEqual(seenAt(strip, -1), { at: 0, frame: 0 });
});

test("what is heard is cut to its shot: nothing runs into the next", () => {
  const strip = laid([shot(24, 24, [clip(12, 48), clip(-6, 12)]), shot(24, 24, [clip(0, 24, { offset: 6, gain: 20 }), clip(30, 4)])]);
  const heard = heardIn(strip);
  assert.deepEqual(
    heard.map(({ start, offset, seconds }) => [start, offset, seconds]),
    [
      [0.5, 0, 0.5],
      [0, 0.25, 0.25],
      [1, 0.25, 1],
    ],
  );
  assert.equal(heard[2].gain, 10);
});
