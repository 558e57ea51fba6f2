import assert from "node:assert/strict";
import { test } from "node:test";

import { called, standIn } from "../../tinfork/web/browser/lib/focus.ts";

const control = (title, label = "") => ({ title, textContent: "", name: "", getAttribute: () => label });

test("a control is called by its label, else by its title", () => {
  assert.equal(called(control("Undo", "")), "Undo");
  assert.equal(called(control("Undo", "Take back")), "Take back");
});

test("what is gone is stood in for by its namesake, else by what is in its place, else by the last", () => {
  const [a, b, c] = [control("a"), control("b"), control("c")];
  assert.equal(standIn({ name: "c", place: 0 }, [a, b, c]), c);
  assert.equal(standIn({ name: "gone", place: 1 }, [a, b, c]), b);
  assert.equal(standIn({ name: "gone", place: 9 }, [a, b]), b);
  assert.equal(standIn({ name: "gone", place: 0 }, []), null);
});
