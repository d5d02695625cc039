// Judging one idea, and several: the minute's work of the journeys.
import { test, expect, rows } from "./app.mjs";

// open opens the full details of an idea.
async function open(page, app, phrase) {
  await page.goto(`${app.address}/niches/1/judge?holds=${encodeURIComponent(phrase)}`);
  await page.locator("#rows .idea a", { hasText: new RegExp(`^${phrase}$`) }).press("Enter");
  await expect(page.locator("main.story h1")).toHaveText(phrase);
}

test("journey 1: the ten are read in place, and the next idea is a key away", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/judge?sort=difficulty`);
  const first = await rows(page).locator(".idea a").first().innerText();
  await rows(page).locator(".idea a").first().press("Enter");
  await expect(page.locator("main.story h1")).toHaveText(first);
  await expect(page.locator("#results")).toContainText(/\d+ of \d+ titles say the exact phrase|All \d+ titles/);
  await expect(page.locator(".ten .result mark").first()).toBeVisible();
  // Sorted by words, shortest or longest first, and back.
  await page.locator("#results thead").getByRole("link", { name: "Words" }).click();
  await expect(page.locator("#results th", { hasText: "Words" })).toHaveAttribute("aria-sort", "descending");
  const words = (await page.locator("#results tr.result td:nth-child(8)").allInnerTexts()).filter((t) => t !== "–");
  expect(words.map(Number)).toEqual(words.map(Number).sort((a, b) => b - a));
  await page.locator("#results thead").getByRole("link", { name: "No." }).click();
  await expect(page.locator("#results th", { hasText: "No." })).toHaveAttribute("aria-sort", "ascending");
  // A result opens, and its page is read without leaving.
  await page.locator("#place-2 .open").click();
  await page.getByText("Read it here").click();
  await expect(page.locator(".copied .reading")).not.toBeEmpty();
  expect(await page.locator(".copied").locator("script, img, a[href]").count()).toBe(0);
  await expect(page).toHaveURL(/open=2/);
  await page.reload();
  await expect(page.getByText("Fit, item by item")).toBeVisible();
  // Columns are chosen.
  await page.getByText("Columns", { exact: true }).click();
  await page.getByLabel("Title says").check();
  await page.getByRole("button", { name: "Show these" }).click();
  await expect(page.locator("#results thead")).toContainText("Title says");
  await page.getByText("Columns", { exact: true }).click();
  await page.getByRole("button", { name: "Reset" }).first().click();
  await expect(page.locator("#results thead")).not.toContainText("Title says");
  // Ages are checked once, for nothing.
  const ages = page.getByRole("button", { name: "Check their ages" });
  if (await ages.isVisible()) {
    await ages.click();
    await expect(page.locator("#results tbody")).toContainText(/\d+ (months?|years)/);
  }
  await page.locator("#along").waitFor();
  await page.keyboard.press("j");
  await expect(page.locator("main.story h1")).not.toHaveText(first);
  await page.locator("#along").waitFor();
  await page.keyboard.press("k");
  await expect(page.locator("main.story h1")).toHaveText(first);
});

test("journey 7: who holds the first place, and with what", async ({ page, app }) => {
  await open(page, app, "best telescope for beginners");
  await page.locator("#place-1 .open").click();
  await page.getByRole("link", { name: "Who links to it" }).click();
  await expect(page.locator(".verdict")).toContainText(
    /Solid links without a doubt, fewest first: no\. \d+|rank without a solid link/,
  );
  const solid = page.getByRole("navigation", { name: "Which linking sites" }).getByRole("link", { name: /^solid/ });
  const count = Number(await solid.locator("b").innerText());
  await solid.click();
  await expect(page.locator("#who tbody tr")).toHaveCount(Math.min(count, 200));
  await page.getByLabel("Put beside it").selectOption({ index: 0 });
  await page.getByRole("button", { name: "Compare" }).click();
  await expect(page.locator("#beside h3")).toHaveCount(3);
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Export CSV" }).click(),
  ]);
  expect(download.suggestedFilename()).toMatch(/sites-to-ask.*\.csv$/);
  // Over the weeks.
  await page.goto(page.url().replace(/\/links.*/, ""));
  const ask = page.getByRole("button", { name: "Ask for the past year" });
  if (await ask.isVisible()) await ask.click();
  await expect(page.locator("#weeks svg")).toBeVisible();
  await expect(page.locator("#weeks")).toContainText(/steady|new pages get in|not satisfied|two things/);
  const box = page.locator("#weeks ol input").first();
  await box.uncheck();
  await expect(page.locator('#weeks g[data-line="0"]')).toHaveClass(/off/);
  await box.check();
  await expect(page.locator('#weeks g[data-line="0"]')).not.toHaveClass(/off/);
});

test("what if: a slider moves picture and chances, and nothing is kept", async ({ page, app }) => {
  await open(page, app, "how to find saturn");
  const says = page.locator("#climb .outcome dd").first();
  const before = await says.innerText();
  await page.locator('[data-of="if-standing"]').focus();
  for (let i = 0; i < 30; i++) await page.keyboard.press("ArrowRight");
  await expect(page.locator("#climb .if")).toContainText("If so:");
  await expect(says).not.toHaveText(before);
  await page.locator("#if-tilt").focus();
  await page.keyboard.press("ArrowLeft");
  await expect(page.locator("output[for=if-tilt]")).toHaveText("more links and site");
  await page.reload();
  await expect(says).toHaveText(before);
});

test("questions become ideas, and wordings say whether longer is easier", async ({ page, app }) => {
  await open(page, app, "how to see saturn");
  const add = page.locator(".around").getByRole("button", { name: "Add to ideas" });
  const left = await add.count();
  if (left > 0) {
    await add.first().click();
    await expect(page.locator(".around").getByRole("button", { name: "Add to ideas" })).toHaveCount(left - 1);
  }
  await expect(page.locator("#page-one")).toContainText(/of 100 searches about \d+ click/i);
  await expect(page.locator("#wordings")).toContainText(/[Ll]onger/);
  await expect(page.locator("#wordings tbody tr").first()).toContainText("this one");
});

test("across ideas: who stands in the way, two side by side, and look-ups that stop early", async ({
  page,
  app,
}) => {
  await page.goto(`${app.address}/niches/1/judge`);
  await page.getByRole("link", { name: "Sites" }).click();
  await expect(page.locator("h1")).toHaveText("Who stands in the way");
  await page.locator("tbody th a").first().click();
  await expect(page.locator("main")).toContainText(/It holds\s+\d+\s+places?/);
  await page.locator("tbody th a").first().click();
  await expect(page.getByText("Fit, item by item")).toBeVisible();
  await page.goto(`${app.address}/niches/1/judge?holds=saturn`);
  for (const box of (await page.locator('#rows input[name="id"]').all()).slice(0, 2)) await box.check();
  await page.getByRole("button", { name: "Compare" }).click();
  await expect(page.locator("main.compare-page")).toContainText(/One article: they share|Two articles: they share/);
  await page.goto(`${app.address}/niches/1/sift?holds=mars&words=4`);
  await page.getByRole("button", { name: "Look up all left" }).click();
  await page.getByText("Stop early", { exact: true }).click();
  await page.locator('.until input[name="want"]').fill("1");
  await page.locator('.until input[name="bar"]').fill("100");
  await page.getByRole("button", { name: "Start and stop early" }).click();
  const job = page.locator(".job", { hasText: "Look up until 1 idea of difficulty 100 or less" });
  await expect(job).toContainText(/Done.*of difficulty 100 or less/s, { timeout: 60_000 });
});
