// Choosing several ideas: by click, with shift a range, by dragging over them, or all that are
// left; and what is done with them: keep, drop, dig, look up, copy.
import { actions, base, declare, escapes, find, headers, notice, send, sendIn } from "../frame/frame.js";
import { siftValues } from "../filters/sifting.js";
import { reload, rows, select, selected } from "./list.js";
import { count, first } from "./rows.js";

const chosen = new Set(); // ideas ticked, kept over changes of the list
let all = false; // all that are left, also those that are not on the page
const but = new Set(); // of all, those that are not

const boxes = () => [...document.querySelectorAll('#rows input[name="id"]')];
const left = () => Number(find("#left b").textContent.replace(/\D/g, ""));

function show() {
  const bulk = find("#bulk");
  if (!bulk) return;
  const n = all ? left() - but.size : chosen.size;
  bulk.hidden = n === 0;
  const count = n.toLocaleString("en");
  find("#chosen-count").textContent = count;
  if (Number(find("#chosen-says").dataset.n ?? 0) !== n) {
    find("#chosen-says").dataset.n = n;
    find("#chosen-says").textContent = n ? `${count} selected` : "Nothing selected";
  }
  const head = find("#choose-all");
  if (head) {
    head.checked = all && !but.size;
    head.indeterminate = !head.checked && n > 0;
  }
}

function tickAll() {
  for (const box of boxes()) box.checked = isChosen(box.value);
  show();
}

const isChosen = (id) => (all ? !but.has(id) : chosen.has(id));

function choose(id, on) {
  if (all === on) but.delete(id);
  else if (all) but.add(id);
  if (on) chosen.add(id);
  else chosen.delete(id);
}

function none() {
  chosen.clear();
  but.clear();
  all = false;
  tickAll();
}

document.addEventListener("htmx:after:swap", tickAll);

document.addEventListener("change", (event) => {
  if (event.target.matches("#choose-all")) {
    const on = event.target.checked;
    none();
    all = on;
    tickAll();
  } else if (event.target.matches('#rows input[name="id"]')) {
    choose(event.target.value, event.target.checked);
    show();
  }
});

// A range, from the one that was last clicked, also over rows that are not on the page.
let from = -1;

document.addEventListener("click", (event) => {
  const box = event.target;
  if (!box.matches?.('#rows input[name="id"]')) return;
  const place = first() + boxes().indexOf(box);
  if (event.shiftKey && from >= 0) chooseRange(Math.min(from, place), Math.max(from, place), box.checked);
  from = place;
});

async function chooseRange(a, b, on) {
  for (const id of await idsBetween(a, b)) choose(id, on);
  tickAll();
}

async function idsBetween(a, b) {
  const here = boxes().slice(Math.max(0, a - first()), b - first() + 1);
  if (here.length === b - a + 1) return here.map((box) => box.value);
  const query = siftValues();
  query.set("begin", a);
  query.set("end", b);
  const answer = await fetch(`${base}/ids?${query}`, { headers }).catch(() => null);
  const text = answer ? await answer.text() : "";
  if (answer?.ok) return text.split(" ");
  if (answer) find("#notice").innerHTML = text;
  return [];
}

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
  if (a >= 0) for (const one of list.slice(a, b + 1)) choose(one.value, paints.on);
  tickAll();
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
  if (all) {
    out.set("all", "left");
    for (const id of but) out.append("but", id);
  } else for (const id of chosen) out.append("id", id);
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
    const asked = new URLSearchParams(lookingUp);
    if (event.submitter?.name === "until")
      for (const [name, value] of new FormData(event.target, event.submitter)) asked.set(name, value);
    startLookup(asked);
  },
  true,
);

// compare opens the chosen ideas side by side.
function compare() {
  const asked = new URLSearchParams();
  for (const id of chosen) asked.append("id", id);
  if (all || chosen.size < 2 || chosen.size > 5) notice("Select two to five ideas to compare.");
  else location.href = `${base}/compare?${asked}`;
}

async function bulk(button) {
  const asked = values();
  asked.set("decision", button.dataset.decision);
  if (!(await send(`${base}/bulk`, asked, "#notice"))) return;
  none();
  reload();
}

// subject says of what is chosen whether it is about the niche's subject.
async function subject(side) {
  const asked = values();
  asked.set("side", side);
  if (!(await send(`${base}/bulk/subject`, asked, "#notice"))) return;
  none();
  reload();
}

async function copy() {
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
    notice("Your browser does not allow copying. Use Export CSV instead.");
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

Object.assign(actions, {
  label: () => {
    find("#labels .told").replaceChildren();
    find("#labels").showModal();
  },
  "close-labels": () => find("#labels").close(),
  estimate: () => estimate(),
  "estimate-all": () => estimate("left"),
  "look-up-above": (button) => estimate("above", button.dataset.what),
  "close-estimate": closeEstimate,
  "choose-none": none,
  bulk,
  compare,
  "bulk-dig": () => estimate(undefined, "dig"),
  "off-subject": () => subject("off"),
  "on-subject": () => subject("on"),
  "bulk-copy": copy,
  "bulk-delete": async () => {
    if (!(await send(`${base}/bulk/delete`, values(), "#notice"))) return;
    none();
    reload();
  },
  "aside-chosen": async () => {
    if (!(await send(`${base}/aside`, values(), "#notice"))) return;
    none();
    reload();
  },
  "join-chosen": async () => {
    const ids = all ? await idsBetween(0, count() - 1) : [...chosen];
    const [first, ...others] = ids.filter((id) => !but.has(id));
    if (!others.length) return notice("Select two topics or more to merge.");
    const asked = new URLSearchParams(others.map((id) => ["id", id]));
    if (!(await send(`${base}/topics/${first}/join`, asked, "#notice"))) return;
    none();
    reload(first);
  },
});

// chooseOn chooses the selected idea, and the one it goes on to.
function chooseOn(step) {
  const row = selected();
  if (!row) return;
  choose(row.dataset.id, true);
  const next = step < 0 ? row.previousElementSibling : row.nextElementSibling;
  if (next) {
    select(next);
    choose(next.dataset.id, true);
  }
  tickAll();
}

const boxesShown = '#rows input[name="id"]';
declare(boxesShown, "Select it; C selects all that are left, or none", {
  c: () => selected() && find('input[name="id"]', selected()).click(),
  C: () => {
    const on = !all;
    none();
    all = on;
    tickAll();
  },
});
declare(boxesShown, "Select while moving down or up", { J: () => chooseOn(1), K: () => chooseOn(-1) });
declare("#labels", "Label the selection or this idea", { t: actions.label });
escapes.push(closeEstimate);
tickAll();
