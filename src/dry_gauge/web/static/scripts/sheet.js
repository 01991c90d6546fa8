// The rows of a sheet: Enter goes on, a paste fills several, what is sent goes through the outbox and waits where it must.
import { fetchChanges, field } from "./changes.js";
import { line } from "./foot.js";
import * as outbox from "./outbox.js";
import { smaller } from "./photo.js";
import { sentBy } from "./press.js";
import { newId } from "./queue.js";

const VALUE = "form[data-entry] .entry input";

export const fields = () => {
  const all = [...document.querySelectorAll(VALUE)];
  return all.filter((input) => input.offsetParent && !input.readOnly);
};

// What a form would send, said in a few words for the list of what waits.
const labelled = (form, data) => {
  const named = form.querySelector("label, legend, summary");
  const what = named ? named.childNodes[0].textContent.trim() : data.get("kind");
  const value = ["value", "state", "mode", "minutes_ago", "text", "what"].map((name) => data.get(name)).find(Boolean) ?? "";
  return `${what} ${String(value).slice(0, 60)}`.trim();
};

const HELD_MS = 4000;
const goingBack = new WeakMap(); // by form, the number under which the outbox holds it

// Taking back can be undone for a moment: the line is marked at once, and what takes it back is held until then.
const takeBack = async (form) => {
  const row = form.closest("li"), button = form.querySelector("button");
  const held = goingBack.get(form);
  if (held) {
    goingBack.delete(form);
    row.classList.remove("going");
    button.textContent = "take back";
    await outbox.drop(await held);
    return;
  }
  const sent = [...new FormData(form)].filter(([name]) => name !== "csrftoken");
  row.classList.add("going");
  button.textContent = "undo";
  const label = `Take back ${row.querySelector(".what").textContent.trim()}`;
  goingBack.set(form, outbox.put({ url: new URL(form.action).pathname, form: "", label, fields: sent }, HELD_MS));
};

export const dispatch = async (form, submitter = null) => {
  const data = sentBy(form, submitter);
  const record = { url: new URL(form.action).pathname, form: form.id, label: labelled(form, data), fields: [] };
  for (const [name, value] of data) {
    if (value instanceof File) {
      if (value.size) record.file = { field: name, ...(await smaller(value)) };
    } else if (name !== "csrftoken") record.fields.push([name, value]);
  }
  form.elements.entry_id.value = newId();
  const said = form.querySelector(".said");
  if (said) said.innerHTML = '<span class="sending">sending</span>';
  await outbox.put(record);
};

// A value is sent when it was typed, though it be what is kept already: read again, a number may well be the same.
const send = (input) => {
  const value = input.value.trim();
  const isTyped = value !== input.dataset.kept || "typed" in input.dataset;
  delete input.dataset.typed;
  if (!value || !isTyped || value === input.dataset.sending) return;
  input.dataset.sending = value;
  dispatch(input.form);
};

document.addEventListener("input", (event) => {
  if (event.target.matches(VALUE)) event.target.dataset.typed = "";
});
document.addEventListener("focusout", (event) => { // the same number typed over itself changes nothing
  if (event.target.matches(VALUE) && "typed" in event.target.dataset) send(event.target);
});
document.addEventListener("change", (event) => {
  if (event.target.matches(VALUE)) send(event.target);
  else if (event.target.form && event.target.form.matches(".sight[data-outbox]")) dispatch(event.target.form);
});
document.addEventListener("submit", (event) => {
  const form = event.target;
  if (!form.matches("[data-outbox]")) return;
  event.preventDefault();
  if (form.matches(".entries form:not([id])")) takeBack(form);
  else if (form.matches("[data-entry]")) send(field(form));
  else dispatch(form, event.submitter);
});

