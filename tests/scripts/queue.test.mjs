// What the outbox decides, without a browser.
import assert from "node:assert/strict";
import { test } from "node:test";
import { MOST_AT_ONCE, following, headline, held, newId, retryAfter, together, waited } from "../../src/dry_gauge/web/static/scripts/queue.js";

const record = (n, more = {}) => ({ n, url: "/visits/a/entries", me: "ines", at: 1000 + n, fields: [["kind", "note"]], ...more });

test("ids made later sort later, and say version and variant", () => {
  const ids = [1, 2, 3000, 9e12].map((now) => newId(now));
  assert.deepEqual([...ids].sort(), ids);
  for (const id of ids) assert.match(id, /^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  assert.equal(newId(0x0123456789ab, new Uint8Array(16)).slice(0, 13), "01234567-89ab");
});

test("two ids of one moment differ", () => assert.notEqual(newId(5), newId(5)));

test("waits grow and then stay at half a minute", () => {
  const waits = [0, 1, 2, 3, 4, 5, 50].map(retryAfter);
  assert.deepEqual(waits, [...waits].sort((a, b) => a - b));
  assert.equal(waits.at(-1), 30000);
});

test("what goes together is of one visit, holds no photo, and is never more than the server takes", () => {
  assert.deepEqual(following([]), []);
  assert.deepEqual(following([record(1), record(2), record(3, { url: "/visits/b/entries" })]).map(({ n }) => n), [1, 2]);
  assert.deepEqual(following([record(1), record(2, { file: {} }), record(3)]).map(({ n }) => n), [1]);
  assert.equal(following(Array.from({ length: 250 }, (_, n) => record(n))).length, MOST_AT_ONCE);
});

test("what is held back goes out once its moment has passed", () => {
  assert.deepEqual([held(record(1)), held(record(1, { until: 50 }), 49), held(record(1, { until: 50 }), 50)], [false, true, false]);
});

test("a clock that was set back has made nothing wait", () => {
  assert.equal(waited({ at: 500 }, 800), 300);
  assert.equal(waited({ at: 800 }, 500), 0);
});

test("each entry names its writer and when it was written", () => {
  const [one] = together([record(1)], 3001);
  assert.deepEqual(one, { writer: "ines", waited_ms: 2000, device_time: "1970-01-01T00:00:01.001Z", fields: [["kind", "note"]] });
});

test("what was not kept is said before what waits", () => {
  assert.equal(headline("waiting", 3, 0), "No connection: 3 waiting to send");
  assert.equal(headline("waiting", 3, 1), "1 not kept, 3 waiting");
  assert.equal(headline("idle", 0, 0), "");
  assert.equal(headline("idle", 0, 0, "18:34"), "No connection: shown as of 18:34");
  assert.equal(headline("waiting", 3, 0, "18:34"), "No connection: 3 waiting to send");
});
