// The little that pages need beyond htmx: Enter goes on, a paste fills several rows, one id per sent value.
"use strict";
(() => {
  const narrow = window.matchMedia("(max-width: 1199px)"); // where the stylesheet shows the narrow ladder

  // UUIDv7: made here, so that the same entry sent twice is one entry.
  const newId = () => {
    const bytes = crypto.getRandomValues(new Uint8Array(16));
    let now = Date.now();
    for (let i = 5; i >= 0; i--, now = Math.floor(now / 256)) bytes[i] = now % 256;
    bytes[6] = (bytes[6] & 0x0f) | 0x70;
    bytes[8] = (bytes[8] & 0x3f) | 0x80;
    const hex = Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
    return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
  };

  const field = (form) => form.querySelector(".entry input");
  const fields = () => [...document.querySelectorAll("form[data-entry] .entry input")].filter((i) => i.offsetParent && !i.readOnly);

  // A value is sent when it differs from what is kept. Its id changes with the value, not with the try.
  const send = (input) => {
    const form = input.form;
    const value = input.value.trim();
    if (!value || value === input.dataset.kept || value === input.dataset.sending) return;
    if (value !== input.dataset.idFor) {
      form.elements.entry_id.value = newId();
      input.dataset.idFor = value;
    }
    input.dataset.sending = value;
    form.dispatchEvent(new CustomEvent("send"));
  };

  document.addEventListener("change", (event) => {
    if (event.target.matches("form[data-entry] .entry input")) send(event.target);
  });

  // A switch or a note that is changed after it was sent is another entry. Heard before htmx sends it.
  const renew = (event) => {
    const form = event.target.form;
    if (!form || !form.elements.entry_id || form.matches("[data-entry]") || !form.dataset.sent) return;
    form.elements.entry_id.value = newId();
    delete form.dataset.sent;
  };
  document.addEventListener("change", renew, true);
  document.addEventListener("input", renew, true);

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

  document.addEventListener("htmx:config:request", (event) => {
    const { ctx } = event.detail;
    const { headers } = ctx.request;
    if (ctx.sourceElement instanceof HTMLFormElement) ctx.sourceElement.dataset.sent = "yes";
    headers["X-Page"] = narrow.matches ? "phone" : "desk";
    const sheet = document.getElementById("sheet");
    if (sheet) headers["X-Circuit"] = sheet.dataset.circuit;
    headers["X-Device-Time"] = new Date().toISOString();
  });

  const line = (words) => {
    const place = document.getElementById("line");
    place.textContent = words;
    place.hidden = !words;
  };
  // What the page shows is only known when a request leaves, not when it queues behind another.
  document.addEventListener("htmx:before:request", (event) => {
    const latest = document.querySelector("#entries > li");
    if (latest) event.detail.ctx.request.headers["X-Seen"] = latest.dataset.sequence;
  });

  // A switch must not look kept when it is not: it goes back to what the server last said.
  const putBack = (form) => { if (form.matches(".sight")) form.reset(); };
  const settle = (form, body) => {
    const sent = body && typeof body.get === "function" ? body.get("state") || body.get("mode") : null;
    if (sent) form.querySelectorAll("input[type=radio]").forEach((radio) => { radio.defaultChecked = radio.value === sent; });
  };
  const STAYS = "What you typed stays in its field; it is sent when you press Enter there again.";
  document.addEventListener("htmx:after:request", (event) => {
    const { ctx } = event.detail;
    const answered = ctx.response ? ctx.response.raw.status : 0;
    // These carry their own words beside the field, or ask to sign in; anything else says so at the foot of the page.
    line(answered < 400 || [401, 403, 409, 422].includes(answered) ? "" : `Not kept (${answered}). ${STAYS}`);
    const form = ctx.sourceElement;
    if (!(form instanceof HTMLFormElement)) return;
    if (answered === 200) settle(form, ctx.request.body);
    else if (answered !== 401) putBack(form);
    const input = field(form);
    const status = ctx.response && ctx.response.raw.status;
    if (input) {
      if (status === 200) input.dataset.kept = input.dataset.sending || input.dataset.kept;
      delete input.dataset.sending;
      const refused = status === 422 || status === 409;
      input.classList.toggle("refused", refused);
      input.setAttribute("aria-invalid", String(refused));
    }
  });
  document.addEventListener("htmx:error", (event) => {
    const form = event.detail.ctx && event.detail.ctx.sourceElement;
    if (form instanceof HTMLFormElement) {
      putBack(form);
      if (field(form)) delete field(form).dataset.sending;
    }
    line(`No connection. ${STAYS}`);
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

  // The judgement asks for a reading: go to its field, opening what hides it.
  document.addEventListener("click", (event) => {
    const link = event.target.closest("[data-goto]");
    if (!link) return;
    const name = link.dataset.goto;
    const ids = { minutes_running: "c-started", minutes_since_change: "c-changed" };
    const target = document.getElementById(ids[name] || `q-${name}`) || document.getElementById(`s-${name}-yes`);
    if (!target) return;
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
  narrow.addEventListener("change", () => document.body.dispatchEvent(new CustomEvent("page-turned")));

  // After signing in again, what waited goes off by itself.
  const waiting = document.querySelector("form[data-send-now]");
  if (waiting) waiting.requestSubmit();

  // A menu closes when something else is touched, or on Escape.
  const closeMenus = (except) => document.querySelectorAll("details.menu[open]").forEach((m) => { if (m !== except) m.open = false; });
  document.addEventListener("click", (event) => closeMenus(event.target.closest("details.menu")));
  document.addEventListener("keydown", (event) => { if (event.key === "Escape") closeMenus(null); });
})();
