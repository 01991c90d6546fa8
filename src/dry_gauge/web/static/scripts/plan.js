// The plan: a call is moved by dragging it or with the arrow keys, and kept once it rests.
import { hour } from "./clock.js";

const plan = document.getElementById("plan");

if (plan) {
  const note = document.getElementById("plan-note");
  const RESTS_MS = 700;
  let keyed = null; // what arrow keys have moved and not kept yet

  const sheetOf = (call) => {
    const svg = call.ownerSVGElement;
    const lanes = plan.dataset.lanes.split(" ");
    return { svg, step: Number(svg.dataset.step), lane: Number(svg.dataset.lane), down: svg.dataset.down === "yes",
             by: Number(svg.dataset.by), lanes };
  };
  const said = (goal) => hour(new Date(`${goal.day}T${goal.at}`));
  const clock = (minutes) => {
    const day = new Date(`${plan.dataset.first}T12:00:00`);
    day.setDate(day.getDate() + Math.floor(minutes / 1440));
    const within = ((minutes % 1440) + 1440) % 1440;
    const two = (n) => String(n).padStart(2, "0");
    return { day: `${day.getFullYear()}-${two(day.getMonth() + 1)}-${two(day.getDate())}`,
             at: `${two(Math.floor(within / 60))}:${two(within % 60)}` };
  };
  const shift = (call, minutes, lanes) => {
    const { step, lane, down } = sheetOf(call);
    const [along, across] = [minutes * step, lanes * lane];
    call.setAttribute("transform", `translate(${down ? across : along} ${down ? along : across})`);
  };

  async function keep(call, minutes, lanes) {
    const { lanes: people } = sheetOf(call);
    const lane = Math.min(Math.max(Number(call.dataset.lane) + lanes, 0), people.length - 1);
    const goal = clock(Number(call.dataset.at) + minutes);
    const id = call.id;
    const body = new URLSearchParams({ csrftoken: document.body.dataset.csrf, ...goal, person: people[lane],
                                       to: location.pathname + location.search });
    let answer = null;
    try {
      answer = await fetch(`/plan/calls/${call.dataset.call}`, { method: "POST", body, headers: { "hx-request": "true" } });
    } catch {
      // No connection: said below.
    }
    const text = answer ? await answer.text() : "";
    const fresh = new DOMParser().parseFromString(text, "text/html").getElementById("plan-pictures");
    if (!answer || !answer.ok || !fresh) {
      call.removeAttribute("transform");
      call.classList.remove("moving");
      note.textContent = text && answer.status < 500 ? new DOMParser().parseFromString(text, "text/html").body.textContent.trim()
        : "Not moved: no connection. It stays where it was.";
      return;
    }
    document.getElementById("plan-pictures").replaceWith(document.adoptNode(fresh));
    note.textContent = `${goal.day} ${said(goal)}, ${plan.dataset.names.split("|")[lane]}`;
    wire();
    document.getElementById(id)?.focus();
  }

  function drag(call, down) {
    const { svg, step, lane, down: vertical, by } = sheetOf(call);
    const scale = svg.viewBox.baseVal.width / svg.getBoundingClientRect().width || 1;
    const from = [down.clientX, down.clientY];
    let [minutes, lanes, moved] = [0, 0, false];
    call.setPointerCapture(down.pointerId);
    const move = (event) => {
      const [dx, dy] = [(event.clientX - from[0]) * scale, (event.clientY - from[1]) * scale];
      if (!moved && Math.hypot(dx, dy) < 6) return;
      moved = true;
      call.classList.add("moving");
      const [along, across] = vertical ? [dy, dx] : [dx, dy];
      minutes = Math.round(along / step / by) * by;
      lanes = lane ? Math.round(across / lane) : 0;
      shift(call, minutes, lanes);
    };
    const end = () => {
      call.removeEventListener("pointermove", move);
      if (!moved) return;
      call.addEventListener("click", (event) => event.preventDefault(), { once: true, capture: true });
      if (minutes || lanes) keep(call, minutes, lanes);
      else call.classList.remove("moving");
    };
    call.addEventListener("pointermove", move);
    call.addEventListener("pointerup", end, { once: true });
    call.addEventListener("pointercancel", end, { once: true });
  }

  function key(call, event) {
    const { down, by } = sheetOf(call);
    const steps = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowDown: [0, 1], ArrowUp: [0, -1] }[event.key];
    if (!steps) return;
    event.preventDefault();
    const [along, across] = down ? [steps[1], steps[0]] : steps;
    if (keyed?.call !== call) keyed = { call, minutes: 0, lanes: 0 };
    keyed.minutes += along * by;
    keyed.lanes += across;
    shift(call, keyed.minutes, keyed.lanes);
    const goal = clock(Number(call.dataset.at) + keyed.minutes);
    note.textContent = `to ${goal.day} ${said(goal)}`;
    clearTimeout(keyed.timer);
    keyed.timer = setTimeout(() => { const last = keyed; keyed = null; keep(call, last.minutes, last.lanes); }, RESTS_MS);
  }

  function wire() {
    for (const call of document.querySelectorAll(".plan-call[data-movable=yes]")) {
      call.addEventListener("pointerdown", (event) => { if (event.button === 0) drag(call, event); });
      call.addEventListener("dragstart", (event) => event.preventDefault());
      call.addEventListener("keydown", (event) => key(call, event));
    }
  }
  wire();
}
