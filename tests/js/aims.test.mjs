// What a verb would change, and how it is told.
import assert from "node:assert/strict";
import { test } from "node:test";
import { aimOf, repeated, slidBy, tapOf, toldOf, withBits } from "../../tinfork/web/browser/lib/store/aims.ts";

// rest for 10, open for 4, half for 6 (pinned), rest to frame 40
const EXPOSURES = [
  { frame: 0, frames: 10, drawing: "rest" },
  { frame: 10, frames: 4, drawing: "open" },
  { frame: 14, frames: 6, drawing: "half", pinned: true },
  { frame: 20, frames: 20, drawing: "rest" },
];
const now = (more = {}) => ({ exposures: EXPOSURES, chosen: [], frame: 11, frames: 40, range: null, hold: 2, ...more });

test("a pick changes what is chosen, and with nothing chosen the exposure at the playhead", () => {
  assert.deepEqual(aimOf("pick", now({ chosen: [0, 14] })), [[0, 10], [14, 20]]);
  assert.deepEqual(aimOf("pick", now()), [[10, 14]]);
  assert.deepEqual(aimOf("pick", now({ frame: 40 })), []);
});

test("in and out are filled by what fills them, and by nothing else", () => {
  const range = [30, 36];
  assert.deepEqual(aimOf("pick", now({ range })), [[10, 14]]);
  assert.deepEqual(aimOf("pick", now({ range, chosen: [0] })), [[0, 10]]);
  assert.deepEqual(aimOf("pick", now({ range, chosen: [0], filling: true })), [range]);
  assert.deepEqual(aimOf("pick", now({ filling: true })), []);
  assert.deepEqual(aimOf("range", now({ range })), [range]);
});

test("while it plays a pick is laid by ear, for a hold from the playhead on", () => {
  assert.deepEqual(aimOf("pick", now({ playing: true, chosen: [0], hold: 3 })), [[11, 14]]);
  assert.deepEqual(aimOf("tap", now({ frame: 39 })), [[39, 40]]);
  assert.deepEqual(aimOf("tap", now({ frame: 40 })), [[39, 40]]);
});

test("what is pasted, repeated, slid and held on reaches as far as it does", () => {
  assert.deepEqual(aimOf("paste", now({ copied: 5 })), [[11, 16]]);
  assert.deepEqual(aimOf("paste", now({ frame: 38, copied: 5 })), [[38, 40]]);
  assert.deepEqual(aimOf("paste", now()), []);
  assert.deepEqual(repeated(now({ chosen: [10, 14] })), [10, 20]);
  assert.deepEqual(aimOf("repeat", now({ chosen: [10, 14], times: 2 })), [[20, 40]]);
  assert.deepEqual(aimOf("repeat", now({ range: [2, 4], times: 3 })), [[4, 10]]);
  assert.deepEqual(aimOf("earlier", now({ chosen: [10] })), [[9, 14]]);
  assert.deepEqual(aimOf("earlier", now({ chosen: [0] })), [[0, 10]]);
  assert.deepEqual(aimOf("later", now({ chosen: [20] })), [[20, 40]]);
  assert.deepEqual(slidBy(-3, now({ chosen: [10, 20] })), [[7, 14], [17, 40]]);
  assert.deepEqual(aimOf("hold on", now({ chosen: [0] })), [[0, 14]]);
  assert.deepEqual(aimOf("hold on", now({ chosen: [14] })), [[14, 40]]);
  assert.deepEqual(aimOf("here", now()), [[10, 14]]);
  assert.deepEqual(aimOf("chosen", now()), [[10, 14]]);
  assert.deepEqual(aimOf("chosen", now({ chosen: [0] })), [[0, 10]]);
  assert.deepEqual(aimOf("later", now()), [[10, 15]]);
  assert.deepEqual(aimOf("hold on", now({ frame: 3 })), [[0, 14]]);
  assert.equal(repeated(now()), null);
});

test("what is laid reaches over what it leaves too little of, of what was decided", () => {
  // half lies on 14 to 20 and is pinned; open on 10 to 14 is not
  assert.deepEqual(aimOf("tap", now({ frame: 15, hold: 3 })), [[14, 20]]);
  assert.deepEqual(aimOf("tap", now({ frame: 16, hold: 2 })), [[16, 18]]);
  assert.deepEqual(aimOf("tap", now({ frame: 17, hold: 2 })), [[17, 20]]);
  assert.deepEqual(aimOf("tap", now({ frame: 11, hold: 2 })), [[11, 13]]);
  assert.deepEqual(tapOf(now({ frame: 15, hold: 3 })), [15, 18]);
  assert.deepEqual(aimOf("fill", now({ range: [15, 19], hold: 2 })), [[14, 20]]);
  assert.deepEqual(aimOf("pick", now({ range: [15, 19], hold: 2, filling: true })), [[14, 20]]);
  assert.deepEqual(aimOf("pick", now({ frame: 15, hold: 3, playing: true })), [[14, 20]]);
  assert.deepEqual(aimOf("repeat", now({ range: [11, 15], hold: 2 })), [[14, 20]]);
  assert.deepEqual(withBits(now(), [[15, 17], [17, 19]]), [[14, 17], [17, 20]]);
});

test("it is told how much was changed, and what of it is not in view", () => {
  assert.equal(toldOf([[10, 11]], 1, [0, 100]), "1 exposure, 1 frame, from 11");
  assert.equal(toldOf([[10, 14], [14, 20]], 0, [0, 100]), "2 exposures, 10 frames, from 10");
  assert.equal(toldOf([[10, 14], [200, 220]], 0, [0, 100]), "2 exposures, 24 frames, from 10, 1 of them outside what is in view");
  assert.equal(toldOf([[10, 14]], 0, [14, 100]), "1 exposure, 4 frames, from 10, outside what is in view");
  assert.equal(toldOf([[100, 101]], 0, [14, 100]), "1 exposure, 1 frame, from 100, outside what is in view");
  assert.equal(toldOf([], 0, [0, 1]), "");
});
