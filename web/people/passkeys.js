// Passkeys: the browser makes one, or shows one, in answer to what the application asks.
import { find } from "../frame/frame.js";

const able = () => globalThis.PublicKeyCredential?.parseCreationOptionsFromJSON && navigator.credentials;

async function send(path, body) {
  const answer = await fetch(path, {
    method: "POST",
    headers: { "Content-Type": "application/json", "X-Csrf-Token": find("meta[name=csrf]").content },
    body: JSON.stringify(body),
  });
  const said = await answer.json().catch(() => ({ wrong: "Something went wrong. Try again." }));
  if (!answer.ok) throw new Error(said.wrong ?? "Something went wrong. Try again.");
  return said;
}

// A button that is there once the browser can do it, with what is said where it fails.
function button(id, act) {
  const it = find(id);
  if (!it || !able()) return;
  it.hidden = false;
  it.querySelector("button").addEventListener("click", async (event) => {
    event.preventDefault();
    const wrong = it.querySelector("[role=alert]");
    wrong.textContent = "";
    try {
      location.assign((await act(it)).to);
    } catch (error) {
      // Whoever closes the browser's dialog wants nothing said of it.
      if (error.name !== "NotAllowedError" && error.name !== "AbortError") wrong.textContent = error.message;
    }
  });
}

button("#sign-in-by-passkey", async (it) => {
  const asked = await send("/sign-in/passkey/ask", {});
  const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(asked.options);
  const credential = await navigator.credentials.get({ publicKey });
  return send("/sign-in/passkey", { secret: asked.secret, credential: credential.toJSON(), to: it.dataset.to });
});

button("#make-passkey", async (it) => {
  const asked = await send("/you/passkeys/ask", {});
  const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(asked.options);
  const credential = await navigator.credentials.create({ publicKey });
  const name = it.querySelector("input").value;
  return send("/you/passkeys", { secret: asked.secret, name, credential: credential.toJSON() });
});
