// The guide, walked by somebody who does what it says and nothing else; and README's commands, as they stand.
import { execFileSync } from "node:child_process";
import { cpSync, mkdirSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { test, expect, answers, dataFile, freePort, selected, standin, start, stop, taken } from "./app.mjs";

const root = new URL("../", import.meta.url).pathname;

test("three minutes by the guide alone: a kept topic, its reason, its brief", async ({ page, app }) => {
  await page.goto(app.address);
  await page.getByRole("link", { name: "Guide" }).first().click();
  await page.getByRole("link", { name: "Three minutes to a first topic" }).click();
  await expect(page.locator("h1")).toHaveText("Three minutes to a first topic");
  for (const picture of await page.locator("article img").all())
    await expect.poll(() => picture.evaluate((img) => img.naturalWidth)).toBeGreaterThan(100);

  await page.goto(app.address); // 1
  await page
    .locator("#trail")
    .getByRole("link", { name: /^Judge/ })
    .click();
  await page.locator("#sieve-body select").first().selectOption({ label: "Long tail" }); // 2
  await expect(page.locator("#left")).toContainText("left of");
  await expect(page.locator("#sieve-body")).toContainText("Words at least");
  const unmarked = page.locator("#rows tr[data-id]:not(:has(.kept))");
  await expect.poll(() => unmarked.count()).toBeGreaterThan(0);
  const open = (await unmarked.locator(".idea a").first().innerText()).trim();
  const here = async () => (await selected(page).innerText()).trim();
  for (let i = 0; i < 20 && (await here()) !== open; i++) await page.keyboard.press("j"); // 3
  expect(await here()).toBe(open);
  await expect(page.locator("#drawer .stairs")).toBeVisible();

  await page.keyboard.press("Enter"); // 4
  await expect(page.locator("main.story h1")).toHaveText(open);
  await expect(page.locator("main.story")).toContainText(
    /(needs a site standing of|has a 50% chance of) .*: \d+ %/,
  );
  await page.waitForLoadState(); // its keys with it
  await page.keyboard.press("Escape");
  await expect(page.locator("#rows")).toBeVisible();
  await expect.poll(here).toBe(open);
  await page.waitForLoadState();

  await page.keyboard.press("p"); // 5
  await expect(page.locator("#notice")).toContainText("Added “");
  const [, article] = (await page.locator("#notice").innerText()).match(/Added “(.*)” to the plan/);
  expect(article).toBe(open);
  await page.keyboard.press(" "); // 6
  await expect(page.locator("#notice")).toContainText("Kept");
  await expect(page.locator("#rows tr", { hasText: open }).locator(".kept")).toBeVisible();
  await page.locator("#trail").getByRole("link", { name: /^Plan/ }).click();
  const line = page.locator("#running-sheet tbody tr", { hasText: article });
  await line.getByRole("link", { name: "Brief" }).click();
  await expect(page.locator("main.brief")).toContainText("Why you can win");
});

test("every page of the guide opens, and each stage opens its own", async ({ page, app }) => {
  for (const stage of ["gather", "sift", "judge", "group", "plan"]) {
    await page.goto(`${app.address}/niches/1/${stage}`);
    await page.getByRole("link", { name: "Guide" }).first().click();
    await expect(page).toHaveURL(new RegExp(`/guide/${stage}$`));
    for (const link of await page.locator("main a").evaluateAll((all) => all.map((a) => a.href)))
      expect((await page.request.get(link)).status(), link).toBe(200);
  }
});

test("README's commands work as they stand", async () => {
  test.skip(process.platform !== "linux");
  const block = readFileSync(join(root, "README.md"), "utf8").match(/```sh\n(bin\/standin[\s\S]*?)```/)[1];
  const folder = mkdtempSync(join(tmpdir(), "cleverniche-readme-"));
  cpSync(join(root, "bin"), join(folder, "bin"), { recursive: true });
  mkdirSync(join(folder, "docs"));
  const port = await freePort(); // another one may be running: the port alone is another
  const settings = readFileSync(join(root, "docs/standin.yaml"), "utf8");
  writeFileSync(join(folder, "docs/standin.yaml"), settings.replaceAll(":8571", `:${port}`));
  const script = block.replace("bin/standin --background", `bin/standin --background --listen 127.0.0.1:${port}`);
  const out = execFileSync("sh", ["-e", "-c", script], { cwd: folder, encoding: "utf8", timeout: 250_000 });
  const pid = Number(out.match(/kill (\d+)/)[1]);
  try {
    expect(out).toContain("The simulated web is at");
    expect(out).toMatch(/Topic +Phrases +Searches +Difficulty/);
    expect(out).toContain("astronomy binoculars");
    expect(readFileSync(join(folder, "astronomy.zip")).length).toBeGreaterThan(1000);
  } finally {
    process.kill(pid);
  }
});

test("the first evening, with files only, ends with a kept topic and its brief", async ({ page }) => {
  const [world, port] = [await freePort(), await freePort()];
  const outside = await standin(world);
  const data = dataFile();
  const sample = (name) => join(root, "docs/samples", name);
  const [listen, reach] = [`127.0.0.1:${port}`, `.example=127.0.0.1:${world}`];
  const app = start(
    "cleverniche",
    "serve",
    ...["--listen", listen, "--data", data, "--config", "/dev/null", "--reach", reach],
  );
  const address = `http://${listen}`;
  await answers(`${address}/healthz`, app);
  await page.goto(address);
  await expect(page.locator("h1")).toHaveText("What do you have?"); // 1
  await page.getByLabel("A list of phrases").check();
  await page.getByLabel("A web graph").check();
  await page.getByRole("button", { name: "Next" }).click();
  await page.getByRole("link", { name: "Make a niche" }).click(); // 2
  await page.getByLabel("Name").fill("Backyard astronomy");
  await page.getByLabel("Own site").fill("nightporch.example");
  await page.getByRole("button", { name: "Create niche" }).click();
  await page.getByLabel("File").setInputFiles(sample("list.csv")); // 3
  expect(await taken(page)).toContain("5 lines can be used, 1 cannot");
  await page.getByRole("link", { name: "Go on setting up what you have" }).click(); // 4
  await page.getByLabel("File").setInputFiles(sample("ranks.txt"));
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await page.getByRole("button", { name: /^Import ranks of sites/ }).click();
  await page.locator(".job", { hasText: "Import ranks of sites" }).getByText("Done").waitFor();
  await page.goto(`${address}/start`);
  await expect(page.locator("main")).toContainText("That is all.");
  await page.goto(`${address}/niches/1/gather`);
  await page.locator("#file").setInputFiles(sample("results.txt"));
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await page.getByRole("button", { name: "Import results for 3 phrases" }).click();
  await page.locator(".job", { hasText: "Import results" }).getByText("Done").waitFor();
  await page.goto(`${address}/niches/1/sift?holds=how+to+find+saturn`);
  await page.keyboard.press("l");
  await expect(page.locator("#drawer")).toContainText("The stairs to page one", { timeout: 30_000 });
  await page.keyboard.press("Enter");
  await page.locator("#place-1 .open").click();
  await expect(page.locator("main.story")).toContainText("its links are not known");
  await expect(page.locator(".verdict")).toContainText(/your site has 4: \d+ %/);
  await page.getByRole("button", { name: "Keep" }).click();
  await expect(page.getByRole("button", { name: "Keep" })).toHaveAttribute("aria-pressed", "true");
  await page.waitForLoadState(); // the page was loaded anew, and its keys with it
  await page.keyboard.press("p");
  await expect(page.locator("#notice")).toContainText("plan");
  await page.goto(`${address}/niches/1/plan`);
  await page.getByRole("link", { name: "Brief" }).first().click();
  await expect(page.locator("main.brief h1")).toHaveText("How to Find Saturn");
  await expect(page.locator("main.brief")).toContainText("Your chance to outrank it");
  for (const child of [app, outside]) await stop(child);
});
