// A phone's screen stays on while something runs that is watched from this page: a locked one rings late and shows no scale.
let lock = null, asking = false;

export const stayAwake = async () => {
  if (!("wakeLock" in navigator) || asking) return;
  const wanted = !document.hidden && document.querySelector("[data-awake]") !== null;
  asking = true;
  try {
    if (wanted && !lock) {
      lock = await navigator.wakeLock.request("screen");
      lock.addEventListener("release", () => { lock = null; document.documentElement.classList.remove("awake"); });
      document.documentElement.classList.add("awake");
    } else if (!wanted && lock) {
      await lock.release();
    }
  } catch {
    // It is refused where a battery runs low: then a screen goes dark as it always did.
  } finally {
    asking = false;
  }
};
document.addEventListener("visibilitychange", stayAwake); // a page that goes out of sight has lost it
