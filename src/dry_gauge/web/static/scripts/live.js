// The open visit looks on: entries of others, live probes, settling. Without a connection it says so and tries again.
import { fetchChanges, takeIn } from "./changes.js";
import { upToDate } from "./shell.js";
import * as outbox from "./outbox.js";
import { newId } from "./queue.js";
import { MINUTES, bounds, grown } from "./trace.js";

const { visit, station, circuit } = document.body.dataset;
const colours = { superheat: "--low", subcooling: "--high", air_split: "--air" };
const dashes = { superheat: [], subcooling: [9, 4], air_split: [2, 4] };
let lines = { superheat: [], subcooling: [], air_split: [] }, latest = null, lost = false, source = null;

const seen = () => { const head = document.getElementById("timeline-head"); return head ? Number(head.dataset.seen) : 0; };
const swap = (text) => takeIn(text);
const size = () => (window.matchMedia("(max-width: 1199px)").matches ? "phone" : "desk");

// What the stream tells, whichever tab listens to it.
const heard = {
  open: () => { if (lost || outbox.isOld()) { lost = false; outbox.now(); upToDate(); } },
  changed: (data) => queueChanges(JSON.parse(data).sequence),
  live: (data) => show(JSON.parse(data)),
  ladder: (data) => swap(data),
  fragments: (data) => settle(data),
  history: (data) => { lines = JSON.parse(data).lines; plot(); },
};

const listen = (tell) => {
  source = new EventSource(`${address}&seen=${seen()}`);
  source.addEventListener("error", () => {
    lost = true;
    if (source && source.readyState === EventSource.CLOSED) again = setTimeout(() => listen(tell), 5000);
  });
  Object.keys(heard).forEach((kind) => source.addEventListener(kind, ({ data }) => { heard[kind](data); tell({ kind, data }); }));
};
const hush = () => { clearTimeout(again); if (source) source.close(); source = null; lost = true; };

// Tabs that show the same share one stream: whoever holds its lock listens, and tells the others.
let address = "", again = 0, leave = null;
const join = () => {
  address = `/visits/${visit}/live?circuit=${circuit}&size=${size()}&at=${station}`;
  if (!navigator.locks || !("BroadcastChannel" in globalThis)) { listen(() => {}); leave = hush; return; }
  const channel = new BroadcastChannel(address), over = new AbortController();
  channel.addEventListener("message", ({ data }) => {
    if (data.kind !== "joined") heard[data.kind](data.data);
    else if (source) {
      channel.postMessage({ kind: "changed", data: JSON.stringify({ sequence: seen() }) });
      channel.postMessage({ kind: "history", data: JSON.stringify({ lines }) });
      if (latest) channel.postMessage({ kind: "live", data: JSON.stringify(latest) });
    }
  });
  channel.postMessage({ kind: "joined" });
  navigator.locks.request(address, { signal: over.signal }, () => new Promise((done) => {
    listen((news) => channel.postMessage(news));
    over.signal.addEventListener("abort", done);
  })).catch(() => {}); // left before its turn came
  leave = () => { over.abort(); hush(); channel.close(); };
};

// A tab that nobody sees lets go after a while: a browser has few connections, and a phone little power.
const HIDDEN_MS = 30000;
let leaving = 0;
document.addEventListener("visibilitychange", () => {
  clearTimeout(leaving);
  if (document.hidden) leaving = setTimeout(() => { leave(); leave = null; }, HIDDEN_MS);
  else if (!leave) join();
});

// One's own entry comes back as an answer; another's is fetched, once for several that come together. What waits may be
// another tab's, whose answer goes there: look again until nothing does.
let queued = 0;
const queueChanges = (sequence, after = 250) => {
  clearTimeout(queued);
  queued = setTimeout(async () => {
    if (sequence <= seen()) return;
    if ((await outbox.waiting()).length) queueChanges(sequence, 1000);
    else await fetchChanges();
  }, after);
};

let wasReady = (document.getElementById("settling") || { dataset: {} }).dataset.ready;
const settle = async (text) => {
  await swap(text);
  const place = document.getElementById("settling");
  if (place && place.dataset.ready === "yes" && wasReady === "no") {
    place.classList.add("now-ready");
    document.title = `Ready: ${document.title.replace(/^Ready: /, "")}`;
    if (navigator.vibrate) navigator.vibrate(200);
  }
  wasReady = place ? place.dataset.ready : wasReady;
};

