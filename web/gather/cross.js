// Lists to cross: what is offered for one is put into it, a line each.
import { actions, find } from "../frame/frame.js";

actions.offer = (button) => {
  const list = find(`#${button.closest(".offers").dataset.list}`);
  const there = list.value.split("\n").filter((line) => line.trim());
  const fresh = button.dataset.lines.split("\n").filter((line) => !there.includes(line));
  list.value = [...there, ...fresh].join("\n");
  list.dispatchEvent(new Event("input", { bubbles: true }));
  list.focus();
};
