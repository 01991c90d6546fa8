// A timer that comes due is heard, felt and read: three tones, a buzz, the foot of the page and its title.
import { line } from "./foot.js";

let sound = null;
const rang = new Set();

// A browser lets no page sound before it was touched.
const unlock = () => {
  if (!("AudioContext" in window)) return;
  sound = sound || new AudioContext();
  if (sound.state === "suspended") sound.resume();
};
document.addEventListener("pointerdown", unlock);
document.addEventListener("keydown", unlock);

const tones = () => {
  if (!sound || sound.state !== "running") return;
  for (const after of [0, 0.35, 0.7]) {
    const tone = sound.createOscillator(), loud = sound.createGain();
    tone.frequency.value = 880;
    loud.gain.setValueAtTime(0.25, sound.currentTime + after);
    loud.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + after + 0.25);
    tone.connect(loud).connect(sound.destination);
    tone.start(sound.currentTime + after);
    tone.stop(sound.currentTime + after + 0.3);
  }
};

// Once for each timer, and only where it comes due while the page looks on: what was over before says so by itself.
export const ring = (name, words) => {
  if (rang.has(name)) return;
  rang.add(name);
  line(`Time: ${words}`);
  document.title = `Time: ${document.title.replace(/^Time: /, "")}`;
  if (navigator.vibrate) navigator.vibrate([300, 150, 300, 150, 300]);
  tones();
};
