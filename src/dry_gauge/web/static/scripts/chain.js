// The links of a chain in their order: dragged by their bars, or moved by arrows; one more, one less.
function rowsOf(list) {
  return [...list.children];
}

function moved(row, step) {
  const list = row.parentElement;
  const rows = rowsOf(list);
  const to = rows.indexOf(row) + step;
  if (to < 1 || to >= rows.length || rows.indexOf(row) === 0) return; // the source stays first
  list.insertBefore(row, step < 0 ? rows[to] : rows[to].nextSibling);
}

function added(row) {
  const more = row.cloneNode(true);
  more.querySelectorAll("input").forEach((field) => { field.value = ""; });
  row.after(more);
  more.querySelector("input").focus();
}

function pressed(event) {
  const button = event.target.closest?.("[data-move]");
  if (!button) return;
  const row = button.closest("li");
  if (button.dataset.move === "up") moved(row, -1);
  else if (button.dataset.move === "down") moved(row, 1);
  else if (button.dataset.move === "add") added(row);
  else if (rowsOf(row.parentElement).indexOf(row) > 0) row.remove();
  if (row.isConnected && button.dataset.move !== "add") button.focus();
}

function dragged(event) {
  const grip = event.target.closest?.("[data-grip]");
  if (!grip) return;
  const row = grip.closest("li");
  const list = row.parentElement;
  if (list.firstElementChild === row) return;
  event.preventDefault();
  grip.setPointerCapture(event.pointerId);
  row.classList.add("dragged");
  // The others make room: a row that is taken out of the page loses the pointer that holds it.
  const middle = (other) => { const box = other.getBoundingClientRect(); return box.top + box.height / 2; };
  const follow = (move) => {
    while (row.nextElementSibling && move.clientY > middle(row.nextElementSibling)) {
      list.insertBefore(row.nextElementSibling, row);
    }
    let above = row.previousElementSibling;
    while (above && above !== list.firstElementChild && move.clientY < middle(above)) {
      row.after(above);
      above = row.previousElementSibling;
    }
  };
  const end = () => {
    row.classList.remove("dragged");
    grip.removeEventListener("pointermove", follow);
  };
  grip.addEventListener("pointermove", follow);
  grip.addEventListener("pointerup", end, { once: true });
  grip.addEventListener("pointercancel", end, { once: true });
}

if (typeof document !== "undefined") {
  document.addEventListener("click", pressed);
  document.addEventListener("pointerdown", dragged);
}
