// From kept phrases to a year's plan (the first half of that journey).
import { readFileSync } from "node:fs";
import Ajv2020 from "ajv/dist/2020.js";
import ICAL from "ical.js";
import Papa from "papaparse";
import { test, expect, rows, selected } from "./app.mjs";

const topics = (page) => rows(page).locator(".idea a bdi").allInnerTexts();
const says = (page) => expect(page.locator("#notice"));

// The drawer shows what is selected, once it has followed a change.
async function followed(page) {
  const shown = async () =>
    (await page.locator("#drawer .drawer").getAttribute("data-id")) ===
    (await page.locator("#rows > tr.selected").getAttribute("data-id"));
  await page.waitForLoadState("networkidle");
  await expect.poll(shown).toBe(true);
}

// A topic that is not in the plan, selected in Group: its name. Which ones are goes by the season. The second one where
// two are asked for.
async function unplanned(page, at, which = 0) {
  await page.goto(at("group"));
  const free = rows(page).filter({ hasNot: page.locator(".on-sheet, .hand, .mine-mark") });
  const row = free.nth((await free.count()) - 1 - which);
  const [id, name] = [await row.getAttribute("data-id"), await row.locator(".idea a").innerText()];
  await page.goto(at(`group?idea=${id}`));
  await expect(selected(page)).toHaveText(name);
  await page.locator("#list").focus();
  return name;
}

// An article that is in the plan, scheduled, with hours, a deadline that is over and a note; and its name.
async function planned(page, at) {
  const name = await unplanned(page, at);
  await page.keyboard.press("p");
  await says(page).toContainText(`Added “${name}” to the plan`);
  await page.goto(at("plan"));
  const row = page.locator("#running-sheet tbody tr", { has: page.getByRole("link", { name, exact: true }) });
  await expect(page.locator(".week")).toContainText("1 article has no start date");
  await page.getByRole("button", { name: "Schedule them" }).click();
  await expect(row.locator("input[type=date]").first()).toHaveValue(/^20\d\d-/);
  const put = async (field, value) => {
    await field.fill(value);
    await field.press("Tab");
  };
  await put(row.getByLabel(/^Hours of/), "6");
  await row.locator("summary").click();
  await put(row.getByLabel("Your deadline"), "2026-01-31");
  await expect(row).toContainText("after your deadline");
  await put(row.getByLabel("Note"), "two lines,\nand a = sign");
  await expect(row.locator(".sheet-note")).toContainText("and a = sign");
  return [row, name];
}

test("topics are listed with what is joined, sifted and sorted like ideas", async ({ page, at }) => {
  await page.goto(at("group"));
  await expect(page.locator("#trail li.here b")).toHaveText("Group");
  await expect(page.locator("#grouped-says")).toContainText(/\d+ ideas in \d+ topics/);
  const all = await topics(page);
  expect(all.length).toBeGreaterThan(15);
  for (const name of ["Phrases", "Worth", "Difficulty", "Kind of article"]) {
    await page
      .locator("#list th")
      .getByRole("link", { name: new RegExp(`^${name}`) })
      .click();
    await expect(page.locator("#list th[aria-sort]")).toContainText(name);
  }
  await page.goto(at("group?holds=saturn"));
  const left = await topics(page);
  for (const name of left) expect(name).toContain("saturn");
  const href = await page.getByRole("link", { name: "Export CSV" }).getAttribute("href");
  const file = await page.request.get(new URL(href, page.url()).href).then((r) => r.text());
  expect(Papa.parse(file, { header: true, skipEmptyLines: true }).data.map((r) => r.topic)).toEqual(left);
});

