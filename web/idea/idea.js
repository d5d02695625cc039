// What one does with an idea, in the drawer, in the list and on its whole story: keep,
// drop, dig, look up, ask again.
import { actions, ask, base, body, declare, escapes, find, headers, niche, send } from "../frame/frame.js";
import { siftValues } from "../filters/sifting.js";
import { openDrawer, reload, rows, select, selected } from "../list/list.js";
import { renew } from "../group/group.js";
import { startLookup } from "../list/choose.js";

const whole = "main.story:has(.decide)"; // other pages look like it
const story = () => find(whole);
export const current = () => story()?.dataset.id || find("main.topic-page")?.dataset.id || selected()?.dataset.id;

// now is what is decided on the idea.
function now() {
  if (story()) return { 1: "keep", 2: "drop" }[find(".decide").dataset.now];
  if (find(".kept", selected())) return "keep";
  return find(".dropped", selected()) ? "drop" : undefined;
}

// decide decides, or takes the same decision back.
async function decide(decision, onwards = false) {
  const id = current();
  if (!id) return;
  if (decision === now()) decision = "clear";
  if (body.dataset.stage === "group") return decideTopic(id, decision);
  if (story()) {
    if (await send(`${base}/decide`, new URLSearchParams({ id, decision }), "#notice")) location.reload();
    return;
  }
  const list = rows();
  const at = list.indexOf(selected());
  const next = list[at + 1] || list[at - 1];
  await ask("POST", `${base}/decide`, `#idea-${id}`, {
    source: "#tools",
    swap: "outerHTML",
    values: { id, decision, stage: body.dataset.stage, sift: siftValues().toString() },
  });
  const row = find(`#idea-${id}`);
  if (row && onwards && decision === "keep" && list[at + 1]) select(list[at + 1]);
  else if (row) {
    select(row, { load: false });
    openDrawer(id);
  } else if (next) select(next);
  else reload();
}

// Of a topic all ideas are kept or dropped.
async function decideTopic(id, decision) {
  const values = siftValues();
  values.set("id", id);
  values.set("decision", decision);
  if (await send(`${base}/bulk`, values, "#notice")) await renew(id);
}

async function dig() {
  if (current()) await send(`${base}/ideas/${current()}/dig`, new URLSearchParams(), "#jobs");
}

function lookUp(again) {
  const id = current();
  if (id) startLookup(new URLSearchParams(again ? { id, again: "yes" } : { id }));
}

Object.assign(actions, {
  "look-elsewhere": () => startLookup(new URLSearchParams({ id: current(), what: "elsewhere" })),
  "check-ages": () => startLookup(new URLSearchParams({ id: current(), what: "ages" })),
  "check-names": () => startLookup(new URLSearchParams({ id: current(), what: "names" })),
  "past-weeks": () => startLookup(new URLSearchParams({ id: current(), what: "weeks" })),
  keep: () => decide("keep"),
  drop: () => decide("drop"),
  dig,
  "look-up": () => lookUp(false),
  "ask-again": () => lookUp(true),
});

// The parts of a story that its links change in place: the address stays what a reload would show.
document.addEventListener("click", async (event) => {
  const link = event.target.closest?.("#results a[data-part]");
  if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
  event.preventDefault();
  const to = new URL(link.href);
  const place = link.dataset.part;
  await ask("GET", `${base}/ideas/${current()}/results${to.search}`, "#results", { swap: "outerHTML" });
  history.replaceState(null, "", to);
  find(place ? `#place-${place} a.open` : "#results thead a")?.focus();
});

// What if: sliders move the picture at once; only the latest answer is shown. Fields say the same in numbers.
const whatIf = find("form[data-what-if]");

if (whatIf) {
  const tilt = find("#if-tilt");
  let asking;
  const leans = (x) => {
    if (x === 0) return "as learnt";
    return `${Math.abs(x) > 0.5 ? "much more" : "more"} ${x < 0 ? "links and site" : "content"}`;
  };
  const show = async () => {
    asking?.abort();
    asking = new AbortController();
    const values = new URLSearchParams({ tilt: tilt.value });
    for (const name of ["standing", "links", "fit"]) values.set(name, whatIf.elements[name].value);
    find("output", whatIf).textContent = leans(Number(tilt.value));
    const answer = await fetch(`${whatIf.dataset.whatIf}?${values}`, { headers, signal: asking.signal }).catch(
      () => null,
    );
    if (!answer) return;
    const text = await answer.text().catch(() => ""); // a later one has begun
    if (answer.ok && text) find("#climb").innerHTML = text;
  };
  for (const part of whatIf.querySelectorAll("[hidden]")) part.hidden = false;
  for (const slider of whatIf.querySelectorAll("[data-of]")) {
    const field = find(`#${slider.dataset.of}`);
    slider.addEventListener("input", () => {
      field.value = slider.value;
      show();
    });
    field.addEventListener("input", () => {
      slider.value = field.value || field.placeholder;
      show();
    });
  }
  tilt.addEventListener("input", show);
  find("output", whatIf).textContent = leans(Number(tilt.value));
}

