// Planning: putting aside by one key, ordering the sheet, moving sowings in the calendar, editing briefs.
import { actions, ask, base, declare, find, send } from "../frame/frame.js";
import { orderable } from "../frame/order.js";
import { reload } from "../list/list.js";
import { current } from "../idea/idea.js";
import { renew } from "../group/group.js";

async function aside() {
  const id = find("main.brief")?.dataset.id ?? current();
  if (!id || !(await send(`${base}/aside`, new URLSearchParams({ id }), "#notice"))) return;
  if (find("main.brief")) location.reload();
  else if (find("#drawer .drawer.topic")) renew(id);
  else reload();
}

// A topic or an idea that is dragged onto Plan on the trail is put aside, too: its name is a link, which
// browsers let one drag.
const planOf = (event) => event.target.closest?.(`#trail a[href="${base}/plan"]`);
const draggedID = (event) => event.dataTransfer?.getData("text/uri-list").match(/\/(?:ideas|topics)\/(\d+)$/)?.[1];

document.addEventListener("dragover", (event) => {
  const plan = planOf(event);
  for (const other of document.querySelectorAll("#trail .aimed"))
    if (other !== plan) other.classList.remove("aimed");
  if (!plan) return;
  event.preventDefault();
  plan.classList.add("aimed");
});

document.addEventListener("drop", async (event) => {
  const plan = planOf(event);
  const id = plan && draggedID(event);
  plan?.classList.remove("aimed");
  if (!id) return;
  event.preventDefault();
  if (!(await send(`${base}/aside`, new URLSearchParams({ id }), "#notice"))) return;
  if (find("#drawer .drawer.topic")) renew(id);
  else reload();
});

// What was undone may be anything that is shown.
document.addEventListener("topics-undone", () => {
  if (find("#grouping")) renew(find("#drawer .drawer")?.dataset.id);
  else if (find("main.planning")) {
    sessionStorage.setItem("said", find("#notice").textContent.trim());
    location.reload();
  } else reload();
});

Object.assign(actions, {
  aside,
  undo: () => ask("POST", `${base}/undo`, "#notice"),
  print: () => print(),
});
declare(
  "#rows, main.story:has(.decide), main.topic-page, main.brief",
  "Add the article that answers it to the plan",
  {
    p: aside,
  },
);
declare("body[data-niche]", "Undo the last decision, label, note, or change to topics and the plan", {
  u: actions.undo,
});
declare("#running-sheet .handle", "On an article’s handle: move it up or down", { ArrowUp: null, ArrowDown: null });
declare(".calendar", "On a bar: a day sooner or later (Shift: a week)", { ArrowLeft: null, ArrowRight: null });

// What changes on the sheet is laid over what is shown: what is opened stays open, and what is being typed
// elsewhere stays, too. A list shows what is so, though, and not what was chosen from it before.
document.addEventListener("htmx:after:swap", () => {
  for (const chosen of document.querySelectorAll("#running-sheet option[selected]"))
    if (chosen.parentElement !== document.activeElement) chosen.selected = true;
});

// A field says what it was filled with, so that another tab's change is not lost without a word. Once that was told,
// the next change replaces it.
const shownIn = (field) =>
  field.matches("select") ? (find("option[selected]", field)?.value ?? "") : field.defaultValue;

document.addEventListener("htmx:config:request", (event) => {
  const field = event.detail.ctx.sourceElement;
  if (!field?.matches?.("#running-sheet :is(input, select, textarea)")) return;
  if (field.dataset.insist) delete field.dataset.insist;
  else event.detail.ctx.request.body?.append?.("was", shownIn(field));
});

document.addEventListener("htmx:after:request", (event) => {
  const field = event.detail.ctx.sourceElement;
  if (event.detail.ctx.response?.status >= 400 && field?.matches?.("#running-sheet :is(input, select, textarea)"))
    field.dataset.insist = "yes";
});

// The sheet is ordered by dragging, or by arrows on the handle.
const post = (id, values) =>
  ask("POST", `${base}/plan/articles/${id}`, find("#chart") ? "#chart" : "#running", {
    source: "#notice", // or the fields of all articles would be sent
    swap: "innerMorph",
    values,
  });

async function place(row) {
  const id = row.dataset.article;
  const before = row.nextElementSibling?.dataset.article ?? 0;
  await post(id, { before });
  find(`#article-${id} .handle`)?.focus();
}

orderable({ item: "#running-sheet tbody > tr", handle: "#running-sheet .handle", placed: place });

// The calendar: a sowing follows the pointer by whole days, and says what that makes of it.
const calendar = () => find(".calendar");
const dayOf = (text) => new Date(`${text}T00:00:00Z`);
const plus = (text, days) => new Date(dayOf(text).getTime() + days * 86_400_000).toISOString().slice(0, 10);
const spoken = new Intl.DateTimeFormat("en", { dateStyle: "medium", timeZone: "UTC" });

