// A lamp's flashes tapped along: the moments go into the form as seconds from the first, the rhythm is read elsewhere.
const LONGEST_SILENCE_MS = 600000;

function follow(host) {
  const field = host.querySelector("[data-taps]");
  const told = host.querySelector("[data-blink-count]");
  let moments = [];
  const show = () => {
    field.value = moments.map((at) => ((at - moments[0]) / 1000).toFixed(3)).join(" ");
    const flashes = moments.length === 1 ? "1 flash" : `${moments.length} flashes`;
    told.textContent = moments.length
      ? `${flashes}. Tap a second round, then keep the code.`
      : "0 flashes. Two rounds of the code are sure.";
  };
  const tap = (at) => {
    if (moments.length && at - moments[0] > LONGEST_SILENCE_MS) moments = [];
    moments.push(at);
    show();
  };
  const button = host.querySelector("[data-blink]");
  // On the way down, as the flash is seen; a key held down repeats, and is one flash.
  button.addEventListener("pointerdown", (event) => tap(event.timeStamp));
  button.addEventListener("keydown", (event) => {
    if ((event.key === " " || event.key === "Enter") && !event.repeat) tap(event.timeStamp);
    if (event.key === "Enter") event.preventDefault();
  });
  host.querySelector("[data-blink-again]").addEventListener("click", () => { moments = []; show(); });
  host.closest("form").addEventListener("reset", () => { moments = []; show(); });
  host.closest("form").addEventListener("cleared", () => { moments = []; show(); });
}

if (typeof document !== "undefined") document.querySelectorAll("[data-blinks]").forEach(follow);
