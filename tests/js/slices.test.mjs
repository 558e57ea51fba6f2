// What a page knows of staves it only reads slices of.
import assert from "node:assert/strict";
import { test } from "node:test";
import { Checks } from "../../tinfork/web/static/js/desk/companions.js";
import { Slices } from "../../tinfork/web/static/js/desk/slices.js";
import { extremes, levelFor } from "../../tinfork/web/static/js/lib/peaks.js";

globalThis.location = { href: "http://127.0.0.1/scenes/1/sheet/" };
globalThis.document = { body: { getAttribute: () => "{}" }, cookie: "" };

const stave = (first, end, version = 1) => ({ id: 7, url: "/staves/7/", version, frames: 300, first, end, lines: [], aims: {}, clips: [], exposures: [{ frame: first, frames: end - first, drawing: `v${version}` }] });

function serving(version) {
  const asked = [];
  globalThis.fetch = async (url) => {
    const [first, end] = [...url.matchAll(/=(\d+)/g)].map(([, number]) => Number(number));
    asked.push([first, end]);
    return new Response(JSON.stringify(stave(first, Math.min(300, end), version)), { headers: { "Content-Type": "application/json" } });
  };
  return asked;
}

test("only what is missing is asked for, and a newer version forgets what was known", async () => {
  let changes = 0;
  const slices = new Slices([stave(0, 100)], 100, () => (changes += 1));
  let asked = serving(1);
  await slices.more(0, 90);
  assert.deepEqual([asked.length, changes], [0, 0]);
  await slices.more(80, 150);
  assert.equal(asked.length, 1);
  assert.ok(asked[0][0] <= 100 && asked[0][1] >= 150);
  assert.deepEqual(slices.of(7).exposures.map((one) => one.drawing), ["v1", "v1"]);
  assert.deepEqual(slices.older({ "stave 7": 1 }), []);
  assert.deepEqual(slices.older({ "stave 7": 2 }).map((one) => one.id), [7]);
  asked = serving(2);
  await slices.anew(7, 50);
  assert.deepEqual(slices.of(7).exposures.map((one) => [one.frame, one.drawing]), [[50, "v2"]]);
  assert.equal(changes, 2);
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

test("a slice that comes after an edit and is older is asked for again", async () => {
  const slices = new Slices([stave(0, 100)], 100, () => {});
  const versions = [1, 2];
  globalThis.fetch = async (url) => {
    const [first, end] = [...url.matchAll(/=(\d+)/g)].map(([, number]) => Number(number));
    const version = versions.shift();
    if (version === 1) slices.put({ ...slices.of(7), version: 2 });
    return new Response(JSON.stringify(stave(first, Math.min(300, end), version)));
  };
  await slices.more(80, 150);
  assert.deepEqual(versions, []);
  assert.equal(slices.of(7).version, 2);
  assert.ok(slices.of(7).exposures.some((one) => one.drawing === "v2"));
});

test("checks that came of an older version are asked for again", async () => {
  const known = { id: 7, version: 1, frames: 300, checks: [], checksUrl: "/staves/7/checks" };
  const versions = [1, 2];
  globalThis.fetch = async () => {
    const version = versions.shift();
    if (version === 1) known.version = 2;
    return new Response(JSON.stringify({ version, checks: [{ frame: 5, kind: "flash" }] }));
  };
  const checks = new Checks({ staveOf: () => known, slice: 1000, put: (_, found) => Object.assign(known, { checks: found }) });
  checks.changed(7, 0, 20);
  const end = Date.now() + 5000;
  while ((checks.pending || versions.length) && Date.now() < end) await new Promise((resolve) => setTimeout(resolve, 50));
  assert.deepEqual(known.checks, [{ frame: 5, kind: "flash" }]);
});