function moved(sown, days) {
  const { start, due } = sown.dataset;
  const begin = plus(start, days);
  const ready = plus(begin, Number(sown.dataset.days));
  const late = due ? Math.round((dayOf(ready) - dayOf(due)) / 86_400_000) : 0;
  return { begin, ready, late };
}

function say(sown, days) {
  const { begin, ready, late } = moved(sown, days);
  const row = sown.closest(".sowing");
  row.classList.toggle("late", late > 0);
  const words = find(`[data-late="${row.dataset.article}"]`);
  if (words) words.textContent = late > 0 ? `▲ ${late} ${late === 1 ? "day" : "days"} late` : "";
  find("#drag-says").textContent =
    `Begins ${spoken.format(dayOf(begin))}, ready ${spoken.format(dayOf(ready))}` +
    (late > 0 ? `: ${late} ${late === 1 ? "day" : "days"} late` : sown.dataset.due ? ": in time" : "");
  sown.setAttribute("aria-valuetext", find("#drag-says").textContent);
}

let drag = null;

document.addEventListener("pointerdown", (event) => {
  const sown = event.target.closest?.(".sown[data-start]");
  if (!sown || event.button !== 0) return;
  event.preventDefault();
  sown.focus();
  drag = { sown, x: event.clientX, days: 0, perDay: Number(calendar().dataset.perDay), id: event.pointerId };
  sown.setPointerCapture(event.pointerId);
  sown.classList.add("dragged");
});

document.addEventListener("pointermove", (event) => {
  if (!drag || event.pointerId !== drag.id) return;
  const days = Math.round((event.clientX - drag.x) / drag.perDay);
  if (days === drag.days) return;
  drag.days = days;
  drag.sown.setAttribute("transform", `translate(${days * drag.perDay} 0)`);
  say(drag.sown, days);
});

async function settle(event) {
  if (!drag || event.pointerId !== drag.id) return;
  const { sown, days } = drag;
  drag = null;
  sown.classList.remove("dragged");
  if (event.type === "pointercancel") return sown.removeAttribute("transform");
  if (days) await begin(sown, days);
}

document.addEventListener("pointerup", settle);
document.addEventListener("pointercancel", settle);

async function begin(sown, days) {
  const id = sown.closest(".sowing").dataset.article;
  const { months } = calendar().dataset;
  await post(id, { start: moved(sown, days).begin, calendar: "yes", months });
  find(`.sowing[data-article="${id}"] .sown`)?.focus();
}

// By keys: arrows a day, with shift a week. Several quick ones are one change.
let stepping = null;

document.addEventListener("keydown", (event) => {
  const sown = event.target.closest?.(".sown[data-start]");
  if (!sown || event.ctrlKey || event.metaKey || event.altKey) return;
  const list = [...document.querySelectorAll(".sown")];
  const next = list[list.indexOf(sown) + ({ ArrowDown: 1, ArrowUp: -1 }[event.key] ?? 0)];
  if (event.key === "ArrowDown" || event.key === "ArrowUp") {
    event.preventDefault();
    return next?.focus();
  }
  const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
  if (!step) return;
  event.preventDefault();
  if (stepping?.sown !== sown) stepping = { sown, days: 0 };
  stepping.days += step * (event.shiftKey ? 7 : 1);
  sown.setAttribute("transform", `translate(${stepping.days * Number(calendar().dataset.perDay)} 0)`);
  say(sown, stepping.days);
  clearTimeout(stepping.timer);
  stepping.timer = setTimeout(() => {
    const { days } = stepping;
    stepping = null;
    if (days) begin(sown, days);
  }, 500);
});

// A refused change leaves the calendar as it is drawn.
document.addEventListener("htmx:after:swap", () => {
  if (drag || stepping) return;
  for (const sown of document.querySelectorAll(".sown[transform]")) sown.removeAttribute("transform");
});

// Briefs are edited in place.
document.addEventListener("click", (event) => {
  const button = event.target.closest?.("[data-edit]");
  if (!button) return;
  const part = button.closest(".part");
  const form = find(".hands", part);
  form.hidden = !form.hidden;
  part.classList.toggle("editing", !form.hidden);
  find(".edit", part).setAttribute("aria-expanded", String(!form.hidden));
  if (form.hidden) find(".edit", part).focus();
  else find("textarea", form).focus();
});

// The list of my pages is renewed when a job that looks for them has ended.
document.addEventListener("ideas-changed", () => {
  if (find("main.planning #jobs .job") && !find(".job.running")) location.reload();
});

// What is done for a page is ticked off.
document.addEventListener("change", (event) => {
  const box = event.target;
  if (!box.matches?.("[data-action]")) return;
  send(
    `${base}/plan/actions/${box.dataset.action}`,
    new URLSearchParams({ done: box.checked ? box.value : "" }),
    "#notice",
  ).then((ok) => {
    if (!ok) box.checked = !box.checked;
  });
});
