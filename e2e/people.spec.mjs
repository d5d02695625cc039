// People: a secure connection, joining by a link, roles, who else is here, the record.
import { execFileSync } from "node:child_process";
import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import AxeBuilder from "@axe-core/playwright";
import { test, expect, dataFile, start, stop, freePort } from "./app.mjs";

const password = "four words in a row";
test.use({ ignoreHTTPSErrors: true });

test("a team: the owner joins, invites, and each does what they may", async ({ browser }) => {
  const folder = mkdtempSync(join(tmpdir(), "tls-"));
  const [cert, key, file] = [join(folder, "cert.pem"), join(folder, "key.pem"), dataFile()];
  const root = execFileSync("go", ["env", "GOROOT"], { encoding: "utf8" }).trim();
  const maker = join(root, "src", "crypto", "tls", "generate_cert.go"); // Go's own, for tests like this
  execFileSync("go", ["run", maker, "--host", "localhost", "--ecdsa-curve", "P256"], {
    cwd: folder,
    stdio: "ignore",
  });
  const common = ["--data", file, "--config", "/dev/null"];
  const cli = (...words) => execFileSync("../bin/cleverniche", [...words, ...common], { encoding: "utf8" }).trim();
  cli("niche", "Sky", "--site", "mine.example");
  const port = await freePort();
  const tls = ["--sign-in", "yes", "--tls-cert", cert, "--tls-key", key, "--listen", `127.0.0.1:${port}`];
  const child = start("cleverniche", "serve", ...tls, ...common);
  await expect.poll(() => child.output).toContain("Clever Niche is at https://");
  expect(child.output).toContain("nobody can sign in yet");
  const address = `https://localhost:${port}`;
  const joinBy = async (link) => {
    const context = await browser.newContext({ ignoreHTTPSErrors: true });
    const page = await context.newPage();
    await page.goto(link);
    await page.getByLabel("Password", { exact: true }).fill(password);
    await page.getByLabel("The same again").fill(password);
    await page.getByRole("button", { name: "Join" }).click();
    await page.waitForLoadState();
    return page;
  };
  try {
    const ada = await joinBy(cli("people", "invite", "Ada", "--role", "owner", "--address", address));
    await expect(ada.locator(".signed")).toContainText("Ada · owner");
    // She invites others; a link is shown once.
    const invite = async (name, role) => {
      await ada.goto(`${address}/people`);
      await ada.getByLabel("Name", { exact: true }).fill(name);
      await ada.getByLabel("Role", { exact: true }).selectOption(role);
      await ada.getByRole("button", { name: "Make a link" }).click();
      return ada.locator("#link").inputValue();
    };
    const ben = await joinBy(await invite("Ben", "reader"));
    await expect(ben.locator(".signed")).toContainText("Ben · reader");
    // A reader reads; nothing that changes something is offered.
    await ben.goto(`${address}/niches/1/watch`);
    await expect(ben.locator("h1")).toHaveText("Did it work?");
    await expect(ben.getByRole("button", { name: "Watch them" })).toBeHidden();
    expect((await ben.request.get(`${address}/people`)).status()).toBe(403);
    // Both look at one page: each is told.
    await ada.goto(`${address}/niches/1/watch`);
    await expect(ada.locator("#others")).toContainText("Ben is here, too.", { timeout: 30_000 });
    await ada.getByLabel("Phrases, one a line").fill("moon map");
    await ada.getByRole("button", { name: "Watch them" }).click();
    // A writer sees briefs.
    const cyd = await joinBy(await invite("Cyd", "writer"));
    await expect(cyd.locator("h1")).toHaveText("Briefs");
    expect((await cyd.request.get(`${address}/niches/1/watch`)).status()).toBe(403);
    // The record tells who did what.
    await ada.goto(`${address}/audit`);
    await expect(ada.locator("tbody")).toContainText("watch, add");
    await expect(ada.locator("tbody")).toContainText("Cyd");
    // What is new here can be used by everybody.
    for (const path of ["people", "audit", "you"]) {
      await ada.goto(`${address}/${path}`);
      expect((await new AxeBuilder({ page: ada }).setLegacyMode().analyze()).violations).toEqual([]);
    }
    // Signing in again; somebody who is removed is out at once.
    await ben.getByRole("button", { name: "Sign out" }).click();
    await expect(ben.locator(".picker")).toHaveCount(0);
    expect((await new AxeBuilder({ page: ben }).setLegacyMode().analyze()).violations).toEqual([]);
    await ben.getByLabel("Name").fill("ben");
    await ben.getByLabel("Password").fill("wrong words in a row");
    await ben.getByRole("button", { name: "Sign in", exact: true }).click();
    await expect(ben.getByRole("alert").first()).toHaveText("The name or the password is wrong.");
    await ben.getByLabel("Password").fill(password);
    await ben.getByRole("button", { name: "Sign in", exact: true }).click();
    await expect(ben.locator(".signed")).toContainText("Ben");
    await ada.goto(`${address}/people`);
    await ada.locator("tr", { hasText: "Ben" }).getByRole("button", { name: "Remove" }).click();
    await ada.waitForLoadState();
    await ben.goto(`${address}/niches/1/watch`);
    await expect(ben.locator("h1")).toHaveText("Sign in");
  } finally {
    await stop(child);
  }
});

test("a passkey: made, used to sign in, removed", async ({ page, context }) => {
  const common = ["--data", dataFile(), "--config", "/dev/null"];
  const cli = (...words) => execFileSync("../bin/cleverniche", [...words, ...common], { encoding: "utf8" }).trim();
  const port = await freePort();
  const address = `http://localhost:${port}`;
  const link = cli("people", "invite", "Ada", "--role", "owner", "--address", address);
  const child = start("cleverniche", "serve", "--sign-in", "yes", "--listen", `127.0.0.1:${port}`, ...common);
  await expect.poll(() => child.output).toContain("Clever Niche is at http://");
  const device = await context.newCDPSession(page);
  await device.send("WebAuthn.enable");
  await device.send("WebAuthn.addVirtualAuthenticator", {
    options: {
      protocol: "ctap2",
      transport: "internal",
      hasResidentKey: true,
      hasUserVerification: true,
      isUserVerified: true,
      automaticPresenceSimulation: true,
    },
  });
  try {
    await page.goto(link);
    await page.getByLabel("Password", { exact: true }).fill(password);
    await page.getByLabel("The same again").fill(password);
    await page.getByRole("button", { name: "Join" }).click();
    await page.goto(`${address}/you`);
    await page.getByLabel("Name").fill("my laptop");
    await page.getByRole("button", { name: "Add a passkey" }).click();
    await expect(page.locator("main")).toContainText("my laptop");
    await expect(page.locator("main")).toContainText("never used");
    await page.getByRole("button", { name: "Sign out" }).click();
    await page.goto(`${address}/you`); // leads to the sign-in, and back
    await page.getByRole("button", { name: "Sign in with a passkey" }).click();
    await expect(page.locator("h1")).toHaveText("Ada");
    await expect(page.locator("main")).toContainText("used just now");
    await page.getByRole("button", { name: "Remove" }).click();
    await expect(page.locator("main")).not.toContainText("my laptop");
    await page.getByRole("button", { name: "Sign out" }).click();
    await page.getByRole("button", { name: "Sign in with a passkey" }).click();
    await expect(page.getByRole("alert")).toContainText("That passkey does not fit.");
  } finally {
    await stop(child);
  }
});
