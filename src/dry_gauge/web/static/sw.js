// The shell and the pages of the open visit, for where there is no signal. Pages come from the network when it answers
// in time; what is typed never passes through here (see outbox.js).
"use strict";
const SHELL = "shell-__VERSION__", PAGES = "pages";
const FILES = __FILES__;
const PATIENCE_MS = 4000;
const FRESH_MS = 10 * 60 * 1000;

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(SHELL).then((cache) => cache.addAll(FILES)).then(() => self.skipWaiting()));
});

self.addEventListener("activate", (event) => {
  // The shell of the release before stays while its pages may: the last one of the rest, caches being listed by age.
  const stale = (names) => names.filter((name) => name.startsWith("shell-") && name !== SHELL).slice(0, -1);
  event.waitUntil(caches.keys().then((names) => Promise.all(stale(names).map((name) => caches.delete(name)))).then(() => self.clients.claim()));
});

const keep = async (request, response) => {
  if (response.ok && !response.redirected && response.type === "basic") await (await caches.open(PAGES)).put(request, response.clone());
  return response;
};

// The pages of a visit under one address each: a link's mark does not make it another page.
const plain = (url) => { const bare = new URL(url); bare.hash = ""; return bare.href; };

const page = async (request) => {
  const address = plain(request.url);
  const fromNetwork = fetch(request).then((response) => keep(address, response));
  fromNetwork.catch(() => {});
  const kept = await (await caches.open(PAGES)).match(address);
  const patience = new Promise((resolve) => setTimeout(resolve, PATIENCE_MS));
  try {
    return (await Promise.race(kept ? [fromNetwork, patience] : [fromNetwork])) || kept;
  } catch (error) {
    return kept || (await caches.match("/offline")) || Response.error();
  }
};

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) return;
  if (url.pathname.startsWith("/static/")) {
    event.respondWith(caches.match(request, { ignoreSearch: url.pathname.endsWith(".woff2") }).then((kept) => kept || fetch(request)));
  } else if (request.mode === "navigate") event.respondWith(page(request));
});

// A page kept a few minutes ago is good enough for a roof: fetching it at every step would only use the signal up.
const fetchUnlessFresh = async (path) => {
  const address = plain(new URL(path, self.location.origin));
  const kept = await (await caches.open(PAGES)).match(address);
  if (kept && Date.now() - Date.parse(kept.headers.get("date")) < FRESH_MS) return;
  try { await keep(address, await fetch(address, { credentials: "same-origin" })); } catch (error) { /* no signal now */ }
};

self.addEventListener("message", (event) => {
  if (event.data.forget) event.waitUntil(caches.delete(PAGES));
  if (event.data.keep) event.waitUntil(Promise.all(event.data.keep.map(fetchUnlessFresh)));
});
