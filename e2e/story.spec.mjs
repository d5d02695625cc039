import Ajv2020 from "ajv/dist/2020.js";
// The whole job in the browser, as a new user does it.
import { readFileSync } from "node:fs";
import Papa from "papaparse";
import { test, expect, rows, selected, phrases, addFilter, taken } from "./app.mjs";

test("the demo niche is open, with ideas gathered", async ({ page, app }) => {
  await page.goto(app.address);
  await expect(page.locator(".picker summary")).toHaveText("Backyard astronomy");
  await expect(page.locator("#trail li.here b")).toHaveText("Watch"); // something is published
  await page.getByRole("link", { name: /^Sift/ }).click();
  await expect(page.locator("#trail li.here b")).toHaveText("Sift");
  await expect.poll(() => rows(page).count()).toBeGreaterThan(20);
  await expect(page.locator("#drawer h2")).not.toBeEmpty();
});

test("a seed brings ideas, with progress, and they remember their sources", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/gather`);
  await page.getByLabel("Seeds, one per line").fill("dew heater\nstar tracker");
  await expect(page.locator("#estimate")).toContainText("2 seeds: at most");
  await page.getByRole("button", { name: "Gather" }).click();
  const job = page.locator(".job").first();
  await expect(job).toContainText("Gather from “dew heater” and 1 more");
  await expect(job.locator("progress")).toBeVisible();
  await expect(job).toContainText("Done", { timeout: 20_000 });
  await expect(page.locator("#arrivals tbody tr").first()).toBeVisible();
  await page.goto(`${app.address}/niches/1/sift?holds=dew+heater&words=3`);
  await page.locator("#rows .idea a").first().press("Enter");
  await expect(page.locator("main.story h1")).toContainText("dew heater");
  await expect(page.getByText("How it was found")).toBeVisible();
  await expect(page.locator("main.story")).toContainText(/(completion|letter|question): /);
});

test("the list sorts by every column", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift`);
  for (const name of [
    "Idea",
    "Words",
    "Searches",
    "CPC",
    "Ad competition",
    "Difficulty",
    "Page one",
    "Footholds",
    "Intent",
  ]) {
    const head = page.locator("th[scope=col]", { has: page.getByRole("link", { name: new RegExp(`^${name}`) }) });
    for (let turn = 0; turn < 2; turn++) {
      const before = await head.getAttribute("aria-sort");
      await head.getByRole("link").click();
      await expect(head).not.toHaveAttribute("aria-sort", before ?? "none");
      await expect(head).toHaveAttribute("aria-sort", /ascending|descending/);
    }
  }
  await page.goto(`${app.address}/niches/1/sift?sort=words&order=down`);
  const words = (await rows(page).locator("td.words").allInnerTexts()).map(Number);
  expect(words).toEqual([...words].sort((a, b) => b - a));
});

test("the sieve filters, counts and says why", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift`);
  const all = await page.locator("#left b").innerText();
  await addFilter(page, "words at least");
  await expect(page.getByLabel("Words at least", { exact: true })).toHaveValue("4");
  await page.getByLabel("Words at least", { exact: true }).fill("5");
  await expect(page.locator("#left b")).not.toHaveText(all);
  await addFilter(page, "searches at least", "50");
  await addFilter(page, "searches at most", "1.9k");
  await addFilter(page, "contains any of", "telescope, moon");
  await addFilter(page, "contains none of", "best");
  await expect(page).toHaveURL(/words=5/);
  await expect(page).toHaveURL(/lacks=best/);
  for (const phrase of await phrases(page)) {
    expect(phrase.split(" ").length).toBeGreaterThanOrEqual(5);
    expect(phrase).toMatch(/\b(telescope|moon)\b/);
    expect(phrase).not.toMatch(/\bbest\b/);
  }
  await expect(page.locator("#count-words")).toContainText("−");
  await page.getByLabel("Why is a phrase missing?").fill("best telescope for beginners");
  await page.keyboard.press("Enter");
  await expect(page.locator("#why")).toContainText("Removed by words at least 5");
  await expect(page.locator("#why")).toContainText("Loosen to: words at least 4");
  await page.reload();
  await expect(page.getByLabel("Words at least", { exact: true })).toHaveValue("5");
  await page.getByLabel("Why is a phrase missing?").fill("best telescope for beginners");
  await page.keyboard.press("Enter");
  await page.getByRole("link", { name: "Loosen to: words at least 4" }).click();
  await expect(page.getByLabel("Words at least", { exact: true })).toHaveValue("4");
});

test("filters are moved, switched off, taken out, and all of that is undone", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift?words=4&searches-from=100&lacks=jobs`);
  const order = () =>
    page.locator("#sieve-body .filters:first-of-type > .filter").evaluateAll((l) => l.map((m) => m.dataset.key));
  const left = page.locator("#left b");
  const before = await left.innerText();
  await page.getByRole("button", { name: /^Filter Words at least/ }).focus();
  await page.keyboard.press("ArrowDown");
  await expect.poll(order).toEqual(["no-place", "show", "searches-from", "words", "lacks"]);
  await expect(page.getByRole("button", { name: /^Filter Words at least/ })).toBeFocused();
  await expect(left).toHaveText(before);
  await expect(page).toHaveURL(/searches-from=100&words=4/);
  await page.keyboard.press("o");
  await expect(page).toHaveURL(/words-off=yes/);
  await expect(left).not.toHaveText(before);
  await expect(page.locator("#count-words")).toContainText("off");
  await page.keyboard.press("Delete");
  await expect.poll(order).toEqual(["no-place", "show", "searches-from", "lacks"]);
  await expect(page).not.toHaveURL(/words/); // changes that the list has not answered yet are one
  await page.getByRole("button", { name: /^Filter Ideas/ }).focus();
  await page.keyboard.press("Delete");
  await expect.poll(order).toEqual(["no-place", "searches-from", "lacks"]);
  await expect(page).toHaveURL(/show=all/);
  for (let i = 0; i < 3; i++) await page.getByRole("button", { name: "Undo" }).first().click();
  await expect.poll(order).toEqual(["no-place", "show", "searches-from", "words", "lacks"]);
  await expect(left).toHaveText(before);
  await page.getByRole("button", { name: "Redo" }).click();
  await expect(page.locator("#count-words")).toContainText("off");
  await page.goBack();
  await expect(left).toHaveText(before);
  await page.route("**/sift?*", async (route) => {
    await new Promise((done) => setTimeout(done, 600));
    await route.continue().catch(() => {});
  });
  await page.getByRole("button", { name: /^Filter Words at least/ }).press("Delete");
  await page.getByRole("button", { name: "Undo" }).first().click(); // before that is answered
  await page.waitForTimeout(1500);
  await page.unroute("**/sift?*");
  await expect(page).toHaveURL(/words=4/);
  await expect.poll(order).toEqual(["no-place", "show", "searches-from", "words", "lacks"]);
  await expect(left).toHaveText(before);
  const handle = await page.locator('.filter[data-key="lacks"] .handle').boundingBox();
  const first = await page.locator('.filter[data-key="no-place"]').boundingBox();
  await page.mouse.move(handle.x + 4, handle.y + 4);
  await page.mouse.down();
  await page.mouse.move(first.x + 40, first.y + 20, { steps: 4 });
  await page.mouse.move(first.x + 40, first.y + 2, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => (await order())[0]).toBe("lacks");
});

