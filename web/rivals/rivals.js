// Phrases of rivals: the keys of the list, to go along them and to tick them.
import { declare, find } from "../frame/frame.js";

const shown = "#ranks tbody tr";
const rows = () => [...document.querySelectorAll(shown)];
const here = () => rows().indexOf(document.activeElement?.closest?.(shown));
const box = (row) => find('input[type="checkbox"]', row);

// go puts the focus on a row: on its box, or on the idea that it is.
function go(at) {
  const list = rows();
  const row = list[Math.max(0, Math.min(list.length - 1, at))];
  if (row) (box(row) ?? find("a", row)).focus();
}

const move = (step) => () => go(here() < 0 ? 0 : here() + step);

function tick(step) {
  const row = rows()[here()];
  const mark = row && box(row);
  if (mark) mark.checked = step ? true : !mark.checked;
  if (step) go(here() + step);
}

declare(shown, "Up and down the phrases", { ArrowDown: move(1), ArrowUp: move(-1), j: move(1), k: move(-1) });
declare(shown, "Tick a phrase; C ticks all on this page, or none", {
  c: () => tick(0),
  C: () => {
    const all = rows().map(box).filter(Boolean);
    const on = all.some((mark) => !mark.checked);
    for (const mark of all) mark.checked = on;
  },
});
declare(shown, "Tick while moving down or up", { J: () => tick(1), K: () => tick(-1) });
