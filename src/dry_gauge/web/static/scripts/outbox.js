// Everything that is sent goes through here: kept in this browser first, sent in order with its own id, and forgotten
// only when the server has answered. Without a connection it waits, through reloads and closed tabs.
import { hour } from "./clock.js";
import { fetchChanges, inTurn, pageHeaders, takeIn } from "./changes.js";
import { TOGETHER_FROM, following, headline, held, retryAfter, together, waited } from "./queue.js";
import * as shelf from "./shelf.js";

const me = document.body.dataset.me || "";
const here = document.body.dataset.visit ? `/visits/${document.body.dataset.visit}` : "";
const QUIET_FROM = 4; // a longer queue is sent without asking for the page's changes each time
const LONGEST_ANSWER_MS = 20000;
const SLOW_MS = 500; // sending that takes longer is shown, and counted this often
const MOST_RENEWALS = 5;
const MOST_FAILS = 3;

let token = document.body.dataset.csrf || "";
let draining = null, again = false, tries = 0, retryAt = 0, retryTimer = 0;
let drawnAt = 0;
let state = "idle"; // idle, sending, waiting, away, sign-in

// Names this browser to the server, so that what it sends stays in its own order. Without storage it has no name.
const sender = (() => {
  try {
    if (!localStorage.getItem("sender")) localStorage.setItem("sender", crypto.getRandomValues(new Uint32Array(3)).join("-"));
    return localStorage.getItem("sender");
  } catch { return ""; }
})();

// A record of `url` with `fields`, a list of names and values; resolves with its number once it is kept in this browser.
// One that is held goes out so much later, whatever happens to the page, unless it is dropped before. With a `page`, its line
// leads there.
export const put = async (record, heldMs = 0) => {
  const n = await shelf.add("waiting", { ...record, me, at: Date.now(), ...(heldMs ? { until: Date.now() + heldMs } : {}) });
  if (state !== "idle" && state !== "sending") show();
  drain();
  return n;
};
export const drop = (n) => shelf.remove("waiting", n);

const mine = async (store) => (await shelf.all(store, 200)).filter((record) => record.me === me);
const first = () => shelf.first("waiting", (record) => record.me === me && !held(record));

// Only one tab sends at a time.
const drain = () => {
  if (draining) { again = true; return draining; }
  if (Date.now() < retryAt) return Promise.resolve();
  const work = () => sendAll().catch((error) => { console.warn("outbox", error); later(); });
  draining = (navigator.locks ? navigator.locks.request("dry-gauge-outbox", work) : work()).finally(() => {
    draining = null;
    if (again) { again = false; drain(); }
  });
  return draining;
};

const later = (why = "waiting") => {
  state = why;
  shelf.stay();
  const wait = retryAfter(tries++);
  retryAt = Date.now() + wait;
  clearTimeout(retryTimer);
  retryTimer = setTimeout(() => { retryAt = 0; drain(); }, wait);
  show();
};

const freshToken = async () => {
  const answer = await fetch("/me/token", { headers: { "hx-request": "true" }, cache: "no-store" });
  if (!answer.ok) return false;
  token = (await answer.json()).token;
  document.body.setAttribute("hx-headers:inherited", JSON.stringify({ "x-csrftoken": token }));
  return true;
};

// By hand: phones that cannot be brought past the summer of 2022 know no `AbortSignal.timeout`.
const within = (ms) => {
  const call = new AbortController();
  setTimeout(() => call.abort(), ms);
  return call.signal;
};

const post = async (record, quiet) => {
  const typedAt = new Date(record.at).toISOString();
  const headers = { "hx-request": "true", "x-csrftoken": token, "x-outbox": "1", "x-device-time": typedAt };
  headers["x-waited-ms"] = String(waited(record));
  headers["x-writer"] = record.me; // under another session it waits for its writer
  if (sender) headers["x-sender"] = sender;
  if (quiet) headers["x-quiet"] = "1";
  if (record.url.startsWith(`${here}/`)) Object.assign(headers, pageHeaders());
  let body;
  if (record.file) {
    body = new FormData();
    record.fields.forEach(([name, value]) => body.append(name, value));
    body.append(record.file.field, record.file.blob, record.file.name);
  } else body = new URLSearchParams(record.fields);
  return fetch(record.url, { method: "POST", headers, body, signal: within(record.file ? 120000 : LONGEST_ANSWER_MS) });
};

