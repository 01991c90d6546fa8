// What the outbox decides, apart from any browser: ids, waits, what goes together, what is said to the server.

export const TOGETHER_FROM = 12; // entries of one visit in one request, from so many on
export const MOST_AT_ONCE = 100;
const RETRY_MS = [2000, 4000, 8000, 15000, 30000];

// UUIDv7: made here, so that the same entry sent twice is one entry.
export const newId = (now = Date.now(), bytes = crypto.getRandomValues(new Uint8Array(16))) => {
  for (let i = 5, rest = now; i >= 0; i--, rest = Math.floor(rest / 256)) bytes[i] = rest % 256;
  bytes[6] = (bytes[6] & 0x0f) | 0x70;
  bytes[8] = (bytes[8] & 0x3f) | 0x80;
  const hex = Array.from(bytes, (byte) => byte.toString(16).padStart(2, "0")).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
};

// How long to wait before the next try: longer each time, never longer than half a minute.
export const retryAfter = (tries) => RETRY_MS[Math.min(tries, RETRY_MS.length - 1)];

// The records at the head of the queue that may go in one request: of one visit, without a photo among them.
export const following = (waiting) => {
  if (!waiting.length) return [];
  const { url } = waiting[0];
  const end = waiting.findIndex((record) => record.url !== url || record.file);
  return waiting.slice(0, Math.min(end < 0 ? waiting.length : end, MOST_AT_ONCE));
};

// Whether it is held back for a moment still: it can be dropped until then.
export const held = (record, now = Date.now()) => record.until > now;

// How long an entry waited, by this device's own clock: a clock that was set back has made it wait for nothing.
export const waited = (record, now = Date.now()) => Math.max(0, now - record.at);

export const together = (records, now = Date.now()) => records.map((record) => ({
  writer: record.me, waited_ms: waited(record, now), device_time: new Date(record.at).toISOString(), fields: record.fields,
}));

// What stands over the list of what waits; nothing where there is nothing to say.
export const headline = (state, all, refused, drawn = "") => {
  if (refused) return `${refused} not kept${all ? `, ${all} waiting` : ""}`;
  return {
    idle: drawn && `No connection: shown as of ${drawn}`,
    sending: `Sending ${all}`,
    waiting: `No connection: ${all} waiting to send`,
    away: `The server is busy: ${all} waiting to send`,
    "sign-in": `Sign in to send ${all}`,
  }[state];
};