test("the slider regroups at once, and another choice of ideas", async ({ page, at }) => {
  await page.goto(at("group"));
  const before = await page.locator("#left b").innerText();
  await page.locator("#shared").focus();
  await page.keyboard.press("End");
  await expect(page.locator("#grouped-says")).toContainText("by 8 shared results");
  await expect(page.locator("#left b")).not.toHaveText(before);
  await page.keyboard.press("Home");
  await page.keyboard.press("ArrowRight");
  await expect(page.locator("#grouped-says")).toContainText("by 3 shared results");
  await expect(page.locator("#left b")).toHaveText(before);
  await page.locator("#scope").selectOption("whole niche");
  await expect(page.locator("#grouped-says")).toContainText(/6\d\d ideas/);
  await expect(page.locator("#list")).toContainText("not looked up");
  await page.locator("#scope").selectOption("looked up");
  await expect(page.locator("#left b")).toHaveText(before);
});

test("the grid says why, cell by cell, by keys", async ({ page, at }) => {
  await page.goto(at("group?holds=saturn"));
  const row = page.locator(".grid tr.leads th[scope=row]").first();
  await row.focus();
  const says = page.locator(".grid-says");
  await page.keyboard.press("ArrowRight");
  await expect(says).toContainText(/: \S+\.\S+\/\S*(: no\. \d| does not rank for it)/);
  for (let i = 0; i < 30 && !/: no\. \d/.test(await says.innerText()); i++) await page.keyboard.press("ArrowRight");
  await expect(says).toContainText(/: \S+\.\S+\/\S*: no\. \d/); // the lead ranks beside some of them
  await page.keyboard.press("ArrowDown");
  await expect(page.locator(".grid td.c:focus")).toHaveCount(1);
  await page.keyboard.press("End");
  await expect(page.locator(".grid-says")).toContainText(/no\. \d|does not rank/);
});

test("by hand: split, move, lead, name, join, and all of it undone", async ({ page, at }) => {
  await page.goto(at("group?holds=saturn"));
  const begun = await topics(page);
  const boxes = page.locator('.by-hand input[name="id"]');
  await page.getByRole("button", { name: "Split off selected" }).click();
  await says(page).toContainText("Select ideas of the topic first");
  await boxes.nth(1).check();
  await page.getByRole("button", { name: "Split off selected" }).click();
  await says(page).toContainText("Split off 1 idea");
  await expect(rows(page)).toHaveCount(begun.length + 1);
  await expect(selected(page)).toContainText("edited");
  await followed(page);
  await page.locator('.by-hand input[name="name"]').fill("Saturn, “rings” 🪐");
  await page.locator('.by-hand input[name="name"]').press("Enter");
  await says(page).toContainText("Renamed");
  await expect(selected(page)).toContainText("Saturn, “rings” 🪐");
  await followed(page);
  await page.locator(".near button").first().click();
  await says(page).toContainText("Merged");
  await expect(rows(page)).toHaveCount(begun.length);
  await followed(page);
  const last = page.locator('.by-hand input[name="lead"]').last();
  await expect(last).not.toBeChecked(); // the drawer shows what was merged: alone, the phrase led itself
  await last.check();
  await says(page).toContainText("It is the lead phrase now");
  await page.locator("#list").focus();
  await followed(page);
  for (const says of ["lead", "Merging", "Naming", "Splitting"]) {
    await page.keyboard.press("u");
    await expect(page.locator("#notice")).toContainText(says);
  }
  await expect(rows(page)).toHaveCount(begun.length);
  await expect.poll(() => topics(page)).toEqual(begun);
});

test("hubs are a tree, and changed by hand", async ({ page, at }) => {
  await page.goto(at("group?view=tree"));
  await expect(page.locator(".hubs p.hub").first()).toContainText("Hub of");
  const spokes = await page.locator(".hubs ul li").count();
  await page.locator(".alone a").first().click();
  await page.locator("select.hub").selectOption({ index: 2 });
  await says(page).toContainText("Hub changed");
  await page.goto(at("group?view=tree"));
  await expect(page.locator(".hubs ul li")).toHaveCount(spokes + 1);
  await expect(page.locator(".hubs")).toContainText("edited");
  await page.keyboard.press("u");
  await expect(page.locator("#notice")).toContainText("hub was undone");
});

