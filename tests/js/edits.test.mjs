// What is said of a request that failed, and that one failure does not end what comes after it.
import assert from "node:assert/strict";
import { test } from "node:test";

globalThis.location = { href: "http://127.0.0.1/scenes/1/script/" };
const { Queue, troubleOf } = await import("../../tinfork/web/static/js/lib/edits.js");

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
