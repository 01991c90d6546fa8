// The little that pages need: Enter goes on, a paste fills several rows, what is sent goes through the outbox.
"use strict";
(() => {
  const narrow = window.matchMedia("(max-width: 1199px)"); // where the stylesheet shows the narrow ladder

  const field = (form) => form.querySelector(".entry input");
  const fields = () => [...document.querySelectorAll("form[data-entry] .entry input")].filter((i) => i.offsetParent && !i.readOnly);

  // What a form would send, said in a few words for the list of what waits.
  const labelled = (form, data) => {
    const named = form.querySelector("label, legend, summary");
    const what = named ? named.childNodes[0].textContent.trim() : data.get("kind");
    const value = data.get("value") || data.get("state") || data.get("mode") || data.get("minutes_ago") || data.get("text") || data.get("what") || "";
    return `${what} ${String(value).slice(0, 60)}`.trim();
  };

  const dispatch = async (form, submitter = null) => {
    const data = new FormData(form, submitter);
    const record = { url: new URL(form.action).pathname, form: form.id, label: labelled(form, data), fields: [] };
    for (const [name, value] of data) {
      if (value instanceof File) {
        if (value.size) record.file = { field: name, ...(await window.smaller(value)) };
      } else if (name !== "csrftoken") record.fields.push([name, value]);
    }
    const id = form.elements.entry_id.value;
    form.elements.entry_id.value = outbox.newId();
    const said = form.querySelector(".said");
    if (said) said.innerHTML = '<span class="sending">sending</span>';
    try {
      await outbox.put(record);
    } catch (error) { // a browser that may keep nothing: then as a plain form, with the same id
      form.elements.entry_id.value = id;
      HTMLFormElement.prototype.submit.call(form);
    }
  };

  // A value is sent when it differs from what is kept.
  const send = (input) => {
    const value = input.value.trim();
    if (!value || value === input.dataset.kept || value === input.dataset.sending) return;
    input.dataset.sending = value;
    dispatch(input.form);
  };

  document.addEventListener("change", (event) => {
    if (event.target.matches("form[data-entry] .entry input")) send(event.target);
    else if (event.target.form && event.target.form.matches(".sight[data-outbox]")) dispatch(event.target.form);
  });
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (!form.matches("[data-outbox]")) return;
    event.preventDefault();
    if (form.matches("[data-entry]")) send(field(form));
    else dispatch(form, event.submitter);
  });

  document.addEventListener("keydown", (event) => {
    const input = event.target;
    if (!(input instanceof HTMLInputElement) || !input.matches("form[data-entry] .entry input")) return;
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
    if (!(input instanceof HTMLInputElement) || !input.matches("form[data-entry] .entry input")) return;
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

  // What this page shows, so that an answer brings what it lacks.
  window.pageHeaders = () => {
    const head = document.getElementById("timeline-head");
    return {
      "X-Page": narrow.matches ? "phone" : "desk",
      "X-Station": document.body.dataset.station || "",
      "X-Circuit": document.body.dataset.circuit || "1",
      ...(head ? { "X-Seen": head.dataset.seen } : {}),
    };
  };
  document.addEventListener("htmx:config:request", (event) => Object.assign(event.detail.ctx.request.headers, window.pageHeaders()));

  // One line an entry, whichever answer brought it.
  const eachOnce = () => {
    const seen = new Set();
    document.querySelectorAll(".entries > li").forEach((item) => { if (seen.has(item.id)) item.remove(); else seen.add(item.id); });
  };

  // Forms that someone is filling in stay as they are until they are sent.
  const halfTyped = (target) => target.matches("[data-guarded]") && [...target.querySelectorAll("input:not([type=hidden]), textarea, select")].some((part) => {
    if (part.form && part.form.id === window.sentForm) return false;
    if (part instanceof HTMLSelectElement) return part === document.activeElement;
    return part.type === "checkbox" || part.type === "radio" ? part.checked !== part.defaultChecked : part.value !== part.defaultValue;
  });

  // What did not change is not replaced: a thumb may be on it.
  document.addEventListener("htmx:before:swap", (event) => {
    const { tasks } = event.detail;
    for (let i = tasks.length - 1; i >= 0; i--) {
      const { target, fragment } = tasks[i];
      const only = fragment && fragment.childElementCount === 1 ? fragment.firstElementChild : null;
      if (only && target instanceof Element && (target.isEqualNode(only) || halfTyped(target))) tasks.splice(i, 1);
    }
  });

  // Answers come into the page one after the other: each says what it showed when it asked.
  let turn = Promise.resolve();
  window.inTurn = (work) => { turn = turn.then(work, work); return turn; };

  window.takeIn = async (text, form) => {
    window.sentForm = form ? form.id : "";
    await htmx.swap({ text, swap: "none", target: document.body, sourceElement: form || document.body });
    window.sentForm = "";
    eachOnce();
    tick();
  };

  let asked = false;
  window.fetchChanges = () => {
    if (asked || !document.body.dataset.visit) return turn;
    asked = true;
    return window.inTurn(async () => {
      asked = false;
      try {
        const answer = await fetch(`/visits/${document.body.dataset.visit}/changes`, { headers: { "hx-request": "true", ...window.pageHeaders() } });
        if (answer.ok) await window.takeIn(await answer.text());
      } catch (error) { return; } // without a connection there is nothing new to show
      // A field that nobody is typing into shows what is kept now.
      document.querySelectorAll(".said[data-value]").forEach((said) => {
        const input = said.closest("form") && field(said.closest("form"));
        if (!input || input === document.activeElement || (input.value.trim() && input.value.trim() !== input.dataset.kept)) return;
        input.value = said.dataset.value;
        input.dataset.kept = said.dataset.value;
      });
    });
  };

  const line = (words) => {
    const place = document.getElementById("line");
    place.textContent = words;
    place.hidden = !words;
  };

  // A switch must not look kept when it is not: refused, it goes back to what the server last said.
  window.addEventListener("outbox-answered", (event) => {
    const { record, status } = event.detail;
    const form = document.getElementById(record.form);
    line(status < 400 || [403, 409, 413, 415, 422].includes(status) ? "" : `Not kept (${status}).`);
    if (!form) return;
    const fields = Object.fromEntries(record.fields);
    const input = field(form);
    if (input) {
      const kept = status < 300, sent = fields.value ?? fields.minutes_ago;
      if (kept) input.dataset.kept = sent;
      if (input.dataset.sending === sent) delete input.dataset.sending;
      const refused = status === 422 || status === 409;
      input.classList.toggle("refused", refused);
      input.setAttribute("aria-invalid", String(refused));
    } else if (form.matches(".sight")) {
      const sent = fields.state || fields.mode;
      if (status < 300) form.querySelectorAll("input[type=radio]").forEach((radio) => { radio.defaultChecked = radio.value === sent; });
      else form.reset();
    } else if (status < 300 && form.matches(".clears, .photo-form")) {
      form.reset();
      const box = form.closest("details");
      if (box) box.open = false;
    }
  });

  // What waited when the page was loaded is shown in its field again.
  const refill = async () => {
    for (const record of await outbox.waiting()) {
      const form = record.form && document.getElementById(record.form);
      if (!form || new URL(form.action).pathname !== record.url) continue;
      const fields = Object.fromEntries(record.fields), input = field(form);
      if (input) { input.value = fields.value ?? fields.minutes_ago; input.dataset.sending = input.value; }
      const radio = form.matches(".sight") && form.querySelector(`input[value="${CSS.escape(fields.state || fields.mode || "")}"]`);
      if (radio) radio.checked = true;
    }
  };
  if (document.querySelector("form[data-outbox]")) refill();

  // Phones' number pads have no minus.
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-sign]");
    if (!button) return;
    const input = field(button.form);
    const value = input.value.trim();
    input.value = /^[-−]/.test(value) ? value.slice(1) : `-${value}`;
    input.focus();
  });

  // The judgement asks for a reading: go to its field, opening what hides it.
  document.addEventListener("click", (event) => {
    const link = event.target.closest("[data-goto]");
    if (!link) return;
    const name = link.dataset.goto;
    const ids = { minutes_running: "c-started", minutes_since_change: "c-changed", minutes_since_charge: "c-charged", minutes_since_defrost: "c-defrosted" };
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

  // Turning the phone or resizing the window may need the other ladder.
  narrow.addEventListener("change", () => window.fetchChanges());

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

  // A choice shows what belongs to it.
  const shows = (select) => select.form.querySelectorAll("[data-when]").forEach((part) => { part.hidden = part.dataset.when !== select.value; });
  document.querySelectorAll("select[data-shows]").forEach(shows);
  document.addEventListener("change", (event) => { if (event.target.matches("select[data-shows]")) shows(event.target); });

  // Readings by name.
  document.addEventListener("input", (event) => {
    if (!event.target.matches("[data-find]")) return;
    const words = event.target.value.trim().toLowerCase();
    event.target.closest("details").querySelectorAll(".row").forEach((row) => {
      row.hidden = !row.querySelector("label").textContent.toLowerCase().includes(words);
    });
  });

  // Timers count here; what they started from is the server's.
  const skew = Date.now() - Number(document.body.dataset.now || Date.now());
  const tick = () => document.querySelectorAll(".timer[data-from]").forEach((timer) => {
    const left = Number(timer.dataset.minutes) - (Date.now() - skew - Date.parse(timer.dataset.from)) / 60000;
    timer.classList.toggle("over", left <= 0);
    const place = timer.querySelector(".timer-left");
    if (place) place.textContent = left > 0 ? `${Math.ceil(left)} min left` : `over since ${Math.floor(-left)} min: look`;
  });
  if (document.querySelector(".stations")) { tick(); setInterval(tick, 5000); }

  // Keys of the desk, as the rail has them; ? shows them.
  const stops = () => Object.fromEntries([...document.querySelectorAll(".stations a[data-key]")].map((link) => [link.dataset.key, link.getAttribute("href")]));
  document.addEventListener("keydown", (event) => {
    const visit = document.body.dataset.visit;
    if (!visit || event.ctrlKey || event.metaKey || event.altKey || event.target.matches("input, select, textarea")) return;
    const help = document.getElementById("keys");
    if (event.key === "?") { help.open ? help.close() : help.showModal(); }
    else if (event.key === "j") document.getElementById("judge").scrollIntoView({ block: "start" });
    else if (event.key === "/") { const [input] = fields(); if (input) { event.preventDefault(); input.focus(); input.select(); } }
    else if (stops()[event.key]) location.assign(stops()[event.key]);
  });

  // A photo leaves here small, and without what the camera wrote into it.
  const LONGEST_SIDE = 1600;
  window.smaller = async (file) => {
    try {
      const picture = await createImageBitmap(file);
      const scale = Math.min(1, LONGEST_SIDE / Math.max(picture.width, picture.height));
      const canvas = document.createElement("canvas");
      canvas.width = Math.max(1, Math.round(picture.width * scale));
      canvas.height = Math.max(1, Math.round(picture.height * scale));
      canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
      const blob = await new Promise((resolve) => canvas.toBlob(resolve, "image/jpeg", 0.82));
      return { blob, name: "photo.jpg" };
    } catch (error) { return { blob: file, name: file.name }; } // the server says what is wrong with it
  };

  // Several readings in words: read back first, kept only when they are right.
  document.addEventListener("submit", async (event) => {
    if (event.target.id !== "say-form") return;
    event.preventDefault();
    try {
      const form = event.target, body = new URLSearchParams(new FormData(form));
      const answer = await fetch(form.action, { method: "POST", headers: { "hx-request": "true", ...window.pageHeaders() }, body });
      if (answer.ok) await window.takeIn(await answer.text());
      line(answer.ok ? "" : `Not read back (${answer.status}). Reload the page, or type the readings in their fields.`);
    } catch (error) { line("Reading back needs a connection. Typed in their fields, readings wait for it."); }
  });
  document.addEventListener("click", async (event) => {
    if (event.target.id !== "keep-said") return;
    const visit = document.body.dataset.visit;
    for (const row of document.querySelectorAll(".said-row")) {
      const { quantity, value, unit, circuit, label } = row.dataset;
      await outbox.put({
        url: `/visits/${visit}/entries`, form: `row-${quantity}`, label: `${label} ${value} ${unit}`,
        fields: [["entry_id", outbox.newId()], ["kind", "reading"], ["quantity", quantity], ["value", value], ["unit", unit],
          ...(circuit ? [["circuit", circuit]] : [])],
      });
    }
    document.getElementById("read-back").replaceChildren();
    document.getElementById("said-text").value = "";
    setTimeout(window.fetchChanges, 300);
  });

  // For where there is no signal: the shell, and this visit's stations.
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

  // A menu closes when something else is touched, or on Escape.
  const closeMenus = (except) => document.querySelectorAll("details.menu[open]").forEach((m) => { if (m !== except) m.open = false; });
  document.addEventListener("click", (event) => closeMenus(event.target.closest("details.menu")));
  document.addEventListener("keydown", (event) => { if (event.key === "Escape") closeMenus(null); });
})();