// What the live scale shows can be taken by a tap.
let scale = null;
const weigh = (news) => {
  const probe = news.probes.find((one) => one.quantity === "scale_weight");
  scale = probe && probe.shown ? probe : null;
  document.querySelectorAll("[data-from-scale]").forEach((button) => {
    button.hidden = !scale;
    button.querySelector(".scale-shown").textContent = scale ? `${scale.shown} ${scale.shown_unit}`.trim() : "";
  });
};
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-from-scale]");
  if (!button || !scale) return;
  const { form } = button, name = button.dataset.fromScale;
  form.elements[name].value = `${scale.value} ${scale.unit}`;
  if (form.elements[`${name}_oz`]) form.elements[`${name}_oz`].value = "";
  form.elements.source.value = "probe";
  form.requestSubmit();
  form.elements.source.value = "typed"; // what is typed next is no probe's
});

// Gauge and pipe that serve a hold, as the server chose them.
let held = null;
const hold = (news) => {
  const [gauge, pipe] = (news.hold || []).map((i) => news.probes[i]);
  held = gauge && pipe ? { gauge, pipe } : null;
  document.querySelectorAll("[data-from-hold]").forEach((button) => {
    button.hidden = !held;
    button.querySelector(".hold-shown").textContent = held
      ? `${gauge.shown} ${gauge.shown_unit} at ${pipe.shown} °${pipe.shown_unit}`
      : "";
  });
};
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-from-hold]");
  if (!button || !held) return;
  const set = (name, value) => { if (button.form.elements[name]) button.form.elements[name].value = value; };
  set("pressure", held.gauge.shown);
  set("pressure_unit", held.gauge.shown_unit);
  set("temp", held.pipe.shown);
  set("temp_unit", held.pipe.shown_unit);
  set("gauge", `probe ${held.gauge.probe}`);
  set("source", "probe");
  button.form.requestSubmit();
  set("source", "typed");
});

// What a meter shows fills the fields that name it; whoever holds it says which machine that was, and keeps it.
let metered = new Map();
const meter = (news) => {
  metered = new Map(news.probes.filter((one) => one.shown).map((one) => [one.quantity, one]));
  document.querySelectorAll("[data-from-meter]").forEach((button) => {
    const found = fed(button.form);
    button.hidden = !found.length;
    button.querySelector(".meter-shown").textContent = found.map(([, one]) => `${one.shown}\u00a0${one.shown_unit}`).join(", ");
  });
};
const fed = (form) => [...form.querySelectorAll("[data-probe]")]
  .filter((field) => metered.has(field.dataset.probe)).map((field) => [field, metered.get(field.dataset.probe)]);
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-from-meter]");
  if (!button) return;
  const { source: from, instrument } = button.form.elements, found = fed(button.form);
  found.forEach(([field, one]) => { field.value = one.shown; });
  if (!found.length) return;
  from.value = "probe";
  instrument.value = `probe ${found[0][1].probe.split(",")[0]}`; // one instrument, several numbers
  const folded = instrument.closest("details");
  if (folded) folded.open = true; // the meter in hand was another
});
document.addEventListener("input", (event) => {
  const { form } = event.target;
  if (!event.target.closest("[data-probe]") || form.elements.source.value !== "probe") return;
  form.elements.source.value = "typed"; // a number that is mended by hand is no probe's
  form.elements.instrument.value = "";
});

