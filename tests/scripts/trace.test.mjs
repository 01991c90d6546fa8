// The lines of live probes, without a canvas.
import assert from "node:assert/strict";
import { test } from "node:test";
import { MINUTES, MOST_POINTS, bounds, grown } from "../../src/dry_gauge/web/static/scripts/trace.js";

test("ten minutes stay, the rest drops out, and the line that was given is left alone", () => {
  const before = [[0, 1], [100, 2]];
  assert.deepEqual(grown(before, MINUTES * 60 + 50, 3), [[100, 2], [650, 3]]);
  assert.equal(before.length, 2);
});

test("a probe that speaks too often loses its oldest points", () => {
  let line = [];
  for (let i = 0; i < MOST_POINTS + 40; i++) line = grown(line, i / 100, i);
  assert.equal(line.length, MOST_POINTS);
  assert.equal(line.at(-1)[1], MOST_POINTS + 39);
});

test("nothing and twenty are always in sight", () => {
  assert.deepEqual(bounds([5, 12]), { low: 0, high: 20 });
  assert.deepEqual(bounds([-3, 47]), { low: -10, high: 50 });
});
