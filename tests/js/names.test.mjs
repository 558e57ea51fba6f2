import assert from "node:assert/strict";
import { test } from "node:test";

import { guessed, namesIn } from "../../tinfork/web/browser/start/names.ts";

test("names are taken one by one, without blanks or doubles", () => {
  assert.deepEqual(namesIn(" Marit, Brede ,, Marit,"), ["Marit", "Brede"]);
  assert.deepEqual(namesIn(""), []);
});

test("a file is the only speaker's, or the one's in its name, or nobody's for certain", () => {
  assert.equal(guessed("fog.wav", ["Marit"]), "Marit");
  assert.equal(guessed("1 brede.WAV", ["Marit", "Brede"]), "Brede");
  assert.equal(guessed("marit and brede.wav", ["Marit", "Brede"]), "");
  assert.equal(guessed("fog.wav", []), "");
});
