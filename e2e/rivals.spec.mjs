// Journey 6: learning from rivals.
import { test, expect } from "./app.mjs";

const site = "astronotes.example";

test("journey 6: from who stands there to their phrases in my plan", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/judge`);
  await page.getByRole("link", { name: "Rivals" }).click();
  await expect(page.locator("h1")).toHaveText("Rivals");
  // Whose pages do I go after? Each says why it is weak, and whether I have it.
  await expect(page.locator("#within tbody tr").first()).toContainText(
    /few links|small site|not in title|community/,
  );
  await page.getByRole("link", { name: "Only what is not planned" }).click();
  for (const cell of await page.locator("#within td.you").allInnerTexts()) expect(cell).toBe("not planned");
  // Who shares my places, and are they of my size?
  await page.getByRole("button", { name: /Ask who shares your places/ }).click();
  await expect(page.locator("#who")).toContainText(/Asked[\s\S]*rankings service/);
  // A site that is none is told where it was typed.
  await page.getByLabel("Follow a site").fill("no site");
  await page.locator("#who .follow button").click();
  await expect(page.locator("#wrong")).toContainText("is no site");
  await page.getByLabel("Follow a site").fill(`https://www.${site}/any/page`);
  await page.locator("#who .follow button").click();
  await page.getByRole("button", { name: `Unfollow ${site}` }).waitFor();
  await page.locator("#who tbody").getByRole("link", { name: site }).click();
  await expect(page.locator("h1")).toHaveText(site);
  // What it ranks for, at a price that is said before.
  await expect(page.locator(".ask-ranks")).toContainText("a thousand are one");
  const most = page.locator('.ask-ranks input[name="most"]');
  await most.fill("350000");
  await expect(page.locator("#cost")).toContainText(/\$0\.70|under \$1/);
  await expect(page.locator("#cost")).toContainText("350,000");
  await most.fill("2000");
  await page.locator(".ask-ranks").getByRole("button", { name: "Ask", exact: true }).click();
  await page
    .locator(".job", { hasText: `Ask what ${site} ranks for` })
    .getByText("Done")
    .waitFor();
  await page.reload();
  await expect(page.locator("#ranks")).toContainText(/It knows [\d,]+\s+phrases/);
  // One section only, fifty searches at least, what I have nothing on.
  await page.locator(".block-names").getByRole("link", { name: "/blog" }).click();
  await page.getByLabel("searches from").first().fill("50");
  await page.getByLabel("no ideas yet").check();
  await page.getByRole("button", { name: "Filter" }).click();
  const rows = page.locator("#ranks tbody tr");
  await expect(rows.first()).toContainText("/blog/");
  for (const n of await rows.locator("td:nth-child(4)").allInnerTexts())
    expect(Number(n.replace(",", ""))).toBeGreaterThanOrEqual(50);
  const phrase = await rows.first().locator("bdi").innerText();
  // The keys of the list: down to the first, tick it; C ticks all, and none again.
  await page.keyboard.press("j");
  await page.keyboard.press("C");
  await expect(rows.locator("input:not(:checked)")).toHaveCount(0);
  await page.keyboard.press("C");
  await page.keyboard.press("c");
  await expect(rows.locator("input:checked")).toHaveCount(1);
  await page.getByRole("button", { name: "Add the ticked as ideas" }).click();
  await page.goto(`${app.address}/niches/1/sift?holds=${encodeURIComponent(phrase)}`);
  await expect(page.locator("#rows")).toContainText(phrase);
  // Subjects of what begins with "best", each a seed.
  await page.goto(`${app.address}/niches/1/sites/${site}?starts=best`);
  await rows.locator('input[name="subject"]').first().check();
  await page.getByRole("button", { name: "Gather from the ticked subjects" }).click();
  await expect(page.getByLabel("Seeds, one per line")).not.toHaveValue("");
  // Combined with what I have.
  await page.goto(`${app.address}/niches/1/sites/${site}?new=yes`);
  await rows.locator('input[name="phrase"]').first().check();
  await page.getByRole("button", { name: "Combine the ticked with your seeds" }).click();
  await expect(page.getByLabel("List 1")).not.toHaveValue("");
  await expect(page.getByLabel("List 2")).not.toHaveValue("");
});

