// The case: what was opened stays open while the bars are moved.
import { find } from "../frame/frame.js";

let open = [];

document.addEventListener("htmx:before:swap", () => {
  open = [...document.querySelectorAll("#answers details[open]")].map((one) => one.id);
});

document.addEventListener("htmx:after:swap", () => {
  for (const id of open) {
    const one = find(`#${CSS.escape(id)}`);
    if (one) one.open = true;
  }
});