test("a sieve is saved, begun with, and the niche's usual one", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift?words=5&searches-from=90`);
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await page.getByLabel("Name", { exact: true }).fill("Long tail");
  await page.keyboard.press("Enter");
  await expect(page.locator("#save-sieve .told")).toContainText("ready-made sieve");
  await page.getByLabel("Name", { exact: true }).fill("Porch, late");
  await page.keyboard.press("Enter");
  await expect(page.locator("#notice")).toContainText("Saved “Porch, late”.");
  await expect(page.locator("#sieve-name")).toHaveText("Sieve: Porch, late");
  await page.getByLabel("Words at least", { exact: true }).fill("6");
  await expect(page.locator("#sieve-name")).toContainText("changed");
  await page.getByLabel("Start from a saved sieve").selectOption("Small buying phrases");
  await expect(page.locator("#sieve-name")).toHaveText("Sieve: Small buying phrases");
  await page.getByLabel("Start from a saved sieve").selectOption("Porch, late");
  await expect(page.getByLabel("Words at least", { exact: true })).toHaveValue("5");
  await page.getByRole("link", { name: "All sieves", exact: true }).click();
  const saved = page.locator(".saved", { hasText: "Porch, late" });
  await saved.getByRole("button", { name: "Make default" }).click();
  await page.goto(`${app.address}/niches/1/sift`);
  await expect(page.locator("#sieve-name")).toHaveText("Sieve: Porch, late");
  await page.goto(`${app.address}/niches/1/sieves`);
  // Exported sieves are what the published schema says, by a reader of JSON Schema 2020-12.
  const exported = await page.request.get(`${app.address}/niches/1/sieves.json`).then((r) => r.json());
  const schema = JSON.parse(readFileSync(new URL("../docs/sieves.schema.json", import.meta.url), "utf8"));
  const check = new Ajv2020({ strict: true }).compile(schema);
  expect(exported.sieves.map((s) => s.name)).toContain("Porch, late");
  expect(check(exported), JSON.stringify(check.errors)).toBe(true);
  expect(check({ ...exported, version: 3 })).toBe(false);
  await saved.getByRole("button", { name: "Delete" }).click();
  await page.getByRole("button", { name: "Restore" }).click();
  await expect(page.locator(".report")).toContainText("Saved “Porch, late”.");
  await saved.getByRole("button", { name: "Delete" }).click();
  await expect(saved).toHaveCount(0);
});

test("the line between filters says what crossing it costs, and does it", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift?words=8&searches-from=20&difficulty=100`);
  const line = page.locator("#toll");
  await expect(line).toContainText(/\d+ not looked up:\s+at most\s+\$\d/);
  const open = parseInt(await line.innerText(), 10);
  await line.getByRole("button", { name: "look up" }).click();
  await expect(page.locator("#lookup")).toContainText(`Look up ${open} idea`);
  await page.getByRole("button", { name: "Start" }).click();
  await expect(page.locator(".job")).toContainText(`${open} looked up`, { timeout: 30_000 });
});