// Entries of one visit that waited together go together: each is answered by its id, a refused one alone.
const postTogether = (records) => {
  const headers = { "hx-request": "true", "x-csrftoken": token, "x-outbox": "1", "content-type": "application/json" };
  return fetch(`${records[0].url}/together`, {
    method: "POST", headers, body: JSON.stringify({ sender, entries: together(records) }), signal: within(LONGEST_ANSWER_MS),
  });
};
// A refusal stands beside the field that it is about, where that is on this page.
const sayBeside = (record, why) => {
  const form = record.url.startsWith(`${here}/`) && document.getElementById(record.form);
  const said = form && form.querySelector(".said");
  if (!said) return;
  const words = document.createElement("span");
  words.className = "error";
  words.textContent = why;
  said.replaceChildren(words);
};
// Whether the queue moved on: false where the answer has to be looked at by sending one alone.
const sendTogether = async () => {
  const records = following((await mine("waiting")).filter((record) => !held(record)));
  if (records.length < 2) return false;
  const answer = await postTogether(records);
  if (!answer.ok) return false;
  const { answers } = await answer.json();
  for (const [i, { status, why }] of answers.entries()) {
    if (status === 401) break; // somebody else is signed in: it waits for its writer
    if (status >= 300) {
      await shelf.add("refused", { me, label: records[i].label, why, at: records[i].at });
      sayBeside(records[i], why);
    }
    await shelf.remove("waiting", records[i].n);
  }
  return answers.length > 0 && answers[0].status !== 401;
};

// An entry that the server fails at again and again goes aside with what it holds, so that the rest flows.
const failed = new Map(); // how often, by number: a browser without room cannot note it with the entry
const failedAgain = async (record) => {
  const fails = Math.max(record.fails || 0, failed.get(record.n) || 0) + 1;
  if (fails < MOST_FAILS) {
    failed.set(record.n, fails);
    await shelf.replace("waiting", { ...record, fails }).catch(() => {});
    return false;
  }
  const { n, ...content } = record;
  const why = "The server failed at it. Send it again later, or enter it anew.";
  await shelf.add("refused", { me, label: record.label, why, at: record.at, again: content });
  await shelf.remove("waiting", n);
  return true;
};

const sendAll = async () => {
  let unseen = false, renewals = 0;
  let shown = Date.now();
  for (let record = await first(); record; record = await first()) {
    state = "sending";
    const left = await shelf.count("waiting");
    if (Date.now() - shown > SLOW_MS) { shown = Date.now(); show(); }
    const quiet = unseen || left >= QUIET_FROM || !here || !record.url.startsWith(`${here}/`);
    if (left >= TOGETHER_FROM && !record.file && record.url.endsWith("/entries")) {
      try {
        if (await sendTogether()) { unseen = true; tries = 0; continue; }
      } catch { return later(); }
    }
    let answer, text;
    try {
      const send = async () => {
        answer = await post(record, quiet);
        text = answer.status === 204 ? "" : await answer.text();
      };
      await (quiet ? send() : inTurn(send));
    } catch { return later(); }
    if (answer.status === 401) {
      state = "sign-in";
      await swap(text, record);
      return show();
    }
    // Pages that are fetched meanwhile may each bring another cookie: the token is then asked for once more. It is never
    // a reason to give an entry up.
    if (answer.headers.has("x-token-expired")) {
      if (renewals === MOST_RENEWALS) return later("away");
      renewals += 1;
      try { if (await freshToken()) continue; } catch { return later(); }
      state = "sign-in";
      return show();
    }
    if (answer.status === 500 && (await failedAgain(record))) continue;
    if (answer.status >= 500 || answer.status === 429 || answer.status === 408) return later("away");
    tries = 0;
    renewals = 0;
    await shelf.remove("waiting", record.n);
    const kept = answer.status < 300;
    if (!kept && (quiet || Date.now() - record.at > 5000 || !document.getElementById(record.form))) {
      await shelf.add("refused", { me, label: record.label, why: reason(text, answer.status), at: record.at });
    }
    if (quiet && kept) unseen = true;
    else await swap(text, record);
    window.dispatchEvent(new CustomEvent("outbox-answered", { detail: { record, status: answer.status, text } }));
  }
  state = "idle";
  const soonest = Math.min(...(await mine("waiting")).filter((record) => held(record)).map((record) => record.until));
  if (Number.isFinite(soonest)) setTimeout(drain, soonest - Date.now() + 20);
  if (unseen) await fetchChanges();
  show();
};

