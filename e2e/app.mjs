// Starts the programs under test, each on its own data file and ports.
import { spawn } from "node:child_process";
import { copyFileSync, mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createServer } from "node:net";
import { test as base, expect } from "@playwright/test";

const bin = process.env.CLEVERNICHE_BIN ?? new URL("../bin/", import.meta.url).pathname;

export const freePort = () =>
  new Promise((done) => {
    const s = createServer().listen(0, "127.0.0.1", () => {
      const { port } = s.address();
      s.close(() => done(port));
    });
  });

export const dataFile = () => join(mkdtempSync(join(tmpdir(), "cleverniche-")), "data.db");

// Every program still running is ended with the tests.
const running = new Set();
process.on("exit", () => running.forEach((p) => p.kill("SIGKILL")));

export function start(name, ...args) {
  const child = spawn(join(bin, name), args, { stdio: ["ignore", "pipe", "pipe"] });
  running.add(child);
  child.output = "";
  for (const stream of [child.stdout, child.stderr])
    stream.on("data", (d) => {
      child.output += d;
    });
  child.ended = new Promise((done) =>
    child.on("exit", (code) => {
      running.delete(child);
      done(code);
    }),
  );
  return child;
}

export async function stop(child, signal = "SIGINT") {
  child.kill(signal);
  let timer;
  const late = new Promise((done) => {
    timer = setTimeout(done, 30_000, "late");
  });
  const ended = await Promise.race([child.ended, late]);
  clearTimeout(timer);
  if (ended !== "late") return ended;
  child.kill("SIGQUIT"); // it says what each of its goroutines does
  await child.ended;
  throw new Error(`did not end within 30 s: ${child.output}`);
}

export async function answers(url, child) {
  for (let i = 0; i < 1200; i++) {
    if (child?.exitCode !== null && child?.exitCode !== undefined)
      throw new Error(`ended at once: ${child.output}`);
    const ok = await fetch(url).then(
      (r) => r.ok,
      () => false,
    );
    if (ok) return;
    await new Promise((r) => setTimeout(r, 50));
  }
  throw new Error(`${url} does not answer: ${child?.output}`);
}

export async function demo(...args) {
  const child = start(
    "cleverniche",
    "demo",
    "--listen",
    "127.0.0.1:0",
    "--data",
    dataFile(),
    "--config",
    "/dev/null",
    ...args,
  );
  for (let i = 0; i < 3600 && child.exitCode === null; i++) {
    const said = child.output.match(/Clever Niche is at (\S+)/);
    if (said) return { child, address: said[1] };
    await new Promise((r) => setTimeout(r, 50));
  }
  throw new Error(`the demo did not start: ${child.output}`);
}

// The stand-in and the application as two programs, so that one can be stopped.
export async function standin(port, ...args) {
  const child = start("standin", "--listen", `127.0.0.1:${port}`, ...args);
  await answers(`http://127.0.0.1:${port}/health`, child);
  return child;
}

export async function serve(port, world, data) {
  const base = `http://127.0.0.1:${world}`;
  const child = start(
    "cleverniche",
    "serve",
    "--listen",
    `127.0.0.1:${port}`,
    "--data",
    data,
    "--config",
    "/dev/null",
    "--suggestions",
    `${base}/suggest`,
    "--demand",
    `${base}/demand`,
    "--results",
    `${base}/search`,
    "--links",
    `${base}/links`,
    "--reach",
    `.example=127.0.0.1:${world}`,
    "--per-second",
    "1000",
    "--pages-per-host",
    "1000",
  );
  await answers(`http://127.0.0.1:${port}/healthz`, child);
  return child;
}

// A slow line, for those who look for what only holds when answers come at once: every answer but scripts and
// styles comes so many milliseconds late.
const slow = Number(process.env.SLOW ?? 0);
const late = async (route) => {
  if (!route.request().url().includes("/static/")) await new Promise((done) => setTimeout(done, slow));
  await route.continue().catch(() => {}); // the page may be gone
};

// The programs' clock may be ahead of the machine's (scripts/other-days); then the browser's is, too.
const ahead = 1000 * Number(process.env.CLOCK_AHEAD ?? 0);
const setAhead = (by) => {
  const Real = Date;
  globalThis.Date = class extends Real {
    constructor(...parts) {
      if (parts.length) super(...parts);
      else super(Real.now() + by);
    }
    static now() {
      return Real.now() + by;
    }
  };
};

// A test has a demo of its own: a copy of the one that was prepared before all tests (prepare.mjs), over the
// stand-in of its worker. Errors in the browser's console fail it.
export const test = base.extend({
  world: [
    async ({}, use) => {
      const port = await freePort();
      const child = await standin(port, "--latency", "15ms");
      await use(`http://127.0.0.1:${port}`);
      await stop(child);
    },
    { scope: "worker" },
  ],
  app: async ({ world }, use) => {
    const data = dataFile();
    copyFileSync(process.env.DEMO_DATA, data);
    const app = await demo("--standin", world, "--data", data);
    await use(app);
    await stop(app.child);
  },
  // The address of something in the demo's niche.
  at: async ({ app }, use) => {
    await use((path) => `${app.address}/niches/1/${path}`);
  },
  // It is closed before the application, or what it still asks for would be an error.
  page: async ({ page, app }, use) => {
    void app;
    const wrong = [];
    if (ahead) await page.context().addInitScript(setAhead, ahead);
    if (slow) await page.context().route("**/*", late);
    page.on("pageerror", (e) => wrong.push(e.message));
    page.on("console", (m) => {
      if (m.type() === "error" && !/status of (4|5)\d\d/.test(m.text())) wrong.push(m.text());
    });
    await use(page);
    expect(wrong, "errors in the console").toEqual([]);
  },
});
export { expect };

export const rows = (page) => page.locator("#rows > tr");
export const selected = (page) => page.locator("#rows > tr.selected .idea");
export const phrases = async (page) => rows(page).locator(".idea").allInnerTexts();

// addFilter adds a filter of a criterion, and puts a value in.
export async function addFilter(page, name, value) {
  const label = name[0].toUpperCase() + name.slice(1);
  const input = page.locator(".filter").getByLabel(label, { exact: true }).last();
  await page
    .locator("#sieve-body .add", { has: page.locator("option", { hasText: name }) })
    .selectOption({ label: name });
  await expect(input).toBeVisible();
  if (value === undefined) return;
  const answered = page.waitForResponse((r) => r.url().includes("/sift?") || r.url().includes("/judge?"));
  await input.fill(value);
  await answered;
}

// taken sends the import form, agrees to what the preview says, and waits until the list is in. It returns the preview.
export async function taken(page) {
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await page.locator("main.preview").waitFor();
  const said = await page.locator("main.preview").innerText();
  await page.getByRole("button", { name: /^Import [\d,]+ line/ }).click();
  await page.locator(".job", { hasText: "Import “" }).first().getByText("Done").waitFor();
  return said;
}
