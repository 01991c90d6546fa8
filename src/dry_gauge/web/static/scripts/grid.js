// The points of a duct traverse as a grid of fields, in the order of the duct; what is typed there goes into the one line.
const INCH_M = 0.0254;

/** Points along a side or diameter that stays under `side` metres. */
export function along(rule, shape, side) {
  const found = rule[shape].find(([below]) => side < below);
  return found ? found[1] : 0;
}

/** Rows and columns of the grid of a duct; none while its size is not known. */
export function sizeOf(rule, shape, width, height, unit) {
  const metre = unit === "cm" ? 0.01 : INCH_M;
  if (!(width > 0)) return null;
  if (shape === "round") return { rows: 3, columns: along(rule, "round", width * metre) };
  if (!(height > 0)) return null;
  return { rows: along(rule, "rectangle", height * metre), columns: along(rule, "rectangle", width * metre) };
}

function drawn(form, host, line) {
  const rule = JSON.parse(host.dataset.grid);
  const value = (name) => form.elements[name].value;
  const size = sizeOf(rule, value("shape"), parseFloat(value("width")), parseFloat(value("height")), value("length_unit"));
  host.hidden = !size;
  if (!size) return;
  const wanted = `${size.rows}x${size.columns}`;
  if (host.dataset.drawn === wanted) return;
  host.dataset.drawn = wanted;
  host.style.setProperty("--columns", size.columns);
  host.replaceChildren();
  for (let row = 1; row <= size.rows; row += 1) {
    for (let column = 1; column <= size.columns; column += 1) {
      const field = document.createElement("input");
      field.className = "input";
      field.inputMode = "decimal";
      field.maxLength = 7;
      field.setAttribute("aria-label", `${value("shape") === "round" ? "Diameter" : "Row"} ${row}, point ${column}`);
      field.addEventListener("input", () => {
        const read = [...host.children].map((one) => one.value.trim()).filter(Boolean);
        line.value = read.join(" ");
        field.classList.toggle("read", field.value.trim() !== "");
      });
      host.append(field);
    }
  }
}

function follow(target) {
  const form = target.closest?.("#traverse-form");
  const host = form?.querySelector("[data-grid]");
  if (host && !host.contains(target)) drawn(form, host, form.querySelector("textarea"));
}

if (typeof document !== "undefined") {
  document.addEventListener("input", (event) => follow(event.target));
  document.addEventListener("change", (event) => follow(event.target));
}
