// The pocket's tools in the browser, for where there is no signal: the same numbers as core/pocket.py, to a millionth.
// They work in the trade's units; `read` and `shownIn` put each number into its reader's, as core/pocket_units.py does.
import { DATA } from "./coefficients.js";

const PSI_PA = 6894.757293168361, ATMOSPHERE_PA = 101325, FOOT_M = 0.3048, POUND_KG = 0.45359237, OUNCE_KG = POUND_KG / 16;
const ZERO_C_K = 273.15, ZERO_F_K = 459.67 * 5 / 9;
const kelvin = (f) => f * 5 / 9 + ZERO_F_K;
const fahrenheit = (k) => (k - ZERO_F_K) * 9 / 5;

export class Refused extends Error {}

const answer = (label, value, unit, decimals = 1, twin = "") => ({ label, value, unit, decimals, twin });
const needed = (v, name) => { if (typeof v[name] !== "number") throw new Refused("Type a number."); return v[name]; };
const positive = (v, name) => { const x = needed(v, name); if (x <= 0) throw new Refused("Above nothing."); return x; };
const has = (v, name) => typeof v[name] === "number";
const both = (label, k) => [answer(label, fahrenheit(k), "°F"), answer(`${label}, metric`, k - ZERO_C_K, "°C", 1, "C")];

const barometer = (v) => {
  const feet = v.elevation || 0;
  if (!(feet >= -1500 && feet <= 20000)) throw new Refused("Elevation lies between -1,500 and 20,000 ft (-450 and 6,100 m).");
  return ATMOSPHERE_PA * (1 - 2.25577e-5 * feet * FOOT_M) ** 5.2559;
};

// -- saturation: polynomials in normalised ln p, and Newton back --------------------------------------------------------
const horner = (c, x) => c.reduceRight((total, one) => total * x + one, 0);
const slope = (c) => c.slice(1).map((one, i) => (i + 1) * one);

function curve(name) {
  const [middle, half, , low, high, ...sides] = DATA.saturation[name];
  const [dew, dewGuess, dewLow, dewHigh, bubble, bubbleGuess, bubbleLow, bubbleHigh] = sides;
  const side = (c, guess, from, to) => ({
    temperature(pa) {
      if (!(pa >= low && pa <= high)) throw new Refused(`Outside the ${name} table.`);
      return horner(c, (Math.log(pa) - middle) / half);
    },
    pressure(k) {
      if (!(k >= from && k <= to)) throw new Refused(`Outside the ${name} curve.`);
      let x = horner(guess, (2 * k - from - to) / (to - from));
      for (let i = 0; i < 2; i += 1) x -= (horner(c, x) - k) / horner(slope(c), x);
      return Math.exp(x * half + middle);
    },
  });
  return { dew: side(dew, dewGuess, dewLow, dewHigh), bubble: side(bubble, bubbleGuess, bubbleLow, bubbleHigh) };
}

function saturation(v) {
  const both_ = curve(v.refrigerant), air = barometer(v);
  if (!has(v, "pressure") && !has(v, "temperature")) throw new Refused("A pressure or a temperature.");
  const found = [];
  if (has(v, "pressure")) {
    const pa = v.pressure * PSI_PA + air;
    found.push(...both("Dew, for superheat", both_.dew.temperature(pa)));
    found.push(...both("Bubble, for subcooling", both_.bubble.temperature(pa)));
  }
  if (has(v, "temperature")) {
    const k = kelvin(v.temperature);
    found.push(answer("Dew pressure", (both_.dew.pressure(k) - air) / PSI_PA, "psig"));
    found.push(answer("Bubble pressure", (both_.bubble.pressure(k) - air) / PSI_PA, "psig"));
  }
  return found;
}

function superheat(v) {
  const wet = needed(v, "wet_bulb"), outdoor = needed(v, "outdoor"), aim = (3 * wet - 80 - outdoor) / 2;
  const why = [
    [outdoor < 55, "outdoor air below 55 °F (13 °C)"], [outdoor > 115, "outdoor air above 115 °F (46 °C)"],
    [wet < 50, "return wet bulb below 50 °F (10 °C)"], [wet > 76, "return wet bulb above 76 °F (24 °C)"],
    [aim < 5, "target below 5 °F (3 °C): not chargeable by superheat in this weather, weigh in"],
  ].find(([holds]) => holds);
  if (why) throw new Refused(`No target: ${why[1]}.`);
  const metric = answer("Target superheat, metric", aim / 1.8, "K", 1, "C");
  return [answer("Target superheat at the orifice", aim, "°F apart"), metric];
}

