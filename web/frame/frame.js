// What every screen's script needs: finding, asking, saying, and the two registers, of
// actions (a button's data-do) and of keys. Nothing here knows a screen.

export const body = document.body;
export const niche = body.dataset.niche;
export const base = `/niches/${niche}`;
export const find = (selector, root = document) => root.querySelector(selector);
const token = find('meta[name="csrf"]').content;

// What every request of ours says: that it wants a part of a page, and, where it changes something, the page's token.
export const headers = { "X-Csrf-Token": token, "HX-Request": "true" };

// Every request that changes something carries the page's token.
document.addEventListener("htmx:config:request", (event) => {
  event.detail.ctx.request.headers["X-Csrf-Token"] = token;
});

const silent = "Clever Niche is not responding. Nothing you saved is lost. Try again when it is running.";

// Requests that htmx gives up on say so; what was typed stays.
document.addEventListener("htmx:error", () => notice(silent));

export function notice(text) {
  const line = document.createElement("p");
  line.className = "said";
  line.textContent = text;
  find("#notice").replaceChildren(line);
}

// ask lets htmx ask for a part of the page. Requests are made by different elements,
// since htmx lets one element have one request at a time.
export const ask = (method, address, target, more = {}) =>
  htmx.ajax(method, address, { source: target, target, swap: "innerHTML", ...more });

// send posts values, and puts what is answered into the target, or where errors are told.
export async function send(address, values, target) {
  const answer = await fetch(address, { method: "POST", body: values, headers }).catch(() => null);
  if (!answer) return notice(silent);
  const text = await answer.text();
  const place = find(answer.ok ? target : "#notice");
  place.innerHTML = text;
  htmx.process(place);
  return answer.ok;
}

// ask for a change, and show what is wrong with it in a dialog instead of the page.
export async function sendIn(dialog, address, values) {
  const answer = await fetch(address, { method: "POST", body: values, headers }).catch(() => null);
  const text = answer ? await answer.text() : silent;
  if (answer?.ok) {
    dialog.close();
    find("#notice").innerHTML = text;
  } else find(".told", dialog).innerHTML = text;
  return answer?.ok;
}

// Each name is one screen's: a second one of that name would take the first one's place unseen.
export const actions = new Proxy(
  {},
  {
    set(all, name, does) {
      if (name in all) throw new Error(`there are two actions named ${name}`);
      all[name] = does;
      return true;
    },
  },
);

Object.assign(actions, {
  keys: () => showKeys(),
  dismiss: () => find("#notice").replaceChildren(),
});

// What Escape does, anywhere.
export const escapes = [];

const declared = []; // keys: where they work, what they do, and how that is told

// declare lets keys do something where a part of the page is shown, and has them told under "?" there. What does
// nothing by itself (arrows on a handle, say) is told only.
export function declare(where, says, acts) {
  declared.push({ where, says, acts });
}

const named = { " ": "Space", ArrowUp: "↑", ArrowDown: "↓", ArrowLeft: "←", ArrowRight: "→" };
Object.assign(named, { PageUp: "PgUp", PageDown: "PgDn", Escape: "Esc" });

// showKeys lists the keys of this page.
function showKeys() {
  const list = find("#keys dl");
  list.replaceChildren();
  for (const { says, acts } of declared.filter((one) => find(one.where))) {
    const [keys, told] = [document.createElement("dt"), document.createElement("dd")];
    for (const key of Object.keys(acts)) {
      const cap = document.createElement("kbd");
      cap.textContent = named[key] ?? key;
      keys.append(cap, " ");
    }
    told.textContent = says;
    list.append(keys, told);
  }
  find("#keys").showModal();
}

// What opens over the page is shut by a click elsewhere, and by Escape.
const over = "details[data-over][open]";

escapes.push(() => {
  const open = find(over);
  if (!open) return;
  if (open.contains(document.activeElement)) find("summary", open).focus();
  open.open = false;
});

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-do]");
  if (button) actions[button.dataset.do]?.(button, event);
  const open = find(over);
  if (open && !open.contains(event.target)) open.open = false;
});

const typing = "input, textarea, select, [contenteditable]";
// Boxes of a list's rows: keys go on from them.
const ticking = '#rows input[name="id"], #ranks tbody input[type="checkbox"]';
// Buttons take the keys that press them, handles what moves them; on these, other keys work as anywhere.
const onHandles = ["u", "z", "Z", "?", "/", "+"];
const takesItself = (at, key) =>
  at.closest(".handle") ? !onHandles.includes(key) : at.closest("button, summary") && [" ", "Enter"].includes(key);

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || find("dialog[open]")) return;
  if (event.key === "Escape") {
    for (const escape of escapes) escape(event);
    return;
  }
  if (event.target.closest(typing) && !event.target.matches(ticking)) return;
  if (takesItself(event.target, event.key)) return;
  const act = declared.findLast((one) => one.acts[event.key] && find(one.where))?.acts[event.key];
  if (!act || !niche) return;
  if (act(event) !== false) event.preventDefault();
});

// A list is found again on the trail as it was left in this tab: with its sieve.
const lists = /^\/niches\/\d+\/(sift|judge|group)$/;

addEventListener("pagehide", () => {
  if (lists.test(location.pathname)) sessionStorage.setItem(`list ${location.pathname}`, location.search);
});

document.addEventListener(
  "click",
  (event) => {
    const link = event.target.closest?.("#trail a");
    if (link && lists.test(link.pathname) && link.pathname !== location.pathname)
      link.search = sessionStorage.getItem(`list ${link.pathname}`) ?? "";
  },
  true,
);

// A file goes with the page's token before it: without, the application does not read a large one.
document.addEventListener("submit", async (event) => {
  const form = event.target;
  if (!form.matches("form[data-upload]")) return;
  event.preventDefault();
  const button = find("button", form);
  button.disabled = true;
  const answer = await fetch(form.action, {
    method: "POST",
    body: new FormData(form),
    headers: { "X-Csrf-Token": token },
  }).catch(() => null);
  button.disabled = false;
  if (!answer) return notice(silent);
  if (answer.redirected) return location.assign(answer.url);
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  const main = find("main", page);
  find("main").replaceWith(main);
  for (const part of ["#trail", "#notice"]) find(part).replaceWith(find(part, page));
  htmx.process(document.body);
  find(".report, [autofocus]", main)?.focus();
  scrollTo(0, 0);
});

// What was said just before the page was loaded anew.
const said = sessionStorage.getItem("said");
if (said) notice(said);
sessionStorage.removeItem("said");

// What a page wants to be read first is shown first.
find(".report, [autofocus]")?.focus?.();

declare("body", "These keys", { "?": showKeys });
