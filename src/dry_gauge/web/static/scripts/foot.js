// A line at the foot of the page, for what has no field to stand beside.
export const line = (words) => {
  const place = document.getElementById("line");
  place.textContent = words;
  place.hidden = !words;
};
