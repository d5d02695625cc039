// The ways in which ideas are gathered, and the pieces of work that go through them.
import { test, expect } from "./app.mjs";

test("seeds come from prompts and from roots, and grow together in rounds", async ({ page, app }) => {
  await page.goto(`${app.address}/niches/new`);
  await page.getByLabel("Name").fill("Pen and roots");
  await page.getByRole("button", { name: "Create niche" }).click();
  const gather = page.url();
  await page.getByRole("link", { name: "Ten minutes with a pen" }).click();
  await page.getByLabel("With what is it done?").fill("telescope eyepiece\nstar chart");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.locator("main")).toContainText("Saved.");
  await expect(page.locator("#estimate")).toContainText("2 seeds: at most");
  await page.getByLabel("star chart").uncheck();
  await expect(page.locator("#estimate")).toContainText("1 seed: at most");
  await page.getByRole("button", { name: "Gather from the ticked" }).click();
  await page.locator(".job", { hasText: "telescope eyepiece" }).getByText("Done").waitFor();
  await page.getByRole("link", { name: "Roots of your ideas" }).click();
  await page.locator("input[name=seed]").nth(0).check();
  const root = await page.locator("input[name=seed]").nth(0).getAttribute("value");
  await page.getByLabel("the seed plus each letter").uncheck();
  await page.getByLabel("question words plus the seed").uncheck();
  await page.getByRole("button", { name: "Gather from the ticked" }).click();
  await page.locator(".job", { hasText: root }).getByText("Done").waitFor();

  await page.goto(gather);
  await page.getByLabel("Seeds, one per line").fill("star chart");
  await page.getByLabel("the seed plus each letter").uncheck();
  await page.getByLabel("Words that no idea may hold").fill("best");
  await page.getByText("Several rounds").click();
  await page.getByLabel("Rounds", { exact: true }).fill("3");
  await page.getByLabel("Lookups at most").fill("60");
  await expect(page.locator("#estimate")).toContainText("at most");
  await page.getByRole("button", { name: "Gather", exact: true }).click();
  const job = page.locator(".job", { hasText: "“star chart”" });
  await job.getByText("Done").waitFor();
  const lookups = Number((await job.innerText()).match(/(\d+) lookups/)[1]);
  expect(lookups).toBeGreaterThan(16); // more than one round
  await expect(page.getByLabel("Words that no idea may hold")).toHaveValue("best");
  await page.goto(gather.replace("gather", "sift?holds=best"));
  await expect(page.locator("#rows")).not.toContainText("best star chart");
});

test("the way down is walked by keys, dug from, sifted by and dropped, and that is undone", async ({
  page,
  at,
}) => {
  await page.goto(at("gather"));
  await page.getByRole("link", { name: "The way down" }).click();
  const twig = (name) => page.locator(".twig", { hasText: name }).first();
  const focused = page.locator(".twig:focus");
  await twig("star tracker").focus();
  await page.keyboard.press("ArrowRight");
  await expect(twig("star tracker")).toHaveAttribute("aria-expanded", "true");
  await page.keyboard.press("ArrowRight");
  await expect(focused).toContainText("letters and digits");
  await page.keyboard.press("ArrowRight");
  await expect(focused).toHaveAttribute("aria-expanded", "true");
  await page.keyboard.press("ArrowRight");
  await expect(focused).toHaveAttribute("aria-level", "3");
  const phrase = (await focused.locator("th").innerText()).trim();
  await page.reload(); // what was unfolded stays so
  await twig(phrase).focus();
  await page.keyboard.press("ArrowLeft");
  await expect(focused).toContainText("letters and digits"); // climbed back
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("g");
  await page.locator(".job", { hasText: phrase }).getByText("Done").waitFor();
  await page.goBack();
  await expect(twig(phrase)).toContainText("dug");
  await twig("letters and digits").focus();
  await page.keyboard.press("x");
  await expect(page.locator("#notice")).toContainText(/Dropped \d+ ideas. Press u to undo./);
  const dropped = Number((await page.locator("#notice").innerText()).match(/Dropped (\d+)/)[1]);
  await expect(focused.locator("td").nth(5)).toHaveText(String(dropped));
  await page.keyboard.press("u");
  await expect(page.locator("#notice")).toContainText(String(dropped));
  await page.reload();
  await twig("star tracker").focus();
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/sift\?branch=star%20tracker/);
  await expect(page.locator("#left")).toContainText("left of");
  await expect(page.locator("#sieve-body")).toContainText("Under the branch");
});

