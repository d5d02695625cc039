// The reasons of figures: what a title says to a mouse is said below what has the focus, too. What all of a column
// have in common is sent once, with its head.
import { find } from "./frame.js";

const explained = "#rows td[title], .why[title], .place[title]";

export const figures = (row) => (row ? [...row.querySelectorAll("td[title]")] : []);

// whole puts what the column is before what is said of a cell, once.
function whole(cell) {
  if (!cell.matches("#rows td[title]") || cell.dataset.whole) return;
  cell.dataset.whole = "yes";
  const head = cell.closest("table").querySelector(`th[data-key="${cell.classList[1]}"]`);
  cell.title = `${head?.dataset.means ?? ""} ${cell.title}`.trim();
}

document.addEventListener("mouseover", (event) => {
  const cell = event.target.closest?.("#rows td[title]");
  if (cell) whole(cell);
});

export function explain(cell) {
  if (!cell) return;
  cell.tabIndex = -1;
  cell.scrollIntoView({ block: "nearest", inline: "nearest" });
  cell.focus({ preventScroll: true });
}

function place() {
  const tip = find("#because");
  const what = document.activeElement;
  if (!tip || tip.hidden || !what.matches(explained)) return;
  const box = what.getBoundingClientRect();
  const frame = (what.closest("#list") || document.documentElement).getBoundingClientRect();
  const below = box.bottom + tip.offsetHeight < Math.min(frame.bottom, innerHeight);
  tip.style.left = `${Math.max(0, Math.min(box.left, innerWidth - tip.offsetWidth - 8))}px`;
  tip.style.top = `${below ? box.bottom : box.top - tip.offsetHeight}px`;
}

document.addEventListener("scroll", place, true);

document.addEventListener("focusin", (event) => {
  if (!event.target.matches(explained)) return;
  whole(event.target);
  const tip = find("#because");
  event.target.setAttribute("aria-describedby", tip.id);
  tip.textContent = event.target.title;
  tip.hidden = false;
  place();
});

document.addEventListener("focusout", (event) => {
  if (!event.target.matches(explained)) return;
  event.target.removeAttribute("aria-describedby");
  find("#because").hidden = true;
});