document.addEventListener("keydown", (event) => {
  const input = event.target;
  if (!(input instanceof HTMLInputElement) || !input.matches(VALUE)) return;
  if (event.key !== "Enter" && event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
  event.preventDefault();
  send(input);
  const all = fields();
  const next = all[all.indexOf(input) + (event.key === "ArrowUp" ? -1 : 1)];
  if (next) { next.focus(); next.select(); }
});

// Several values at once, one a line or tab: they fill the rows from here on, each sent as if typed.
document.addEventListener("paste", (event) => {
  const input = event.target;
  if (!(input instanceof HTMLInputElement) || !input.matches(VALUE)) return;
  const values = event.clipboardData.getData("text").split(/[\t\n\r;]+/).map((v) => v.trim());
  while (values.length && !values[values.length - 1]) values.pop();
  if (values.length < 2) return;
  event.preventDefault();
  const all = fields();
  const start = all.indexOf(input);
  values.forEach((value, i) => {
    const target = all[start + i];
    if (target && value) { target.value = value; send(target); }
  });
  const last = all[Math.min(start + values.length, all.length) - 1];
  if (last) last.focus();
});

// A switch must not look kept when it is not: refused, it goes back to what the server last said.
window.addEventListener("outbox-answered", (event) => {
  const { record, status } = event.detail;
  const form = document.getElementById(record.form);
  line(status < 400 || [403, 409, 413, 415, 422].includes(status) ? "" : `Not kept (${status}).`);
  if (!form) return;
  const named = Object.fromEntries(record.fields);
  const input = field(form);
  if (input) {
    const kept = status < 300, sent = named.value ?? named.minutes_ago;
    if (kept) input.dataset.kept = sent;
    if (kept && !input.value.trim()) fetchChanges(); // it was said in words: its field shows what is kept
    if (input.dataset.sending === sent) delete input.dataset.sending;
    const refused = status === 422 || status === 409;
    input.classList.toggle("refused", refused);
    input.setAttribute("aria-invalid", String(refused));
  } else if (form.matches(".sight")) {
    const sent = named.state || named.mode;
    const radios = form.querySelectorAll("input[type=radio]");
    if (status < 300) radios.forEach((radio) => { radio.defaultChecked = radio.value === sent; });
    else form.reset();
  } else if (status === 422 && !form.matches(".clears, .photo-form")) {
    form.querySelectorAll("details").forEach((box) => { box.open = true; }); // what is asked for may be folded away
  } else if (status < 300 && form.matches(".clears, .photo-form")) {
    form.reset();
    const box = form.closest("details");
    if (box && !box.matches(".place")) box.open = false; // a place stays open: its next row is about to be touched
  }
});

// What waited when the page was loaded is shown in its field again.
const refill = async () => {
  for (const record of await outbox.waiting()) {
    const form = record.form && document.getElementById(record.form);
    if (!form || new URL(form.action).pathname !== record.url) continue;
    const named = Object.fromEntries(record.fields), input = field(form);
    if (input) { input.value = named.value ?? named.minutes_ago; input.dataset.sending = input.value; }
    const radio = form.matches(".sight") && form.querySelector(`input[value="${CSS.escape(named.state || named.mode || "")}"]`);
    if (radio) radio.checked = true;
  }
};

// What was typed or chosen while the page was still loading is heard now.
const HEARD = `${VALUE}, .sight[data-outbox] input, form[hx-trigger*=change] :is(input, select)`;
const isEarly = (part) => {
  if (part instanceof HTMLSelectElement) {
    const chosen = part.options[part.selectedIndex];
    return !chosen.defaultSelected && (part.selectedIndex > 0 || part.querySelector("[selected]"));
  }
  if (part.type === "checkbox") return part.checked !== part.defaultChecked;
  if (part.type === "radio") return part.checked && !part.defaultChecked;
  return part.value !== part.defaultValue && part !== document.activeElement;
};
const hearEarly = () => {
  for (const part of [...document.querySelectorAll(HEARD)].filter(isEarly)) {
    part.dispatchEvent(new Event("change", { bubbles: true }));
  }
};
document.addEventListener("DOMContentLoaded", () => { // from then on everything listens
  hearEarly();
  if (document.querySelector("form[data-outbox]")) refill();
});

// Phones' number pads have no minus.
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-sign]");
  if (!button) return;
  const input = field(button.form);
  const value = input.value.trim();
  input.value = /^[-−]/.test(value) ? value.slice(1) : `-${value}`;
  input.focus();
});

// A weight that can be meant in two ways: what is chosen is put in and sent.
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-choose]");
  if (!button) return;
  const { form } = button, { choose, field: name } = button.dataset;
  const set = (what, value) => { if (form.elements[what]) form.elements[what].value = value; };
  set(name, choose);
  set(`${name}_oz`, "");
  if (!form.elements.sure) form.insertAdjacentHTML("beforeend", '<input type="hidden" name="sure">');
  form.elements.sure.value = choose;
  dispatch(form);
});
