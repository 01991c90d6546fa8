// For where there is no signal: the shell, and this visit's stations.
import { fetchChanges, whenChanged } from "./changes.js";
import { drawnBefore, drawnNow } from "./clock.js";
import * as outbox from "./outbox.js";
import { stops } from "./rail.js";

const REST_MS = 5000, AGAIN_MS = 15000;

// A browser may keep a page whole for the way back, `no-store` or not: once someone signed out here it is drawn anew.
const FORGOTTEN = "forgotten";
const forgotten = () => { try { return localStorage.getItem(FORGOTTEN); } catch { return null; } };
if (document.body.dataset.forget) try { localStorage.setItem(FORGOTTEN, String(Date.now())); } catch { /* keeps nothing */ }
const drawn = forgotten();
addEventListener("pageshow", (event) => {
  if (!event.persisted || forgotten() === drawn) return;
  document.documentElement.hidden = true;
  location.reload();
});

// A page that came without a connection says of when it is, until it was told what has changed since.
export const upToDate = async () => { if (await fetchChanges()) await outbox.drawnOn(0); };
// Without a connection a list of visits tells those that open from those that this device never had, and offers what does open.
const pathOf = (part) => part.dataset.unless || part.closest("a").getAttribute("href");
const notKept = () => [...document.querySelectorAll(".not-kept, [data-unless]")].map((part) => [part, pathOf(part)]);
const markNotKept = (kept) => notKept().forEach(([part, path]) => { part.hidden = kept.includes(path) || !isAway(); });
const isAway = () => document.body.classList.contains("no-signal");
const reached = () => {
  document.body.classList.remove("no-signal");
  notKept().forEach(([part]) => { part.hidden = true; });
};
addEventListener("online", reached);
// A slow line is a line: what needs one is offered again as soon as anything answers.
const untilReached = async () => {
  try {
    if ((await fetch("/healthz", { cache: "no-store" })).ok) return reached();
  } catch { /* no signal now */ }
  setTimeout(untilReached, AGAIN_MS);
};
const heard = async ({ data, source }) => {
  if ("kept" in data) return markNotKept(data.kept);
  if (!("drawn" in data)) return;
  if (!data.drawn) return drawnNow();
  drawnBefore();
  await outbox.drawnOn(data.drawn);
  document.body.classList.add("no-signal");
  untilReached();
  source.postMessage({ which: notKept().map(([, path]) => path) });
  await upToDate();
};

if ("serviceWorker" in navigator) {
  const { serviceWorker } = navigator, { me, visit, forget, ahead } = document.body.dataset;
  const page = location.pathname + location.search;
  serviceWorker.addEventListener("message", heard);
  if (serviceWorker.controller) serviceWorker.controller.postMessage({ drawn: true });
  serviceWorker.register("/sw.js").then(() => serviceWorker.ready).then(({ active }) => {
    if (forget) active.postMessage({ forget: true });
    // Who looks at the day's calls in the morning may stand in a cellar at noon.
    if (ahead && !navigator.connection?.saveData) active.postMessage({ me, ahead: ["/", ...JSON.parse(ahead)] });
    if (!visit) return;
    // The desks of the sealed work are kept once someone works there.
    const desks = [...document.querySelectorAll(".desks a")].map((link) => link.getAttribute("href"));
    active.postMessage({ me, keep: [page, ...Object.values(stops()), ...desks, "/"] });
    // What was kept on this page is kept with it, once a hand rests: a tab may die, and come back where there is no signal.
    let resting = 0;
    const again = () => { clearTimeout(resting); resting = 0; active.postMessage({ anew: page }); };
    whenChanged(() => { clearTimeout(resting); resting = setTimeout(again, REST_MS); });
    document.addEventListener("visibilitychange", () => { if (document.hidden && resting) again(); });
  }).catch(() => {});
}
