// The verdict on a list is renewed when something was looked up for it.
import { find } from "../frame/frame.js";

document.addEventListener("ideas-changed", async () => {
  if (!find("#verdict")) return;
  const answer = await fetch(location.href).catch(() => null);
  if (!answer?.ok) return;
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  for (const part of ["#verdict", "#trail"]) find(part).replaceWith(find(part, page));
  htmx.process(find("#verdict"));
});
