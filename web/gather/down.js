// The way down: a tree whose rows are walked by keys, folded, sifted by, dug from and dropped.
import { actions, base, declare, find, headers, notice, send } from "../frame/frame.js";

const tree = () => find(".tree tbody");
const twigs = () => [...document.querySelectorAll(".tree .twig")];
const level = (twig) => Number(twig.getAttribute("aria-level"));
const here = () => find('.tree .twig[tabindex="0"]');
const isOpen = (twig) => twig.getAttribute("aria-expanded") === "true";

function go(twig) {
  if (!twig) return false;
  twig.focus();
}

// below are the rows under one.
function below(twig) {
  const out = [];
  for (let next = twig.nextElementSibling; next && level(next) > level(twig); next = next.nextElementSibling)
    out.push(next);
  return out;
}

function remember() {
  const address = new URL(location.href);
  address.searchParams.delete("open");
  for (const twig of twigs()) if (isOpen(twig)) address.searchParams.append("open", twig.dataset.branch);
  history.replaceState(null, "", address);
}

function fold(twig) {
  for (const row of below(twig)) row.remove();
  twig.setAttribute("aria-expanded", "false");
  remember();
}

async function unfold(twig) {
  const asked = new URLSearchParams({
    at: twig.dataset.branch,
    level: level(twig),
    sort: find(".tree").dataset.order,
  });
  const answer = await fetch(`${base}/gather/down/below?${asked}`, { headers }).catch(() => null);
  if (!answer?.ok)
    return notice(answer ? (await answer.text()).replace(/<[^>]*>/g, "") : "Clever Niche is not responding.");
  const rows = await answer.text();
  if (isOpen(twig)) return; // the key was pressed twice
  twig.insertAdjacentHTML("afterend", rows);
  twig.setAttribute("aria-expanded", "true");
  remember();
}

document.addEventListener("focusin", (event) => {
  const twig = event.target.closest?.(".twig");
  if (twig) for (const other of twigs()) other.tabIndex = other === twig ? 0 : -1;
});

const turn = (twig) => (isOpen(twig) ? fold(twig) : unfold(twig));
const twigOf = (element) => element.closest(".twig");

async function drop(twig) {
  const values = new URLSearchParams({ branch: twig.dataset.branch });
  if (await send(`${base}/gather/down/drop`, values, "#notice")) await renew();
}

// renew shows the tree as it is now, and the same row in it.
async function renew() {
  const at = here()?.dataset.branch;
  const answer = await fetch(location.href).catch(() => null);
  if (!answer?.ok) return;
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  tree().replaceWith(find(".tree tbody", page));
  find("#trail").replaceWith(find("#trail", page));
  const again = twigs().find((twig) => twig.dataset.branch === at) ?? twigs()[0];
  if (again) go(again);
}

async function dig(twig) {
  if (!find('[data-do="dig-here"]', twig)) {
    const link = find('.acts a[href*="/gather?"]', twig);
    if (link) link.click();
    else notice("Gather from one of the phrases under it.");
  } else if (await send(`${base}/ideas/${twig.dataset.idea}/dig`, new URLSearchParams(), "#notice"))
    location.assign(`${base}/gather`);
}

Object.assign(actions, {
  "fold-branch": (link, event) => {
    event.preventDefault();
    go(twigOf(link));
    turn(twigOf(link));
  },
  "drop-below": (button) => drop(twigOf(button)),
  "dig-here": (button) => dig(twigOf(button)),
});

const move = (by) => () => go(twigs()[twigs().indexOf(here()) + by]);
const shown = ".tree .twig";

declare(shown, "Up and down the tree", { ArrowDown: move(1), ArrowUp: move(-1), j: move(1), k: move(-1) });
declare(shown, "Unfold, or go in", {
  ArrowRight: () => {
    const twig = here();
    if (!twig.hasAttribute("aria-expanded")) return false;
    if (isOpen(twig)) return go(below(twig)[0]);
    unfold(twig);
  },
});
declare(shown, "Fold, or climb back", {
  ArrowLeft: () => {
    const twig = here();
    if (isOpen(twig)) return fold(twig);
    const all = twigs();
    return go(all.slice(0, all.indexOf(twig)).findLast((other) => level(other) < level(twig)));
  },
});
declare(shown, "Sift by this branch", { Enter: () => find("th a:not(.fold)", here()).click() });
declare(shown, "Gather from here", { g: () => dig(here()) });
declare(shown, "Drop all under it that is not kept", {
  x: () => (find('[data-do="drop-below"]', here()) ? drop(here()) : false),
});

if (twigs()[0]) twigs()[0].tabIndex = 0;
document.addEventListener("ideas-changed", () => tree() && renew());
