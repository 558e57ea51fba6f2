import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";

import { heldButton, Recorder, stick } from "../../tinfork/web/browser/acting/recorder.ts";
import { matrices } from "../../tinfork/web/browser/lib/face/matrices.ts";
import { Acted } from "../../tinfork/web/browser/lib/store/acted.ts";
import { ActedLane } from "../../tinfork/web/browser/lib/store/actedlane.ts";

const table = JSON.parse(readFileSync("tests/acting.json", "utf8"));
const near = (one, other, what, far = 1e-3) => assert.ok(Math.abs(one - other) < far, `${what}: ${one} is not ${other}`);

test("the page works out what parts do as the core does", () => {
  const parts = [["head", 3, 90, ""], ["hat", -5, -60, "head"]].map(([name, x, y, on]) => ({ name, x, y, on, rest: "", drawings: [], role: "" }));
  for (const { lane, seen } of table) {
    const own = new ActedLane(structuredClone(lane), () => 1.2);
    for (const [frame, dials, drawing, matrix] of seen) {
      const pose = own.pose(frame);
      for (const dial of own.dials) near(pose.dials[dial], dials[dial] ?? 0, `${dial} on ${frame}`);
      for (const dial of own.dials) near(own.dense(dial, 120)[frame], dials[dial] ?? 0, `${dial} of all on ${frame}`);
      assert.equal(pose.drawing, drawing);
      const placed = matrices(parts, { head: pose, hat: { dials: { turn: 20 }, drawing: null, alone: false } }).hat;
      placed.forEach((value, i) => near(value, matrix[i], `matrix ${i} on ${frame}`, 1e-2));
    }
  }
});

test("a patch changes, adds and takes away entries, and nothing else", () => {
  const lane = new ActedLane(structuredClone(table[0].lane));
  const before = structuredClone(lane.maps);
  const dial = Object.keys(before.keys)[0];
  const [frame] = Object.keys(before.keys[dial]);
  lane.apply({ keys: { [dial]: { [frame]: null, 90: [3, 1] } }, gestures: { 1: null } });
  assert.equal(lane.keyed(dial, 90), 3);
  assert.ok(!lane.keys[dial].frames.includes(Number(frame)));
  assert.deepEqual(lane.gestures.map((one) => one.id).sort(), Object.keys(before.gestures).map(Number).filter((id) => id !== 1));
  assert.deepEqual(lane.maps.shows, before.shows);
});

test("an edit's answer reaches only the lanes it names", () => {
  const acted = new Acted({ version: 1, lines: [], wish: { amount: 1 }, phrases: {}, lanes: { head: structuredClone(table[1].lane), lids: structuredClone(table[2].lane) } });
  const { head } = acted.lanes;
  acted.apply({ version: 2, lanes: { lids: { shows: { 80: null } } }, whole: null });
  assert.equal(acted.lanes.head, head);
  assert.deepEqual(acted.lanes.lids.shows, []);
  assert.equal(acted.version, 2);
  const [dial] = Object.keys(acted.lanes.head.gestures[0].dials);
  const [{ frame }] = acted.lanes.head.gestures;
  const before = acted.lanes.head.value(dial, frame + 3) - acted.lanes.head.keyed(dial, frame + 3);
  acted.apply({ version: 3, lanes: {}, whole: null, wish: { amount: 2 } });
  near(acted.lanes.head.value(dial, frame + 3) - acted.lanes.head.keyed(dial, frame + 3), 2 * before, "twice as much");
});

test("a pass records where the sound is, by keys and by a game pad, and survives a pad that is pulled out", () => {
  let frame = 3;
  let pads = [];
  const hand = { value: "0", focus() {} };
  const recorder = new Recorder({ hand, frame: () => frame, pads: () => pads });
  recorder.begin({ dial: "y", with: "mouse", drawings: [], most: 10 });
  recorder.tick();
  assert.ok(recorder.key({ key: "ArrowUp" }, true));
  frame = 4.5;
  recorder.tick();
  assert.deepEqual(recorder.end().samples, [[3, 0], [4.5, 0.8]]);

  recorder.begin({ dial: "y", with: "pad", drawings: [], most: 10 });
  pads = [{ connected: true, axes: [0, -0.5], buttons: [] }];
  assert.equal(recorder.tick(), "");
  pads = [];
  assert.match(recorder.tick(), /game pad is not there/);
  assert.deepEqual(recorder.end().samples, [[4.5, 5]]);

  recorder.begin({ dial: "switch", with: "mouse", drawings: [{ name: "half" }, { name: "shut" }], most: 0 });
  recorder.key({ key: "2" }, true);
  frame = 6;
  recorder.key({ key: "2" }, false);
  assert.deepEqual(recorder.end().shown, [[4.5, "shut"], [6, ""]]);
  assert.equal(recorder.end(), null);
});

test("a stick at rest is at rest, and the farther axis counts", () => {
  assert.equal(stick([{ connected: true, axes: [0.01, 0.02] }]), 0);
  assert.equal(stick([{ connected: true, axes: [-0.9, 0.3] }]), -0.9);
  assert.equal(stick([null]), null);
  assert.equal(heldButton([{ connected: true, buttons: [{ pressed: false }, { pressed: true }] }]), 1);
});
