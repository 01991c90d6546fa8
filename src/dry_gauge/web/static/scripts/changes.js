// Answers and news come into the page: one after the other, without disturbing what somebody is typing.

const narrow = window.matchMedia("(max-width: 1199px)"); // where the stylesheet shows the narrow ladder
let sentForm = "";
const afterwards = [];

// What else has to be put right when something new came in.
export const whenChanged = (work) => afterwards.push(work);

export const field = (form) => form.querySelector(".entry input");

// What this page shows, so that an answer brings what it lacks.
export const pageHeaders = () => {
  const head = document.getElementById("timeline-head");
  return {
    "X-Page": narrow.matches ? "phone" : "desk",
    "X-Station": document.body.dataset.station || "",
    "X-Circuit": document.body.dataset.circuit || "1",
    ...(head ? { "X-Seen": head.dataset.seen } : {}),
  };
};
document.addEventListener("htmx:config:request", (event) => Object.assign(event.detail.ctx.request.headers, pageHeaders()));

// One line an entry, whichever answer brought it.
const eachOnce = () => {
  const seen = new Set();
  document.querySelectorAll(".entries > li").forEach((item) => { if (seen.has(item.id)) item.remove(); else seen.add(item.id); });
};

// A value that was typed anew is marked where it stands further down; what was read before an action stays its before.
const markReplaced = () => {
  let newer = new Set();
  document.querySelectorAll(".entries > li").forEach((item) => {
    if (item.dataset.sweeps) newer = new Set();
    const { same } = item.dataset;
    if (!same || item.classList.contains("voided")) return;
    item.classList.toggle("replaced", newer.has(same));
    newer.add(same);
  });
};
markReplaced();

// Forms that someone is filling in stay as they are until they are sent.
const TYPED = "input:not([type=hidden]), textarea, select";
const halfTyped = (target) => target.matches("[data-guarded]") && [...target.querySelectorAll(TYPED)].some((part) => {
  if (part.form && part.form.id === sentForm) return false;
  if (part instanceof HTMLSelectElement) return part === document.activeElement;
  if (part.type === "checkbox" || part.type === "radio") return part.checked !== part.defaultChecked;
  return part.value !== part.defaultValue;
});

// A part as it reads: without the numbers that each form is given anew, and whether something in it is unfolded.
const asItReads = (part) => {
  const copy = part.cloneNode(true);
  copy.querySelectorAll("[name=entry_id]").forEach((number) => number.removeAttribute("value"));
  copy.querySelectorAll("details").forEach((folded) => folded.removeAttribute("open"));
  copy.removeAttribute("style");
  copy.removeAttribute("hx-swap-oob");
  copy.removeAttribute("data-follows");
  return copy;
};

// What did not change is not replaced: a thumb may be on it.
document.addEventListener("htmx:before:swap", (event) => {
  const { tasks } = event.detail;
  for (let i = tasks.length - 1; i >= 0; i--) {
    const { target, fragment } = tasks[i];
    const only = fragment && fragment.childElementCount === 1 ? fragment.firstElementChild : null;
    const stays = only && target instanceof Element && (asItReads(target).isEqualNode(asItReads(only)) || halfTyped(target));
    if (stays) tasks.splice(i, 1);
    // A list that gets shorter keeps its room until the page is left: what stands below it is about to be touched.
    else if (only && target instanceof HTMLElement && target.matches("[data-holds]")) {
      only.style.minHeight = `${target.offsetHeight}px`;
    }
  }
});

// Answers come into the page one after the other: each says what it showed when it asked.
let turn = Promise.resolve();
export const inTurn = (work) => { turn = turn.then(work, work); return turn; };

// A tap on its way keeps its target: between a finger's down and its up nothing is replaced, for a moment at the most.
const LONGEST_TAP_MS = 600;
let lifted = null, lift = () => {};
document.addEventListener("pointerdown", () => { lifted = new Promise((done) => { lift = done; }); }, true);
for (const ending of ["pointerup", "pointercancel"]) {
  document.addEventListener(ending, () => setTimeout(() => { lifted = null; lift(); }), true);
}

// A field that nobody is typing into shows what is kept now.
const fieldsFollow = (which) => document.querySelectorAll(which).forEach((said) => {
  delete said.dataset.follows;
  const input = said.closest("form") && field(said.closest("form"));
  if (!input || input === document.activeElement || (input.value.trim() && input.value.trim() !== input.dataset.kept)) return;
  input.value = said.dataset.value;
  input.dataset.kept = said.dataset.value;
});

export const takeIn = async (text, form) => {
  if (lifted) await Promise.race([lifted, new Promise((done) => { setTimeout(done, LONGEST_TAP_MS); })]);
  sentForm = form ? form.id : "";
  await htmx.swap({ text, swap: "none", target: document.body, sourceElement: form || document.body });
  sentForm = "";
  fieldsFollow(".said[data-follows]"); // what was read before a change is no longer what is read
  eachOnce();
  markReplaced();
  afterwards.forEach((work) => work());
};

// Resolves with whether the page shows everything now; whoever asks before it is sent shares its answer.
let asked = null;
export const fetchChanges = () => {
  if (!document.body.dataset.visit) return Promise.resolve(false);
  asked = asked || inTurn(async () => {
    asked = null;
    try {
      const headers = { "hx-request": "true", ...pageHeaders() };
      const answer = await fetch(`/visits/${document.body.dataset.visit}/changes`, { headers });
      if (!answer.ok) return false;
      await takeIn(await answer.text());
    } catch { return false; } // without a connection there is nothing new to show
    fieldsFollow(".said[data-value]");
    return true;
  });
  return asked;
};

// Turning the phone or resizing the window may need the other ladder.
narrow.addEventListener("change", () => fetchChanges());
