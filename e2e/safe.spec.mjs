// What one has is safe: from two tabs, from a slip of the hand.
import { test, expect, rows, selected, taken } from "./app.mjs";

const says = (page) => expect(page.locator("#notice"));

test("two tabs: what one did not touch stays, what both changed is shown before it is replaced", async ({
  page,
  context,
  at,
}) => {
  const other = await context.newPage();
  await page.goto(at("settings"));
  await other.goto(at("settings"));
  await other.getByLabel("Hours per week").fill("11");
  await other.getByLabel("Solid links you plan").fill("2");
  await other.getByRole("button", { name: "Save", exact: true }).click();
  await expect(other.locator(".said")).toContainText("Saved");
  await page.getByLabel("Solid links you plan").fill("5");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.locator("#wrong")).toContainText("changed since, perhaps in another tab");
  await expect(page.locator(".theirs")).toHaveText("Saved in another tab: 2");
  await expect(page.getByLabel("Solid links you plan")).toHaveValue("5");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.locator(".said")).toContainText("Saved");
  await expect(page.getByLabel("Hours per week")).toHaveValue("11");
  await expect(page.getByLabel("Solid links you plan")).toHaveValue("5");
});

test("two tabs: a note on the sheet and a part of a brief", async ({ page, context, at }) => {
  const other = await context.newPage();
  for (const tab of [page, other]) {
    await tab.goto(at("plan"));
    await tab.locator("#running-sheet summary").first().click();
  }
  const note = (tab) => tab.locator("#running-sheet textarea").first();
  await note(other).fill("theirs");
  await note(other).press("Tab");
  await expect(other.locator(".sheet-note").first()).toHaveText("theirs");
  await note(page).fill("mine");
  await note(page).press("Tab");
  await says(page).toContainText("changed since, perhaps in another tab, to “theirs”");
  await expect(note(page)).toHaveValue("mine");
  await note(page).fill("mine, all the same");
  await note(page).press("Tab");
  await expect(page.locator(".sheet-note").first()).toHaveText("mine, all the same");
  const brief = await page.locator("#running-sheet a", { hasText: "brief" }).first().getAttribute("href");
  const edit = async (tab, text) => {
    await tab.locator("#section-questions .edit").click();
    await tab.locator("#text-questions").fill(text);
  };
  for (const tab of [page, other]) await tab.goto(new URL(brief, at("plan")).href);
  await edit(other, "Is it theirs?");
  await other.locator("#section-questions").getByRole("button", { name: "Save" }).click();
  await expect(other.locator("#section-questions li")).toHaveText("Is it theirs?");
  await edit(page, "Is it mine?");
  await page.locator("#section-questions").getByRole("button", { name: "Save" }).click();
  await expect(page.locator("#section-questions .wrong")).toContainText("That version: “Is it theirs?”");
  await expect(page.locator("#text-questions")).toHaveValue("Is it mine?");
  await page.locator("#section-questions").getByRole("button", { name: "Save" }).click();
  await expect(page.locator("#section-questions li")).toHaveText("Is it mine?");
});

test("ideas are deleted, an import is undone, a niche is archived, deleted and brought back", async ({
  page,
  at,
}) => {
  await page.goto(at("plan"));
  const planned = await page.locator("#running-sheet tbody th > a").first().getAttribute("href");
  await page.goto(at(`sift?idea=${planned.match(/\d+$/)[0]}`));
  await page.keyboard.press("c");
  await page.getByRole("button", { name: "Delete", exact: true }).click();
  await says(page).toContainText("belong to articles in your plan");
  await page.goto(at("sift?holds=star+tracker"));
  const phrase = await selected(page).innerText();
  const left = async () => Number((await page.locator("#left b").innerText()).replace(/\D/g, ""));
  const all = await left();
  await page.keyboard.press("c");
  await page.getByRole("button", { name: "Delete", exact: true }).click();
  await says(page).toContainText("Deleted 1 idea");
  await expect.poll(left).toBe(all - 1);
  await page.keyboard.press("u");
  await says(page).toContainText(`Deleting “${phrase}” was undone`);
  await expect.poll(left).toBe(all);
  await page.goto(at("gather"));
  await page.getByLabel(/Paste phrases/).fill("a phrase of mine, 10\nanother one of mine");
  expect(await taken(page)).toContain("2 lines can be used");
  await page.reload();
  await expect(page.locator(".imports li").first()).toContainText("2 new ideas");
  await page
    .getByRole("button", { name: /^Undo: pasted on/ })
    .first()
    .click();
  await expect(page.locator(".said")).toContainText("2 ideas are as they were before");
  await page.goto(at("sift?holds=of+mine"));
  await expect(rows(page)).toHaveCount(0);
  await page.goto(at("settings"));
  await page.getByRole("button", { name: "Archive" }).click();
  await expect(page.locator(".said")).toContainText("is archived");
  await page.getByRole("button", { name: "Use Backyard astronomy again" }).click();
  await page.goto(at("settings"));
  await page.getByRole("button", { name: "Delete niche" }).click();
  await expect(page.locator("#wrong")).toContainText("“Backyard astronomy”");
  await page.getByLabel("Type the niche").fill("backyard astronomy");
  await page.getByRole("button", { name: "Delete niche" }).click();
  await expect(page.locator(".said")).toContainText("is deleted");
  await page.goto(at("sift"));
  await expect(page.locator("main")).toContainText("Page not found");
  await page.goto(new URL("/niches", at("sift")).href);
  await page.getByRole("button", { name: "Restore Backyard astronomy" }).click();
  await expect(page.locator(".said")).toContainText("is restored");
  await page.goto(at("sift?holds=star+tracker"));
  await expect.poll(left).toBe(all);
});
