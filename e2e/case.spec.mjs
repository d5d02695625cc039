// Journey 3: is this subject worth a year?
import { test, expect } from "./app.mjs";

test("journey 3: not yet, drawn at random, three subjects on the same bars, a verdict", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/3/judge`);
  await page.getByRole("link", { name: "The case" }).click();
  await expect(page.locator("h1")).toContainText("Letterpress");
  await expect(page.locator(".decision")).toContainText("Not yet");
  // Forty drawn topics, at a price that is said before; then the answers are ranges.
  await expect(page.locator("#sure")).toContainText(/\$\d/);
  await page.getByRole("button", { name: /Look up \d+ topics/ }).click();
  await page.locator(".job").getByText("Done").waitFor();
  await page.goto(`${app.address}/niches/3/case`);
  await expect(page.locator("#sure")).toContainText("drawn at random");
  await expect(page.locator("#earnings tbody tr")).toHaveCount(3);
  await expect(page.locator(".decision")).toContainText("The chance that they never are");
  // The others beside it; a bar is moved, and all answer anew, with what was opened left open.
  await page.getByLabel("Backyard astronomy").check();
  await expect(page.locator(".questions thead th")).toHaveCount(3);
  await page.getByLabel("Home cheesemaking").check();
  await expect(page.locator(".questions thead th")).toHaveCount(4);
  const enough = page.locator(".questions tbody tr", { hasText: "Is there enough to write?" });
  await expect(enough.locator("td.answer").first()).toContainText("No");
  const get = page.locator(".questions tbody tr").first().locator("td.answer").first();
  await get.locator("summary").click();
  const bars = page.getByRole("group", { name: "Is there enough to write?" });
  await bars.getByLabel("yes from").fill("3");
  await bars.getByLabel("partly from").pressSequentially("1", { delay: 200 });
  await bars.getByLabel("partly from").fill("1");
  await page.keyboard.press("Tab");
  await expect(enough.locator("td.answer").first()).toContainText("Yes");
  await expect(bars.getByLabel("yes from")).toHaveValue("3");
  await expect(get.locator(".tops a").first()).toBeVisible();
  await bars.getByLabel("partly from").fill("7");
  await page.keyboard.press("Tab");
  await expect(page.locator("#answers .wrong")).toContainText("wrong way round");
  await expect(bars.getByLabel("partly from")).toHaveValue("7");
  await page.goto(`${app.address}/niches/3/case`);
  // Small sites: how old, how many pages.
  await page.getByRole("button", { name: /Ask how old/ }).click();
  await page.locator(".job").getByText("Done").waitFor();
  await page.goto(`${app.address}/niches/3/case`);
  await expect(page.locator("#small circle").first()).toBeVisible();
  // A verdict in one's own words, kept with its figures; a page for a partner.
  await page.locator("#verdict").getByLabel("No", { exact: true }).check();
  await page.getByLabel("In your own words").fill("Too few searches.");
  await page.getByRole("button", { name: "Sign" }).click();
  await expect(page.locator(".signed")).toContainText("Too few searches.");
  await expect(page.locator(".signed")).toContainText(/topics\s+looked up/);
  const loading = page.waitForEvent("download");
  await page.locator("#verdict").getByRole("link", { name: "docx" }).click();
  expect((await loading).suggestedFilename()).toMatch(/^case-.*\.docx$/);
});

test("journey 3: a seed alone; what is off the subject is put right and undone", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/3/case`);
  await page.getByRole("link", { name: "Another subject" }).click();
  await page.getByLabel("Subject", { exact: true }).fill("press");
  await page.getByRole("button", { name: /Gather and draw \(at most \$/ }).click();
  await expect(page.locator("h1")).toContainText("Press");
  await expect(page.locator(".questions thead th")).toHaveCount(3); // Letterpress stands beside it
  const here = new URL(page.url()).pathname;
  await expect
    .poll(async () => (await page.goto(app.address + here)) && page.locator("#sure").innerText(), {
      timeout: 60_000,
    })
    .toMatch(/[2-9]\d of them drawn at random/);
  await page.locator("#many").fill("200");
  await page.getByRole("button", { name: /Look up \d+ topics/ }).click();
  await expect
    .poll(async () => (await page.goto(app.address + here)) && page.locator("#strays details").count(), {
      timeout: 60_000,
    })
    .toBeGreaterThan(0);
  // Cheese presses and printing presses share the word; one of them is off the subject, and says why.
  const part = page.locator("#strays details").first();
  await expect(part.locator("summary")).toContainText("ideas");
  await expect(part.locator("li").first()).toContainText(/top ten|By its words/);
  const phrase = await part.locator("li a").first().innerText();
  await part.locator("li").first().getByRole("button", { name: "On the subject" }).click();
  await expect(page.locator("#strays")).toContainText("You marked 1 idea as on the");
  await page.goto(`${app.address}${here.replace("case", "sift")}?subject=off`);
  await expect(page.locator("#rows")).toContainText("press");
  await expect(page.locator("#rows").getByText(phrase, { exact: true })).toHaveCount(0);
  await page.keyboard.press("u");
  await expect(page.locator("#notice")).toContainText("Marking the subject of");
  await page.goto(`${app.address}${here.replace("case", "sift")}?subject=off`);
  await expect(page.locator("#rows").getByText(phrase, { exact: true })).toHaveCount(1);
  // Who pays is fetched once the page is there.
  await page.goto(app.address + here);
  await expect(page.locator("#money")).toContainText("looked-up ideas");
});
