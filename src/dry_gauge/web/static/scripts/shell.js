// For where there is no signal: the shell, and this visit's stations.
import { stops } from "./rail.js";

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
