// For where there is no signal: the shell, and this visit's stations.
import { stops } from "./rail.js";

// A browser may keep a page whole for the way back, `no-store` or not: once someone signed out here it is drawn anew.
const FORGOTTEN = "forgotten";
const forgotten = () => { try { return localStorage.getItem(FORGOTTEN); } catch (error) { return null; } };
if (document.body.dataset.forget) try { localStorage.setItem(FORGOTTEN, String(Date.now())); } catch (error) { /* keeps nothing */ }
const drawn = forgotten();
addEventListener("pageshow", (event) => {
  if (!event.persisted || forgotten() === drawn) return;
  document.documentElement.hidden = true;
  location.reload();
});

if ("serviceWorker" in navigator) {
  navigator.serviceWorker.register("/sw.js").then(() => navigator.serviceWorker.ready).then((worker) => {
    if (document.body.dataset.forget) worker.active.postMessage({ forget: true });
    const visit = document.body.dataset.visit;
    if (visit) {
      // The desks of the sealed work are kept once someone works there.
      const desks = [...document.querySelectorAll(".desks a")].map((link) => link.getAttribute("href"));
      worker.active.postMessage({ keep: [location.pathname + location.search, ...Object.values(stops()), ...desks, "/"] });
    }
  }).catch(() => {});
}
