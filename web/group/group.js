// Topics: grouping them otherwise, and what is done with them by hand.
import { actions, base, declare, find, notice, send } from "../frame/frame.js";
import { askList, siftValues } from "../filters/sifting.js";
import { openDrawer, reload, select, selected } from "../list/list.js";

const onBench = () => find("#grouping") !== null;
const here = () => find("#drawer .drawer.topic")?.dataset.id;

// What shows the topic is renewed: the list with the drawer, or the page.
async function renew(id) {
  if (!onBench()) {
    location.href = `${base}/topics/${id ?? here()}`;
    return;
  }
  const query = siftValues();
  query.set("remade", "yes");
  if (id) query.set("idea", id);
  const focused = find("#list").contains(document.activeElement);
  await askList(query);
  const row = find(`#idea-${id}`) ?? selected();
  if (row) {
    select(row, { focus: focused, load: false });
    openDrawer(row.dataset.id);
  }
}

async function change(id, what, values, after = id) {
  if (await send(`${base}/topics/${id}/${what}`, values, "#notice")) await renew(after);
}

const chosen = (form) => [...form.querySelectorAll('input[name="id"]:checked')].map((box) => box.value);
const withIDs = (ids) => new URLSearchParams(ids.map((id) => ["id", id]));

document.addEventListener("click", (event) => {
  const button = event.target.closest?.("[data-topic], [data-join]");
  if (!button || button.tagName !== "BUTTON" || button.type === "submit") return;
  if (button.dataset.join)
    return change(button.dataset.topicOf, "join", new URLSearchParams({ id: button.dataset.join }));
  const form = button.closest("form");
  const id = form.dataset.topic;
  const act = button.dataset.topic;
  if (act === "release") return change(id, "release", new URLSearchParams());
  if (!chosen(form).length) return notice("Select ideas of the topic first, with the boxes before them.");
  change(id, "split", withIDs(chosen(form)), chosen(form)[0]);
});

document.addEventListener("submit", (event) => {
  if (event.target.matches("#grouping")) {
    event.preventDefault();
    regroup();
  }
  if (!event.target.matches("form.by-hand")) return;
  event.preventDefault();
  const { topic } = event.target.dataset;
  change(topic, "name", new URLSearchParams({ name: find('[name="name"]', event.target).value }));
});

let timer = null;

document.addEventListener("change", (event) => {
  const input = event.target;
  const form = input.closest?.("form.by-hand");
  if (form && input.name === "lead") change(input.value, "lead", new URLSearchParams());
  else if (form && input.name === "target" && input.value) {
    const ids = chosen(form);
    if (!ids.length) {
      input.value = "";
      return notice("Select ideas of the topic first, with the boxes before them.");
    }
    const values = withIDs(ids);
    values.set("target", input.value);
    change(form.dataset.topic, "move", values, input.value);
  } else if (input.matches?.("select.hub")) {
    change(input.dataset.topicOf, "hub", new URLSearchParams({ hub: input.value }));
  } else if (input.matches?.("#scope")) regroup();
});

document.addEventListener("input", (event) => {
  if (!event.target.matches("#shared")) return;
  event.stopPropagation();
  find("#grouping output").textContent = event.target.value;
  clearTimeout(timer);
  timer = setTimeout(regroup, 60);
});

// One regrouping at a time; of those asked for meanwhile the last one follows.
let grouping = false;
let again = false;

async function regroup() {
  again = true;
  if (grouping) return;
  grouping = true;
  while (again) {
    again = false;
    const values = new URLSearchParams(new FormData(find("#grouping")));
    if (!(await send(`${base}/group/by`, values, "#grouped-says"))) break;
    find("#grouped-says").textContent = find("#grouped-says").textContent.trim();
    await renew(selected()?.dataset.id);
  }
  grouping = false;
}

document.addEventListener("topics-changed", () => onBench() || reload());

// The cells of the grid are walked by arrows; each is told in words below it.
const cellsOf = (row) => [...row.querySelectorAll("td.c")];

function tell(cell) {
  const row = cell.closest("tr");
  find(".grid-says", cell.closest("form")).textContent =
    `${find('th[scope="row"]', row).firstElementChild.textContent}: ${cell.title}`;
}

document.addEventListener("focusin", (event) => {
  if (event.target.matches?.(".grid td.c")) tell(event.target);
  else if (event.target.matches?.('.grid th[scope="row"]'))
    find(".grid-says", event.target.closest("form")).textContent = event.target.title;
});

document.addEventListener("mouseover", (event) => {
  if (event.target.matches?.(".grid td.c")) tell(event.target);
});

document.addEventListener(
  "keydown",
  (event) => {
    const at = event.target.closest?.('.grid td.c, .grid th[scope="row"]');
    if (!at || event.ctrlKey || event.metaKey || event.altKey) return;
    const row = at.closest("tr");
    const all = [...at.closest("table").querySelectorAll("tr")].filter((tr) => find('th[scope="row"]', tr));
    const line = (tr) => [find('th[scope="row"]', tr), ...cellsOf(tr)];
    const column = line(row).indexOf(at);
    const to = {
      ArrowRight: () => line(row)[column + 1],
      ArrowLeft: () => line(row)[column - 1],
      ArrowDown: () => all[all.indexOf(row) + 1] && line(all[all.indexOf(row) + 1])[column],
      ArrowUp: () => all[all.indexOf(row) - 1] && line(all[all.indexOf(row) - 1])[column],
      Home: () => line(row)[0],
      End: () => line(row).at(-1),
    }[event.key];
    if (!to) return;
    event.preventDefault();
    event.stopPropagation();
    to()?.focus();
  },
  true,
);

// startOwn starts a job about one's own pages.
async function startOwn(button, what) {
  button.disabled = true;
  await send(`${base}/plan/${what}`, new URLSearchParams(), "#jobs");
  button.disabled = false;
}

Object.assign(actions, {
  "own-pages": (button) => startOwn(button, "own-pages"),
  "own-places": (button) => startOwn(button, "own-places"),
});

export { renew };

declare(".grid", "In a topic’s grid: from cell to cell", {
  ArrowLeft: null,
  ArrowRight: null,
  ArrowUp: null,
  ArrowDown: null,
});