test("chosen ideas are looked up at a stated cost and then judged", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift?words=4&sort=found`);
  await expect(page.locator("#bulk")).toBeHidden();
  const open = rows(page).filter({ hasText: "not looked up" });
  const names = [];
  for (let i = 0; i < 3; i++) {
    names.push(await open.nth(i).locator(".idea").innerText());
    await open.nth(i).locator("input").check();
  }
  await expect(page.locator("#bulk b")).toHaveText("3 selected");
  await page.locator("#lookup-chosen").click();
  await expect(page.locator("#lookup")).toContainText(/Look up 3 ideas: at most \d+ lookups, \$0\.\d+/);
  await page.getByRole("button", { name: "Start" }).click();
  await expect(page.locator(".job")).toContainText("Look up 3 ideas");
  await expect(page.locator(".job")).toContainText("3 looked up", { timeout: 20_000 });
  for (const name of names) {
    const row = rows(page).filter({ has: page.getByText(name, { exact: true }) });
    await expect(row.locator("td.difficulty")).toHaveText(/^\d+$/, { timeout: 10_000 });
    await expect(row.locator("td.wants")).toHaveText(/Learn|Find|Compare|Buy/);
  }
});

test("several ideas are chosen, and kept, dropped, copied, dug from; all of it can be undone", async ({
  page,
  app,
}) => {
  await page.context().grantPermissions(["clipboard-read", "clipboard-write"], { origin: app.address });
  await page.goto(`${app.address}/niches/1/sift?words=5&sort=idea`);
  const boxes = page.locator('#rows input[name="id"]');
  await boxes.nth(1).click();
  await boxes.nth(4).click({ modifiers: ["Shift"] });
  await expect(page.locator("#bulk b")).toHaveText("4 selected");
  const names = (await phrases(page)).slice(1, 5);
  await page.locator("#bulk").getByRole("button", { name: "Copy" }).click();
  await expect(page.locator("#notice")).toContainText("Copied 4 ideas");
  const pasted = Papa.parse(await page.evaluate(() => navigator.clipboard.readText()), {
    header: true,
    delimiter: "\t",
    skipEmptyLines: true,
  });
  expect(pasted.data.map((r) => r.phrase).sort()).toEqual([...names].sort());
  await page.locator("#bulk").getByRole("button", { name: "Gather from these" }).click();
  await expect(page.locator("#lookup")).toContainText("Gather from 4 ideas: at most");
  await page.getByRole("button", { name: "Cancel" }).click();
  await page.locator("#bulk").getByRole("button", { name: "Drop" }).click();
  await expect(page.locator("#notice")).toContainText("Dropped 4 ideas");
  await expect.poll(() => phrases(page)).not.toContain(names[0]);
  await page.keyboard.press("u");
  await expect(page.locator("#notice")).toContainText("Dropping 4 ideas was undone.");
  await expect.poll(() => phrases(page)).toContain(names[0]);
  await page.waitForTimeout(1800); // the list is renewed once more
  await page.locator("#list").evaluate((list) => list.scrollTo(0, 0));
  const first = await boxes.nth(0).boundingBox();
  const fourth = await boxes.nth(3).boundingBox();
  await page.mouse.move(first.x + 3, first.y + 3);
  await page.mouse.down();
  await page.mouse.move(fourth.x + 3, fourth.y + 3, { steps: 12 });
  await page.mouse.up();
  await expect(page.locator("#bulk b")).toHaveText("4 selected");
  await page.locator("#bulk").getByRole("button", { name: "Clear selection" }).click();
  await expect(page.locator("#bulk")).toBeHidden();
  const left = await page.locator("#left b").innerText();
  await page.locator("#rows .selected a").focus();
  await page.keyboard.press("C");
  await expect(page.locator("#bulk b")).toHaveText(`${left} selected`);
  await page.keyboard.press("C");
  await expect(page.locator("#bulk")).toBeHidden();
});

test("columns are chosen, ordered, made wide, and remembered; two orders; chips; labels", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift?words=4`);
  const heads = () => page.locator("#list th[data-key]").evaluateAll((l) => l.map((h) => h.dataset.key));
  await page.getByRole("button", { name: "Columns" }).click();
  await page.getByLabel("Ad value", { exact: true }).check();
  await page.getByLabel("Trend", { exact: true }).check();
  await page.getByLabel("Ad competition", { exact: true }).uncheck();
  for (let i = 0; i < 3; i++) await page.getByRole("button", { name: "Move Intent up" }).click();
  await page.getByRole("button", { name: "Show these" }).click();
  await expect(page.locator('#list th[data-key="ceiling"]')).toBeVisible();
  expect(await heads()).not.toContain("ads");
  const order = await heads();
  expect(order.indexOf("wants")).toBeLessThan(order.indexOf("footholds"));
  const grip = page.locator('#list th[data-key="words"] .grip');
  const at = await grip.boundingBox();
  await page.mouse.move(at.x + 3, at.y + 5);
  await page.mouse.down();
  await page.mouse.move(at.x + 63, at.y + 5, { steps: 4 });
  const saved = page.waitForResponse((r) => r.url().endsWith("/columns"));
  await page.mouse.up();
  await saved;
  await page.reload();
  expect(await heads()).toEqual(order);
  const width = await page.locator('#list th[data-key="words"]').boundingBox();
  expect(width.width).toBeGreaterThan(100);
  await page.getByRole("link", { name: /^Words/ }).click();
  await expect(page).toHaveURL(/sort=words/);
  await page.getByRole("link", { name: /^CPC/ }).click({ modifiers: ["Shift"] });
  await expect(page).toHaveURL(/sort=words.*then=cpc/);
  await expect(page.locator('#list th[data-key="cpc"]')).toContainText("then ↓");
  const words = (await rows(page).locator("td.words").allInnerTexts()).map(Number);
  const costs = (await rows(page).locator("td.cpc").allInnerTexts()).map((t) => parseFloat(t.slice(1)) || -1);
  for (let i = 1; i < words.length; i++)
    if (words[i] === words[i - 1]) expect(costs[i]).toBeLessThanOrEqual(costs[i - 1]);
  const chip = page.locator('.chip[data-key="holds"]').first();
  const word = await chip.getAttribute("data-value");
  const renewed = page.waitForResponse((r) => r.url().includes("/chips"));
  await chip.click();
  await expect(page.getByLabel("Contains any of", { exact: true })).toHaveValue(word);
  await renewed;
  await expect(page.locator(`.chip[data-value="${word}"]`)).toHaveCount(0); // all that are left have it
  const other = page.locator('.chip[data-key="holds"]').nth(2);
  await expect(other).toBeVisible();
  const without = await other.getAttribute("data-value");
  await other.click({ modifiers: ["Shift"] });
  await expect(page.getByLabel("Contains none of", { exact: true })).toHaveValue(without);
  await page.locator("#rows .selected a").focus();
  const first = (await phrases(page))[0];
  await page.keyboard.press("t");
  await page.getByLabel("Label", { exact: true }).fill("to write, soon");
  await page.keyboard.press("Enter");
  await expect(page.locator("#notice")).toContainText("Labelled 1 idea “to write, soon”.");
  await expect(page.locator("#rows .label-mark")).toHaveText("to write, soon");
  await addFilter(page, "label");
  await page.locator(".filter").getByLabel("Label", { exact: true }).selectOption("to write, soon");
  await expect.poll(() => phrases(page)).toEqual([`${first} to write, soon`]);
  await page.locator("#tools").getByRole("button", { name: "Undo" }).click();
  await expect(page.getByText("Nothing passes.")).toBeVisible();
  await page.goto(`${app.address}/niches/1/sift`);
  const all = await page.locator("#left b").innerText();
  await page.getByRole("button", { name: "Fold variants" }).click();
  await expect(page).toHaveURL(/fold=yes/);
  await expect(page.locator("#rows .folded").first()).toHaveText(/^\+\d+, [\d,]+$/);
  await expect(page.locator("#left b")).toHaveText(all); // they are folded, not taken
  await page.getByRole("button", { name: "Fold variants" }).click();
  await expect(page.locator("#rows .folded")).toHaveCount(0);
  await page.getByRole("button", { name: "Columns" }).click();
  await page.getByRole("button", { name: "Usual columns" }).click();
  await expect(page.locator('#list th[data-key="ads"]')).toBeVisible();
});

