// Several readings in words: read back first, kept only when they are right.
import { fetchChanges, pageHeaders, takeIn } from "./changes.js";
import { line } from "./foot.js";
import * as outbox from "./outbox.js";
import { newId } from "./queue.js";

document.addEventListener("submit", async (event) => {
  if (event.target.id !== "say-form") return;
  event.preventDefault();
  try {
    const form = event.target, body = new URLSearchParams(new FormData(form));
    const answer = await fetch(form.action, { method: "POST", headers: { "hx-request": "true", ...pageHeaders() }, body });
    if (answer.ok) await takeIn(await answer.text());
    line(answer.ok ? "" : `Not read back (${answer.status}). Reload the page, or type the readings in their fields.`);
  } catch { line("Reading back needs a connection. Typed in their fields, readings wait for it."); }
});
document.addEventListener("click", async (event) => {
  if (event.target.id !== "keep-said") return;
  const visit = document.body.dataset.visit;
  for (const row of document.querySelectorAll(".said-row")) {
    const { quantity, value, unit, circuit, label } = row.dataset;
    await outbox.put({
      url: `/visits/${visit}/entries`, form: `row-${quantity}`, label: `${label} ${value} ${unit}`,
      fields: [["entry_id", newId()], ["kind", "reading"], ["quantity", quantity], ["value", value], ["unit", unit],
        ...(circuit ? [["circuit", circuit]] : [])],
    });
  }
  document.getElementById("read-back").replaceChildren();
  document.getElementById("said-text").value = "";
  setTimeout(fetchChanges, 300);
});
