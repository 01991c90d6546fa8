// The made-up unit answers from the server: without a connection that is said, and what was chosen stays on the page.
import { heldUp } from "./press.js";

const hand = document.querySelector("[data-hand]");

if (hand) {
  const gone = document.getElementById("practice-gone");
  let sending = false;
  hand.addEventListener("submit", async (event) => {
    if (sending) return;
    event.preventDefault();
    const { submitter } = event;
    try {
      await fetch("/healthz", { cache: "no-store" });
      gone.hidden = true;
      sending = true;
      heldUp();
      hand.requestSubmit(submitter);
    } catch {
      heldUp();
      gone.hidden = false;
      gone.scrollIntoView({ block: "center" });
    }
  });
  addEventListener("pageshow", () => { sending = false; });
}
