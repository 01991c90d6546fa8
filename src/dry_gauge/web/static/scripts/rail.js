// The stations by their keys, as the rail has them.
export const stops = () => {
  const links = [...document.querySelectorAll(".stations a[data-key]")];
  return Object.fromEntries(links.map((link) => [link.dataset.key, link.getAttribute("href")]));
};

// On a phone the rail is wider than the page: where one is stands in its middle, until a thumb moves it.
let moved = null;
export const inSight = () => {
  const rail = document.getElementById("stations"), here = rail && rail.querySelector(".here");
  if (!here || rail.scrollWidth <= rail.clientWidth) return;
  rail.scrollLeft = moved ?? here.offsetLeft - (rail.clientWidth - here.offsetWidth) / 2;
};
document.addEventListener("scroll", ({ target }) => {
  if (target.id === "stations") moved = target.scrollLeft;
}, { capture: true, passive: true });
