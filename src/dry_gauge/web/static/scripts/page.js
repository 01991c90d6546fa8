// The little that pages need: where a link leads, what lights, timers, keys, menus.
import { ring } from "./alarm.js";
import { stayAwake } from "./awake.js";
import { whenChanged } from "./changes.js";
import { now } from "./clock.js";
import { inSight, stops } from "./rail.js";
import { fields } from "./sheet.js";

// The judgement asks for a reading: go to its field, opening what hides it.
document.addEventListener("click", (event) => {
  const link = event.target.closest("[data-goto]");
  if (!link) return;
  const name = link.dataset.goto;
  const ids = {
    minutes_running: "c-started", minutes_since_change: "c-changed",
    minutes_since_charge: "c-charged", minutes_since_defrost: "c-defrosted",
  };
  const target = document.getElementById(ids[name] || `q-${name}`) || document.getElementById(`s-${name}-yes`);
  if (!target) { // it is at another station
    const visit = document.body.dataset.visit;
    const station = link.getAttribute("href").startsWith("#") ? "read" : null;
    if (visit && station) { event.preventDefault(); location.assign(`/visits/${visit}?at=${station}&goto=${name}`); }
    return;
  }
  event.preventDefault();
  const tab = document.getElementById("tab-sheet");
  if (tab) tab.checked = true;
  for (let box = target.closest("details"); box; box = box.parentElement.closest("details")) box.open = true;
  target.focus();
  target.scrollIntoView({ block: "center" });
  if (target.select) target.select();
});

// A link into something folded away unfolds it.
document.addEventListener("click", (event) => {
  const link = event.target.closest("a[href^='#']");
  const target = link && document.getElementById(link.getAttribute("href").slice(1)); // one in a drawing has no `hash`
  for (let box = target && target.closest("details"); box; box = box.parentElement.closest("details")) box.open = true;
});

// A sentence of the judgement lights the gap or the row it rests on: pointed at, focused or tapped.
const lit = (from) => {
  document.querySelectorAll(".lit").forEach((part) => part.classList.remove("lit"));
  const sentence = from && from.closest && from.closest("[data-lights]");
  if (!sentence) return;
  sentence.dataset.lights.split(" ").forEach((name) => {
    document.querySelectorAll(`[data-gap="${name}"]`).forEach((part) => part.classList.add("lit"));
    const input = document.getElementById(`q-${name}`);
    if (input) input.closest(".row").classList.add("lit");
  });
};
for (const kind of ["pointerover", "focusin"]) document.addEventListener(kind, (event) => lit(event.target));

const goto = new URLSearchParams(location.search).get("goto");
if (goto) {
  const link = document.createElement("a");
  link.dataset.goto = goto;
  link.href = "#";
  link.hidden = true;
  document.body.append(link);
  link.click();
  link.remove();
}

// A top-up that was asked for from the judgement brings its reason along.
if (new URLSearchParams(location.search).get("why") === "product" && document.getElementById("pour-way")) {
  document.getElementById("pour-way").value = "added";
  document.getElementById("pour-reason").value = "product at risk, leak to be found";
  document.getElementById("pour-gross").focus();
}

// Stations that are tabs on this page; a place on the loop opens its questions.
document.addEventListener("click", (event) => {
  const tab = event.target.closest("a[data-tab]");
  if (tab && document.getElementById(`tab-${tab.dataset.tab}`)) {
    event.preventDefault();
    document.getElementById(`tab-${tab.dataset.tab}`).checked = true;
    document.getElementById(tab.dataset.tab).scrollIntoView({ block: "start" });
  }
  const spot = event.target.closest("a[data-place]");
  const place = spot && document.getElementById(`place-${spot.dataset.place}`);
  if (place) {
    event.preventDefault();
    document.getElementById("tab-sheet").checked = true;
    place.open = true;
    place.scrollIntoView({ block: "start" });
    (place.querySelector("input:checked") || place.querySelector("summary")).focus({ preventScroll: true });
  }
});
if (location.hash === "#judge" && document.getElementById("tab-judge")) document.getElementById("tab-judge").checked = true;

// A choice shows what belongs to it.
const shows = (select) => select.form.querySelectorAll("[data-when]").forEach((part) => {
  part.hidden = part.dataset.when !== select.value;
});
document.querySelectorAll("select[data-shows]").forEach(shows);
document.addEventListener("change", (event) => { if (event.target.matches("select[data-shows]")) shows(event.target); });

