// What is being typed on the desk stays when something else arrives, and goes when it is about something else.
import assert from "node:assert/strict";
import { test } from "node:test";

globalThis.document = { addEventListener: () => {}, documentElement: {} };
globalThis.MutationObserver = class {
  observe() {}
};
const { dockOf } = await import("../../tinfork/web/static/js/desk/dock.js");

const word = { at: [0, 0], text: "lamp", said: true, sounds: [{ ipa: "l", start: 0, end: 0.2 }], pinned: [], decided: false, confidence: 1, extra: [], start: 0, end: 0.2 };
const stave = { id: 1, characterId: 1, character: "Marit", read: true, lines: [{ words: [word] }], exposures: [], checks: [], eases: [], meant: [], otherCharts: [], chart: { drawings: [] }, lost: [], pinsAway: [], toPlace: [], outUrl: "KIND", settings: { detail: 0.5 } };
const state = (more = {}) => ({ word: { at: [0, 0], sound: 0 }, chosen: [], in: null, out: null, frame: 3, active: 0, curves: null, ...more });
const page = { keyboard: [[], []], formats: [], startFrame: 1, mayEdit: true, takes: { rows: [] }, history: { steps: [] }, habits: { offers: [], rules: [], shown: null }, frame: (seconds) => seconds * 24 };

test("a half typed sound stays when checks arrive, and is another sound's no longer", () => {
  const dock = dockOf(page);
  dock.show(stave, state(), "word", [stave], null);
  assert.equal(dock.ipa, "l");
  dock.ipa = "m";
  dock.show({ ...stave, checks: [{ kind: "flash", frame: 2, frames: 1, text: "" }] }, state(), "word", [stave], null);
  assert.equal(dock.ipa, "m");
  assert.equal(dock.checkCount, 1);
  dock.show(stave, state({ word: { at: [0, 0], sound: -1 } }), "word", [stave], null);
  assert.equal(dock.ipa, "");
});

test("the bend of a stretch is shown when the playhead comes to one, and what is typed in it stays", () => {
  const dock = dockOf(page);
  dock.show(stave, state(), "range", [stave], null);
  const own = { ...stave, exposures: [{ frame: 2, frames: 4, drawing: "open", own: true, bend: [1, 2, 0] }] };
  dock.show(own, state(), "range", [own], null);
  assert.deepEqual([dock.bent, dock.bend.tall, dock.bend.frame], [true, "2", 2]);
  dock.bend.tall = "1,6";
  dock.show(own, state(), "range", [own], null);
  assert.equal(dock.bend.tall, "1,6");
  dock.show(own, state({ frame: 9 }), "range", [own], null);
  assert.deepEqual([dock.bent, dock.bend.tall], [false, "1"]);
});
