// What is being typed on the desk stays when something else arrives, and goes when it is about something else.
import assert from "node:assert/strict";
import { test } from "node:test";

globalThis.document = { addEventListener: () => {}, documentElement: {} };
const { Choosing } = await import("../../tinfork/web/browser/desk/choosing.ts");
const { dockOf } = await import("../../tinfork/web/browser/desk/dock/dock.ts");
const { roomOf } = await import("../../tinfork/web/browser/desk/wordroom.ts");
const { doubtful, saidOtherwise } = await import("../../tinfork/web/browser/desk/words.ts");
const { reasonOf } = await import("../../tinfork/web/browser/desk/why.ts");

const word = { at: [0, 0], text: "lamp", said: true, sounds: [{ ipa: "l", start: 0, end: 0.2, confidence: 1 }], pinned: [], decided: false, confidence: 1, extra: [], start: 0, end: 0.2 };
const usual = { id: 1, characterId: 1, character: "Marit", read: true, lines: [{ words: [word] }], exposures: [], checks: [], eases: [], meant: [], otherCharts: [], otherwise: {}, chart: { drawings: [] }, lost: [], pinsAway: [], toPlace: [], outUrl: "KIND", settings: { detail: 0.5 } };

function deskWith(more = {}) {
  const desk = { stave: usual };
  const state = { word: { at: [0, 0], sound: 0 }, chosen: [], lead: null, in: null, out: null, frame: 3, active: 0, curves: null, startFrame: 1, tab: "word", staves: [usual], ...more };
  const page = { given: { keyboard: [[], []], formats: [], mayEdit: true }, fps: 24, state, stave: () => desk.stave, transport: { span: null, inView: [0, 10] }, takes: { rows: [], compared: null }, history: { steps: [] }, habits: { offers: [], rules: [], shown: null }, notes: { all: [] } };
  page.choosing = new Choosing(page, () => 12);
  return { desk, state, dock: dockOf(page) };
}

test("a half typed sound stays when checks arrive, and is another sound's no longer", () => {
  const { desk, state, dock } = deskWith();
  dock.show();
  assert.equal(dock.asked.ipa, "l");
  dock.asked.ipa = "m";
  desk.stave = { ...usual, checks: [{ kind: "flash", frame: 2, frames: 1, text: "" }] };
  dock.show();
  assert.equal(dock.asked.ipa, "m");
  assert.equal(dock.asked.checkCount, 1);
  state.word = { at: [0, 0], sound: -1 };
  dock.show();
  assert.equal(dock.asked.ipa, "");
});

test("the bend of a stretch is shown when the playhead comes to one, and what is typed in it stays", () => {
  const { desk, state, dock } = deskWith({ tab: "range" });
  dock.show();
  desk.stave = { ...usual, exposures: [{ frame: 2, frames: 4, drawing: "open", own: true, bend: [1, 2, 0] }] };
  dock.show();
  const { bent, bend } = dock.asked;
  assert.deepEqual([bent, bend.tall, bend.frame], [true, "2", 2]);
  bend.tall = "1,6";
  dock.show();
  assert.equal(dock.asked.bend.tall, "1,6");
  state.frame = 9;
  dock.show();
  assert.deepEqual([dock.asked.bent, dock.asked.bend.tall], [false, "1"]);
});

test("a word that is said otherwise is the first to be looked at, as long as its line stands as it was compared", () => {
  const unwritten = { ...word, at: [0, 1], text: "(sounds)" };
  const other = { ...word, at: [0, 2], text: "mugs", pinned: [0] };
  const line = { id: 4, text: "lamp mugs", words: [word, unwritten, other] };
  const stave = { ...usual, lines: [line], otherwise: { "4 1": ["said: jugs", "lamp mugs"] } };
  assert.equal(saidOtherwise(stave, line).get(other), "said: jugs");
  assert.equal(saidOtherwise(stave, line).get(word), undefined);
  assert.deepEqual(doubtful(stave).map((one) => one.word.text), ["mugs", "(sounds)"]);
  assert.deepEqual(doubtful({ ...stave, lines: [{ ...line, text: "lamp jugs" }] }).map((one) => one.word.text), ["(sounds)"]);
});

test("an edge of a word goes as far as its sounds, its pins and its neighbours let it", () => {
  const sounds = (...times) => times.slice(1).map((end, i) => ({ ipa: "a", start: times[i], end, confidence: 1 }));
  const of = (at, pinned, ...times) => ({ ...word, at: [0, at], pinned, sounds: sounds(...times), start: times[0], end: times.at(-1) });
  const [first, own, last] = [of(0, [], 0, 0.1, 0.2), of(1, [], 0.2, 0.3, 0.4), of(2, [], 0.6, 0.8)];
  const near = (found, wanted) => found.forEach((value, i) => assert.ok(Math.abs(value - wanted[i]) < 1e-9, `${found}`));
  near(roomOf(own, 0, [first, own, last], 2), [0.02, 0.38]);
  near(roomOf(own, 1, [first, own, last], 2), [0.21, 0.39]);
  near(roomOf(own, 2, [first, own, last], 2), [0.22, 0.6]);
  near(roomOf(last, 1, [first, own, last], 2), [0.61, 2]);
  near(roomOf({ ...own, pinned: [1] }, 0, [first, own], 2), [0.02, 0.29]);
  near(roomOf({ ...own, pinned: [1] }, 2, [first, own], 2), [0.31, 2]);
});

test("an exposure says what it is there for, and why a sound is not simply shown", () => {
  const chart = { drawings: [{ name: "open", meaning: "as in far" }] };
  const exposure = { frame: 0, frames: 3, drawing: "open", pinned: false };
  assert.equal(reasonOf(exposure, chart, undefined), "open (as in far), held 3.");
  assert.equal(reasonOf(exposure, chart, []), "open (as in far), held 3: nobody speaks here.");
  assert.equal(reasonOf(exposure, chart, [["ɑː", ""], ["t", "Too short"], ["d", "Too short"]]), "open (as in far), held 3 for /ɑː/. /t/ /d/: too short");
  assert.equal(reasonOf({ ...exposure, pinned: true }, chart, []), "open (as in far), held 3: a person pinned it.");
});