function weight(v) {
  if (!["pounds", "ounces", "kilograms"].some((name) => has(v, name))) throw new Refused("Pounds, ounces or kilograms.");
  const kg = (v.pounds || 0) * POUND_KG + (v.ounces || 0) * OUNCE_KG + (v.kilograms || 0);
  if (kg < 0) throw new Refused("Above nothing.");
  const ounces = kg / OUNCE_KG, whole = Math.trunc(ounces / 16 + 1e-9);
  return [answer("Whole pounds", whole, "lb", 0), answer("and ounces", Math.max(ounces - 16 * whole, 0), "oz"),
    answer("Decimal pounds", kg / POUND_KG, "lb", 3), answer("Kilograms", kg, "kg", 3)];
}

function line(v) {
  const perMetre = DATA.line_density[v.refrigerant] * Math.PI * DATA.bores_m[v.line] ** 2 / 4;
  const ounces = perMetre * (positive(v, "length") - (v.included || 0)) * FOOT_M / OUNCE_KG;
  return [answer("The line holds", perMetre * FOOT_M / OUNCE_KG, "oz/ft", 2), answer("Add for the line", ounces, "oz"),
    answer("Add, metric", ounces * OUNCE_KG * 1000, "g", 0, "kg")];
}

function cylinder(v) {
  const limit = 0.8 * positive(v, "capacity") * DATA.fill_density[v.refrigerant];
  const stop = has(v, "tare") ? [answer("Stop at, on the scale", limit + v.tare, "lb")] : [];
  return [answer("Holds at most", limit, "lb"), ...stop];
}

function nitrogen(v) {
  const start = needed(v, "pressure") * PSI_PA + ATMOSPHERE_PA, ratio = kelvin(needed(v, "now")) / kelvin(needed(v, "then"));
  if (start <= 0 || ratio <= 0) throw new Refused("Below a vacuum, or below absolute zero.");
  const end = (start * ratio - ATMOSPHERE_PA) / PSI_PA;
  return [answer("The same gas now shows", end, "psig"), answer("Weather alone did", end - v.pressure, "psi")];
}

function capacitor(v) {
  const value = 1e6 * positive(v, "amps") / (2 * Math.PI * Number(v.hertz) * positive(v, "volts"));
  return [answer("Under load", value, "µF"), ...(v.rated ? [answer("Of its rating", 100 * value / v.rated, "%", 0)] : [])];
}

function strips(v) {
  const volts = positive(v, "volts"), phases = v.phases === "3" ? Math.sqrt(3) : 1;
  const kw = (positive(v, "amps") - (v.blower || 0)) * volts * phases / 1000;
  const known = v.plate && v.plate_volts;
  return [answer("Heat", kw, "kW", 2),
    ...(known ? [answer("Of the banks at these volts", 100 * kw / (v.plate * (volts / v.plate_volts) ** 2), "%", 0)] : [])];
}

function imbalance(v) {
  const pairs = ["l1_l2", "l2_l3", "l3_l1"].map((name) => positive(v, name)), mean = (pairs[0] + pairs[1] + pairs[2]) / 3;
  const share = Math.max(...pairs.map((one) => Math.abs(one - mean))) / mean;
  return [answer("Imbalance", 100 * share, "%"), answer("Motors run hotter by about", 2 * (100 * share) ** 2, "%", 0)];
}

function heat(v) {
  const density = barometer(v) / ATMOSPHERE_PA;
  return [answer("Airflow", 3.412 * positive(v, "watts") / (1.08 * density * positive(v, "rise")), "cfm", 0)];
}

function duct(v) {
  const width = positive(v, "width"), area = (v.height ? width * v.height : Math.PI * width ** 2 / 4) / 144;
  return [answer("Area", area, "ft²", 2), answer("Airflow", area * positive(v, "velocity"), "cfm", 0)];
}

function belt(v) {
  const small = positive(v, "motor_pitch"), large = positive(v, "blower_pitch");
  const found = [answer("Blower", positive(v, "motor_rpm") * small / large * (1 - DATA.slip), "rpm", 0)];
  if (v.centres) {
    const tooNear = v.centres <= 0 || v.centres * 2 <= small + large;
    if (tooNear) throw new Refused("The shafts stand further apart than half of both sheaves.");
    found.push(answer("Belt length", 2 * v.centres + 1.57 * (small + large) + (large - small) ** 2 / (4 * v.centres), "in."));
    found.push(answer("Deflection at mid-span", v.centres / 64, "in.", 2));
  }
  return found;
}

function thermistor(v) {
  const [a, b, c] = DATA.thermistors[v.curve];
  if (!has(v, "ohms") && !has(v, "temperature")) throw new Refused("Ohms or a temperature.");
  const isBeyond = has(v, "temperature") && !(v.temperature >= -100 && v.temperature <= 400);
  if (isBeyond) throw new Refused("A thermistor of controls reads from -100 to 400 °F (-73 to 204 °C).");
  const found = [];
  if (has(v, "ohms")) {
    if (v.ohms <= 0) throw new Refused("Ohms are above nothing.");
    const x = Math.log(v.ohms);
    found.push(...both("Temperature", 1 / (a + b * x + c * x ** 3)));
  }
  if (has(v, "temperature")) {
    const x = (a - 1 / kelvin(v.temperature)) / c, y = Math.sqrt((b / (3 * c)) ** 3 + x * x / 4);
    found.push(answer("Should read", Math.exp(Math.cbrt(y - x / 2) - Math.cbrt(y + x / 2)), "Ω", 0));
  }
  return found;
}

