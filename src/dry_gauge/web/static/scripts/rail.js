// The stations by their keys, as the rail has them.
export const stops = () => Object.fromEntries([...document.querySelectorAll(".stations a[data-key]")].map((link) => [link.dataset.key, link.getAttribute("href")]));
