import assert from "node:assert/strict";
import { test } from "node:test";
import { isShown, order, wantedIn } from "../../tinfork/web/browser/board/filter.ts";

const shot = (given) => ({ name: "", number: "", state: "read", who: "", sequence: "", due: "", frames: 0, priority: 0, late: false, ...given });
const STATES = ["", "no sound", "to read", "read", "approved"];
const shown = (given, query) => isShown(shot(given), wantedIn(query));
const sorted = (sort, shots) => shots.map(shot).sort(order(sort, STATES)).map(({ name }) => name);

test("a shot is found by every word of its name, number, sequence and whose it is", () => {
  const goat = { name: "The goat", number: "0120", who: "Hilde", sequence: "Pier" };
  for (const query of ["", "q=GOAT", "q=0120+hilde", "q=pier+the", "q=+goat+"]) assert.ok(shown(goat, query), query);
  for (const query of ["q=goats", "q=goat+bill", "q=read"]) assert.ok(!shown(goat, query), query);
});

test("a shot is shown by state, by whose it is, nobody's too, and by sequence", () => {
  assert.ok(shown({ state: "approved" }, "state=approved"));
  assert.ok(!shown({ state: "read" }, "state=approved"));
  assert.ok(shown({ late: true }, "state=late"));
  assert.ok(!shown({ late: false }, "state=late"));
  assert.ok(shown({ who: "Hilde" }, "who=Hilde"));
  assert.ok(!shown({ who: "Hilde" }, "who=-"));
  assert.ok(shown({ who: "" }, "who=-"));
  assert.ok(!shown({ who: "" }, "who=Hilde"));
  assert.ok(shown({ sequence: "Pier" }, "sequence=Pier&who=-"));
  assert.ok(!shown({ sequence: "" }, "sequence=Pier"));
});

test("shots are sorted by what they have, those without it last, equal ones as they were", () => {
  const given = [{ name: "b", number: "10", due: "", priority: 0, frames: 5, state: "approved", who: "z" }, { name: "a", number: "9", due: "2026-12-02", priority: 1, frames: 9, state: "to read", who: "" }, { name: "c", number: "", due: "2026-12-01", priority: 0, frames: 5, state: "read", who: "A" }];
  const expected = { "": "bac", number: "abc", name: "abc", due: "cab", priority: "abc", frames: "abc", state: "acb", who: "cba" };
  for (const [sort, names] of Object.entries(expected)) assert.equal(sorted(sort, given).join(""), names, sort);
});
