// What happens when the outside stops, or the program is killed, in the middle.
import { existsSync } from "node:fs";
import { test, expect, start, stop, standin, serve, freePort, dataFile, demo } from "./app.mjs";

async function newNiche(page, port) {
  await page.goto(`http://127.0.0.1:${port}/`);
  await expect(page).toHaveURL(/niches\/new/);
  await page.getByLabel("Name").fill("Sky");
  await page.getByRole("button", { name: "Create niche" }).click();
  await page.getByLabel("Seeds, one per line").fill("telescope\nmoon filter\nstar tracker");
  await page.getByRole("button", { name: "Gather" }).click();
}

const progress = (page) => page.locator(".job progress").evaluate((p) => p.value);

test("the stand-in stops in the middle of a job", async ({ page }) => {
  const [world, port] = [await freePort(), await freePort()];
  let web = await standin(world, "--latency", "60ms");
  const app = await serve(port, world, dataFile());
  await newNiche(page, port);
  await expect.poll(() => progress(page)).toBeGreaterThan(8);
  await stop(web, "SIGKILL");
  const job = page.locator(".job").first();
  await expect(job).toContainText("cannot be reached", { timeout: 60_000 });
  await expect(job).toContainText("Fetched data is saved.");
  expect(await page.locator("#arrivals tbody tr").count()).toBeGreaterThan(0);
  web = await standin(world);
  await page.waitForTimeout(500);
  await expect(async () => {
    if (await page.getByRole("button", { name: "Resume" }).isVisible())
      await page.getByRole("button", { name: "Resume" }).click();
    await expect(job).toContainText("Done", { timeout: 15_000 });
  }).toPass({ timeout: 120_000 });
  await stop(app);
  await stop(web);
});

test("the program is killed in the middle of a job and started again", async ({ page }) => {
  const [world, port, data] = [await freePort(), await freePort(), dataFile()];
  const web = await standin(world, "--latency", "60ms");
  let app = await serve(port, world, data);
  await newNiche(page, port);
  await expect.poll(() => progress(page)).toBeGreaterThan(8);
  await stop(app, "SIGKILL");
  app = await serve(port, world, data);
  await page.goto(`http://127.0.0.1:${port}/niches/1/gather`);
  expect(await page.locator("#arrivals tbody tr").count()).toBeGreaterThan(0);
  await expect(page.locator(".job").first()).toContainText("Done", { timeout: 120_000 });
  await expect(page.locator(".job")).toHaveCount(1);
  await stop(app);
  await stop(web);
});

test("one interrupt ends the demo and its stand-in", async () => {
  const { child } = await demo();
  const web = child.output.match(/stand-in web is at (\S+)/)[1];
  expect(await stop(child)).toBe(0);
  expect(
    await fetch(`${web}/health`).then(
      () => "answers",
      () => "gone",
    ),
  ).toBe("gone");
});

test("a demo that was killed while it was prepared is prepared again", async ({ world }) => {
  const data = dataFile();
  const args = ["--listen", "127.0.0.1:0", "--data", data, "--config", "/dev/null", "--standin", world];
  const half = start("cleverniche", "demo", ...args);
  await expect.poll(() => existsSync(`${data}.unfinished`), { timeout: 90_000 }).toBe(true);
  await new Promise((r) => setTimeout(r, 300));
  expect(existsSync(`${data}.unfinished`)).toBe(true); // it was killed in the middle
  await stop(half, "SIGKILL");
  const { child, address } = await demo("--data", data, "--standin", world);
  const plan = await (await fetch(`${address}/niches/1/plan/plan.json`)).json();
  expect(plan.topics.length).toBeGreaterThan(5);
  expect(existsSync(`${data}.unfinished`)).toBe(false);
  await stop(child);
});

test("a taken address is told", async () => {
  const port = await freePort();
  const first = await serve(port, 1, dataFile());
  const second = start(
    "cleverniche",
    "serve",
    "--listen",
    `127.0.0.1:${port}`,
    "--data",
    dataFile(),
    "--config",
    "/dev/null",
  );
  expect(await second.ended).toBe(1);
  expect(second.output).toContain("address already in use");
  await stop(first);
});