const words = { ok: "", weak: "weak signal", out_of_range: "out of range", off: "off", silent: "silent" };
const taken = () => latest.probes.filter((one) => one.takes && one.shown);
const show = (news) => {
  latest = news;
  weigh(news);
  hold(news);
  meter(news);
  const body = document.getElementById("live-body");
  if (!body) return;
  body.hidden = false;
  const speaking = news.probes.filter((probe) => probe.shown).length;
  document.getElementById("live-state").textContent = `${speaking} of ${news.probes.length} probes live`;
  document.getElementById("live").classList.toggle("dead", !speaking);
  const take = document.getElementById("take-this");
  if (take) take.hidden = !taken().length;
  const list = document.getElementById("live-probes");
  news.probes.forEach((probe, i) => {
    const item = list.children[i] || list.appendChild(document.createElement("li"));
    const state = words[probe.state] ?? probe.state, weak = probe.weak ? "battery low" : "";
    item.textContent = [`${probe.label} ${probe.shown || "–"} ${probe.shown_unit}`, state, weak].filter(Boolean).join(", ");
    item.className = probe.shown ? "" : "silent";
    const input = document.getElementById(`q-${probe.quantity}`);
    const row = input && input.closest(".row");
    if (!row || (probe.circuit !== Number(circuit) && probe.circuit !== 1)) return;
    let mark = row.querySelector(".live-value");
    if (!mark) { mark = document.createElement("span"); mark.className = "live-value"; row.append(mark); }
    mark.textContent = probe.shown ? `live ${probe.shown}` : `probe ${state || "silent"}`;
  });
  while (list.children.length > news.probes.length) list.lastChild.remove();
  for (const [name, value] of Object.entries(news.point)) {
    if (lines[name]) lines[name] = grown(lines[name], news.at, value);
  }
  plot();
};

const plot = () => {
  const canvas = document.getElementById("live-plot");
  const all = Object.values(lines).flat();
  if (canvas) canvas.hidden = !all.length; // a scale alone draws no line: what it shows stands as words instead
  if (!canvas || !all.length || !canvas.offsetParent) return;
  const ratio = window.devicePixelRatio || 1, width = canvas.clientWidth, height = canvas.clientHeight;
  canvas.width = width * ratio;
  canvas.height = height * ratio;
  const pen = canvas.getContext("2d");
  // Resolved through the canvas's own colour: a name of the palette holds both day and night.
  const ink = (name) => { canvas.style.color = `var(${name})`; return getComputedStyle(canvas).color; };
  pen.scale(ratio, ratio);
  pen.font = "12px B612, sans-serif";
  const end = Math.max(...all.map(([at]) => at)), start = end - MINUTES * 60;
  const values = all.map(([, value]) => value);
  const { low, high } = bounds(values);
  const x = (at) => 30 + ((at - start) / (end - start)) * (width - 34);
  const y = (value) => height - 18 - ((value - low) / (high - low)) * (height - 40);
  pen.strokeStyle = ink("--rule");
  pen.fillStyle = ink("--ink-2");
  for (let value = low; value <= high; value += high - low > 60 ? 20 : 10) {
    pen.beginPath(); pen.moveTo(30, y(value)); pen.lineTo(width, y(value)); pen.stroke();
    pen.fillText(String(value), 2, y(value) + 4);
  }
  pen.fillText(`${MINUTES} minutes`, 30, height - 3);
  pen.lineWidth = 2.5;
  let at = 34;
  for (const [name, points] of Object.entries(lines)) {
    if (!points.length) continue;
    pen.strokeStyle = pen.fillStyle = ink(colours[name]);
    pen.setLineDash(dashes[name]);
    pen.beginPath();
    points.forEach(([when, value], i) => (i ? pen.lineTo(x(when), y(value)) : pen.moveTo(x(when), y(value))));
    pen.stroke();
    const short = name.replace("_", " ").replace("superheat", "SH").replace("subcooling", "SC");
    const label = `${short} ${points.at(-1)[1].toFixed(1)}`;
    pen.fillText(label, at, 11);
    at += pen.measureText(label).width + 14;
  }
  pen.setLineDash([]);
};
window.addEventListener("resize", plot);

// What the probes show at this moment becomes readings, each with its own id, sent like anything typed.
document.addEventListener("click", async (event) => {
  if (event.target.id !== "take-this" || !latest) return;
  for (const probe of taken()) {
    await outbox.put({
      url: `/visits/${visit}/entries`, form: `row-${probe.quantity}`, label: `${probe.label} ${probe.shown} ${probe.shown_unit}`,
      fields: [["entry_id", newId()], ["kind", "reading"], ["quantity", probe.quantity], ["value", String(probe.value)],
        ["unit", probe.unit], ["source", "probe"], ["instrument", `probe ${probe.probe}`],
        ...(probe.circuit > 1 ? [["circuit", String(probe.circuit)]] : [])],
    });
  }
});
if (visit && "EventSource" in window) join();