test("everything is not joined into one, and several topics are", async ({ page, at }) => {
  await page.goto(at("group"));
  const all = await page.locator("#left b").innerText();
  await page.keyboard.press("C");
  await page.getByRole("button", { name: "Merge", exact: true }).first().click();
  await says(page).toContainText("Two published articles cannot be merged");
  await page.getByRole("button", { name: "Clear selection", exact: true }).click();
  await page.goto(at("group?holds=saturn"));
  const before = await rows(page).count();
  await page.keyboard.press("C");
  await page.getByRole("button", { name: "Merge", exact: true }).first().click();
  await says(page).toContainText("Merged");
  await expect(rows(page)).toHaveCount(1);
  await page.keyboard.press("u");
  await expect(page.locator("#notice")).toContainText("Merging topics was undone");
  await expect(rows(page)).toHaveCount(before);
  await page.goto(at("group"));
  await expect(page.locator("#left b")).toHaveText(all);
});

test("one key puts aside, from a topic, an idea and its story", async ({ page, at }) => {
  const name = await unplanned(page, at);
  const written = page.locator("#trail li", { hasText: "Plan" }).locator("small");
  const before = parseInt(await written.innerText(), 10);
  await page.keyboard.press("p");
  await says(page).toContainText(`Added “${name}” to the plan`);
  await expect(written).toContainText(`${before + 1} to write`);
  await expect(selected(page)).toContainText("to write");
  await page.keyboard.press("p");
  await says(page).toContainText("in your plan already");
  const other = await unplanned(page, at);
  await selected(page)
    .locator("a")
    .dragTo(page.locator("#trail").getByRole("link", { name: /^Plan/ }));
  await says(page).toContainText(`Added “${other}” to the plan`);
  await page.keyboard.press("u");
  await expect(page.locator("#notice")).toContainText("Adding an article to the plan was undone");
  await page.goto(at("sift?holds=star+tracker&words=4"));
  await page.keyboard.press("p");
  await says(page).toContainText("to the plan");
  await page.locator("#rows .idea a").first().press("Enter");
  await expect(page.locator("main.story")).toBeVisible();
  await page.waitForLoadState();
  await page.keyboard.press("u");
  await expect(page.locator("#notice")).toContainText("Adding an article to the plan was undone");
});

test("the sheet: hours, days, deadline, note, order, published", async ({ page, at }) => {
  const [row, name] = await planned(page, at);
  const names = () => page.locator("#running-sheet tbody th > a").allInnerTexts();
  const begun = await names();
  expect(begun.length).toBeGreaterThan(5);
  await row.getByLabel(/^Hours of/).fill("10000");
  await row.getByLabel(/^Hours of/).press("Tab");
  await says(page).toContainText("1 to 400 hours");
  await expect(row.getByLabel(/^Hours of/)).toHaveValue("10000");
  await row.getByLabel(/^Hours of/).fill("6");
  await row.getByLabel(/^Hours of/).press("Tab");
  await row.getByLabel("Published at").fill("https://elsewhere.example/x");
  await row.getByRole("button", { name: "Mark as published" }).click();
  await says(page).toContainText("is not a page of nightporch.example");
  await expect(row.getByLabel("Published at")).toBeVisible(); // it stayed open through all of that
  await page.keyboard.press("Escape");
  await expect(row.getByLabel("Published at")).toBeHidden();
  await expect(row.locator("summary")).toBeFocused();
  const handle = row.locator(".handle");
  await handle.focus();
  await page.keyboard.press("ArrowUp");
  const place = begun.indexOf(name);
  const earlier = begun.with(place, begun[place - 1]).with(place - 1, begun[place]);
  await expect.poll(names).toEqual(earlier);
  const box = await row.locator(".handle").boundingBox();
  const first = await page.locator("#running-sheet .handle").first().boundingBox();
  await page.mouse.move(box.x + 5, box.y + 8);
  await page.mouse.down();
  await page.mouse.move(first.x + 5, first.y - 4, { steps: 8 });
  await page.mouse.up();
  await expect.poll(async () => (await names())[0]).toBe(name);
  await expect(row.getByLabel(/^State of/)).toHaveValue("to write");
});

