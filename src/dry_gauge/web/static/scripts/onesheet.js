// One sheet: its address holds what is typed, so that nothing goes with a tab; without a signal its judgement waits.
import { drawnOn, isOld } from "./outbox.js";

const PATIENCE_MS = 4000, AGAIN_MS = 15000; // a weak signal is no event: it is tried again
const form = document.getElementById("one-sheet");

if (form) {
  const waits = document.getElementById("sheet-waits");
  const asked = () => [...new URLSearchParams(location.search)];
  // Rows of another kind of unit stay in the address: chosen again, it has them still.
  const undrawn = () => asked().filter(([name, value]) => value && !(name in form.elements));
  const write = () => {
    const typed = [...new FormData(form)].filter(([, value]) => value);
    history.replaceState(history.state, "", `${form.getAttribute("action")}?${new URLSearchParams([...typed, ...undrawn()])}`);
  };
  // What the last answer said is not of these numbers.
  const wait = (waiting) => { waits.hidden = !waiting; document.getElementById("sheet-answer").hidden = waiting; };
  const judge = () => form.dispatchEvent(new Event("change"));
  let late = 0;
  form.addEventListener("input", () => {
    write();
    clearTimeout(late);
    late = setTimeout(() => wait(true), PATIENCE_MS);
  });
  form.addEventListener("htmx:error", () => wait(true));
  form.addEventListener("htmx:response:error", () => wait(true));

  // Drawn from what is kept for want of a signal, it is empty: the address fills it, as the server would have.
  const fill = (part, value) => {
    if (part.type === "checkbox") part.defaultChecked = true;
    else if (part instanceof HTMLSelectElement) {
      for (const option of part.options) option.defaultSelected = option.value === value;
    }
    else part.defaultValue = value;
  };
  const drawnAs = (part) => {
    if (part.type === "checkbox") return part.defaultChecked ? part.value : "";
    if (!(part instanceof HTMLSelectElement)) return part.defaultValue;
    return ([...part.options].find((one) => one.defaultSelected) || part.options[0]).value;
  };
  const missing = asked().filter(([name, value]) => value && form.elements[name] && drawnAs(form.elements[name]) !== value);
  for (const [name, value] of missing) fill(form.elements[name], value);
  const otherRows = missing.some(([name]) => form.elements[name].matches("[data-reloads]"));
  if (missing.length) {
    wait(true);
    addEventListener("DOMContentLoaded", judge);
  }
  form.addEventListener("htmx:after:swap", () => {
    clearTimeout(late);
    wait(false);
    if (isOld()) drawnOn(0);
    if (!otherRows || (history.state && history.state.redrawn)) return;
    history.replaceState({ ...history.state, redrawn: true }, ""); // once: a slow line may bring what is kept again
    location.reload();
  });
  const again = () => { if (!waits.hidden) judge(); };
  addEventListener("online", again);
  setInterval(again, AGAIN_MS);
}