test("a list that was sold is checked apart, falls filter by filter, and its searched wordings are taken in", async ({
  page,
  at,
}) => {
  await page.goto(at("gather"));
  await page.getByRole("link", { name: "Check a list" }).click();
  await page.getByLabel("Name of the list").fill("sure things");
  await page
    .getByLabel("Phrases, one per line")
    .fill(
      "can you see saturn with binoculars\ntelescope for a beginner adult person\nhow to find andromeda\n" +
        "how far away is saturn\nbest telescope for kids\nsolar filter homemade ok\nhow to see saturn",
    );
  await page.getByRole("button", { name: "Check it" }).click();
  await expect(page.locator(".sum")).toContainText("Of 7 phrases:");
  await expect(page.locator(".sum")).toContainText("3 not searched", { timeout: 20_000 });
  await page.getByLabel("Sieve").selectOption("Long tail");
  await page.getByRole("button", { name: "Apply" }).click();
  await expect(page.locator(".sum")).toContainText("2 pass");
  await page.getByLabel("Words at least").fill("4"); // a bar is moved, and some come back
  await page.getByLabel("Words at least").press("Tab");
  await expect(page.locator(".sum")).toContainText("4 pass");
  await page.getByRole("button", { name: /^Look for searched wordings of 3/ }).click();
  const line = page.locator("tr", { hasText: "telescope for a beginner adult person" });
  await expect(line).toContainText("telescope for beginners", { timeout: 20_000 });
  const report = page.waitForEvent("download");
  await page.getByRole("link", { name: "CSV" }).click();
  expect((await report).suggestedFilename()).toMatch(/\.csv$/);
  await page.getByLabel("with the searched wordings").check();
  await page.getByRole("button", { name: /^Import the 4 that pass into/ }).click();
  await expect(page).toHaveURL(/niches\/1\/gather/);
});

test("lists of words are crossed, and what people search is kept", async ({ page, at }) => {
  await page.goto(at("gather"));
  await page.getByRole("link", { name: "Combine words" }).click();
  await page.getByLabel("List 1").fill("telescope\nbinoculars\nstar tracker");
  await page.locator(".offers").nth(1).getByRole("button", { name: "ends found here" }).click();
  await expect(page.locator("#crossed")).toContainText(/\d+ phrases: at most/);
  await page.getByLabel("List 2").fill("beginners\nkids\ndentists");
  await page.getByLabel("Words between").fill("for");
  await expect(page.locator("#crossed")).toContainText("9 phrases: at most");
  await expect(page.locator("#crossed")).toContainText("star tracker for dentists");
  await page.getByRole("button", { name: "Combine", exact: true }).click();
  const job = page.locator(".job", { hasText: "telescope … × beginners …" });
  await job.getByText("Done").waitFor();
  await page.goto(at("sift?source=combination"));
  await expect(page.locator("#rows")).toContainText("telescope for beginners");
  await expect(page.locator("#rows")).not.toContainText("dentists");
});