export const TOOLS = {
  saturation, superheat, weight, line, cylinder, nitrogen, capacitor, strips, imbalance, heat, duct, belt, thermistor,
};

// A comma before three digits: a thousand, or thousandths?
const TWO_WAYS = /,\d{3}$/, NUMBER = /^[-+−–]?\s*(\d+([.,]\d*)?|[.,]\d+)$/;

const numberIn = (text) => TWO_WAYS.test(text) || !NUMBER.test(text)
  ? NaN : Number(text.replace(/[−–]/, "-").replace(" ", "").replace(",", "."));

/** What was typed: numbers, choices as they are, nothing for what stays empty; NaN where it is no number. */
export function valuesOf(fields) {
  const found = {};
  for (const [name, text, chosen] of fields) {
    if (chosen) found[name] = text;
    else if (text.trim()) found[name] = numberIn(text.trim());
  }
  return found;
}

// -- in the reader's units: what they have chosen, such as "C bar kg" ----------------------------------------------------
const swapsOf = (reads) => Object.assign({}, ...reads.split(" ").map((name) => DATA.swaps[name] || {}));

/** What was typed, in the trade's units; `units` names each field's. */
export function read(values, units, reads) {
  const swaps = swapsOf(reads), found = { ...values };
  for (const [name, value] of Object.entries(values)) {
    const swap = swaps[units[name]];
    if (swap && typeof value === "number") found[name] = (value - swap[2]) / swap[1];
  }
  return found;
}

/** Answers in the reader's units, without those that only say another one again. */
export function shownIn(answers, reads) {
  const swaps = swapsOf(reads), chosen = reads.split(" ");
  return answers.filter((one) => !chosen.includes(one.twin) || !one.twin).map((one) => {
    const [unit, scale, offset, decimals] = swaps[one.unit] || [one.unit.replace(" apart", ""), 1, 0, 0];
    return { ...one, value: one.value * scale + offset, unit, decimals: Math.max(0, one.decimals + decimals) };
  });
}

const notNumber = (text) => TWO_WAYS.test(text)
  ? `${text} can be read two ways: write ${text.replaceAll(",", "")} or use a decimal point.` : `${text} is not a number.`;

// -- on the page --------------------------------------------------------------------------------------------------------
function shown(form) {
  const place = form.querySelector(".tool-answers");
  const asked = [...form.elements].filter((one) => one.name && one.type !== "hidden");
  const values = valuesOf(asked.map((one) => [one.name, one.value, one.tagName === "SELECT"]));
  const typed = Object.entries(values).filter(([, value]) => typeof value === "number");
  place.replaceChildren();
  if (!typed.length) return "";
  const line_ = (tag, text, css = "") =>
    Object.assign(document.createElement(tag), { textContent: text, className: css });
  const wrong = typed.find(([, value]) => !Number.isFinite(value));
  try {
    // By hand: of a field that is called length, a form's elements give their number.
    if (wrong) throw new Refused(notNumber(asked.find((one) => one.name === wrong[0]).value.trim()));
    const units = Object.fromEntries([...form.elements].map((one) => [one.name, one.dataset.unit]));
    const found = shownIn(TOOLS[form.dataset.tool](read(values, units, form.dataset.reads)), form.dataset.reads);
    if (!found.every((one) => Number.isFinite(one.value))) throw new Refused("That is beyond any measure.");
    const list = document.createElement("dl");
    for (const one of found) {
      const row = document.createElement("div");
      row.append(line_("dt", one.label), line_("dd", `${one.value.toFixed(one.decimals)} ${one.unit}`));
      list.append(row);
    }
    place.append(list);
    return found.map((one) => `${one.label} ${one.value.toFixed(one.decimals)} ${one.unit}`).join(", ");
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    // What is still to be typed is no mistake yet.
    place.append(line_("p", error.message, error.message === "Type a number." ? "empty" : "error"));
    return "";
  }
}

function told(event) {
  const form = event.target.closest?.("form[data-tool]");
  if (!form) return;
  const words = shown(form), keep = form.parentElement.querySelector("[data-keeps]");
  if (!keep) return;
  keep.hidden = !words;
  keep.elements.text.value = words ? `${form.dataset.label}: ${words}` : "";
}

if (typeof document !== "undefined") {
  document.addEventListener("input", told);
  document.addEventListener("change", (event) => {
    const visit = event.target.closest?.("[data-keeps] select");
    if (visit) visit.form.action = `/visits/${visit.value}/entries`;
    else told(event);
  });
  document.addEventListener("submit", (event) => { if (event.target.matches?.("form[data-tool]")) event.preventDefault(); });
}
