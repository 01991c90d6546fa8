// A visit is opened here first, and at the server as soon as it hears of it: without a signal on the page that was kept for it.
import * as outbox from "./outbox.js";
import { sentBy } from "./press.js";

const PATIENCE_MS = 6000;

// What became of what was put there: its answer, or nothing where it waits for a signal.
const sentOrWaits = (isIt) => new Promise((done) => {
  setTimeout(done, PATIENCE_MS);
  addEventListener("outbox-answered", ({ detail }) => { if (isIt(detail.record)) done(detail); });
  addEventListener("outbox-changed", ({ detail }) => { if (["waiting", "away"].includes(detail.state)) done(); });
});

document.addEventListener("submit", async (event) => {
  const form = event.target;
  const needsSignal = form.querySelector(".not-kept:not([hidden])");
  if (!form.matches("[data-opens]") && !needsSignal) return;
  event.preventDefault();
  if (needsSignal) return; // it says so
  const url = new URL(form.action).pathname, page = form.dataset.opens;
  const fields = [...sentBy(form)].filter(([name]) => name !== "csrftoken");
  const answered = sentOrWaits((record) => record.page === page);
  await outbox.put({ url, form: "", label: form.getAttribute("aria-label"), page, fields });
  const answer = await answered;
  if (!answer || answer.status < 300) location.assign(page);
});
