// What may import what: views know the parts they are made of, the parts know the store, the store knows no elements; and
// no view knows another.
import assert from "node:assert/strict";
import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, relative } from "node:path";
import { test } from "node:test";

const ROOT = "tinfork/web/browser";
const MOST_LINES = 300;
const sources = readdirSync(ROOT, { recursive: true }).filter((name) => name.endsWith(".ts")).map((name) => join(ROOT, name));
const importsOf = (file) => [...readFileSync(file, "utf8").matchAll(/(?:from|import) "(\.[^"]+)"/g)].map(([, path]) => relative(ROOT, join(dirname(file), path)));

// The lower, the less it knows. lib/types.ts and lib/store are values and what keeps them; lib/time and lib/face draw.
const LAYERS = ["lib/types", "lib/store/", "lib/", "lib/time/", "lib/face/"];
const layerOf = (name) => (name.startsWith("lib/") ? LAYERS.findLastIndex((start) => name.startsWith(start)) : LAYERS.length);
const viewOf = (name) => (name.startsWith("lib/") ? "lib" : name.includes("/") ? name.split("/")[0] : name);
const SHARED = ["script/word.ts"]; // the window of a word, which script and lexicon open

test("nothing imports what lies above it, and no view another", () => {
  const wrong = sources.flatMap((file) => {
    const own = relative(ROOT, file);
    return importsOf(file)
      .filter((path) => layerOf(path) > layerOf(own) || (viewOf(path) !== "lib" && viewOf(path) !== viewOf(own) && !SHARED.includes(path)))
      .map((path) => `${own} imports ${path}`);
  });
  assert.deepEqual(wrong, []);
});

test("the store knows no elements", () => {
  const wrong = sources.filter((file) => file.includes("lib/store/") && /getElementById|querySelector|createElement/.test(readFileSync(file, "utf8")));
  assert.deepEqual(wrong, []);
});

test("a file has one subject, and room on a few screens", () => {
  const long = sources.filter((file) => readFileSync(file, "utf8").split("\n").length > MOST_LINES);
  assert.deepEqual(long, []);
});
