// Cells and the lines that are sent, without a browser.
import assert from "node:assert/strict";
import { test } from "node:test";
import { bulbOf, joined, split } from "../../src/dry_gauge/web/static/scripts/rows.js";

test("lines are taken apart as the server does, and come back as they were", () => {
  const text = "95 67wb 123 410 12\n65 57 wb, 110; - | 9\n\n 75 - 118 ";
  const rows = split(text);
  assert.deepEqual(rows, [["95", "67wb", "123", "410", "12"], ["65", "57wb", "110", "", "9"], ["75", "", "118"]]);
  assert.equal(joined(rows), "95 67wb 123 410 12\n65 57wb 110 - 9\n75 - 118");
});

test("a column of wet bulbs is marked once, whatever was typed into it", () => {
  assert.equal(joined([["95", "67", "123", "410"], ["95", "70wb", "", "430 psig"], ["", "", "", "", ""]], 1), "95 67wb 123 410\n95 70wb - 430psig");
  assert.equal(joined([["95", "67", "123", "", ""], ["", "", "", "", ""]], 1, 4), "95 67wb 123 -");
  assert.equal(bulbOf([["95", "67wb"], ["65", ""]], 1), "wb");
  assert.equal(bulbOf([["95", "67wb"], ["65", "75"]], 1), "db");
  assert.equal(bulbOf([], 1), "");
});
