// The made-up unit answers from the server: without a connection that is said, and what was chosen stays on the page.
const play = document.querySelector(".practice-play");

if (play) {
  const gone = document.getElementById("practice-gone");
  let sending = false;
  play.addEventListener("submit", async (event) => {
    if (sending) return;
    event.preventDefault();
    const { target: form, submitter } = event;
    try {
      await fetch("/healthz", { cache: "no-store" });
      gone.hidden = true;
      sending = true;
      form.requestSubmit(submitter);
    } catch {
      gone.hidden = false;
      gone.scrollIntoView({ block: "center" });
    }
  });
  addEventListener("pageshow", () => { sending = false; });
}
