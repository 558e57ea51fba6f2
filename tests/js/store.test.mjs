// What a page knows of a scene: slices by range and version, edits in their order, and what others changed.
import assert from "node:assert/strict";
import { test } from "node:test";
import { Checks } from "../../tinfork/web/browser/desk/checks.ts";
import { Editor } from "../../tinfork/web/browser/lib/store/editor.ts";
import { Store } from "../../tinfork/web/browser/lib/store/store.ts";
import { extremes, levelFor } from "../../tinfork/web/browser/lib/time/peaks.ts";

globalThis.location = { href: "http://127.0.0.1/scenes/1/desk/" };
globalThis.document = { body: { getAttribute: () => "{}", dispatchEvent: () => {} }, cookie: "" };

const FRAMES = 300;
const clip = (id) => ({ id, peaks: `/peaks/${id}`, start: 0 });
const sound = (version = 1, ids = [5]) => ({ version, frames: FRAMES, tracks: [{ clips: ids.map(clip) }] });
const stave = (first, end, version = 1) => ({ id: 7, character: "Marit", otherwise: {}, url: "/staves/7/", editUrl: "/staves/7/edit", checksUrl: "/checks", version, frames: FRAMES, first, end, lines: [], aims: {}, clips: [5], exposures: [{ frame: first, frames: end - first, drawing: `v${version}` }] });

// A store and what it asked for. answers(url, first, end): what the server says.
function storeWith({ answers, view = [0, 90], fills = false, actings } = {}) {
  const asked = [];
  const said = [];
  const changes = [];
  const ask = async (url) => {
    const [first, end] = [...url.matchAll(/=(\d+)/g)].map(([, number]) => Number(number));
    asked.push([url.split("?")[0], first, end]);
    return (answers ?? ((_, a, b) => stave(a, Math.min(FRAMES, b))))(url.split("?")[0], first, end);
  };
  const document = { scene: { rate: { numerator: 24, denominator: 1 }, startFrame: 1 }, mayEdit: true, sound: sound(), soundUrl: "/sound", staves: [stave(0, 100)], slice: 100, versionsUrl: "/versions", actingUrl: "/acting", actings };
  const store = new Store(document, { say: (...what) => said.push(what), view: () => view, fills, ask, editor: (say, others) => new Editor(say, { others, pause: async () => {}, changed: () => {} }) });
  store.changed.on((change) => changes.push(change));
  return { store, asked, said, changes };
}

const drawings = (store) => store.stave(7).exposures.map((one) => [one.frame, one.drawing]);

test("only what is missing of what is in view is asked for", async () => {
  const known = storeWith();
  await known.store.seen();
  assert.deepEqual(known.asked, []);
  const { store, asked } = storeWith({ view: [80, 150] });
  await store.seen();
  assert.deepEqual(asked, [["/staves/7/", 100, 150]]);
  assert.deepEqual(store.stave(7).known, [[0, 150]]);
});

test("where all is asked for, it comes one slice after the other, what is in view first", async () => {
  const { store, asked, changes } = storeWith({ view: [150, 180], fills: true });
  await store.fill();
  assert.deepEqual(asked.map(([, first, end]) => [first, end]), [[150, 180], [180, 280], [280, 300], [100, 150]]);
  assert.deepEqual(changes.filter(({ kind }) => kind === "filled").map(({ whole }) => whole), [false, false, false, false, true]);
  const lean = storeWith();
  await lean.store.fill();
  assert.deepEqual(lean.asked, []);
});

test("a slice of a newer version forgets what was known, and one of an older is asked for again", async () => {
  const newer = storeWith({ view: [80, 150], answers: (_, first, end) => stave(first, Math.min(FRAMES, end), 2) });
  await newer.store.seen();
  assert.deepEqual(drawings(newer.store), [[80, "v2"]]);
  const versions = [1, 2];
  const older = storeWith({
    view: [50, 90],
    answers: (_, first, end) => {
      const version = versions.shift();
      if (version === 1) older.store.put({ ...older.store.stave(7), version: 2 });
      return stave(first, Math.min(FRAMES, end), version);
    },
  });
  await older.store.anew(7);
  assert.deepEqual(versions, []);
  assert.deepEqual(drawings(older.store), [[50, "v2"]]);
});

// Answers of the server to edits, in their order; what was sent.
function edits(...answers) {
  const sent = [];
  globalThis.fetch = async (url, { body }) => {
    sent.push(JSON.parse(body));
    return { status: 200, url: `http://127.0.0.1${url}`, json: async () => answers.shift() };
  };
  return sent;
}

const patch = (version, more = {}) => ({ id: 7, version, frames: FRAMES, undo: "pin", redo: "", renumbered: false, numbers: [], lines: [], aims: {}, drawn: [[10, 12]], stale: [], exposures: [{ frame: 10, frames: 2, drawing: "open", pinned: true }], ...more });

test("edits go one after the other, each on the version the last one left, and what they changed is put in", async () => {
  const { store, changes } = storeWith();
  const sent = edits({ document: patch(2) }, { document: patch(3, { drawn: [], exposures: [] }) });
  await Promise.all([store.edit(7, "pin", { at: 10 }), store.edit(7, "rest")]);
  assert.deepEqual(sent, [{ verb: "pin", version: 1, at: 10 }, { verb: "rest", version: 2 }]);
  assert.deepEqual(drawings(store), [[0, "v1"], [10, "open"], [12, "v1"]]);
  assert.deepEqual(changes.filter(({ kind }) => kind === "busy").map(({ busy }) => busy).at(-1), false);
  assert.deepEqual(changes.find(({ kind }) => kind === "touched").frames, [10, 12]);
});