test("two tabs plan at once, and neither loses what the other did", async ({ page, context, at }) => {
  await page.goto(at("plan"));
  const other = await context.newPage();
  await other.goto(at("plan"));
  const to = page.locator('#running-sheet tbody tr:has(option[selected]:text-is("to write"))').last();
  const name = await to.locator("th > a").innerText(); // which ones the demo chose goes by the season
  const row = (p) => p.locator("#running-sheet tbody tr", { has: p.getByRole("link", { name, exact: true }) });
  await row(page)
    .getByLabel(/^Hours of/)
    .fill("7");
  await row(page)
    .getByLabel(/^Hours of/)
    .press("Tab");
  await row(other)
    .getByLabel(/^State of/)
    .selectOption("writing");
  await expect(row(other).getByLabel(/^Hours of/)).toHaveValue("7");
  await row(page).locator("summary").click();
  await row(page).getByRole("button", { name: "Remove from plan" }).click();
  await says(page).toContainText("Removed from the plan");
  await other.reload();
  await expect(row(other)).toHaveCount(0);
  await page.locator("h2").first().click();
  await page.keyboard.press("u");
  await expect(row(page).getByLabel(/^State of/)).toHaveValue("writing");
  await other.close();
});

test("the choice: what brings most, what was left out and why, and what a swap costs", async ({ page, at }) => {
  await page.goto(at("plan"));
  const begun = await page.locator("#running-sheet tbody tr").count();
  await page.goto(at("plan/choice"));
  await expect(page.locator("#chosen")).toContainText(/\d+ articles in \d+ of 40 hours/);
  await page.getByLabel("New site: start with").check(); // in so few hours that these take them
  await page.getByLabel("The topics that earn most").fill("1");
  await expect(page.locator("#chosen")).toContainText("rticles a new site should start with use up the hours");
  await page.getByLabel("Least page-one chance").fill("60");
  await page.getByLabel("The topics that earn most").fill("5");
  await expect(page.locator(".rule-costs")).toContainText("Nothing with a page-one chance under 60%");
  await page.getByLabel("Least page-one chance").fill("10");
  await page.getByLabel("The topics that earn most").fill("1");
  await expect(page.locator(".rule-costs")).toHaveCount(0);
  await page.getByLabel("New site: start with").uncheck();
  await expect(page.locator("#chosen")).not.toContainText("rticles a new site");
  const worth = () => page.locator("#chosen p b").nth(1).innerText();
  const best = await worth();
  await page.locator('section[aria-labelledby="taken-title"] .btn').first().click();
  await expect(page.locator("#chosen")).toContainText(/Your changes cost \$/);
  expect(await worth()).not.toBe(best);
  await expect(page.locator("#chosen")).toContainText("You left it out");
  await page.getByRole("link", { name: "Undo changes" }).click();
  await expect(page.locator("#chosen")).not.toContainText("Your changes");
  await expect(page.getByLabel("New site: start with")).not.toBeChecked();
  await page.getByLabel("The topics that earn most").fill("0");
  await expect(page.locator("#chosen")).toContainText("A proposal covers 1 to 104 weeks");
  await page.getByLabel("The topics that earn most").fill("30");
  await expect(page.locator("#chosen")).toContainText("of 240 hours");
  await page.getByRole("button", { name: "Add these to the plan" }).click();
  await expect(page).toHaveURL(/plan$/);
  await expect.poll(() => page.locator("#running-sheet tbody tr").count()).toBeGreaterThan(begun);
});

