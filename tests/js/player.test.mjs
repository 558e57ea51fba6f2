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
  decodeAudioData = async () => ({ duration: 60 });
};
globalThis.AudioBufferSourceNode = Source;
globalThis.GainNode = class {
  connect(next) {
    return next;
  }
};
globalThis.fetch = async () => new Response("x");
const { Player } = await import("../../tinfork/web/static/js/lib/player.js");

const clip = (listen) => ({ listen, start: 0, offset: 0, seconds: 10, gain: 1 });

async function ready(...clips) {
  started.length = 0;
  const player = new Player({ numerator: 24, denominator: 1 });
  await player.show(clips, 10);
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
  assert.equal(player.buffers.size, 2);
  await player.show([clip("/b")], 10);
  assert.deepEqual([...player.buffers.keys()], ["/b"]);
});
