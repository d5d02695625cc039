// Keys, selection, choosing and undo: what HTML and htmx cannot do alone.
"use strict";

const body = document.body;
const niche = body.dataset.niche;
const base = `/niches/${niche}`;
const find = (selector, root = document) => root.querySelector(selector);
const token = find('meta[name="csrf"]').content;

// Every request that changes something carries the page's token.
document.addEventListener("htmx:config:request", (event) => {
  event.detail.ctx.request.headers["X-Csrf-Token"] = token;
});

// Requests that htmx gives up on say so; what was typed stays.
document.addEventListener("htmx:error", () => {
  notice("The application does not answer. What you had is kept; try again when it runs.");
});

function notice(text) {
  const line = document.createElement("p");
  line.className = "said";
  line.textContent = text;
  find("#notice").replaceChildren(line);
}

// --- selection ---------------------------------------------------------------

const chosen = new Set(); // ideas ticked, kept over changes of the list

const rows = () => [...document.querySelectorAll("#rows > tr")];
const selected = () => find("#rows > tr.selected");

function select(row, { focus = true, load = true } = {}) {
  if (!row) return;
  const old = selected();
  if (old && old !== row) mark(old, false);
  mark(row, true);
  row.scrollIntoView({ block: "nearest" });
  if (focus) find(".idea a", row).focus({ preventScroll: true });
  if (load && find("#drawer .drawer")?.dataset.id !== row.dataset.id) openDrawer(row.dataset.id);
}

function mark(row, on) {
  const link = find(".idea a", row);
  row.classList.toggle("selected", on);
  link.tabIndex = on ? 0 : -1;
  if (on) link.setAttribute("aria-current", "true");
  else link.removeAttribute("aria-current");
}

// Requests are made by different elements, since htmx lets one element have one
// request at a time. Of several quick moves only the last is asked for and shown.
let wanted = null;
let asking = false;

async function openDrawer(id) {
  wanted = id;
  if (asking) return;
  asking = true;
  while (wanted !== null) {
    const now = wanted;
    wanted = null;
    await htmx.ajax("GET", `${base}/ideas/${now}/drawer`, { source: "#drawer", target: "#drawer", swap: "innerHTML" });
  }
  asking = false;
}

function move(step) {
  const list = rows();
  if (!list.length) return;
  const at = list.indexOf(selected());
  const column = figures(selected()).indexOf(document.activeElement);
  select(list[Math.max(0, Math.min(list.length - 1, at < 0 ? 0 : at + step))]);
  if (column >= 0) explain(figures(selected())[column]);
}

// --- the reasons of the list's figures, by keyboard ------------------------------

const figures = (row) => row ? [...row.querySelectorAll("td[title]")] : [];

// along goes to the next figure of the selected idea, and before the first one back
// to the idea itself.
function along(step) {
  const list = figures(selected());
  const at = list.indexOf(document.activeElement) + step;
  if (at < 0) select(selected(), { load: false });
  else explain(list[Math.min(at, list.length - 1)]);
}

function explain(cell) {
  if (!cell) return;
  cell.tabIndex = -1;
  cell.scrollIntoView({ block: "nearest", inline: "nearest" });
  cell.focus({ preventScroll: true });
}

// What a title says to a mouse is said below what has the focus, too.
const explained = "#rows td[title], .why[title]";

function placeReason() {
  const tip = find("#because");
  const what = document.activeElement;
  if (!tip || tip.hidden || !what.matches(explained)) return;
  const box = what.getBoundingClientRect();
  const frame = (what.closest("#list") || document.documentElement).getBoundingClientRect();
  const below = box.bottom + tip.offsetHeight < Math.min(frame.bottom, innerHeight);
  tip.style.left = `${Math.max(0, Math.min(box.left, innerWidth - tip.offsetWidth - 8))}px`;
  tip.style.top = `${below ? box.bottom : box.top - tip.offsetHeight}px`;
}