test("the calendar: what is moved by drag or keys, and becomes late, says so", async ({ page, at }) => {
  await page.goto(at("plan/calendar"));
  const perDay = Number(await page.locator(".calendar").getAttribute("data-per-day"));
  const [id, spare] = await page
    .locator(".sown[data-start]")
    .evaluateAll((list) =>
      list
        .map((s) => [
          s.closest(".sowing").dataset.article,
          (Date.parse(s.dataset.due) - Date.parse(s.dataset.start)) / 86_400_000 - Number(s.dataset.days),
        ])
        .find(([, days]) => days > 7),
    );
  const sowing = page.locator(`.sowing[data-article="${id}"]`);
  const sown = () => sowing.locator(".sown");
  const start = () => sown().getAttribute("data-start");
  const before = await start();
  const box = await sowing.locator(".write").boundingBox();
  const by = (days) => page.mouse.move(box.x + 4 + days * perDay, box.y + 8, { steps: 10 });
  await by(0);
  await page.mouse.down();
  await by(spare - 3);
  await expect(page.locator("#drag-says")).toContainText("in time");
  const [begins, ready] = (await page.locator("#drag-says").innerText()).match(/\w+ \d+, \d+/g).map(Date.parse);
  expect((ready - begins) / 86_400_000).toBe(Number(await sown().getAttribute("data-days")));
  await by(spare + 12);
  await expect(page.locator("#drag-says")).toContainText(/\d+ days late/);
  await expect(sowing).toHaveClass(/late/);
  await page.mouse.up();
  await expect.poll(start).not.toBe(before);
  await expect(page.locator(`[data-late="${id}"]`)).toContainText("too late for its season");
  const late = await start();
  await sown().focus();
  await page.keyboard.press("ArrowLeft");
  await page.keyboard.press("Shift+ArrowLeft");
  const eight = new Date(Date.parse(late) - 8 * 86_400_000).toISOString().slice(0, 10);
  await expect.poll(start).toBe(eight);
  await page.keyboard.press("u");
  await expect.poll(start).toBe(late);
  await page.waitForLoadState(); // keys are taken again
  await page.keyboard.press("u");
  await expect.poll(start).toBe(before);
  await page.getByRole("link", { name: "two years" }).click();
  await expect(page.locator(".loads g")).toHaveCount(25);
});