// Lines of the weeks are switched on and off, and stand out where the list points at them.
const lineOf = (at) => find(`.weeks g[data-line="${at}"]`);

for (const box of document.querySelectorAll("#weeks input[data-line]")) {
  box.hidden = false;
  box.addEventListener("change", () => lineOf(box.dataset.line)?.classList.toggle("off", !box.checked));
}

for (const [happens, lit] of Object.entries({ mouseover: true, mouseout: false, focusin: true, focusout: false }))
  find("#weeks")?.addEventListener(happens, (event) => {
    const at = event.target.closest("[data-of]")?.dataset.of;
    if (at !== undefined) lineOf(at)?.classList.toggle("lit", lit);
  });

// A page's text is fetched when it is first opened.
document.addEventListener(
  "toggle",
  (event) => {
    const copy = event.target;
    if (!copy.matches?.("details.copy[data-load]") || !copy.open) return;
    const address = copy.dataset.load;
    delete copy.dataset.load;
    ask("GET", address, find(".copied", copy));
  },
  true,
);

// The stairs: one place has the focus, arrows go to the next.
const places = () => [...document.querySelectorAll(".stairs .place")];

function climb(to) {
  const list = places();
  const place = list[Math.max(0, Math.min(list.length - 1, to))];
  if (!place) return false;
  for (const other of list) other.tabIndex = other === place ? 0 : -1;
  place.focus();
}

document.addEventListener(
  "keydown",
  (event) => {
    const at = places().indexOf(event.target);
    const to = { ArrowRight: at + 1, ArrowLeft: at - 1, Home: 0, End: places().length - 1 }[event.key];
    if (at < 0 || to === undefined || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    climb(to);
  },
  true,
);

escapes.push((event) => {
  if (event.target.matches(".stairs .place") && selected()) select(selected(), { load: false });
});

// Back to the list goes to the list as it was left: with its sieve, and this idea selected.
const back = () => find("main.story .back a");

const listed = /^\/niches\/\d+\/(sift|judge|group)$/;
const kept = `list of niche ${niche}`; // where one came from is remembered from idea to idea

if (find("#along")) {
  const from = document.referrer ? new URL(document.referrer) : null;
  if (from?.origin === location.origin && listed.test(from.pathname)) sessionStorage.setItem(kept, from.href);
  const was = sessionStorage.getItem(kept);
  if (was) {
    const list = new URL(was);
    list.searchParams.set("idea", new URL(back().href).searchParams.get("idea"));
    back().href = list.href;
  }
  neighbours(new URL(back().href));
}

// neighbours shows which ideas come before and after this one in the list that one came from.
async function neighbours(list) {
  const asked = new URLSearchParams(list.search);
  asked.delete("idea");
  asked.set("stage", list.pathname.split("/").pop());
  const answer = await fetch(`${base}/ideas/${current()}/along?${asked}`, { headers }).catch(() => null);
  const found = answer?.ok ? await answer.json() : null;
  if (!found?.place) return;
  for (const link of document.querySelectorAll("[data-along]")) {
    const id = found[link.dataset.along];
    link.hidden = !id;
    if (id) link.href = `${base}/ideas/${id}`;
  }
  find("#along .at").textContent = `${found.place} of ${found.of}`;
  find("#along").hidden = false;
}

function goAlong(where) {
  const link = find(`[data-along="${where}"][href]`);
  if (!link) return false;
  link.click();
}

escapes.push((event) => {
  if (!back() || event.target.closest("dialog, input, textarea, select, details[open]")) return;
  const reason = find("#because");
  if (reason.hidden) back().click();
  else reason.hidden = true; // what lies over the page goes first (WCAG 2.2, 1.4.13)
});

const shown = `#rows, ${whole}, main.topic-page`;
declare("main.story", "Back to the list", { Escape: null });
declare("#along:not([hidden])", "Next and previous idea", {
  j: () => goAlong("after"),
  k: () => goAlong("before"),
});
declare(shown, "Keep and go on, or undo keep", { " ": () => decide("keep", true) });
declare(shown, "Drop, or undo drop", { x: actions.drop });
declare(shown, "Gather from this idea", { g: actions.dig });
declare(shown, "Look it up", { l: actions["look-up"] });
declare(".stairs .place", "Step through the stairs with → and ←; Esc goes back", {
  s: () => climb(places().findIndex((place) => place.tabIndex === 0)),
});

// Full details is renewed when a job that was started on it has ended.
document.addEventListener("ideas-changed", () => {
  if (story() && find(".job") && !find(".job.running")) location.reload();
});