// Some choices change which fields there are.
document.addEventListener("change", (event) => { if (event.target.matches("select[data-reloads]")) event.target.form.submit(); });

// Enter goes on to the next field of a form that is filled in from top to bottom; a tap on a name fills it in.
document.addEventListener("keydown", (event) => {
  const { target } = event;
  if (event.key !== "Enter" || !(target instanceof HTMLInputElement) || !target.closest("[data-onward]")) return;
  event.preventDefault();
  const all = [...target.form.elements].filter((part) => part.offsetParent && part.type !== "hidden");
  const chosen = (part) => target.form.querySelector(`[name="${part.name}"]:checked`);
  const next = all.slice(all.indexOf(target) + 1).find((part) => part.type !== "radio" || part.checked || !chosen(part));
  if (next) next.focus();
});
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-fills]");
  const input = button && document.getElementById(button.dataset.fills);
  if (!input) return;
  input.value = button.value;
  input.dispatchEvent(new Event("input", { bubbles: true }));
  const next = document.getElementById("h-unit");
  if (next) next.focus();
});

// Readings by name.
document.addEventListener("input", (event) => {
  if (!event.target.matches("[data-find]")) return;
  const words = event.target.value.trim().toLowerCase();
  event.target.closest("details").querySelectorAll(".row").forEach((row) => {
    row.hidden = !row.querySelector("label").textContent.toLowerCase().includes(words);
  });
});

// What an answer brought to be done next comes into sight, once.
const came = new Set([...document.querySelectorAll("[data-comes]")].map((part) => part.dataset.comes));
whenChanged(() => document.querySelectorAll("[data-comes]").forEach((part) => {
  if (!came.has(part.dataset.comes)) part.scrollIntoView({ block: "center" });
  came.add(part.dataset.comes);
}));

// Timers count here; what they started from is the server's.
const running = new Set(), awakeFor = 30; // minutes: longer costs more of a battery than it is worth
const tick = () => document.querySelectorAll(".timer[data-from]").forEach((timer) => {
  const due = Date.parse(timer.dataset.from) + 60000 * Number(timer.dataset.minutes), left = (due - now()) / 60000;
  const name = `${timer.dataset.from} ${timer.dataset.minutes}`;
  timer.classList.toggle("over", left <= 0);
  const place = timer.querySelector(".timer-left");
  const said = left > 0 ? `${Math.ceil(left)} min left, due ${timer.dataset.due}` : `over since ${Math.floor(-left)} min: look`;
  if (place) place.textContent = said;
  timer.toggleAttribute("data-awake", left > 0 && left <= awakeFor);
  if (left > 0) running.add(name);
  else if (running.delete(name)) ring(name, timer.querySelector("p, b").firstChild.textContent.trim());
});
const watch = () => { tick(); stayAwake(); };
whenChanged(watch);
if (document.querySelector(".stations")) { watch(); setInterval(watch, 5000); }

inSight();
whenChanged(inSight);

// Keys of the desk, as the rail has them; ? shows them.
document.addEventListener("keydown", (event) => {
  const visit = document.body.dataset.visit;
  if (!visit || event.ctrlKey || event.metaKey || event.altKey || event.target.matches("input, select, textarea")) return;
  const help = document.getElementById("keys");
  if (event.key === "?") { if (help.open) help.close(); else help.showModal(); }
  else if (event.key === "j") document.getElementById("judge").scrollIntoView({ block: "start" });
  else if (event.key === "/") { const [input] = fields(); if (input) { event.preventDefault(); input.focus(); input.select(); } }
  else if (stops()[event.key]) location.assign(stops()[event.key]);
});

// The menu of units is open still when a choice in it has brought the page anew: several are made in one visit to it.
const units = document.getElementById("units");
if (units && location.hash === "#units") {
  units.open = true;
  history.replaceState(null, "", location.pathname + location.search);
}

// A hint that was read is put away for good.
document.addEventListener("submit", (event) => {
  const hint = event.target;
  if (!hint.matches("[data-hint]")) return;
  event.preventDefault();
  fetch(hint.action, { method: "POST", body: new URLSearchParams(new FormData(hint)), redirect: "manual", keepalive: true });
  hint.remove();
});

// A menu closes when something else is touched, or on Escape.
const closeMenus = (except) => document.querySelectorAll("details.menu[open]").forEach((menu) => {
  if (menu !== except) menu.open = false;
});
document.addEventListener("click", (event) => closeMenus(event.target.closest("details.menu")));
document.addEventListener("keydown", (event) => { if (event.key === "Escape") closeMenus(null); });