document.addEventListener("scroll", placeReason, true);
document.addEventListener("focusin", (event) => {
  if (!event.target.matches(explained)) return;
  const tip = find("#because");
  event.target.setAttribute("aria-describedby", tip.id);
  tip.textContent = event.target.title;
  tip.hidden = false;
  placeReason();
});
document.addEventListener("focusout", (event) => {
  if (!event.target.matches(explained)) return;
  event.target.removeAttribute("aria-describedby");
  find("#because").hidden = true;
});

// --- the list, anew ------------------------------------------------------------

let reloading = null;

function listAddress() {
  const values = new URLSearchParams(new FormData(find("#sift")));
  values.set("quiet", "yes");
  const row = selected();
  if (row) values.set("idea", row.dataset.id);
  return `${find("#sift").getAttribute("action")}?${values}`;
}

// reload renews the list, at most once in a second and a half.
function reload(pick) {
  // The whole story is renewed when a job that was started on it has ended.
  if (find("main.story .job") && !find("main.story .job.running")) location.reload();
  if (!find("#sift")) return;
  if (pick) {
    const row = find(`#idea-${pick}`);
    if (row) select(row, { load: false });
    openDrawer(pick);
  }
  if (reloading) return;
  reloading = setTimeout(async () => {
    reloading = null;
    const list = find("#list");
    const top = list.scrollTop;
    const focused = list.contains(document.activeElement);
    await htmx.ajax("GET", listAddress(), { source: "#list", target: "#list", swap: "innerHTML" });
    list.scrollTop = top;
    const row = (pick && find(`#idea-${pick}`)) || selected();
    if (row) select(row, { focus: focused, load: false });
    const open = find("#drawer .drawer");
    if (open && wanted === null) openDrawer(open.dataset.id);
  }, 1500 * (pick ? 0 : 1));
}

document.addEventListener("ideas-changed", (event) => reload(event.detail?.select));

document.addEventListener("htmx:after:swap", () => {
  for (const box of document.querySelectorAll('#rows input[name="id"]')) box.checked = chosen.has(box.value);
  if (find("#rows") && !selected() && rows().length) select(rows()[0], { focus: false });
  countChosen();
});

// --- choosing and looking up ---------------------------------------------------

function countChosen() {
  const button = find("#lookup-chosen");
  if (!button) return;
  find("#chosen-count").textContent = chosen.size || "";
  button.disabled = chosen.size === 0;
}

document.addEventListener("change", (event) => {
  if (!event.target.matches('#rows input[name="id"]')) return;
  if (event.target.checked) chosen.add(event.target.value);
  else chosen.delete(event.target.value);
  countChosen();
});

// lookupForm holds the chosen ideas also when the list shows others now.
function lookupValues(all) {
  const values = new URLSearchParams(new FormData(find("#sift")));
  if (all) values.set("all", "left");
  else for (const id of chosen) values.append("id", id);
  return values;
}

async function send(address, values, target) {
  const answer = await fetch(address, { method: "POST", body: values,
    headers: { "X-Csrf-Token": token, "HX-Request": "true", "Content-Type": "application/x-www-form-urlencoded" } })
    .catch(() => null);
  if (!answer) return notice("The application does not answer. What you had is kept; try again when it runs.");
  const text = await answer.text();
  const place = find(answer.ok ? target : "#notice");
  place.innerHTML = text;
  htmx.process(place);
  return answer.ok;
}

let lookingUp = null; // what the shown estimate is for

async function estimate(all) {
  lookingUp = lookupValues(all);
  await send(`${base}/lookup/estimate`, lookingUp, "#lookup");
  find("#lookup [autofocus]")?.focus();
}

async function startLookup(values) {
  if (await send(`${base}/lookup`, values, "#jobs")) {
    find("#lookup")?.replaceChildren();
    chosen.clear();
    for (const box of document.querySelectorAll('#rows input[name="id"]')) box.checked = false;
    countChosen();
  }
}

// --- decisions -------------------------------------------------------------------