test("a brief is edited in place, printed, and written for others", async ({ page, at }) => {
  await page.goto(at("plan"));
  await page
    .locator('#running-sheet tbody tr:has(option[selected]:text-is("published"))')
    .getByRole("link", { name: "Brief" })
    .first()
    .click();
  const part = page.locator("#section-questions");
  await expect(part).toContainText("the top ten");
  await part.getByRole("button", { name: "Edit Questions" }).click();
  await part.locator("textarea").fill("Is it <big>?\nHow far is it?");
  await part.getByRole("button", { name: "Save" }).click();
  await expect(page.locator("#section-questions")).toContainText("edited");
  await expect(page.locator("#section-questions li").first()).toHaveText("Is it <big>?");
  const get = (kind) => page.request.get(page.url().replace(/#.*/, "") + `/brief.${kind}`).then((r) => r.text());
  expect(await get("md")).toContain("- Is it \\<big\\>?");
  expect(await get("html")).toContain("Is it &lt;big&gt;?");
  await page.locator("#section-questions").getByRole("button", { name: "Edit Questions" }).click();
  await page.getByRole("button", { name: "Use the proposal" }).click();
  await expect(page.locator("#section-questions")).not.toContainText("edited");
  await page.emulateMedia({ media: "print" });
  await expect(page.locator(".top")).toBeHidden();
  await expect(page.locator("#section-kind")).toBeVisible();
  await page.emulateMedia({ media: "screen" });
});

test("my pages: what to do next, ticked off", async ({ page, at }) => {
  await page.goto(at("plan/actions"));
  const row = page.locator("tbody tr", { hasText: "how to find the andromeda galaxy" });
  await expect(row).toContainText("nightporch.example/how-to/how-to-find-the-andromeda-galaxy");
  await row.getByRole("checkbox").check();
  await says(page).toContainText("Marked as done");
  await page.reload();
  await expect(row.getByRole("checkbox")).toBeChecked();
  // What is refused does not look as if it were done.
  await page.route("**/plan/actions/*", (route) => route.fulfill({ status: 500, body: "It was refused." }));
  await row
    .getByRole("checkbox")
    .uncheck({ noWaitAfter: true, force: true })
    .catch(() => {});
  await says(page).toContainText("It was refused.");
  await expect(row.getByRole("checkbox")).toBeChecked();
  await page.unroute("**/plan/actions/*");
  await page.getByRole("button", { name: /Find your pages again \(at most \$/ }).click();
  await expect(page.locator("#jobs")).toContainText("Look for the pages of nightporch.example");
  await expect(page.locator("#jobs")).not.toContainText("0 of 1");
  await expect(row).toBeVisible();
});

test("what is taken along is read by others", async ({ page, at }) => {
  const [, name] = await planned(page, at);
  const get = (path) => page.request.get(at(path)).then((r) => r.text());
  for (const [path, first] of [
    ["plan/topics.csv", "topic"],
    ["plan/sheet.csv", "topic"],
  ]) {
    const { data, errors } = Papa.parse(await get(path), { header: true, skipEmptyLines: true });
    expect(errors).toEqual([]);
    expect(data.length).toBeGreaterThan(4);
    expect(data[0][first]).not.toBe("");
  }
  const plan = JSON.parse(await get("plan/plan.json"));
  const schema = JSON.parse(readFileSync(new URL("../docs/plan.schema.json", import.meta.url), "utf8"));
  const formats = { date: /^\d{4}-\d\d-\d\d$/, "date-time": true };
  const check = new Ajv2020({ strict: true, allowUnionTypes: true, formats }).compile(schema);
  expect(check(plan), JSON.stringify(check.errors?.slice(0, 3))).toBe(true);
  expect(check({ ...plan, version: 4 })).toBe(false);

  const calendar = await get("plan/plan.ics");
  const events = (text) =>
    new ICAL.Component(ICAL.parse(text)).getAllSubcomponents("vevent").map((e) => new ICAL.Event(e));
  const list = events(calendar);
  expect(list.length).toBeGreaterThan(4);
  expect(new Set(list.map((e) => e.uid)).size).toBe(list.length);
  const about = list.filter((e) => e.summary.includes(name));
  expect(about.map((e) => e.summary)).toEqual([`Write: ${name} (6 h)`, `Last day to publish: ${name}`]);
  expect(about[0].description).toBe("two lines,\nand a = sign");
  expect(about[1].startDate.toString()).toBe("2026-01-31");
  expect(about[1].startDate.isDate).toBe(true);

  await page.goto(at("plan"));
  await page.locator("#feed button").click();
  const address = await page.locator("#feed-address").inputValue();
  const fed = await page.request.get(address);
  expect(fed.headers()["content-type"]).toContain("text/calendar");
  expect(events(await fed.text()).map((e) => e.uid)).toEqual(list.map((e) => e.uid));
  await page.getByRole("button", { name: "Make a new address" }).click();
  await expect(page.locator("#feed-address")).not.toHaveValue(address);
  expect((await page.request.get(address)).status()).toBe(404);
  const next = await page.locator("#feed-address").inputValue();
  await page.getByRole("button", { name: "Turn off" }).click();
  await expect(page.locator("#feed-address")).toHaveCount(0);
  expect((await page.request.get(next)).status()).toBe(404);
});

test("settings of writing: hours, kinds, lead and the week", async ({ page, at }) => {
  await page.goto(at("settings"));
  await page.getByLabel("Hours per week").fill("10000");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.locator("#wrong")).toContainText("0 to 168");
  await page.getByLabel("Hours per week").fill("0");
  await page.getByLabel("A how-to").fill("9");
  await page.getByLabel("Days until rankings settle").fill("60");
  await page.getByLabel("Week starts on").selectOption("Sunday");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("Saved.")).toBeVisible();
  await page.goto(at("plan/choice"));
  await expect(page.locator("#chosen")).toContainText("Set your hours per week to get a proposal");
  await page.goto(at("plan"));
  await expect(page.locator(".week")).toContainText("Set your hours per week");
  await page.goto(at("settings"));
  await expect(page.getByLabel("A how-to")).toHaveValue("9");
  await expect(page.getByLabel("Week starts on")).toHaveValue("0");
  await page.getByLabel("Hours per week").fill("8");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("Saved.")).toBeVisible();
});