const reason = (text, status) => {
  const page = new DOMParser().parseFromString(text, "text/html");
  const said = page.querySelector(".error, .sign-in p");
  return said ? said.textContent.trim() : `The server answered ${status}.`;
};

const swap = (text, record) => takeIn(text, document.getElementById(record.form));

const IN_THIS_TAB = "This browser has no room to keep what waits: its storage is full, or switched off. "
  + "Leave this tab open until it is sent.";

// What waits, in words, where it can be seen.
const show = async () => {
  const place = document.getElementById("outbox");
  if (!place) return;
  const waiting = await mine("waiting"), refused = await mine("refused");
  const all = waiting.length < 200 ? waiting.length : await shelf.count("waiting");
  const drawn = drawnAt && clock(drawnAt);
  place.hidden = !(refused.length || drawn || (all && state !== "idle" && (state !== "sending" || all > 1)));
  place.dataset.state = state;
  place.querySelector("summary").textContent = headline(state, all, refused.length, drawn);
  const list = place.querySelector("ul");
  const asOf = `This page is as it was at ${drawn}. What was kept since is safe, and shown once there is a connection.`;
  list.replaceChildren(...(drawn ? [line(asOf)] : []),
    ...(waiting.some(({ n }) => n < 0) ? [line(IN_THIS_TAB)] : []),
    ...refused.map((record) => line(`Not kept: ${record.label}. ${record.why}`, "refused", record.n, record.again)),
    ...waiting.slice(0, 20).map((record) => leading(line(`${clock(record.at)} ${record.label}, waiting to send`), record.page)),
    ...(all > 20 ? [line(`and ${all - 20} more`)] : []));
  document.querySelectorAll(".said .waits").forEach((mark) => mark.remove());
  for (const record of waiting) {
    const form = record.form && record.url.startsWith(`${here}/`) && document.getElementById(record.form);
    if (!form) continue;
    const said = form.querySelector(".said");
    const shown = state === "sending" ? '<span class="sending">sending</span>' : '<span class="waits">waiting to send</span>';
    if (said) said.innerHTML = shown;
  }
  window.dispatchEvent(new CustomEvent("outbox-changed", { detail: { waiting, state } }));
};
const clock = (at) => {
  const moment = new Date(at), time = hour(moment);
  return moment.toDateString() === new Date().toDateString() ? time : `${moment.toDateString().slice(0, 10)}, ${time}`;
};
const line = (words, css = "", n = null, record = null) => {
  const item = document.createElement("li");
  item.textContent = words;
  item.className = css;
  if (n !== null) {
    const button = document.createElement("button");
    button.type = "button";
    button.textContent = "seen";
    button.addEventListener("click", async () => { await shelf.remove("refused", n); show(); });
    item.append(button);
    if (record) {
      const send = button.cloneNode();
      send.textContent = "send again";
      send.addEventListener("click", async () => {
        await shelf.add("waiting", { ...record, fails: 0 });
        await shelf.remove("refused", n);
        now();
      });
      item.append(send);
    }
  }
  return item;
};

const leading = (item, page) => {
  if (!page) return item;
  const link = document.createElement("a");
  link.href = page;
  link.append(...item.childNodes);
  item.append(link);
  return item;
};

// The page came from what this browser kept, and is of that moment; or, with nothing, shows everything again.
export const drawnOn = (moment) => { drawnAt = moment; return show(); };
export const isOld = () => Boolean(drawnAt);

export const now = () => { retryAt = 0; tries = 0; drain(); };
window.addEventListener("online", now);
document.addEventListener("visibilitychange", () => { if (!document.hidden) now(); });
if (me) show().then(drain).catch(() => {});
export const waiting = () => mine("waiting");