test("the map shows what is left, and a box on it becomes filters", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift`);
  await page.getByRole("link", { name: "map", exact: true }).click();
  await expect(page).toHaveURL(/view=map/);
  const canvas = page.locator("#map");
  await expect(canvas).toBeVisible();
  const [points, left] = await Promise.all([
    page.request.get(app.address + (await canvas.getAttribute("data-points"))).then((r) => r.json()),
    page.locator("#left b").innerText(),
  ]);
  expect(points.id.length).toBe(Number(left.replace(/\D/g, "")));
  await expect(canvas).not.toHaveAttribute("aria-busy");
  await canvas.focus();
  await page.keyboard.press("ArrowRight");
  await expect(page.locator("#map-says")).toContainText(/Box: difficulty 0 to \d+, searches 100 to 5000/);
  for (let i = 0; i < 40; i++) await page.keyboard.press("Shift+ArrowRight");
  const told = await page.locator("#map-says").innerText();
  const [, to, ideas] = told.match(/difficulty 0 to (\d+), .*: (\d+) ideas/);
  await page.keyboard.press("Enter");
  await expect(page.locator("#left b")).toHaveText(ideas);
  await expect(page.getByLabel("Difficulty at most", { exact: true })).toHaveValue(to);
  await page.getByRole("link", { name: "map", exact: true }).click();
  await expect(canvas).not.toHaveAttribute("aria-busy");
  const box = await canvas.boundingBox();
  await page.mouse.move(box.x + 60, box.y + 40);
  await page.mouse.down();
  await page.mouse.move(box.x + 300, box.y + 160, { steps: 5 });
  await page.mouse.up();
  await expect(page.locator("#rows")).toBeVisible();
  await expect(page).toHaveURL(/searches-to=\d+/);
  await page.goto(`${app.address}/niches/1/sift?view=map`);
  await page.getByText("The map as a table").click();
  await page.locator(".map tbody tr").first().getByRole("link").last().click();
  await expect(page).toHaveURL(/searches-from=5000/);
});

test("all that are left are looked up, and the job is cancelled", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift?words=6&sort=found`);
  await page.getByRole("button", { name: "Look up all left" }).click();
  await page.getByRole("button", { name: "Start" }).click();
  await page.getByRole("button", { name: "Pause" }).click();
  await expect(page.locator(".job")).toContainText("Paused. Fetched data is saved.");
  await page.getByRole("button", { name: "Resume" }).click();
  await page.getByRole("button", { name: "Cancel" }).click();
  await expect(page.locator(".job")).toContainText("Cancelled");
});

