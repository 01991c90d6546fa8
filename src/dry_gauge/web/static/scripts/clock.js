// The server's clock, as far as this page knows it: told as the page was drawn, remembered where that was long ago.
const SKEW = "skew";
const drawn = Number(document.body.dataset.now || Date.now());
let skew = Date.now() - drawn;

// On a made-up call the clock stands until something is done.
const still = "still" in document.body.dataset;
export const now = () => (still ? drawn : Date.now() - skew);

// An hour of this device's own clock, as whoever reads the page likes it.
const twelve = document.body.dataset.clock === "12";
export const hour = (moment) => (twelve
  ? `${moment.getHours() % 12 || 12}${moment.toTimeString().slice(2, 5)} ${moment.getHours() < 12 ? "am" : "pm"}`
  : moment.toTimeString().slice(0, 5));

// How far this device's clock is off is learnt from pages that come fresh, and used on those that do not.
export const drawnNow = () => { if (!still) try { localStorage.setItem(SKEW, String(skew)); } catch { /* keeps nothing */ } };
export const drawnBefore = () => { try { skew = Number(localStorage.getItem(SKEW)) || 0; } catch { skew = 0; } };