test("a pattern is filled, its lookups are shown before; a page is read; a report is told", async ({
  page,
  at,
}) => {
  await page.goto(at("gather"));
  await page.getByLabel("Seeds, one per line").fill("can you see * with binoculars");
  await expect(page.locator("#estimate")).toContainText("at most");
  await page.getByText("What is looked up").click();
  await expect(page.locator("#estimate")).toContainText("can you see b");
  await page.getByText("Save this gathering").click();
  await page.getByLabel("Save it with the niche").check();
  await page.getByRole("button", { name: "Gather", exact: true }).click();
  await page.locator(".job", { hasText: "can you see" }).getByText("Done").waitFor();
  await page.reload();
  await page
    .locator(".kept-gatherings")
    .getByRole("link", { name: /new idea/ })
    .click();
  await expect(page.locator("main")).toContainText("with binoculars");

  await page.goto(at("gather"));
  await page.getByRole("link", { name: "A page or a site" }).click();
  await page.getByLabel("Address of a page").fill("nightporch.example");
  await page.getByLabel("its whole site").check();
  await page.getByRole("button", { name: "Read it" }).click();
  await expect(page.locator("#about")).toContainText(/\d+ of \d+ pages are read/, { timeout: 30_000 });
  await page.locator("#about input[name=seed]").nth(2).check();
  const phrase = await page.locator("#about input[name=seed]").nth(2).getAttribute("value");
  await page.getByRole("button", { name: "Add the ticked as ideas" }).click();
  await page.goto(at("sift?source=page"));
  await expect(page.locator("#rows")).toContainText(phrase);

  await page.goto(at("gather"));
  await page
    .getByLabel(/Paste phrases/)
    .fill("Top queries,Clicks,Impressions,CTR,Position\nhow to clean eyepieces,7,400,1.75%,13.4\nsky,1,90,1%,2\n");
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await page.getByRole("button", { name: /^Import 2/ }).click();
  await page.locator(".job", { hasText: "Import" }).first().getByText("Done").waitFor();
  await page.goto(at("gather"));
  await page.getByRole("link", { name: "Your search report" }).click();
  await expect(page.locator("main")).toContainText("how to clean eyepieces");
  await expect(page.locator("main")).toContainText("13.4");
});

test("a pattern with a gap: quick questions, of which those with four footholds are found", async ({
  page,
  at,
}) => {
  await page.goto(at("gather"));
  await page.getByLabel("Seeds, one per line").fill("can you see * with binoculars");
  await page.getByRole("button", { name: "Gather", exact: true }).click();
  await page.locator(".job", { hasText: "can you see" }).getByText("Done").waitFor();
  const asked = "can+you+see+*+with+binoculars";
  await page.goto(at(`sift?fits=${asked}&searches-from=10&footholds=4`));
  const line = page.locator("#toll");
  await expect(line).toContainText(/\d+ not looked up:\s+at most\s+\$\d/);
  await line.getByRole("button", { name: "look up" }).click();
  await page.getByRole("button", { name: "Start" }).click();
  await page.locator(".job", { hasText: "Look up" }).first().getByText(/Done/).waitFor({ timeout: 60_000 });
  await page.goto(at(`sift?fits=${asked}&searches-from=10&footholds=3`));
  await expect(page.locator("#rows")).toContainText("can you see");
  await page.keyboard.press("Enter");
  await expect(page.locator("main.story h1")).toContainText("with binoculars");
  await expect(page.locator("main.story")).toContainText(/words/); // how long what ranks is
});

test("a crowded subject: roots are fed back, and long phrases that nobody has in the title are found", async ({
  page,
  at,
}) => {
  await page.goto(at("gather/roots"));
  for (const n of [0, 1, 2]) await page.locator("input[name=seed]").nth(n).check();
  await expect(page.locator("#estimate")).toContainText("3 seeds: at most");
  await page.getByRole("button", { name: "Gather from the ticked" }).click();
  await page.locator(".job").first().getByText("Done").waitFor({ timeout: 60_000 });
  await page.goto(at("sift?words=5&searches-from=100"));
  await expect(page.locator("#left")).toContainText("left of");
  await page.keyboard.press("c");
  await page.keyboard.press("j");
  await page.keyboard.press("c");
  await page.locator("#lookup-chosen").click();
  await page.getByRole("button", { name: "Start" }).click();
  await page.locator(".job", { hasText: "Look up" }).first().getByText(/Done/).waitFor({ timeout: 60_000 });
  await page.goto(at("sift?words=5&searches-from=100&judged=yes"));
  await page.locator("#rows .idea a").first().click();
  await page.keyboard.press("Enter");
  await expect(page.locator("main.story")).toContainText(/title/);
  await page.goto(at("gather/down")); // and which seed was it that brought them?
  await expect(page.locator(".twig").first()).toBeVisible();
});