test("lines with new places are asked for again from what is in view, and an edit that was refused shows what is there", async () => {
  const { store, asked } = storeWith({ answers: (_, first, end) => stave(first, Math.min(FRAMES, end), 4) });
  edits({ document: patch(4, { renumbered: true }) });
  await store.edit(7, "join words");
  assert.deepEqual(asked.slice(0, 1), [["/staves/7/", 0, 100]]);
  assert.deepEqual(drawings(store), [[0, "v4"]]);
  const refused = storeWith({ answers: (_, first, end) => stave(first, Math.min(FRAMES, end), 9) });
  edits({ document: patch(9), problem: "Somebody was faster." });
  await refused.store.edit(7, "pin");
  assert.deepEqual(drawings(refused.store), [[0, "v9"]]);
  assert.equal(refused.said.at(-1)[0], "Somebody was faster.");
});

test("what others changed is asked for, and said; what is on its way is not disturbed", async () => {
  const answers = (url, first, end) => (url === "/sound" ? sound(2, [5, 6]) : stave(first, Math.min(FRAMES, end), 2));
  const { store, changes, asked } = storeWith({ answers });
  await store.compare({ sound: 1, "stave 7": 1 });
  assert.deepEqual(asked, []);
  await store.compare({ sound: 1, "stave 7": 2 });
  assert.match(changes.find(({ kind }) => kind === "elsewhere").sentence, /^Marit was changed elsewhere/);
  assert.equal(store.stave(7).version, 2);
  await store.compare({ sound: 2, "stave 7": 2 });
  assert.deepEqual([...store.clips.keys()], [5, 6]);
  assert.ok(changes.some(({ kind }) => kind === "sound"));
  const busy = storeWith({ answers });
  let answer = () => {};
  globalThis.fetch = () => new Promise((done) => (answer = () => done({ status: 200, url: "http://127.0.0.1/", json: async () => ({}) })));
  const edit = busy.store.edit(7, "pin");
  await busy.store.compare({ sound: 1, "stave 7": 2 });
  assert.deepEqual([busy.asked, busy.store.editor.waiting], [[], 1]);
  answer();
  await edit;
});

test("acting is loaded once it is there, and asked for again when others changed it", async () => {
  const acting = (version) => ({ id: 3, version, character: "Marit", characterId: 2, lanes: { lids: { keys: { y: { 0: [version, 2] } }, shows: {}, gestures: {}, of: { lead: 0, alone: false } } }, lines: [], phrases: {}, wish: { amount: 1 }, moments: {}, url: "/acting/3" });
  let version = 1;
  const { store, asked } = storeWith({ answers: (url) => (url === "/acting" ? { actings: [acting(version)] } : acting(version)) });
  assert.deepEqual(store.posed(2, 0)[0], {});
  await store.compare({ sound: 1, "stave 7": 1, "acting 3": 1 });
  assert.equal(store.posed(2, 0)[0].lids.dials.y, 1);
  version = 2;
  await store.compare({ sound: 1, "stave 7": 1, "acting 3": 2 });
  assert.equal(store.posed(2, 0)[0].lids.dials.y, 2);
  await store.compare({ sound: 1, "stave 7": 1, "acting 3": 2 });
  assert.deepEqual(asked.map(([url]) => url), ["/acting", "/acting/3"]);
});

test("checks are asked for where a stave was touched; those that came of an older version again", async () => {
  const { store } = storeWith();
  const versions = [1, 2];
  const asked = [];
  globalThis.fetch = async (url) => {
    const version = versions.shift() ?? 2;
    asked.push(url);
    if (version === 1) store.put({ ...store.stave(7), version: 2 });
    return new Response(JSON.stringify({ version, checks: [{ frame: 5, kind: "flash" }] }));
  };
  const checks = new Checks(store);
  store.changed.tell({ kind: "touched", id: 7, frames: [60, 64] });
  const end = Date.now() + 5000;
  while ((checks.pending || versions.length) && Date.now() < end) await new Promise((resolve) => setTimeout(resolve, 50));
  assert.equal(asked[0], "/checks?first=12&end=112");
  assert.deepEqual(store.stave(7).checks, [{ frame: 5, kind: "flash" }]);
});

test("the least and the most of a stretch of sound are found in the level that fits it", () => {
  const levels = [{ samples: 64, values: new Int8Array([-1, 2, -3, 4, -5, 6]) }, { samples: 128, values: new Int8Array([-3, 4, -5, 6]) }];
  assert.equal(levelFor(levels, 100).samples, 64);
  assert.equal(levelFor(levels, 10).samples, 64);
  assert.equal(levelFor(levels, 128).samples, 128);
  assert.deepEqual(extremes(levels[0], 64, 128), [-5, 6]);
  assert.deepEqual(extremes(levels[0], 0, 1), [-1, 2]);
  assert.deepEqual(extremes(levels[0], 1000, 64), [0, 0]);
});
