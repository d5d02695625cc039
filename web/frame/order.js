// Things in a row that are put into another order: by dragging a handle, with mouse, pen or finger, or by arrows on it.

// orderable lets items be ordered among their siblings. item and handle are selectors; placed is told which item has
// another place now.
export function orderable({ item, handle, placed }) {
  let dragged = null;
  let moved = false;
  let beside = null; // where it was put last: next to whom, and on which side

  document.addEventListener("pointerdown", (event) => {
    const grip = event.target.closest?.(handle);
    if (!grip || event.button !== 0) return;
    dragged = grip.closest(item);
    moved = false;
    dragged.classList.add("dragged");
  });

  document.addEventListener("pointermove", (event) => {
    if (!dragged) return;
    event.preventDefault();
    const over = document.elementFromPoint(event.clientX, event.clientY)?.closest(item);
    if (!over || over === dragged || over.parentElement !== dragged.parentElement) return;
    const box = over.getBoundingClientRect();
    beside = { over, side: event.clientY < box.top + box.height / 2 ? "before" : "after" };
    over[beside.side](dragged);
    moved = true;
  });

  // An answer that comes late, to what was done before, does not put back what is being dragged.
  document.addEventListener("htmx:after:swap", () => {
    if (dragged?.isConnected && moved && beside.over.isConnected) beside.over[beside.side](dragged);
  });

  const drop = () => {
    if (!dragged) return;
    const one = dragged;
    dragged = null;
    one.classList.remove("dragged");
    if (moved) placed(one);
  };
  document.addEventListener("pointerup", drop);
  document.addEventListener("pointercancel", drop);

  document.addEventListener("keydown", (event) => {
    const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    const grip = event.target.closest?.(handle);
    if (!step || !grip || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    if (stepped(grip.closest(item), step)) placed(grip.closest(item));
  });
}

// stepped moves an item before the one above it, or behind the one below; false where there is none.
export function stepped(one, step) {
  const other = step < 0 ? one.previousElementSibling : one.nextElementSibling;
  if (!other) return false;
  if (step < 0) other.before(one);
  else other.after(one);
  return true;
}
