import assert from "node:assert/strict";
import { test } from "node:test";
import { wavOf } from "../../tinfork/web/browser/sound/wav.ts";

test("samples become a mono WAV of 16 bits, in order, and none is left out", () => {
  const view = new DataView(wavOf([Float32Array.of(0, 0.5), Float32Array.of(-1, 2, -2)], 48000));
  const text = (at) => String.fromCharCode(...[0, 1, 2, 3].map((i) => view.getUint8(at + i)));
  assert.deepEqual([text(0), text(8), text(12), text(36)], ["RIFF", "WAVE", "fmt ", "data"]);
  assert.deepEqual([view.getUint32(4, true), view.getUint32(40, true), view.byteLength], [46, 10, 54]);
  assert.deepEqual([view.getUint16(20, true), view.getUint16(22, true), view.getUint32(24, true), view.getUint32(28, true), view.getUint16(32, true), view.getUint16(34, true)], [1, 1, 48000, 96000, 2, 16]);
  assert.deepEqual([0, 1, 2, 3, 4].map((i) => view.getInt16(44 + 2 * i, true)), [0, 16384, -32767, 32767, -32767]);
});
