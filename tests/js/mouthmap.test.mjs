import assert from "node:assert/strict";
import { test } from "node:test";
import { keysOf } from "../../tinfork/web/browser/desk/mouthmap.ts";

const drawing = (label, key = "", mood = "neutral") => ({ name: mood === "neutral" ? label : `${mood} · ${label}`, label, mood, key });
const all = [drawing("rest", "r"), drawing("press"), drawing("open", "1"), drawing("rest", "", "happy"), drawing("open", "o", "happy"), drawing("wide", "r", "happy")];
const of = (mood) => Object.fromEntries(keysOf(all.filter((one) => one.mood === mood), all));

test("drawings have keys of their own, and the others the digits that are left", () => {
  assert.deepEqual(of("neutral"), { rest: "r", press: "2", open: "1" });
});

test("in a mood a drawing has the key of the neutral one, unless another of the mood has it", () => {
  assert.deepEqual(of("happy"), { "happy · rest": "1", "happy · open": "o", "happy · wide": "r" });
  const without = all.slice(0, 5);
  assert.deepEqual(Object.fromEntries(keysOf(without.filter((one) => one.mood === "happy"), without)), { "happy · rest": "r", "happy · open": "o" });
});

test("no more have digits than there are", () => {
  const many = Array.from({ length: 12 }, (_, at) => drawing(`d${at}`));
  assert.deepEqual([...keysOf(many, many).values()].join(""), "123456789");
});