test("the drawer shows the evidence, and every figure explains itself", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/judge`);
  await expect(page.locator("#drawer .stairs ol > li")).toHaveCount(10);
  await expect(page.locator("#drawer .stairs figcaption")).toContainText(
    /Your reach \d+ covers .* ·\s+\d+ footholds?/s,
  );
  await expect(page.locator("#drawer .stairs .water > line")).toHaveCount(1);
  await expect(page.locator("#drawer")).toContainText("Intent of the top ten");
  await expect(page.locator("#drawer .year rect")).toHaveCount(12);
  await expect(page.locator("#drawer .aside")).toContainText(
    /Evergreen|Seasonal: peaks|Rising|Fading|A flash|Too few searches/,
  );
  const figure = page.locator("#drawer .why").nth(1);
  await figure.focus();
  await expect(
    page.getByRole("tooltip", { name: /(needs a site standing of \d+|Any well-made page).*: \d+ %(, \d+–\d+)?\./ }),
  ).toBeVisible();
});

test("the stairs are walked by keys, and say each place in words", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/judge`);
  await expect(page.locator("#drawer .stairs")).toBeVisible();
  await page.keyboard.press("s");
  const tip = page.locator("#because");
  await expect(tip).toContainText(
    /^No. 1 needs a site standing of \d+\+?\. [a-z.-]+ looks like a site standing of \d+/,
  );
  await page.keyboard.press("ArrowRight");
  await expect(tip).toContainText("No. 2 needs");
  await page.keyboard.press("End");
  await expect(tip).toContainText("No. 10 needs");
  await page.keyboard.press("ArrowRight");
  await expect(tip).toContainText("No. 10 needs");
  await page.keyboard.press("Escape");
  await expect(page.locator("#rows .selected a")).toBeFocused();
  // What is asked falls from place to place, and what is drawn is as high as what is said.
  const asks = await page.locator("#drawer .stairs svg text:not(.held)").allTextContents();
  expect(asks.map(parseFloat)).toEqual(asks.map(parseFloat).sort((a, b) => b - a));
  const steps = page.locator("#drawer .stairs .step");
  const heights = await steps.evaluateAll((list) => list.map((r) => Number(r.getAttribute("height"))));
  expect(heights).toEqual([...heights].sort((a, b) => b - a));
  // A column is as high as its step: what can be seen and what its place says beyond make up the whole.
  for (const place of await page.locator("#drawer .stairs li").all()) {
    const height = async (what) =>
      Number((await place.locator(what).count()) && (await place.locator(what).getAttribute("height")));
    const column = (await height(".seen")) + (await height(".hidden"));
    expect(Math.abs(column - (await height(".step")))).toBeLessThan(0.3);
  }
  // Chances to outrank rise from place to place.
  const pass = (await page.locator("#drawer .stairs .pass").allTextContents()).map((t) => parseFloat(t.slice(5)));
  expect(pass).toEqual([...pass].sort((a, b) => a - b));
});

test("what the engine leans on is learnt from results pages, and told", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/judge`);
  await page
    .locator("#drawer")
    .getByRole("link", { name: /^Learnt from \d+ results pages$/ })
    .click();
  await expect(page.getByRole("heading", { name: "What the engine leans on", level: 1 })).toBeVisible();
  await expect(page.locator(".leans tbody tr")).toHaveCount(5);
  const shares = (await page.locator(".leans td:nth-child(3)").allTextContents()).map(parseFloat);
  expect(Math.abs(shares.reduce((a, b) => a + b) - 100)).toBeLessThan(3);
  await expect(page.locator("main")).toContainText(/Learnt from \d+ results pages\./);
  // A niche that has looked nothing up says what to do.
  await page.goto(`${app.address}/niches/new`);
  await page.getByLabel("Name").fill("Nothing looked up");
  await page.getByRole("button", { name: "Create niche" }).click();
  await page.goto(page.url().replace(/gather.*/, "engine"));
  await expect(page.locator("main")).toContainText("Each look-up teaches more.");
  await page.getByRole("link", { name: "Judge", exact: true }).last().click();
  await expect(page).toHaveURL(/judge/);
});

test("the scale is told, with the demo's own phrases and sites", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/judge`);
  await page.locator("#drawer").getByRole("link", { name: "Numbers" }).click();
  await expect(page.getByRole("heading", { name: "The scale", level: 1 })).toBeVisible();
  await expect(page.locator(".document tbody tr")).toHaveCount(7);
  await expect(page.locator(".document")).toContainText("50% chance of the top five");
});

test("the keyboard does it all", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift?words=4`);
  const list = await phrases(page);
  await page.keyboard.press("j");
  await page.keyboard.press("ArrowDown");
  await expect(selected(page)).toHaveText(list[2]);
  await expect(page.locator("#drawer h2")).toHaveText(list[2]);
  await page.keyboard.press("k");
  await expect(page.locator("#drawer h2")).toHaveText(list[1]);
  const reason = page.locator("#because");
  await page.keyboard.press("ArrowRight");
  await expect(reason).toContainText("searches a month");
  await page.keyboard.press("ArrowDown");
  await expect(selected(page)).toHaveText(list[2]);
  await expect(page.locator("#rows > tr.selected td.searches")).toBeFocused();
  await expect(reason).toBeVisible();
  await page.keyboard.press("k");
  await page.keyboard.press("ArrowLeft");
  await expect(page.locator("#rows .selected a")).toBeFocused();
  await expect(reason).toBeHidden();
  const kept = page.locator("#trail li", { hasText: "Group" }).locator("small");
  const before = parseInt(await kept.innerText(), 10);
  const was = await page.locator("#rows > tr.selected .kept").count();
  await page.keyboard.press("Space");
  await expect(kept).toContainText(`${before + (was ? -1 : 1)} kept`);
  await expect(page.locator("#notice")).toContainText(list[1]);
  if (!was) {
    await expect(selected(page)).toHaveText(list[2]); // who keeps goes on
    await page.keyboard.press("k");
  }
  await page.keyboard.press("Space"); // the same once more takes it back
  await expect(kept).toContainText(`${before} kept`);
  await page.keyboard.press("u");
  await expect(kept).toContainText(`${before + (was ? -1 : 1)} kept`);
  await page.keyboard.press("u");
  await expect(kept).toContainText(`${before} kept`);
  await page.keyboard.press("x");
  await expect(page.getByText(list[1], { exact: true }).and(page.locator("#rows bdi"))).toHaveCount(0);
  await expect(selected(page)).toHaveText(list[2]);
  await page.keyboard.press("u");
  await expect(page.locator("#rows bdi", { hasText: list[1] }).first()).toBeVisible();
  await expect(selected(page)).toHaveText(list[1]);
  await page.keyboard.press("/");
  await expect(page.getByLabel("Words at least", { exact: true })).toBeFocused();
  await page.keyboard.press("Escape");
  await expect(page.locator("#rows .selected a")).toBeFocused();
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "Keys" })).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog", { name: "Keys" })).toBeHidden(); // keys are the dialog's until then
  // An error is told where errors are, and leaves what is there.
  await page.route("**/dig", (route) => route.fulfill({ status: 422, body: "Not just now." }));
  await page.keyboard.press("g");
  await expect(page.locator("#notice")).toContainText("Not just now.");
  await expect(page.locator("#jobs")).not.toContainText("Not just now.");
  await page.unroute("**/dig");
  await page.keyboard.press("g");
  await expect(page.locator("#jobs .job").first()).toContainText(`Gather from “${list[1]}”`);
  await page.keyboard.press("Enter");
  await expect(page.locator("main.story h1")).toHaveText(list[1]);
});

test("a dropped idea stays dropped when it is found again", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift?holds=star+tracker`);
  const phrase = await selected(page).innerText();
  await page.keyboard.press("x");
  await expect(page.locator("#notice")).toContainText(`Dropped “${phrase}”`);
  await page.goto(`${app.address}/niches/1/gather`);
  await page.getByLabel(/Paste phrases/).fill(phrase);
  expect(await taken(page)).toContain("Of the first 1, 1 is an idea already");
  await page.goto(`${app.address}/niches/1/sift?show=dropped`);
  expect(await phrases(page)).toContain(phrase);
});

