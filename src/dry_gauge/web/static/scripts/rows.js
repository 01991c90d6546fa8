// A table of numbers as fields to fill in, over the text of a line each that is sent: what is typed in one stands in the other.

/** Lines as they are taken apart where they arrive: blanks between cells, a dash for none, 'wb' with its number. */
export function split(text) {
  const lines = text.split("\n").map((line) => line.trim().replace(/(\d)\s*wb\b/gi, "$1wb")).filter(Boolean);
  return lines.map((line) => line.split(/[\s,;|]+/).map((cell) => (/^[-–]$/.test(cell) ? "" : cell)));
}

/**
 * The same from rows of cells: empty rows fall away, an empty cell is a dash where another comes after it, or among the first
 * `least`, so that nobody wonders which was left out; `wet` marks a column's numbers.
 */
export function joined(rows, wet = -1, least = 0) {
  const marked = (cell, column) => {
    const bare = cell.replace(/\s+/g, "");
    return column === wet && /\d$/.test(bare) ? `${bare}wb` : bare;
  };
  const lines = rows.map((row) => row.map(marked)).map((row) => {
    const last = row.findLastIndex((cell) => cell !== "");
    return last < 0 ? "" : row.slice(0, Math.max(last + 1, least)).map((cell) => cell || "-").join(" ");
  });
  return lines.filter(Boolean).join("\n");
}

/** By which bulb a column goes: `wb` where every number says so, else `db`; of an empty table nobody knows yet. */
export function bulbOf(rows, column) {
  if (!rows.length) return "";
  return rows.every((row) => !row[column] || /wb$/i.test(row[column])) ? "wb" : "db";
}

function draw(host) {
  const text = document.getElementById(host.dataset.of);
  const columns = JSON.parse(host.dataset.rows);
  const wet = columns.findIndex((one) => one.wet);
  const fields = document.createElement("div");
  fields.className = "typed-rows";
  fields.style.setProperty("--columns", columns.length);
  let choice = null;

  const cells = () => {
    const found = [...fields.querySelectorAll("input")].map((one) => one.value);
    const wide = columns.length;
    return Array.from({ length: found.length / wide }, (_, i) => found.slice(i * wide, (i + 1) * wide));
  };
  const send = () => {
    text.value = joined(cells(), choice?.value === "wb" ? wet : -1, Number(host.dataset.least ?? 0));
    if (choice) choice.required = text.value !== "";  // which bulb it is, is said and never guessed
  };
  const addRow = (values) => {
    const row = fields.querySelectorAll("input").length / columns.length + 1;
    columns.forEach((column, i) => {
      const field = document.createElement("input");
      // A keypad of digits has no minus on some phones, and winters have.
      const inputMode = column.signed ? "text" : "decimal";
      Object.assign(field, { className: "input", inputMode, maxLength: 12, value: values[i] ?? "" });
      field.setAttribute("aria-label", `Row ${row}, ${column.label}`);
      field.addEventListener("input", () => { send(); if (cells().at(-1).some(Boolean)) addRow([]); });
      field.addEventListener("keydown", (event) => {
        if (event.key !== "Enter") return;
        event.preventDefault();  // on to the next cell: the form is not done yet
        field.nextElementSibling?.focus();
      });
      field.addEventListener("paste", (event) => {
        const pasted = event.clipboardData.getData("text");
        if (!/[\n\t]/.test(pasted.trim())) return;
        event.preventDefault();
        text.value = [text.value, pasted].filter(Boolean).join("\n");
        fill();
      });
      fields.append(field);
    });
  };
  const fill = () => {
    const rows = split(text.value);
    if (choice && rows.length) choice.value = bulbOf(rows, wet);
    fields.querySelectorAll("input").forEach((one) => one.remove());
    const bare = (cell, i) => (i === wet && choice?.value === "wb" ? cell.replace(/wb$/i, "") : cell);
    [...rows.map((row) => row.map(bare)), []].forEach(addRow);
  };

  host.replaceChildren();
  if (wet >= 0) {
    const label = document.createElement("label");
    choice = document.createElement("select");
    choice.className = "input";
    choice.append(new Option("choose", ""), new Option("wet bulb", "wb"), new Option("dry bulb", "db"));
    choice.addEventListener("change", send);
    label.append(`${columns[wet].wet} `, choice);
    host.append(label);
  }
  columns.forEach((column) => {
    const head = document.createElement("span");
    head.textContent = column.label;
    fields.append(head);
  });
  host.append(fields);
  host.hidden = false;
  text.closest("details.as-lines").open = false;  // the table says the same
  fill();
  text.addEventListener("input", fill);
  text.form?.addEventListener("reset", () => setTimeout(fill));
}

if (typeof document !== "undefined") {
  const drawAll = (within) => within.querySelectorAll("[data-rows][hidden]").forEach(draw);
  document.addEventListener("DOMContentLoaded", () => drawAll(document));
  document.addEventListener("htmx:load", (event) => drawAll(event.target));
}
