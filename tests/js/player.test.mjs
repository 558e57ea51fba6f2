// Sound that is played: once, however quickly it is asked for, and let go of when it is not heard any more.
import assert from "node:assert/strict";
import { test } from "node:test";

let resume = async () => {};
const started = [];

class Source {
  constructor(_context, { buffer }) {
    this.buffer = buffer;
  }
  connect(next) {
    return next;
  }
  start(...when) {
    this.when = when;
    started.push(this);
  }
  stop() {
    started.splice(started.indexOf(this), 1);
  }
}
globalThis.AudioContext = class {
  currentTime = 0;
  resume = () => resume();
  decodeAudioData = async () => ({ duration: 600 });
};
globalThis.AudioBufferSourceNode = Source;
globalThis.GainNode = class {
  connect(next) {
    return next;
  }
};
const fetched = [];
globalThis.fetch = async (url) => {
  fetched.push(url);
  return new Response("x");
};
const { Player } = await import("../../tinfork/web/browser/lib/time/player.ts");
const { heardPieces } = await import("../../tinfork/web/browser/lib/time/pieces.ts");

const clip = (listen, seconds = 10) => ({ listen, start: 0, offset: 0, seconds, whole: seconds, gain: 1 });

async function ready(...clips) {
  started.length = 0;
  resume = async () => {};
  const player = new Player({ numerator: 24, denominator: 1 });
  await player.show(clips, clips[0].seconds);
  return player;
}

test("two quick plays sound once", async () => {
  const player = await ready(clip("/a"));
  resume = () => new Promise((done) => setTimeout(done, 10));
  assert.deepEqual(await Promise.all([player.play(0), player.play(0)]), [false, true]);
  assert.equal(started.length, 1);
  assert.ok(player.playing);
});

test("stopped before it could begin, it does not begin", async () => {
  const player = await ready(clip("/a"));
  resume = () => new Promise((done) => setTimeout(done, 10));
  const begun = player.play(0);
  assert.ok(player.starting);
  player.stop();
  assert.equal(await begun, false);
  assert.ok(!player.playing && !player.starting);
  assert.equal(started.length, 0);
});

test("what is not in the scene any more is let go of", async () => {
  const player = await ready(clip("/a"), clip("/b"));
  assert.equal(player.pieces.count, 2);
  await player.show([clip("/b")], 10);
  assert.equal(player.pieces.count, 1);
  assert.ok(player.pieces.get("/b"));
});

test("a long sound is fetched by pieces around what is heard, joined to the sample, and let go of", async () => {
  fetched.length = 0;
  const player = await ready(clip("/long", 5400));
  assert.deepEqual(fetched, ["/long?piece=0"]);
  await player.play(170);
  assert.deepEqual(fetched.slice(1), ["/long?piece=2", "/long?piece=3"]);
  const [one, two] = started.map((source) => source.when);
  assert.deepEqual(one.slice(1), [50, 10]);
  assert.deepEqual(two.slice(1), [0, 30]);
  assert.ok(Math.abs(one[0] + 10 - two[0]) < 1e-9);
  // Near the end of what is scheduled, what follows is scheduled on.
  player.context.currentTime = 30;
  await player.turn();
  await new Promise((done) => setTimeout(done, 5));
  assert.deepEqual(fetched.slice(3), ["/long?piece=4"]);
  assert.equal(started.length, 4);
  const scheduled = started.map(({ when }) => [when[0] - started[0].when[0] + 170, when[2]]);
  for (const [at, [begins, seconds]] of scheduled.entries()) {
    const ends = begins + seconds;
    if (scheduled[at + 1]) assert.ok(Math.abs(ends - scheduled[at + 1][0]) < 1e-9);
    else assert.ok(Math.abs(ends - 250) < 1e-9);
  }
  for (let at = 300; at < 5000; at += 300) await player.play(at);
  assert.ok(player.pieces.count < 8, `${player.pieces.count} are held`);
  player.stop();
});

test("where a clip begins within its sound is kept through its pieces", () => {
  const own = { listen: "/x", start: 100, offset: 130, seconds: 120, whole: 900, gain: 1 };
  assert.deepEqual(heardPieces(own, 0, 1000), [
    { url: "/x?piece=2", when: 100, inside: 10, seconds: 50 },
    { url: "/x?piece=3", when: 150, inside: 0, seconds: 60 },
    { url: "/x?piece=4", when: 210, inside: 0, seconds: 10 },
  ]);
  assert.deepEqual(heardPieces({ ...own, whole: 200 }, 110, 120), [{ url: "/x", when: 110, inside: 140, seconds: 10 }]);
  assert.deepEqual(heardPieces(own, 0, 100), []);
});
