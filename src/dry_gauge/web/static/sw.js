// The shell and the pages of the open visit, for where there is no signal. Pages come from the network when it answers
// in time; what is typed never passes through here (see outbox.js).
"use strict";
const SHELL = "shell-__VERSION__", PAGES = "pages-of-", WHO = "who";
const FILES = __FILES__;
const PATIENCE_MS = 4000;
const FRESH_MS = 10 * 60 * 1000, AHEAD_MS = 4 * 60 * 60 * 1000, DAY_MS = 24 * 60 * 60 * 1000, LONGEST_MS = 14 * DAY_MS;

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(SHELL).then((cache) => cache.addAll(FILES)).then(() => self.skipWaiting()));
});

self.addEventListener("activate", (event) => {
  // The shell of the release before stays while its pages may: the last one of the rest, caches being listed by age.
  const stale = (names) => names.filter((name) => name.startsWith("shell-") && name !== SHELL).slice(0, -1);
  const old = (names) => [...stale(names), ...names.filter((name) => name === "pages")];
  const cleared = caches.keys().then((names) => Promise.all(old(names).map((name) => caches.delete(name))));
  event.waitUntil(cleared.then(() => self.clients.claim()));
});

// One after another: what is kept must not overtake what is forgotten, or pages of somebody who has gone come back.
let last = Promise.resolve();
const inTurn = (work) => { last = last.then(work, work); return last; };

// Whose pages may be read here: of whoever the last page was for. Each person's are kept apart, and nobody's by themselves.
const who = async () => { const kept = await (await caches.open(WHO)).match("/who"); return kept ? kept.text() : ""; };
// Where there is no room to write who it is, nobody's pages are read.
const nowFor = async (person) => {
  if (person === await who()) return;
  const cache = await caches.open(WHO);
  await cache.delete("/who");
  await cache.put("/who", new Response(person));
};
const kept = async (address) => {
  const mine = await caches.match(address, { cacheName: PAGES + await who() }); // looking makes no cache
  return mine || caches.match(address, { cacheName: PAGES });
};
const forget = async () => { await caches.delete(PAGES + await who()); await nowFor(""); };
const age = (page) => Date.now() - Date.parse(page.headers.get("date"));
const clearOlderThan = async (most) => {
  const name = PAGES + await who();
  if (!(await caches.has(name))) return;
  const cache = await caches.open(name);
  for (const request of await cache.keys()) if (age(await cache.match(request)) > most) await cache.delete(request);
};

// A full phone shows what the network answered all the same.
const keep = async (request, response) => {
  const person = response.headers.get("x-person") || "";
  try {
    if (person) await nowFor(person);
    else if (new URL(response.url).pathname === "/sign-in") await forget(); // whoever comes by next finds nothing of them
    // A photo, a clip or a PDF says of nobody that it is theirs: it is not kept.
    const isPage = (response.headers.get("content-type") || "").startsWith("text/html")
      && response.ok && !response.redirected && response.type === "basic";
    if (isPage) await (await caches.open(PAGES + person)).put(request, response.clone());
  } catch { await clearOlderThan(DAY_MS).catch(() => {}); }
  return response;
};

// The pages of a visit under one address each: a link's mark does not make it another page. What is typed on one sheet stands in
// its address: it is kept empty, and fills itself.
const SHEET = "/sheet";
const plain = (url) => {
  const bare = new URL(url);
  bare.hash = "";
  bare.searchParams.delete("opens"); // of a visit that is not opened yet: kept as it is linked once it is
  if (bare.pathname === SHEET) bare.search = "";
  return bare.href;
};
const isTyped = (url) => { const { pathname, search } = new URL(url); return pathname === SHEET && search !== ""; };

// Which open page came from what was kept, and of when that was.
const drawn = new Map();

const page = async ({ request, resultingClientId }) => {
  const address = plain(request.url);
  const taken = (response) => (isTyped(request.url) ? response : inTurn(() => keep(address, response)));
  const fromNetwork = fetch(request).then(taken);
  fromNetwork.catch(() => {});
  const before = await kept(address);
  const old = () => { if (before) drawn.set(resultingClientId, Date.parse(before.headers.get("date"))); return before; };
  const patience = new Promise((resolve) => setTimeout(resolve, PATIENCE_MS));
  try {
    const answer = await Promise.race(before ? [fromNetwork, patience] : [fromNetwork]);
    // A visit that was opened here, without a signal, may not have arrived yet.
    const waits = answer && answer.status === 404 && before && before.headers.has("x-ahead");
    return answer && !waits ? answer : old();
  } catch {
    return old() || (await caches.match("/offline")) || Response.error();
  }
};

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) return;
  if (url.pathname.startsWith("/static/")) {
    const file = caches.match(request, { ignoreSearch: url.pathname.endsWith(".woff2") });
    event.respondWith(file.then((found) => found || fetch(request)));
  } else if (request.mode === "navigate") event.respondWith(page(event));
});

// A page kept a few minutes ago is good enough for a roof: fetching it at every step would only use the signal up.
const addressOf = (path) => plain(new URL(path, self.location.origin));
const fetchUnlessFresh = async (path, most = FRESH_MS) => {
  const before = await kept(addressOf(path));
  if (before && age(before) < most) return;
  await fetchAnew(path);
};
// Nobody waits for its answer: one that comes late, to whoever was signed in before, must not make this theirs again.
const fetchAnew = async (path) => {
  try {
    const response = await fetch(path, { credentials: "same-origin" });
    const person = response.headers.get("x-person");
    await inTurn(async () => { if (person && person === await who()) await keep(addressOf(path), response); });
  } catch { /* no signal now */ }
};

// What a page that was just drawn, for that person, wants kept. What lies ahead comes after, one by one: nobody waits for it.
const keepFor = async ({ me, keep: now = [], ahead = [] }) => {
  if (me) await inTurn(() => nowFor(me)); // a page of the release before does not say it
  await Promise.all(now.map((path) => fetchUnlessFresh(path)));
  for (const path of ahead) await fetchUnlessFresh(path, AHEAD_MS);
  await inTurn(() => clearOlderThan(LONGEST_MS));
};

const keptOf = async (paths) => {
  const asked = paths.map(async (path) => ((await kept(addressOf(path))) ? path : ""));
  return (await Promise.all(asked)).filter(Boolean);
};

self.addEventListener("message", (event) => {
  if (event.data.forget) event.waitUntil(inTurn(forget));
  if (event.data.drawn) event.source.postMessage({ drawn: drawn.get(event.source.id) || 0 });
  if (event.data.which) event.waitUntil(keptOf(event.data.which).then((paths) => event.source.postMessage({ kept: paths })));
  if (event.data.anew) event.waitUntil(fetchAnew(event.data.anew));
  if (event.data.keep || event.data.ahead) event.waitUntil(keepFor(event.data));
});
