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
