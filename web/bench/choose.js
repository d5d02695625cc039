// Choosing several ideas, and looking them up at a stated cost.
import { actions, base, escapes, find, keys, send } from "../frame/frame.js";
import { selected, siftValues } from "./list.js";

const chosen = new Set(); // ideas ticked, kept over changes of the list

function countChosen() {
  const button = find("#lookup-chosen");
  if (!button) return;
  find("#chosen-count").textContent = chosen.size || "";
  button.disabled = chosen.size === 0;
}

function tickAll() {
  for (const box of document.querySelectorAll('#rows input[name="id"]')) {
    box.checked = chosen.has(box.value);
  }
  countChosen();
}

document.addEventListener("htmx:after:swap", tickAll);

document.addEventListener("change", (event) => {
  if (!event.target.matches('#rows input[name="id"]')) return;
  if (event.target.checked) chosen.add(event.target.value);
  else chosen.delete(event.target.value);
  countChosen();
});

// lookupValues holds the chosen ideas also when the list shows others now.
function lookupValues(all, what) {
  const values = siftValues();
  if (what) values.set("what", what);
  if (all) values.set("all", all);
  else for (const id of chosen) values.append("id", id);
  return values;
}

let lookingUp = null; // what the shown estimate is for

async function estimate(all, what) {
  lookingUp = lookupValues(all, what);
  await send(`${base}/lookup/estimate`, lookingUp, "#lookup");
  find("#lookup [autofocus]")?.focus();
}

export async function startLookup(values) {
  if (!(await send(`${base}/lookup`, values, "#jobs"))) return;
  closeEstimate();
  chosen.clear();
  tickAll();
}

const closeEstimate = () => find("#lookup")?.replaceChildren();

document.addEventListener(
  "submit",
  (event) => {
    if (!event.target.matches("#lookup .confirm")) return;
    event.preventDefault();
    event.stopPropagation();
    startLookup(lookingUp);
  },
  true,
);

Object.assign(actions, {
  estimate: () => estimate(false),
  "estimate-all": () => estimate("left"),
  "look-up-above": (button) => estimate("above", button.dataset.what),
  "close-estimate": closeEstimate,
});

keys.c = () => selected() && find('input[name="id"]', selected()).click();
escapes.push(closeEstimate);
tickAll();