async function decide(decision) {
  const story = find("main.story");
  const row = selected();
  const id = story ? story.dataset.id : row?.dataset.id;
  if (!id) return;
  const kept = story ? find(".decide").dataset.now === "1" : !!find(".kept", row);
  const dropped = story ? find(".decide").dataset.now === "2" : !!find(".dropped", row);
  if (decision === "keep" && kept || decision === "drop" && dropped) decision = "clear";
  const values = new URLSearchParams({ id, decision });
  if (story) {
    if (await send(`${base}/decide`, values, "#notice")) location.reload();
    return;
  }
  const list = rows();
  const next = list[list.indexOf(row) + 1] || list[list.indexOf(row) - 1];
  const sift = new URLSearchParams(new FormData(find("#sift"))).toString();
  await htmx.ajax("POST", `${base}/decide`, { source: "#tools", target: `#idea-${id}`, swap: "outerHTML",
    values: { id, decision, stage: body.dataset.stage, sift } });
  const now = find(`#idea-${id}`);
  if (now) {
    select(now, { load: false });
    openDrawer(id);
  } else if (next) select(next);
  else reload();
}

async function dig() {
  const id = find("main.story")?.dataset.id || selected()?.dataset.id;
  if (id) await send(`${base}/ideas/${id}/dig`, new URLSearchParams(), "#jobs");
}

const undo = () => htmx.ajax("POST", `${base}/undo`, { source: "#notice", target: "#notice", swap: "innerHTML" });

function lookUpOne(again) {
  const id = find("main.story")?.dataset.id || selected()?.dataset.id;
  if (id) startLookup(new URLSearchParams(again === true ? { id, again: "yes" } : { id }));
}

const actions = {
  keep: () => decide("keep"),
  drop: () => decide("drop"),
  dig,
  undo,
  keys: () => find("#keys").showModal(),
  estimate: () => estimate(false),
  "estimate-all": () => estimate(true),
  "close-estimate": () => find("#lookup").replaceChildren(),
  "look-up": () => lookUpOne(),
  "ask-again": () => lookUpOne(true),
  dismiss: () => find("#notice").replaceChildren(),
};

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-do]");
  if (button) {
    actions[button.dataset.do]?.();
    return;
  }
  const row = event.target.closest("#rows > tr");
  if (row && !event.target.closest("a, input")) select(row);
  const open = find(".picker[open]");
  if (open && !open.contains(event.target)) open.open = false;
});

// A plain click on an idea selects it; its whole story is one more click, or Enter.
document.addEventListener("click", (event) => {
  const link = event.target.closest("#rows .idea a");
  if (!link || event.detail === 0 || event.ctrlKey || event.metaKey || event.shiftKey) return;
  const row = link.closest("tr");
  if (!row.classList.contains("selected")) {
    event.preventDefault();
    select(row);
  }
}, true);

document.addEventListener("submit", (event) => {
  if (!event.target.matches("#lookup .confirm")) return;
  event.preventDefault();
  event.stopPropagation();
  startLookup(lookingUp);
}, true);

// --- keys ------------------------------------------------------------------------

const keys = {
  ArrowRight: () => along(1), ArrowLeft: () => along(-1),
  j: () => move(1), ArrowDown: () => move(1), k: () => move(-1), ArrowUp: () => move(-1),
  " ": actions.keep, x: actions.drop, g: dig, u: undo, l: () => lookUpOne(),
  c: () => selected() && find('input[name="id"]', selected()).click(),
  "/": () => find("#mesh-words")?.focus(), "?": actions.keys,
};

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || find("dialog[open]")) return;
  if (event.key === "Escape") {
    if (event.target.closest(".sieve")) select(selected());
    find("#lookup")?.replaceChildren();
    return;
  }
  if (event.target.closest("input, textarea, select, summary, button, [contenteditable]")) {
    if (!(event.target.matches('#rows input[name="id"]'))) return;
  }
  if (event.key === "Enter" && selected() && (event.target === body || event.target.matches("#rows td"))) {
    location.href = find(".idea a", selected()).href;
    return;
  }
  const act = keys[event.key];
  if (!act || !niche || !(find("#rows") || find("main.story") || event.key === "?")) return;
  event.preventDefault();
  act();
});

countChosen();
for (const box of document.querySelectorAll('#rows input[name="id"]')) box.checked = false;
find(".report, [autofocus]")?.focus?.();
