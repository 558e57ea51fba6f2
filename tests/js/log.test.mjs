// The log of the prompter: nothing is lost without a connection, and nothing is kept twice.
import assert from "node:assert/strict";
import { test } from "node:test";
import { Log } from "../../tinfork/web/browser/prompter/log.ts";

function storage(kept = {}) {
  return { getItem: (key) => kept[key] ?? null, setItem: (key, value) => (kept[key] = value), kept };
}

// A server that keeps each key once, and can be out of reach.
function server() {
  const own = { rows: new Map(), away: false };
  own.send = async (said) => {
    if (own.away) throw new Error("No connection.");
    for (const one of said) own.rows.set(one.key, one);
    const rows = [...own.rows.values()];
    return { frames: Object.fromEntries(rows.map(({ frame, again }) => [frame, again])), last: rows.toReversed() };
  };
  return own;
}

const nothing = { frames: {}, last: [] };

test("what is said is known at once and sent when it can be, after the page was left too", async () => {
  const [kept, there] = [storage(), server()];
  there.away = true;
  const log = new Log(kept, "a", nothing, there.send);
  log.say(4, false, "k1", "t1");
  log.say(5, true, "k2", "t2");
  assert.deepEqual([log.state(4), log.state(5), log.state(6)], ["shot", "again", ""]);
  assert.deepEqual(log.due, [5]);
  await assert.rejects(log.sendWaiting());
  const later = new Log(kept, "a", nothing, there.send);
  assert.deepEqual([later.waiting.length, later.state(5)], [2, "again"]);
  there.away = false;
  assert.equal(await later.sendWaiting(), true);
  assert.deepEqual([...there.rows.keys()], ["k1", "k2"]);
  assert.equal(new Log(kept, "a", nothing, there.send).waiting.length, 0);
});

test("what is said while it is being sent waits for the next time", async () => {
  const [kept, there] = [storage(), server()];
  const log = new Log(kept, "a", { frames: { 3: false }, last: [] }, async (said) => {
    if (said.length === 1) log.say(3, true, "k2", "t2");
    return there.send(said);
  });
  log.say(3, false, "k1", "t1");
  assert.equal(await log.sendWaiting(), false);
  assert.equal(log.state(3), "again");
  assert.equal(await log.sendWaiting(), true);
  assert.deepEqual([...there.rows.keys()], ["k1", "k2"]);
});
