// Which columns the list has, in which order, how wide.
import { actions, ask, base, find, send, sendIn } from "../frame/frame.js";
import { stepped } from "../frame/order.js";

const dialog = () => find("#columns");

// Widths are set here: the page lets no markup bring styles.
function widen() {
  for (const head of document.querySelectorAll("#list th[data-width]")) setWidth(head, head.dataset.width);
}

function setWidth(head, px) {
  head.style.width = head.style.minWidth = head.style.maxWidth = `${px}px`;
}

document.addEventListener("htmx:after:swap", widen);
widen();

async function save(columns, into) {
  const values = new URLSearchParams();
  for (const one of columns) values.append("column", one);
  // What the page was made with, so that another tab's choice is not lost without a word; pressed again, it is.
  const { dataset } = find("main.listing");
  if (dataset.columns !== undefined) values.set("was", dataset.columns);
  if (into) {
    if (await sendIn(into, `${base}/columns`, values)) location.reload();
    else delete dataset.columns;
    return;
  }
  if (await send(`${base}/columns`, values, "#notice")) dataset.columns = columns.join(" ");
  else delete dataset.columns;
}

document.addEventListener(
  "submit",
  (event) => {
    if (!event.target.closest("#columns")) return;
    event.preventDefault();
    save(new FormData(event.target).getAll("column"), dialog());
  },
  true,
);

function move(button, step) {
  stepped(button.closest("li"), step);
  button.focus();
}

// A width typed goes with its column.
document.addEventListener("input", (event) => {
  if (!event.target.matches("#columns .px")) return;
  const box = find('[name="column"]', event.target.closest("li"));
  const key = box.value.split(":")[0];
  box.value = event.target.value ? `${key}:${event.target.value}` : key;
});

Object.assign(actions, {
  columns: async () => {
    await ask("GET", `${base}/columns`, "#columns");
    dialog().showModal();
  },
  "close-columns": () => dialog().close(),
  "usual-columns": () => save([], dialog()),
  "column-up": (button) => move(button, -1),
  "column-down": (button) => move(button, 1),
});

// Dragging the edge of a heading.
let edge = null;

document.addEventListener("pointerdown", (event) => {
  if (!event.target.matches?.("#list th .grip")) return;
  const head = event.target.closest("th");
  edge = { head, x: event.clientX, width: head.getBoundingClientRect().width };
  event.preventDefault();
});

document.addEventListener("pointermove", (event) => {
  if (edge) setWidth(edge.head, Math.round(Math.max(30, edge.width + event.clientX - edge.x)));
});

document.addEventListener("pointerup", () => {
  if (!edge) return;
  edge.head.dataset.width = Math.round(edge.head.getBoundingClientRect().width);
  edge = null;
  const heads = [...document.querySelectorAll("#list th[data-key]")].filter((h) => h.dataset.key !== "idea");
  save(heads.map((h) => (h.dataset.width ? `${h.dataset.key}:${h.dataset.width}` : h.dataset.key)));
});
