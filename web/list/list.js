// The list: which idea is selected, moving through it, and renewing it.
import { ask, base, body, declare, escapes, find } from "../frame/frame.js";
import { explain, figures } from "../frame/because.js";
import { askList, onItsWay, siftValues } from "../filters/sifting.js";
import { count, first, reach } from "./rows.js";

export const rows = () => [...document.querySelectorAll("#rows > tr")];
export const selected = () => find("#rows > tr.selected");

let place = -1; // of the selected idea in the list, also when its row is not on the page

export function select(row, { focus = true, load = true, scroll = true } = {}) {
  if (!row) return;
  const old = selected();
  if (old && old !== row) mark(old, false);
  mark(row, true);
  place = first() + rows().indexOf(row);
  if (scroll) row.scrollIntoView({ block: "nearest" });
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

// Of several quick moves only the last is asked for and shown.
let wanted = null;
let asking = false;

export async function openDrawer(id) {
  wanted = id;
  if (asking) return;
  asking = true;
  while (wanted !== null) {
    const now = wanted;
    wanted = null;
    await ask("GET", `${base}/${find("#drawer").dataset.from ?? "ideas"}/${now}/drawer`, "#drawer");
  }
  asking = false;
}

// move goes so many rows on from the selected one, wherever the list is scrolled to.
function move(step) {
  const row = selected();
  const at = row ? first() + rows().indexOf(row) : place;
  goTo(at < 0 ? 0 : at + step);
}

async function goTo(at) {
  if (!count()) return;
  const column = selected() ? figures(selected()).indexOf(document.activeElement) : -1;
  select(await reach(Math.max(0, Math.min(count() - 1, at))));
  if (column >= 0) explain(figures(selected())[column]);
}

// A screen of rows, but for one that is seen before and after.
const screenful = () => Math.max(1, Math.floor(find("#list").clientHeight / rows()[0].offsetHeight) - 2);

// along goes to the next figure of the selected idea, and before the first one back
// to the idea itself.
function along(step) {
  const list = figures(selected());
  const at = list.indexOf(document.activeElement) + step;
  if (at < 0) select(selected(), { load: false });
  else explain(list[Math.min(at, list.length - 1)]);
}

function asItIs() {
  const values = siftValues();
  values.set("quiet", "yes");
  values.set("begin", first());
  const row = selected();
  if (row) values.set("idea", row.dataset.id);
  return values;
}

let reloading = null;

// reload renews the list, at most once in a second and a half, and after what else was asked for.
export function reload(pick) {
  if (!find("#sift")) return;
  if (pick) {
    const row = find(`#idea-${pick}`);
    if (row) select(row, { load: false });
    openDrawer(pick);
  }
  if (reloading) return;
  reloading = setTimeout(
    async () => {
      reloading = null;
      if (onItsWay()) return reload(pick);
      const focused = find("#list").contains(document.activeElement);
      await askList(asItIs(), { same: true });
      const row = (pick && find(`#idea-${pick}`)) || selected();
      if (row) select(row, { focus: focused, load: false, scroll: Boolean(pick) });
      const open = find("#drawer .drawer");
      const shown = open && (find(`#idea-${open.dataset.id}`) ? open.dataset.id : selected()?.dataset.id);
      if (shown && wanted === null) openDrawer(shown);
    },
    pick && !onItsWay() ? 0 : 1500,
  );
}

document.addEventListener("ideas-changed", (event) => reload(event.detail?.select));

// Another list has its first idea selected, unless it holds the one that was.
let listed = find("#rows");

document.addEventListener("htmx:after:swap", () => {
  const list = find("#rows");
  if (!list || list === listed) return;
  listed = list;
  if (!list.dataset.kept) place = -1;
  if (!selected() && rows().length && place < 0) select(rows()[0], { focus: false });
});

document.addEventListener("click", (event) => {
  const row = event.target.closest("#rows > tr");
  if (row && !event.target.closest("a, input, [data-do]")) select(row);
});

// A plain click on an idea selects it; its whole story is one more click, or Enter.
document.addEventListener(
  "click",
  (event) => {
    const link = event.target.closest("#rows .idea a");
    if (!link || event.detail === 0 || event.ctrlKey || event.metaKey || event.shiftKey) return;
    const row = link.closest("tr");
    if (!row.classList.contains("selected")) {
      event.preventDefault();
      select(row);
    }
  },
  true,
);

declare("#rows", "Next and previous", {
  j: () => move(1),
  k: () => move(-1),
  ArrowDown: () => move(1),
  ArrowUp: () => move(-1),
});
declare("#rows", "A screen on or back, the first, the last", {
  PageDown: () => move(screenful()),
  PageUp: () => move(-screenful()),
  Home: () => goTo(0),
  End: () => goTo(count() - 1),
});
declare("#rows", "Move along its figures, with the reason for each", {
  ArrowRight: () => along(1),
  ArrowLeft: () => along(-1),
});
declare("#rows", "Full details", {
  Enter: (event) => {
    if (!selected() || !(event.target === body || event.target.matches("#rows td"))) return false;
    location.href = find(".idea a", selected()).href;
  },
});

escapes.push((event) => {
  if (event.target.closest(".sieve")) select(selected());
});
