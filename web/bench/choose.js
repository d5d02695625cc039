// Choosing several ideas: by click, with shift a range, by dragging over them, or all that are
// left; and what is done with them: keep, drop, dig, look up, copy.
import { actions, base, escapes, find, keys, notice, send, sendIn, token } from "../frame/frame.js";
import { reload, rows, selected, siftValues } from "./list.js";

const chosen = new Set(); // ideas ticked, kept over changes of the list
let all = false; // all that are left, also those that are not on the page

const boxes = () => [...document.querySelectorAll('#rows input[name="id"]')];
const left = () => Number(find("#left b").textContent.replace(/\D/g, ""));

function show() {
  const bulk = find("#bulk");
  if (!bulk) return;
  const n = all ? left() : chosen.size;
  bulk.hidden = n === 0;
  find("#chosen-count").textContent = n.toLocaleString("en");
  const head = find("#choose-all");
  if (head) {
    head.checked = all;
    head.indeterminate = !all && chosen.size > 0;
  }
}

function tickAll() {
  for (const box of boxes()) box.checked = all || chosen.has(box.value);
  show();
}

function choose(box, on) {
  if (all) {
    // Without one of them it is not all any more, but those that are shown.
    all = false;
    for (const one of boxes()) chosen.add(one.value);
  }
  box.checked = on;
  if (on) chosen.add(box.value);
  else chosen.delete(box.value);
}

function none() {
  chosen.clear();
  all = false;
  tickAll();
}

document.addEventListener("htmx:after:swap", tickAll);

document.addEventListener("change", (event) => {
  if (event.target.matches("#choose-all")) {
    chosen.clear();
    all = event.target.checked;
    tickAll();
  } else if (event.target.matches('#rows input[name="id"]')) {
    choose(event.target, event.target.checked);
    show();
  }
});

// A range, from the one that was last clicked.
let from = null;

document.addEventListener("click", (event) => {
  const box = event.target;
  if (!box.matches?.('#rows input[name="id"]')) return;
  const list = boxes();
  const [a, b] = [list.indexOf(from), list.indexOf(box)].sort((x, y) => x - y);
  if (event.shiftKey && a >= 0) for (const one of list.slice(a, b + 1)) choose(one, box.checked);
  from = box;
  show();
});

// Dragging down the boxes chooses as the first one was.
let paints = null;

document.addEventListener("pointerdown", (event) => {
  const cell = event.target.closest?.("#rows td.choose");
  const box = cell && find("input", cell);
  if (box && event.button === 0) paints = { on: !box.checked, box };
});

function paint(event) {
  const row = paints && event.target.closest?.("#rows > tr");
  const box = row && find("td.choose input", row);
  if (!box || (box.value === paints.box.value && !paints.moved)) return; // a click of its own
  paints.moved = true;
  // All between, since a quick pointer skips rows.
  const list = boxes();
  const [a, b] = [list.findIndex((one) => one.value === paints.box.value), list.indexOf(box)].sort((x, y) => x - y);
  for (const one of list.slice(Math.max(0, a), b + 1)) choose(one, paints.on);
  show();
}

document.addEventListener("pointerover", paint);
document.addEventListener("pointerup", (event) => {
  paint(event);
  paints = null;
});

// values holds the chosen ideas also when the list shows others now.
function values(what) {
  const out = siftValues();
  if (what) out.set("what", what);
  if (all) out.set("all", "left");
  else for (const id of chosen) out.append("id", id);
  return out;
}

function lookupValues(of, what) {
  if (!of) return values(what);
  const out = siftValues();
  out.set("all", of);
  if (what) out.set("what", what);
  return out;
}

let lookingUp = null; // what the shown estimate is for

async function estimate(of, what) {
  lookingUp = lookupValues(of, what);
  await send(`${base}/lookup/estimate`, lookingUp, "#lookup");
  find("#lookup [autofocus]")?.focus();
}

export async function startLookup(asked) {
  if (!(await send(`${base}/lookup`, asked, "#jobs"))) return;
  closeEstimate();
  none();
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

async function bulk(button) {
  const asked = values();
  asked.set("decision", button.dataset.decision);
  if (!(await send(`${base}/bulk`, asked, "#notice"))) return;
  none();
  reload();
}

async function copy() {
  const headers = { "X-Csrf-Token": token, "HX-Request": "true" };
  const answer = await fetch(`${base}/bulk/copy`, { method: "POST", body: values(), headers }).catch(() => null);
  const text = answer ? await answer.text() : "";
  if (!answer?.ok) {
    find("#notice").innerHTML = text;
    return;
  }
  const n = text.trim().split("\n").length - 1;
  try {
    await navigator.clipboard.writeText(text);
    notice(`Copied ${n} ${n === 1 ? "idea" : "ideas"}: paste them into a spreadsheet.`);
  } catch {
    notice("The browser does not let the page copy. Export CSV instead.");
  }
}

// Labels: on what is chosen, or on the selected idea.
document.addEventListener(
  "submit",
  async (event) => {
    const dialog = event.target.closest?.("#labels");
    if (!dialog) return;
    event.preventDefault();
    const asked = values();
    if (!all && chosen.size === 0 && selected()) asked.append("id", selected().dataset.id);
    for (const [name, value] of new FormData(event.target)) asked.set(name, value);
    if (!(await sendIn(dialog, `${base}/bulk/label`, asked))) return;
    none();
    reload();
  },
  true,
);

async function unlabel(button) {
  const asked = new URLSearchParams({ label: button.dataset.label, off: button.dataset.off });
  for (const id of button.dataset.ids.trim().split(" ")) asked.append("id", id);
  if (await send(`${base}/bulk/label`, asked, "#notice")) reload();
}

Object.assign(actions, {
  label: () => {
    find("#labels .told").replaceChildren();
    find("#labels").showModal();
  },
  unlabel,
  "close-labels": () => find("#labels").close(),
  estimate: () => estimate(),
  "estimate-all": () => estimate("left"),
  "look-up-above": (button) => estimate("above", button.dataset.what),
  "close-estimate": closeEstimate,
  "choose-none": none,
  bulk,
  "bulk-dig": () => estimate(undefined, "dig"),
  "bulk-copy": copy,
});

Object.assign(keys, {
  t: () => find("#labels") && actions.label(),
  c: () => selected() && find('input[name="id"]', selected()).click(),
  C: () => {
    if (!rows().length) return;
    chosen.clear();
    all = !all;
    tickAll();
  },
});
escapes.push(closeEstimate);
tickAll();
