// Journey 7: gather, judge, plan, publish, wait, watch.
import { test, expect } from "./app.mjs";

test("journey 7: an article of the plan is published, weeks pass, and it is held against its forecast", async ({
  page,
  app,
}) => {
  await page.goto(`${app.address}/niches/1/plan`);
  await page.getByRole("link", { name: /^Watch/ }).click();
  await expect(page.locator("h1")).toContainText("Did it work?");
  // What is published already is watched; its forecast came after that, and does not count.
  await expect(page.locator(".strips li")).toHaveCount(3);
  await expect(page.locator(".strips .held").first()).toContainText("Not counted");
  // An article of the plan goes out into the simulated web.
  const first = page.locator("#rehearsal li").first();
  const phrase = await first.locator("bdi").innerText();
  await first.getByRole("button", { name: "Publish in the simulated web" }).click();
  await expect(page.locator(".strips li")).toHaveCount(4);
  const strip = page.locator(".strips li", { hasText: phrase });
  await expect(strip.locator(".area")).toHaveCount(1);
  await expect(strip.locator(".held")).toContainText("Too early to tell"); // before it has settled
  // Weeks pass; places are checked after each, and the page settles.
  await page.getByLabel("Weeks").fill("14");
  await page.getByRole("button", { name: "Move the clock" }).click();
  const placesOf = async () =>
    (await (await page.request.get(`${app.address}/niches/1/watch/places/csv`)).text())
      .split("\n")
      .filter((line) => line.startsWith(`${phrase},`))
      .map((line) => line.split(","));
  await expect.poll(async () => (await placesOf()).length, { timeout: 60_000 }).toBe(14);
  await page.goto(`${app.address}/niches/1/watch`);
  await expect(strip.locator(".held")).toContainText(/than forecast|As forecast/);
  await page.getByRole("link", { name: "Was the forecast right?" }).click();
  await expect(page.locator("#right")).toContainText("1 page has settled");
  await expect(page.locator("#right")).toContainText("Too few to tell");
  await expect(page.locator("#right")).toContainText("3 pages are not counted"); // forecast after they were published
  await expect(page.locator("#own")).toContainText("1 of 20 settled pages");
  await page.getByRole("link", { name: "Positions", exact: true }).click();
  // The figures are those of the page's own places.
  const rows = await placesOf();
  const last = rows.at(-1)[2] || "below 100";
  await expect(strip.locator(".who")).toContainText(last === "below 100" ? last : `no. ${last}`);
  // A note on the line; a place typed by hand; another phrase by hand.
  await strip.locator("a").click();
  await expect(page.locator("#places tbody tr")).toHaveCount(14);
  await page.locator("#says").fill("added a table");
  await page.getByRole("button", { name: "Add note" }).click();
  await expect(page.locator(".strip .mark")).toHaveCount(1);
  await page.goto(`${app.address}/niches/1/watch`);
  await page.getByLabel("Phrases, one a line").fill("observing chair");
  await page.getByRole("button", { name: "Watch them" }).click();
  await expect(page.locator(".strips")).toContainText("observing chair");
  await page.getByRole("button", { name: /Check 5 phrases now \(at most \$/ }).click();
  await page.locator(".job").getByText("Done").first().waitFor();
  await page.goto(`${app.address}/niches/1/watch`);
  await expect(page.locator(".strips li", { hasText: "observing chair" })).toContainText(/no\. \d|below 100/);
});

test("journey 8: other engines, another site, faults of my pages, this week on paper", async ({ page, app }) => {
  await page.goto(app.address); // opens at Watch: something is published
  await expect(page.locator("h1")).toHaveText("Did it work?");
  // Other engines are in the settings; here they are chosen.
  await page.getByRole("link", { name: "Settings", exact: true }).click();
  for (const more of await page.locator("details").all()) await more.evaluate((one) => (one.open = true));
  await page.locator("[name=other-engines]").fill("harbor, plover");
  await page.locator("[name=other-engines]").press("Enter");
  await expect(page.locator("main")).toContainText("Saved");
  await page.goto(`${app.address}/niches/1/watch`);
  await page.getByLabel("harbor").check();
  await page.getByLabel("plover").check();
  await page.getByRole("button", { name: "Set", exact: true }).click();
  const button = page.getByRole("button", { name: /^Check \d+ phrases? now/ });
  await button.click();
  await page.locator(".job").getByText("Done").first().waitFor();
  await page.goto(`${app.address}/niches/1/watch`);
  await expect(page.locator(".strips li").first()).toContainText(/harbor\s+(no\. \d+|below 100)[^]*plover/);
  // Another site of mine has phrases of its own.
  await page.getByLabel("Domain").fill("astronotes.example");
  await page.getByLabel("Name", { exact: true }).fill("Second");
  await page.getByRole("button", { name: "Add site" }).click();
  await expect(page.getByRole("link", { name: "Second" })).toHaveAttribute("aria-current", "true");
  await expect(page.locator("#strips")).toContainText("Nothing is watched yet");
  await page.getByLabel("Phrases, one a line").fill("dobsonian telescope");
  await page.getByRole("button", { name: "Watch them" }).click();
  await expect(page.locator(".strips li")).toHaveCount(1);
  await page.getByRole("link", { name: "nightporch.example" }).first().click();
  await expect(page.locator(".strips")).not.toContainText("dobsonian telescope");
  // My pages: the site is read, and a fault put away.
  await page.getByRole("link", { name: "Your pages", exact: true }).click();
  await page.getByLabel("Pages, at most").fill("0");
  await page.getByRole("button", { name: "Read the site" }).click();
  await expect(page.getByRole("alert")).toContainText("Read 1 to 500 pages.");
  await page.getByLabel("Pages, at most").fill("12");
  await page.getByRole("button", { name: "Read the site" }).click();
  await page.locator(".job").getByText("Done").first().waitFor();
  await page.goto(`${app.address}/niches/1/watch/mine`);
  await expect(page.locator("#read")).toContainText("The site was read");
  await expect(page.locator("#pages-list tbody tr").first()).toBeVisible();
  await expect(page.locator("#mine")).toContainText("not on https");
  await page.locator("#mine tr", { hasText: "not on https" }).getByRole("button", { name: "Ignore" }).click();
  await expect(page.locator("#mine")).not.toContainText("not on https");
  await expect(page.locator("#mine")).toContainText("done or ignored");
  // On paper.
  await page.goto(`${app.address}/niches/1/watch`);
  await page.getByRole("link", { name: "A page to print" }).click();
  await expect(page.locator("h1")).toContainText("This week");
  await expect(page.locator("table")).toContainText("Phrase");
});
