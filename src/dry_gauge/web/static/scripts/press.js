// A second tap of a glove, or of impatience, is the same press: what was just sent as it is goes out once.
import { newId } from "./queue.js";

const AGAIN_MS = 600; // a page that stays: what is pressed later is meant
const LEAVING_MS = 8000; // a form that takes the page along, on a slow line

// What a form sends when it is sent by that button. By hand: browsers before 2023 leave the button out.
export const sentBy = (form, button = null) => {
  const data = new FormData(form);
  if (button && button.name) data.append(button.name, button.value);
  return data;
};

const NOTHING = { what: "", at: 0, leaving: false };
let last = NOTHING;
// A script that holds a form up says so: what is sent next is the first press.
export const heldUp = () => { last = NOTHING; };

document.addEventListener("submit", (event) => {
  const { target: form, submitter } = event;
  const fields = [...sentBy(form, submitter)].filter(([name]) => name !== "entry_id" && name !== "csrftoken");
  const what = JSON.stringify([form.id, form.getAttribute("action"), fields]), at = Date.now();
  if (what === last.what && at - last.at < (last.leaving ? LEAVING_MS : AGAIN_MS)) {
    event.preventDefault();
    event.stopImmediatePropagation();
  } else last = { what, at, leaving: false };
}, true);
window.addEventListener("submit", (event) => { last = { ...last, leaving: !event.defaultPrevented }; });
// A page may come up as it was kept: what it makes now is another thing.
window.addEventListener("pageshow", () => {
  last = NOTHING;
  document.querySelectorAll("input[name=made]").forEach((input) => { input.value = newId(); });
});
