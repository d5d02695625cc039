// Of a list of any length only the rows near what is seen are on the page: the others are room
// above and below, and are asked for as they come near.
import { find, headers } from "../frame/frame.js";

const most = 250; // rows on the page
const near = 15; // rows from what is seen, where the next are asked for
const at = 30; // rows that the application sends at once
const tallest = 15e6; // pixels: browsers know no taller boxes

const body = () => find("#rows");
const here = () => [...body().children];
export const first = () => Number(body()?.dataset.first ?? 0);
export const count = () => Number(body()?.dataset.count ?? 0);

// measure says what is seen of the list: the row at the top (a fraction, too), and how many fit.
// Longer lists than a box can be tall are scrolled faster than the bar moves.
function measure() {
  const rows = here();
  const list = find("#list").getBoundingClientRect();
  const head = find("#list thead").getBoundingClientRect();
  const row = rows.length
    ? (rows.at(-1).getBoundingClientRect().bottom - rows[0].getBoundingClientRect().top) / rows.length
    : 31;
  const top = Math.max(0, list.top) + head.height;
  const view = Math.max(1, Math.min(innerHeight, list.bottom) - top);
  const scrolled = Math.max(0, top - find("#list .above").getBoundingClientRect().top);
  const whole = count() * row;
  const box = Math.min(whole, tallest);
  const ratio = box > view ? (whole - view) / (box - view) : 1;
  const from = Math.min(scrolled * ratio, Math.max(0, whole - view));
  return { row, view, scrolled, box, ratio, from: from / row, to: (from + view) / row, ahead: from - scrolled };
}

// lay gives the rows that are not on the page their room. What was measured before rows came or
// went is told: a page that is measured in between would be scrolled to where it is shorter.
function lay(m = measure()) {
  const above = Math.max(0, first() * m.row - m.ahead);
  const below = Math.max(0, m.box - above - here().length * m.row);
  find("#list .above tr").style.height = `${above}px`;
  find("#list .below tr").style.height = `${below}px`;
  here().forEach((row, i) => row.setAttribute("aria-rowindex", first() + i + 1));
  // Columns grow with what comes into them, and do not shrink again while one scrolls.
  for (const head of document.querySelectorAll("#list th[data-key]:not([data-width], .idea)"))
    head.style.minWidth = `${head.getBoundingClientRect().width}px`;
}

// wanted is where the rows begin that are missing; null when none are.
function wanted() {
  const m = measure();
  const end = first() + here().length;
  const last = Math.min(count(), m.to);
  if (m.from >= end || last <= first())
    return Math.max(0, Math.min(count() - at, Math.floor((m.from + m.to - at) / 2)));
  if (end < count() && m.to + near > end) return end;
  if (first() > 0 && m.from - near < first()) return Math.max(0, first() - at);
  return null;
}

async function rowsFrom(place) {
  const chosen = find("tr.selected", body());
  const idea = chosen ? `&idea=${chosen.dataset.id}` : "";
  const answer = await fetch(`${body().dataset.more}${place}${idea}`, { headers });
  if (!answer.ok) return null;
  const made = document.createElement("tbody");
  made.innerHTML = await answer.text();
  return [...made.children];
}

// put places rows that begin at a place, and takes away those that are far by now.
function put(rows, place) {
  const list = body();
  const m = measure();
  const end = first() + list.children.length;
  if (rows.length < Math.min(at, count() - place)) list.dataset.count = place + rows.length; // fewer are left by now
  if (place > end || place + rows.length < first()) {
    list.replaceChildren(...rows);
    list.dataset.first = place;
  } else {
    const fresh = rows.filter((row) => !document.getElementById(row.id));
    if (place < first()) {
      list.prepend(...fresh);
      list.dataset.first = Math.max(0, first() - fresh.length);
    } else list.append(...fresh);
    if (!fresh.length) list.dataset.count = end; // or the same would be asked for over and over
  }
  if (list.children.length > most) {
    const [from, to] = [m.from - 2 * at, m.to + 2 * at].map((place) => Math.floor(place) - first());
    const all = here();
    all.filter((_, i) => i < from || i > to).forEach((row) => row.remove());
    list.dataset.first = first() + Math.max(0, Math.min(from, all.length));
  }
  known = list.children.length;
  lay(m);
  htmx.process(list);
}

let filling; // while rows are being fetched: whoever asks meanwhile waits for the same
let known = 0; // rows, by what was put in

function fill() {
  filling ??= fetchWanted().finally(() => (filling = undefined));
  return filling;
}

async function fetchWanted() {
  if (!body()) return;
  for (let from = wanted(); from !== null; from = wanted()) {
    const list = body();
    const rows = await rowsFrom(from).catch(() => null);
    if (!rows || !body()) return;
    if (list === body()) put(rows, from); // or the list is another one by now
  }
}

// reach scrolls a place of the list into view, and returns its row.
export async function reach(place) {
  const on = () => here()[place - first()];
  for (let tries = 0; !on() && tries < 5; tries++) {
    const m = measure();
    const start = Math.max(0, place * m.row - m.view / 2) / m.ratio - m.scrolled;
    const list = find("#list");
    if (list.scrollHeight > list.clientHeight) list.scrollTop += start;
    else scrollBy(0, start);
    await fill();
  }
  return on();
}

let due = false;

// Scrolling, of the list or of the page, on small screens.
document.addEventListener(
  "scroll",
  () => {
    if (due || !body()) return;
    due = true;
    requestAnimationFrame(() => {
      due = false;
      if (!body()) return;
      if (measure().ratio > 1) lay();
      fill();
    });
  },
  { capture: true, passive: true },
);
addEventListener("resize", () => fill());

// A row that a decision took out leaves a list that is one shorter.
const watch = new MutationObserver(() => {
  const list = body();
  if (!list) return;
  if (list.children.length < known) {
    list.dataset.count = count() - (known - list.children.length);
    lay();
    fill();
  }
  known = list.children.length;
});

// A list that came whole: where it begins, unless it was kept.
function begin() {
  if (!body() || body().laid) return;
  body().laid = true;
  known = body().children.length;
  lay();
  watch.disconnect();
  watch.observe(body(), { childList: true });
  if (body().dataset.kept) {
    find("#list").scrollTop = was.list;
    if (scrollY !== was.page) scrollTo(0, was.page);
  } else if (first() === 0) find("#list").scrollTop = 0;
  else find("tr.selected", body())?.scrollIntoView({ block: "center" });
  fill();
}

// Where a list was scrolled to, before another one came in its place.
const was = { list: 0, page: 0 };
document.addEventListener("htmx:before:swap", () => {
  was.list = find("#list")?.scrollTop ?? 0;
  was.page = scrollY;
});

document.addEventListener("htmx:after:swap", begin);
begin();
