// Where scripts are off, everything that is a form works, and nothing is shown that does not.
import { test, expect } from "./app.mjs";

test.use({ actionTimeout: 30_000, javaScriptEnabled: false }); // machines are shared, and at times slow

// Controls that are seen, and that nothing would happen by.
const dead = (page) =>
  page.locator(
    "button[type=button]:visible, [data-do]:visible, form:not([action]) button:visible, " +
      "[hx-post]:not(form, textarea[name=seeds]):visible",
  );

test("without scripts forms are sent, and what needs scripts is not shown", async ({ page, at }) => {
  for (const path of [
    ...["gather", "sift", "judge", "group", "group?view=tree", "plan", "plan/calendar", "plan/choice"],
    ...["plan/actions", "engine", "sieves", "settings"],
  ]) {
    expect((await page.goto(at(path))).status(), path).toBe(200);
    await expect(page.locator("noscript .said, .said").first()).toContainText("Scripts are off");
    expect(await dead(page).evaluateAll((all) => all.map((e) => e.outerHTML.slice(0, 120))), path).toEqual([]);
  }

  await page.goto(at("gather"));
  await page.getByLabel(/^Seeds/).fill("moon globe");
  await page.getByRole("button", { name: "Gather" }).click();
  await expect(page.locator(".job").first()).toContainText("moon globe");
  await page.goto(at("gather"));
  await page.locator("textarea[name=list]").fill("phrase,searches\nmoon globe qx7,480\n");
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await expect(page.locator("main")).toContainText("1 line can be used");
  await page.getByRole("button", { name: "Import 1 line" }).click();
  await expect(async () => {
    await page.goto(at("gather"));
    await expect(page.locator(".job").first()).toContainText("Done", { timeout: 500 });
  }).toPass();

  await page.goto(at("sift?words=2&holds=moon"));
  await expect(page.locator("#rows .idea").nth(1)).toBeVisible();
  await page.locator("#sift input[name=holds]").fill("qx7");
  await page.getByRole("button", { name: "Sift" }).click();
  await expect(page.locator("#rows .idea")).toHaveCount(1);
  await page.getByLabel("Why is a phrase missing?").fill("binoculars");
  await page.locator(".whynot button").click();
  await expect(page.locator("main")).toContainText("not among your ideas");

  await page.goto(at("plan/choice"));
  await page.getByLabel("The topics that earn most").fill("9");
  await page.getByRole("button", { name: "Propose" }).click();
  await expect(page.getByLabel("The topics that earn most")).toHaveValue("9");

  await page.goto(at("plan"));
  const line = page.locator("[data-article]", { hasText: "to write" }).first();
  const name = await line.locator("th a").first().innerText();
  await line.locator("summary").click();
  await line.getByLabel("Published at").fill("https://nightporch.example/new");
  await line.getByRole("button", { name: "Mark as published" }).click();
  await expect(page.locator("[data-article].out", { hasText: name })).toBeVisible();
  await page.locator("[data-article] a", { hasText: "brief" }).first().click();
  await expect(page.locator("h1")).toBeVisible();

  await page.goto(at("settings"));
  await page.getByLabel(/^Name/).first().fill("Sky at night");
  await page.locator("form.sheet button.btn-mine").first().click();
  await expect(page.locator("header")).toContainText("Sky at night");
});
