// The sieve is built here: filters are added, taken out, moved by dragging or keys, switched
// off and on; changes are undone and made again, saved, and begun with.
import { actions, base, body, declare, find, sendIn } from "../frame/frame.js";
import { orderable } from "../frame/order.js";
import { askList, onItsWay, siftValues } from "./sifting.js";

const form = () => find("#sift");
const filters = () => [...document.querySelectorAll("#sieve-body .filters > .filter")];

// remake asks for the list, and for the sieve as it is drawn now that its filters are others.
async function remake(query = siftValues(), focus = () => {}) {
  query.delete("remade");
  query.set("remade", "yes");
  await askList(query);
  focus();
}

// remakeWith sets the bars of filters, adding those that are not there, and shows the list.
export function remakeWith(values) {
  const query = siftValues();
  query.delete("view");
  for (const [key, value] of Object.entries(values)) query.set(key, value);
  remake(query);
}

// Where the focus was goes on to the same filter, by what it is of and which of those.
function placeOf(filter) {
  const key = filter.dataset.key;
  const at = filters()
    .filter((m) => m.dataset.key === key)
    .indexOf(filter);
  return () => {
    const same = filters().filter((m) => m.dataset.key === key);
    (find(".handle", same[Math.min(at, same.length - 1)] ?? filters()[0]) ?? find("#sieve-body .add"))?.focus();
  };
}

// takeOut leaves word that a filter which the stage begins with is not asked for.
function takeOut(filter) {
  const next = filter.nextElementSibling || filter.previousElementSibling;
  if (filter.dataset.without !== undefined) {
    const gone = document.createElement("input");
    Object.assign(gone, { type: "hidden", name: filter.dataset.key, value: filter.dataset.without });
    find("#sieve-body").append(gone);
  }
  filter.remove();
  remake(undefined, next ? placeOf(next) : () => find("#sieve-body .add")?.focus());
}

function turn(filter) {
  const name = `${filter.dataset.key}-off`;
  const off = find(`input[name="${name}"]`, filter);
  if (off) off.remove();
  else {
    const input = document.createElement("input");
    Object.assign(input, { type: "hidden", name, value: "yes" });
    find(".count", filter).before(input);
  }
  remake(undefined, placeOf(filter));
}

document.addEventListener("keydown", (event) => {
  const handle = event.target.closest?.(".filter .handle");
  if (!handle || event.ctrlKey || event.metaKey || event.altKey) return;
  const filter = handle.closest(".filter");
  const act = {
    Delete: () => takeOut(filter),
    Backspace: () => takeOut(filter),
    o: () => turn(filter),
  }[event.key];
  if (!act) return;
  event.preventDefault();
  act();
});

orderable({
  item: ".filters > .filter",
  handle: ".filter .handle",
  placed: (filter) => remake(undefined, placeOf(filter)),
});

document.addEventListener("click", (event) => {
  const filter = event.target.closest?.(".filter");
  if (!filter || !event.target.closest("[data-filter]")) return;
  if (event.target.closest("[data-filter]").dataset.filter === "off") turn(filter);
  else takeOut(filter);
});

document.addEventListener(
  "change",
  (event) => {
    if (event.target.matches("#sieve-body .add")) {
      event.stopPropagation();
      add(event.target);
    } else if (event.target.matches("#begin-with")) {
      event.stopPropagation();
      const address = event.target.value;
      event.target.value = "";
      if (address) remake(new URLSearchParams(address.split("?")[1]));
    }
  },
  true,
);

// Choosing what to add is no change of the sieve yet.
document.addEventListener(
  "input",
  (event) => {
    if (event.target.matches("#sieve-body .add, #begin-with")) event.stopPropagation();
  },
  true,
);

// add puts a filter behind the others of its side, as one begins with it.
function add(choice) {
  const key = choice.value;
  if (!key) return;
  const started = document.createElement("input");
  const start = find(`option[value="${key}"]`, choice).dataset.start ?? "";
  Object.assign(started, { type: "hidden", name: key, value: start });
  choice.previousElementSibling.matches(".filters")
    ? choice.previousElementSibling.append(started)
    : choice.before(started);
  choice.value = "";
  remake(undefined, () => {
    const last = filters()
      .filter((m) => m.dataset.key === key)
      .at(-1);
    const input = last && find("input:not([type=hidden]), select", last);
    input?.focus();
    input?.select?.();
  });
}