test("a ready-made sieve shows what each of its filters does", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift`);
  await page.getByLabel("Start from a saved sieve").selectOption("Long tail");
  await expect(page.locator("#sieve-body .filters > .filter")).toHaveCount(4);
  await expect(page.getByLabel("Words at least", { exact: true })).toHaveValue("5");
  await expect(page).toHaveURL(/sieve=Long\+tail/);
  for (const phrase of await phrases(page)) expect(phrase.split(" ").length).toBeGreaterThanOrEqual(5);
});

test("every filter can be asked for, and what is exported is what is left", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift?from=50&unmeasured=yes`); // an address of earlier days
  await expect(page.getByLabel("Searches at least", { exact: true })).toHaveValue("50");
  await expect(page.getByLabel("include ideas too rare to measure")).toBeChecked();
  await page.goto(`${app.address}/niches/1/sift?words=6`);
  await addFilter(page, "starts or ends with", "best");
  await expect(page).toHaveURL(/starts=best/);
  await page.getByLabel("or ends with", { exact: true }).fill("worth it");
  await expect(page).toHaveURL(/starts=best&ends=worth\+it/);
  for (const phrase of await phrases(page)) expect(phrase).toMatch(/^best | worth it$/);
  await addFilter(page, "season");
  await page.locator("#filter-season").selectOption("with a season");
  await expect(page).toHaveURL(/season=seasonal/);
  await expect(page.locator("#count-starts, #count-season").first()).toContainText("−");
  await expect.poll(async () => page.locator("#left b").innerText()).toBe(String((await phrases(page)).length));
  const left = await phrases(page);
  const [file] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Export CSV" }).click(),
  ]);
  const { data } = Papa.parse(readFileSync(await file.path(), "utf8"), { header: true, skipEmptyLines: true });
  expect(data.map((r) => r.phrase)).toEqual(left);
  expect(data.every((r) => r.season === "seasonal")).toBe(true);
  await page.reload();
  await expect(page.locator("#filter-season")).toHaveValue("seasonal");
  expect(await phrases(page)).toEqual(left);
});

test("what I suppose for one idea changes its chance, and can be taken back", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/judge`);
  await page.keyboard.press("j");
  await page.locator("#rows .selected a").press("Enter");
  await page.locator("main.story").waitFor();
  await expect(page.locator("main.story")).toContainText(/What fits: an? /);
  const chance = page.locator(".chances td").first();
  const before = parseFloat(await chance.innerText());
  await page.locator("#if-links").fill("6");
  await page.getByRole("button", { name: "Recalculate" }).click();
  await expect(page.locator("main.story")).toContainText("Uses what-if values for this idea");
  expect(parseFloat(await chance.innerText())).toBeGreaterThan(before);
  await page.getByText(/Commercial value/).click();
  await expect(page.locator("details.money tbody tr")).toHaveCount(4);
  await page.locator(".worth .why").first().focus();
  await expect(page.getByRole("tooltip", { name: /as the trade counts/ })).toBeVisible();
  await page.getByRole("button", { name: "Reset" }).click();
  await expect(page.locator("main.story")).not.toContainText("Uses what-if values for this idea");
  expect(parseFloat(await chance.innerText())).toBe(before);
});

test("own phrases go in, bad lines are listed", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/gather`);
  await page.getByLabel(/Or choose or drop a file/).setInputFiles({
    name: "phrases.csv",
    mimeType: "text/csv",
    buffer: Buffer.from(
      "cpc,searches,phrase\n0.40,120,Golden Moon Phrase\n,,=cmd|' /C calc'!A0\nfree,1,x\n" +
        ",lots,y\n,5,🔭\n,5,caf\xe9 sky\n",
      "latin1",
    ),
  });
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await expect(page.locator("main.preview")).toContainText(
    "3 lines can be used, 3 cannot. Nothing is imported yet.",
  );
  await expect(page.locator("main.preview")).toContainText("Windows-1252");
  await expect(page.locator(".problems tbody tr")).toHaveCount(3);
  await expect(page.locator(".problems tbody tr").first()).toContainText("cpc: “free” is not an amount of money");
  await page.getByRole("button", { name: "Import 3 lines" }).click();
  await page.locator(".job", { hasText: "Import “phrases.csv”" }).getByText("Done").waitFor();
  await page.goto(`${app.address}/niches/1/sift?holds=golden+moon`);
  await expect(rows(page).first()).toContainText("120");
});

