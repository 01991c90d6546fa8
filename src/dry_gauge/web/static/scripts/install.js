// On the home screen: where the browser offers it, by a button; it does not cover the page with an offer of its own.
const place = document.getElementById("home-screen");
const installed = window.matchMedia("(display-mode: standalone)").matches || navigator.standalone;
if (place) place.hidden = installed;

window.addEventListener("beforeinstallprompt", (event) => {
  event.preventDefault();
  if (!place) return;
  const button = place.querySelector("[data-install]");
  button.hidden = false;
  place.querySelector("[data-by-hand]").hidden = true;
  button.addEventListener("click", async () => {
    await event.prompt();
    place.hidden = (await event.userChoice).outcome === "accepted";
  }, { once: true });
});
