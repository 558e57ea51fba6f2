import assert from "node:assert/strict";
import { test } from "node:test";
import { asUsual, canBeGiven, keyOf, pressedAs, usualOf } from "../../tinfork/web/browser/lib/ownkeys.ts";

const pressed = (key, more = {}) => ({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...more });

test("a key is written as it is pressed, and read again", () => {
  const written = { S: pressed("s"), "Shift+S": pressed("S", { shiftKey: true }), "Ctrl+Left": pressed("ArrowLeft", { ctrlKey: true }), "[": pressed("["), "+": pressed("+"), "Ctrl+Alt++": pressed("+", { ctrlKey: true, altKey: true }), Space: pressed(" "), "Shift+Delete": pressed("Delete", { shiftKey: true }) };
  for (const [name, one] of Object.entries(written)) {
    assert.equal(keyOf(one), name);
    assert.deepEqual(pressedAs(name), one);
  }
  assert.equal(keyOf(pressed("{", { shiftKey: true })), "{");
  assert.equal(keyOf(pressed("s", { metaKey: true })), "Ctrl+S");
});

test("a key of one's own does what another does usually, and what was taken from its key does nothing", () => {
  const own = { S: "J", "Ctrl+Left": "F" };
  assert.equal(usualOf(own, "J"), "S");
  assert.equal(usualOf(own, "S"), null);
  assert.equal(usualOf(own, "P"), "P");
  const event = { ...pressed("f"), target: "page" };
  asUsual(own, event);
  assert.deepEqual(event, { ...pressed("ArrowLeft", { ctrlKey: true }), target: "page" });
  const gone = pressed("s");
  asUsual(own, gone);
  assert.equal(gone.key, "Unidentified");
  const swapped = { S: "M", M: "S" };
  assert.deepEqual(["S", "M"].map((name) => usualOf(swapped, name)), ["M", "S"]);
});

test("what has one meaning everywhere is not given away", () => {
  for (const name of ["Escape", "Tab", "Enter", "?", "1", "Ctrl+W", "Ctrl+Shift+T", "Shift", "F5", "Alt+Enter"]) assert.ok(!canBeGiven(name), name);
  for (const name of ["S", "Shift+S", "Ctrl+Left", "+", "0", "Delete", "Alt+W"]) assert.ok(canBeGiven(name), name);
});