test("bad input is told, and nothing is lost", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/gather`);
  await page.getByRole("button", { name: "Gather" }).click();
  await expect(page.getByLabel("Seeds, one per line")).toBeFocused(); // the browser asks for it
  await page.getByLabel("Seeds, one per line").fill("a".repeat(10_000));
  await page.getByRole("button", { name: "Gather" }).click();
  await expect(page.locator("#seeds-wrong")).toContainText("10000 characters long");
  await expect(page.getByLabel("Seeds, one per line")).toHaveValue(/a{10000}/);
  await page.getByLabel("Seeds, one per line").fill("🔭🌙");
  await page.getByRole("button", { name: "Gather" }).click();
  await expect(page.locator("#seeds-wrong")).toContainText("there is no word in it");
  await page.getByLabel(/Paste phrases/).fill("<img src=x onerror=alert(1)> moon\nשמי הלילה");
  expect(await taken(page)).toContain("2 lines can be used");
  await page.goto(`${app.address}/niches/1/sift?holds=onerror`);
  await expect(page.locator("#list img")).toHaveCount(0);
});

test("what is kept is exported, and a second reader reads it", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/sift?show=kept`);
  const kept = await phrases(page);
  expect(kept.length).toBeGreaterThan(1);
  const [file] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Export CSV" }).click(),
  ]);
  expect(file.suggestedFilename()).toMatch(/^backyard-astronomy-ideas-20\d\d-\d\d-\d\d\.csv$/);
  const text = readFileSync(await file.path(), "utf8");
  const { data, errors } = Papa.parse(text, { header: true, skipEmptyLines: true });
  expect(errors).toEqual([]);
  expect(data.map((r) => r.phrase)).toEqual(kept);
  expect(data.every((r) => r.decision === "kept")).toBe(true);
  for (const cell of Papa.parse(text).data.flat()) expect(cell).not.toMatch(/^[=+@-]/);
});

test("a new niche starts empty with a next step", async ({ page, app }) => {
  await page.goto(app.address);
  await page.locator(".picker summary").click();
  await page.getByRole("link", { name: "New niche…" }).click();
  await page.getByLabel("Name").fill("Home brewing");
  await page.getByLabel("Own site").fill("not a domain");
  await page.getByRole("button", { name: "Create niche" }).click();
  await expect(page.locator("#wrong")).toContainText("is not a site’s domain");
  await expect(page.getByLabel("Name")).toHaveValue("Home brewing");
  await page.getByLabel("Own site").fill("curdnotes.example");
  await page.getByRole("button", { name: "Create niche" }).click();
  await expect(page.getByText(/No ideas yet\. Type a few short phrases/)).toBeVisible();
  await page.locator("#trail").getByRole("link", { name: /Sift/ }).click();
  await expect(page.getByText("No ideas yet.")).toBeVisible();
  await page.getByRole("link", { name: "Gather ideas" }).click();
  await page.getByLabel("Seeds, one per line").fill("feta");
  await page.getByRole("button", { name: "Gather" }).click();
  await expect(page.locator(".job").first()).toContainText("Done", { timeout: 20_000 });
  await page.getByRole("link", { name: "Go to Sift" }).click();
  await expect(rows(page).first()).toContainText("feta");
});

test("plans change the reach, from the evidence at hand", async ({ page, app }) => {
  const caption = page.locator("#drawer .stairs figcaption");
  const reach = async () => Number((await caption.textContent()).match(/Your reach (\d+)/)[1]);
  await page.goto(`${app.address}/niches/1/judge`);
  await expect(caption).toContainText("Your reach");
  const before = await reach();
  await page.goto(`${app.address}/niches/1/settings`);
  await page.getByLabel(/Solid links you plan/).fill("9999");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.locator("#wrong")).toContainText("0 to 200");
  await page.getByLabel(/Solid links you plan/).fill("5");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("No new look-ups.")).toBeVisible();
  await expect(page.locator(".job")).toContainText(/Done.*recalculated/s, { timeout: 10_000 });
  await page.goto(`${app.address}/niches/1/judge`);
  await expect(caption).toContainText("Your reach");
  expect(await reach()).toBeGreaterThan(before + 10);
});

test("the whole story tells everything, and can be asked anew", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/judge`);
  await page.locator("#rows .idea a").first().press("Enter");
  await expect(page.getByRole("heading", { name: "How difficulty is computed" })).toBeVisible();
  await expect(page.locator(".result")).toHaveCount(10);
  await expect(page.locator(".verdict")).toContainText(/: \d+ %(, \d+–\d+)?\./);
  await expect(
    page.locator(".todo dt").filter({ hasText: /To get there|Your page|You can outrank/ }),
  ).not.toHaveCount(0);
  await expect(page.getByText("Fit, item by item")).toHaveCount(0);
  await page.locator(".result .open").first().focus();
  await page.keyboard.press("Enter");
  await expect(page.getByText("Fit, item by item")).toBeVisible();
  await expect(page.locator("#results .fit tbody tr")).toHaveCount(9);
  await expect(page.locator("main.story")).toContainText(
    /a site of that standing has a 50% chance of the top five.*8 of 10 of that lie in its\s+range/s,
  );
  await expect(page.getByText("Based on:")).toBeVisible();
  await page.getByRole("button", { name: /Check again \(at most \$0\.0\d+\)/ }).click();
  await expect(page.locator(".found")).toContainText("looked up just now", { timeout: 20_000 });
  await page.getByRole("button", { name: "Drop" }).click();
  await expect(page.getByRole("button", { name: "Drop" })).toHaveAttribute("aria-pressed", "true");
  await page.getByRole("link", { name: "Back to the list" }).click();
  await expect(page.locator("#trail li.here b")).toHaveText("Judge");
});

test("two niches are kept apart", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/new`);
  await page.getByLabel("Name").fill("Home brewing");
  await page.getByRole("button", { name: "Create niche" }).click();
  await page.getByLabel(/Paste phrases/).fill("feta brine\ncheese press");
  expect(await taken(page)).toContain("2 lines can be used");
  await page.goto(page.url().replace(/(niches\/\d+).*/, "$1/sift?show=all"));
  for (const phrase of await phrases(page)) expect(phrase).not.toContain("telescope");
  await page.locator(".picker summary").click();
  await page.getByRole("link", { name: "Backyard astronomy" }).click();
  await expect(page.locator("#trail li").first()).toContainText("ideas");
  await page.goto(app.address);
  await expect(page.locator(".picker summary")).toHaveText("Backyard astronomy");
});

