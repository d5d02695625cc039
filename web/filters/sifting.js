// What the list is asked for by: the sieve's form.
import { ask, find } from "../frame/frame.js";

export const siftValues = () => new URLSearchParams(new FormData(find("#sift")));

let renewing = 0; // lists asked for as they are, which is no change of the sieve

// askList asks for the list by a sieve. Whatever asks for it, the last one is answered (hx-sync).
export async function askList(query, { same = false } = {}) {
  if (same) renewing++;
  await ask("GET", `${find("#sift").getAttribute("action")}?${query}`, "#list").finally(() => same && renewing--);
}

// onItsWay holds while another list is asked for and not shown yet.
export const onItsWay = () =>
  !renewing && find("#sift.htmx-request, #list.htmx-request, #list .htmx-request") !== null;