// A heading clicked with shift orders what is equal in the first order.
document.addEventListener(
  "click",
  (event) => {
    const head = event.target.closest?.("#list th a[data-then]");
    if (!head || !event.shiftKey) return;
    event.preventDefault();
    event.stopPropagation();
    remake(new URLSearchParams(head.dataset.then.split("?")[1]));
  },
  true,
);

// What the sieve was, and was made again: one history for each tab and stage.
const past = `sieves of ${base} ${body.dataset.stage}`;
const read = () => JSON.parse(sessionStorage.getItem(past) || '{"at":-1,"list":[]}');

let travelling = 0; // how many of those that are asked for again are not shown yet

function remember() {
  if (!form() || travelling) return;
  const now = location.search.replace(/[?&]idea=\d+/, "");
  const h = read();
  if (h.list[h.at] !== now) {
    h.list = [...h.list.slice(0, h.at + 1), now].slice(-200);
    h.at = h.list.length - 1;
    sessionStorage.setItem(past, JSON.stringify(h));
  }
  for (const [name, possible] of [
    ["sieve-undo", h.at > 0],
    ["sieve-redo", h.at < h.list.length - 1],
  ]) {
    const button = find(`[data-do="${name}"]`);
    if (button) button.disabled = !possible;
  }
}

// travel goes back, or on again. A change that is still on its way is the one that is taken back.
async function travel(step) {
  if (!form()) return;
  const changing = onItsWay() && !travelling;
  if (!onItsWay()) remember();
  const h = read();
  const at = changing ? h.at + step + 1 : h.at + step;
  if (h.list[at] === undefined || (changing && step > 0)) return;
  h.at = at;
  sessionStorage.setItem(past, JSON.stringify(h));
  travelling++;
  const query = new URLSearchParams(h.list[at] || `sort=${find('[name="sort"]', form()).value}`);
  await remake(query).finally(() => travelling--);
  remember();
}

// The chips follow what is left, once it is shown.
let lastSifted = null;

document.addEventListener("htmx:after:swap", () =>
  setTimeout(() => {
    remember();
    const now = `${find("#left b")?.textContent} ${location.search}`;
    if (!form() || now === lastSifted) return;
    if (lastSifted !== null) body.dispatchEvent(new Event("sifted"));
    lastSifted = now;
  }),
);
addEventListener("popstate", () => setTimeout(remember));
remember();

// Saving.
document.addEventListener(
  "submit",
  async (event) => {
    if (!event.target.matches("#save-sieve form")) return;
    event.preventDefault();
    const values = siftValues();
    const typed = new FormData(event.target);
    for (const name of ["name", "usual"]) if (typed.has(name)) values.set(name, typed.get(name));
    if (!(await sendIn(find("#save-sieve"), `${base}/sieves`, values))) return;
    find('[name="sieve"]', form()).value = typed.get("name").trim().replace(/\s+/g, " ");
    remake();
  },
  true,
);

Object.assign(actions, {
  "sieve-undo": () => travel(-1),
  "sieve-redo": () => travel(1),
  "save-sieve": () => {
    const dialog = find("#save-sieve");
    find(".told", dialog).replaceChildren();
    find('[name="name"]', dialog).value = find('[name="sieve"]', form()).value;
    dialog.showModal();
  },
  // A chip narrows to what has it; with shift, to what has not.
  chip: (button, event) => {
    const { key, value } = button.dataset;
    const query = siftValues();
    if (key === "shape") query.append(key, value);
    else {
      // Each word that it has to hold is a filter of its own; of those it may not, one filter names all.
      if (event.shiftKey) query.set("lacks", [query.get("lacks"), value].filter(Boolean).join(", "));
      else query.append("holds", value);
    }
    remake(query);
  },
  // Wordings of one thing are one row, or each its own.
  fold: (button) => {
    const query = siftValues();
    const on = query.get("fold") !== "yes";
    query.delete("fold");
    if (on) query.set("fold", "yes");
    button.classList.toggle("on", on);
    button.setAttribute("aria-pressed", on);
    remake(query);
  },
  "close-save": () => find("#save-sieve").close(),
});

declare("#sift", "Go to the filters", {
  "/": () => find("#sieve-body .filter input:not([type=hidden]), #sieve-body .add")?.focus(),
});
declare("#sift", "Add a filter", { "+": () => find("#sieve-body .add")?.focus() });
declare("#sift", "On a filter’s handle: arrows move it, o turns it off, Delete removes it", {
  o: null,
  Delete: null,
});
declare("#sift", "Undo or redo the last sieve change", { z: actions["sieve-undo"], Z: actions["sieve-redo"] });
