// What is said of a request that failed, and that one failure does not end what comes after it.
import assert from "node:assert/strict";
import { test } from "node:test";

globalThis.location = { href: "http://127.0.0.1/scenes/1/script/" };
const { aWhile, troubleOf, waitAfter } = await import("../../tinfork/web/browser/lib/store/requests.ts");
const { Editor } = await import("../../tinfork/web/browser/lib/store/editor.ts");
const { onceMore, Queue } = await import("../../tinfork/web/browser/lib/store/queue.ts");

test("every way to fail has a sentence of its own, and an answer has none", () => {
  const sentences = [0, 403, 404, 413, 500, 503].map((status) => troubleOf(status, "/scenes/1/script/edit"));
  assert.equal(new Set(sentences).size, 6);
  assert.ok(sentences.every((sentence) => sentence.endsWith(".")));
  assert.match(troubleOf(200, "http://127.0.0.1/sign-in/?next=/"), /signed out/);
  for (const status of [200, 409, 422, 507]) assert.equal(troubleOf(status, "/x"), "");
});

test("work is done in its order, and goes on after a failure", async () => {
  const queue = new Queue();
  const done = [];
  const slow = queue.add(async () => {
    await new Promise((resolve) => setTimeout(resolve, 20));
    done.push("slow");
  });
  const broken = queue.add(() => Promise.reject(new Error("no")));
  const last = queue.add(() => done.push("last"));
  await slow;
  await assert.rejects(broken);
  await last;
  assert.deepEqual(done, ["slow", "last"]);
});

test("what is asked for while it is done is done once more after, and again after a failure", async () => {
  const done = [];
  let broken = false;
  const ask = onceMore(async () => {
    await new Promise((resolve) => setTimeout(resolve, 5));
    if (broken) throw new Error("no");
    done.push("once");
  });
  const first = ask();
  await Promise.all([ask(), ask(), ask()]);
  assert.deepEqual(done, []);
  await first;
  assert.deepEqual(done, ["once", "once"]);
  broken = true;
  await assert.rejects(ask());
  broken = false;
  await ask();
  assert.equal(done.length, 3);
});

test("edits made without a connection wait in sight and are sent in their order when it is back", async () => {
  let connected = false;
  const sent = [];
  const said = [];
  globalThis.document = { body: { getAttribute: () => "{}", dispatchEvent: () => {} }, cookie: "" };
  globalThis.CustomEvent = class {};
  globalThis.fetch = async (url, { body }) => {
    if (!connected) throw new TypeError("Failed to fetch");
    sent.push(JSON.parse(body));
    return { status: 200, url, json: async () => ({ document: { version: sent.length } }) };
  };
  let version = 0;
  const editor = new Editor((sentence) => said.push(sentence), { pause: () => new Promise((resolve) => setTimeout(resolve, 5)) });
  const take = (document) => {
    version = document.version;
  };
  const edits = ["split", "merge", "rest"].map((verb) => editor.edit("/staves/1/edit", () => version, verb, {}, take));
  await new Promise((resolve) => setTimeout(resolve, 20));
  assert.ok(editor.busy);
  assert.ok(said.some((sentence) => sentence.startsWith("No connection: 3 edits wait")));
  assert.deepEqual(sent, []);
  connected = true;
  await Promise.all(edits);
  assert.deepEqual(sent.map(({ verb, version }) => [verb, version]), [["split", 0], ["merge", 1], ["rest", 2]]);
  assert.equal(said.at(-1), "");
  assert.ok(!editor.busy);
});

test("what was asked for while it failed is done all the same", async () => {
  const done = [];
  let first = true;
  const ask = onceMore(async () => {
    await new Promise((resolve) => setTimeout(resolve, 5));
    if (first) {
      first = false;
      throw new Error("no");
    }
    done.push("once");
  });
  const begun = ask();
  await ask();
  await begun;
  assert.deepEqual(done, ["once"]);
});

test("waits grow, are nobody else's, and leave nothing behind", async () => {
  const waits = [0, 1, 2, 9].map((times) => Array.from({ length: 50 }, () => waitAfter(times)));
  assert.ok(waits.every((own) => new Set(own).size > 40));
  assert.ok(Math.min(...waits[2]) > Math.min(...waits[0]) && Math.max(...waits[3]) <= 15000);
  const listening = new Set();
  globalThis.addEventListener = (_kind, heard, { signal }) => {
    listening.add(heard);
    signal.addEventListener("abort", () => listening.delete(heard));
  };
  const waited = aWhile();
  assert.equal(listening.size, 1);
  for (const heard of listening) heard();
  await waited;
  assert.equal(listening.size, 0);
  delete globalThis.addEventListener;
});

test("a form that is sent again has the key it had", async () => {
  const keys = [];
  let reached = 0;
  globalThis.fetch = async (url, { body }) => {
    keys.push(body.get("key"));
    reached += 1;
    if (reached === 1) throw new TypeError("the answer was lost");
    return { status: 200, url, json: async () => ({ document: {} }) };
  };
  const editor = new Editor(() => {}, { pause: async () => {} });
  await editor.send("/scenes/1/sound/bring", new FormData(), () => {});
  await editor.send("/scenes/1/sound/bring", new FormData(), () => {});
  assert.equal(keys[0], keys[1]);
  assert.notEqual(keys[1], keys[2]);
  assert.match(keys[0], /^[0-9a-f]{32}$/);
});
