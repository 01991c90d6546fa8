// What is typed into the pocket's tools, without a page.
import assert from "node:assert/strict";
import { test } from "node:test";
import { valuesOf } from "../../src/dry_gauge/web/static/scripts/pocket.js";

const typed = (text) => valuesOf([["a", text, false]]).a;

test("a decimal comma is one, and a comma in thousands is no number that anything is worked out from", () => {
  assert.deepEqual(["72.5", " 72,5 ", "−4", ",5", "1200"].map(typed), [72.5, 72.5, -4, 0.5, 1200]);
  assert.deepEqual(["1,200", "0,125", "abc"].map(typed), [NaN, NaN, NaN]);
  assert.equal(typed("  "), undefined);
});