test("pages, months and what was touched lately; openings against my own places", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sites/${site}`);
  const details = page.getByRole("button", { name: /Ask for its pages, months/ });
  if (await details.isVisible()) await details.click();
  await expect(page.locator("#details")).toContainText(/\d visits/);
  await expect(page.locator("#details svg.months")).toBeVisible();
  await page.locator("#recent").getByRole("button").click();
  await expect(page.locator("#recent")).toContainText(/in its sitemap/);
  await page.locator("#recent").getByRole("button").click();
  await expect(page.locator("#recent")).toContainText(/0 new, 0 gone/);
  const follow = page.getByRole("button", { name: "Follow", exact: true });
  if (await follow.isVisible()) await follow.click();
  if (await page.getByText("Ask what it ranks for").isVisible()) {
    await page.locator(".ask-ranks").getByRole("button", { name: "Ask", exact: true }).click();
    await page.locator(".job", { hasText: "ranks for" }).getByText("Done").waitFor();
  }
  await page.goto(`${app.address}/niches/1/rivals/openings`);
  await expect(page.locator(".verdict")).toContainText("They rank for");
  const mine = page.getByRole("button", { name: /Ask what your site ranks for/ });
  if (await mine.isVisible()) await mine.click();
  await expect(async () => {
    await page.reload();
    await expect(page.locator(".verdict")).toContainText(/You both rank for [\d,]+/, { timeout: 1000 });
  }).toPass();
  await page.locator('#ranks input[name="phrase"]').first().check();
  const before = await page.locator("#ranks tbody th a").count();
  await page.getByRole("button", { name: "Add the ticked as ideas" }).click();
  await expect(page.locator("#ranks tbody th a")).toHaveCount(before + 1);
  await page.goto(`${app.address}/niches/1/rivals/links?of=1`);
  await expect(page.locator("main")).toContainText(/Counted over \d+/);
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Export CSV" }).click(),
  ]);
  expect(download.suggestedFilename()).toMatch(/links-of-rivals.*\.csv$/);
});

test("a table about a site stands where a service's answer would, and can be undone", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sites/orrery.example`);
  await page.locator(".from-file summary").click();
  await page.locator('.from-file input[type="file"]').setInputFiles({
    name: "months.csv",
    mimeType: "text/csv",
    buffer: Buffer.from("Month;Traffic\nSep 2026;1.200\nOct 2026;2.400\nsoon;1\n"),
  });
  await page.getByRole("button", { name: "Look at it" }).click();
  await expect(page.locator("main")).toContainText(/its visits by month[\s\S]*orrery.example/);
  await expect(page.locator("main")).toContainText("1 cannot");
  await page.getByRole("button", { name: /Import figures from 2\s+rows/ }).click();
  await page.locator(".job", { hasText: "months.csv" }).getByText("Done").waitFor();
  await page.goto(`${app.address}/niches/1/sites/orrery.example`);
  await expect(page.locator("#details")).toContainText("your file “months.csv”");
  await expect(page.locator("#details svg")).toHaveAttribute("aria-label", /2026-09[\s\S]*2026-10/);
  await page.goto(`${app.address}/niches/1/gather`);
  await page.getByRole("button", { name: "Undo: months.csv" }).click();
  await page.goto(`${app.address}/niches/1/sites/orrery.example`);
  await expect(page.locator("#details svg")).toHaveCount(0);
});

test("what a result ranks for, and results elsewhere", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/judge?holds=how%20to%20find%20saturn`);
  await page.locator("#rows .idea a", { hasText: /^how to find saturn$/ }).press("Enter");
  await page.locator("#place-2 .open").click();
  await page.getByRole("link", { name: "What it ranks for" }).click();
  await page.getByRole("button", { name: /Ask what it ranks/ }).click();
  await expect(page.locator(".verdict")).toContainText(/It ranks for \d+ phrases?/);
  await page.locator(".added-words a").first().click();
  await expect(page.getByRole("link", { name: "Show all" })).toBeVisible();
  // Other engines and countries, named once in the settings.
  await page.goto(`${app.address}/niches/1/settings`);
  await page.getByLabel("Other engines").fill("harbor, plover");
  await page.getByLabel("Other countries").fill("United Kingdom");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.locator(".said")).toContainText("Saved");
  await page.goto(`${app.address}/niches/1/judge?holds=how%20to%20find%20saturn`);
  await page.locator("#rows .idea a", { hasText: /^how to find saturn$/ }).press("Enter");
  await page.locator("#elsewhere form button").first().click();
  await expect(page.locator("#elsewhere tbody tr").first()).toContainText(/just now|ago/);
  await page.getByRole("button", { name: /Look up all 2/ }).click();
  await expect(async () => {
    await page.reload();
    await expect(page.locator("#elsewhere")).toContainText(/Most alike is/, { timeout: 1000 });
  }).toPass();
  await page.locator("#elsewhere details summary").first().click();
  await expect(page.locator("#elsewhere details[open] li").first()).toBeVisible();
});