test("a list of any length scrolls by wheel, bar and keys; rows are chosen over what is not on the page", async ({
  page,
  app,
}) => {
  await page.goto(`${app.address}/niches/1/sift`);
  const count = Number((await page.locator("#left b").innerText()).replace(/\D/g, ""));
  expect(await rows(page).count()).toBeLessThan(100);
  const place = () => page.locator("#rows > tr.selected").getAttribute("aria-rowindex");
  await page.locator("#rows .selected a").focus();
  await page.keyboard.press("End");
  await expect.poll(place).toBe(String(count));
  await expect(page.locator("#rows .selected a")).toBeFocused();
  await page.keyboard.press("Home");
  await expect.poll(place).toBe("1");
  await page.keyboard.press("PageDown");
  await expect.poll(place).not.toBe("1");
  // To the middle by the bar: rows come, each once, and few of them are on the page.
  await page.locator("#list").evaluate((list) => (list.scrollTop = list.scrollHeight / 2));
  const seen = () =>
    page.evaluate(() => {
      const box = document.querySelector("#list").getBoundingClientRect();
      const row = document.elementFromPoint(box.left + 200, box.top + box.height / 2)?.closest("#rows > tr");
      return Number(row?.getAttribute("aria-rowindex") ?? 0);
    });
  await expect.poll(seen).toBeGreaterThan(count / 2 - 20);
  const ids = await rows(page).evaluateAll((list) => list.map((r) => r.id));
  expect(new Set(ids).size).toBe(ids.length);
  expect(ids.length).toBeLessThan(300);
  // The selected idea is where it was, and keys go on from there.
  await page.keyboard.press("j");
  await expect.poll(async () => Number(await place())).toBeLessThan(60);
  // Chosen on the way, by keys.
  await page.keyboard.press("Home");
  await expect.poll(place).toBe("1");
  for (const key of ["J", "J", "K"]) await page.keyboard.press(key);
  await expect(page.locator("#chosen-count")).toHaveText("3");
  await page.getByRole("button", { name: "Clear selection", exact: true }).click();
  // From the first to one in the middle, with shift; and all but one.
  await page.keyboard.press("Home");
  await rows(page).first().locator('input[name="id"]').click();
  await page.locator("#list").evaluate((list) => (list.scrollTop = list.scrollHeight / 2));
  await expect.poll(seen).toBeGreaterThan(100);
  const middle = await seen();
  await page.locator(`#rows > tr[aria-rowindex="${middle}"] input[name="id"]`).click({ modifiers: ["Shift"] });
  await expect(page.locator("#chosen-count")).toHaveText(String(middle));
  await page.getByRole("button", { name: "Clear selection", exact: true }).click();
  await page.locator("#choose-all").click();
  const one = page.locator(`#${await rows(page).nth(3).getAttribute("id")} input[name="id"]`);
  await one.click();
  await expect(page.locator("#chosen-count")).toHaveText(String(count - 1));
  await one.click();
  await expect(page.locator("#chosen-count")).toHaveText(String(count));
  await page.getByRole("button", { name: "Clear selection", exact: true }).click();
  // Rows that are dropped leave no room behind them.
  await page.keyboard.press("Home");
  await expect.poll(place).toBe("1");
  for (let i = 1; i <= 3; i++) {
    await page.keyboard.press("x");
    await expect(page.locator("#rows")).toHaveAttribute("data-count", String(count - i));
  }
  for (let i = 2; i >= 0; i--) {
    await page.keyboard.press("u");
    await expect(page.locator("#left b")).toHaveText((count - i).toLocaleString("en"));
  }
  // An address that names an idea shows it among its neighbours.
  const last = await page.locator("#rows > tr").last().getAttribute("data-id");
  await page.goto(`${app.address}/niches/1/sift?idea=${last}`);
  await expect(page.locator("#rows > tr.selected")).toHaveAttribute("data-id", last);
  await expect(page.locator("#rows .selected a")).toBeInViewport();
});

test("a whole niche goes to a file and comes back as another niche", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/1/settings`);
  const [file] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Export niche" }).click(),
  ]);
  const path = await file.path();
  await page.goto(`${app.address}/niches/new`);
  await page
    .getByLabel("A niche exported")
    .setInputFiles({ name: "x.zip", mimeType: "application/zip", buffer: Buffer.from("no") });
  await page.getByRole("button", { name: "Import niche" }).click();
  await expect(page.getByText("is not a whole niche")).toBeVisible();
  await page.getByLabel("A niche exported").setInputFiles(path);
  await page.getByRole("button", { name: "Import niche" }).click();
  // Where it does not come back, what the page says of it is told.
  const told = async () =>
    (await page.locator(".picker summary, #whole-wrong, #notice").allInnerTexts()).join(" | ");
  await expect.poll(told, { timeout: 20_000 }).toContain("Backyard astronomy (2)");
  await expect(page.locator("#left b")).not.toHaveText("0");
  await page.goto(`${app.address}/niches/1/sift`); // which is the one opened last again
});
