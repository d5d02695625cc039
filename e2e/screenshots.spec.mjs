// Makes docs/screenshots from the demo data. Only for `make screenshots`.
import { execFileSync } from "node:child_process";
import Papa from "papaparse";
import { test, expect, dataFile, demo, start, stop } from "./app.mjs";

test.skip(!process.env.SCREENSHOTS, "only for make screenshots");

test("screenshots", async ({ page }) => {
  const file = dataFile();
  const { child, address } = await demo("--data", file);
  const shot = async (name) => {
    await page.waitForTimeout(500);
    await page.screenshot({ path: `../docs/screenshots/${name}.png` });
  };
  await page.goto(`${address}/niches/1/judge`);
  for (let i = 0; i < 4; i++) await page.keyboard.press("j");
  await shot("judge");
  await page.locator("#rows .selected a").press("Enter");
  await page.locator("main.story").waitFor();
  await shot("story");
  for (const site of ["astronotes.example", "nightyard.example"]) {
    await page.goto(`${address}/niches/1/sites/${site}`);
    await page.getByRole("button", { name: "Follow" }).click();
    await page.locator(".ask-ranks").getByRole("button", { name: "Ask", exact: true }).click();
    await page.locator(".job", { hasText: "ranks for" }).getByText("Done").waitFor();
    await page.getByRole("button", { name: /Ask for its pages/ }).click();
  }
  await page.goto(`${address}/niches/1/rivals`);
  await shot("rivals");
  await page.goto(`${address}/niches/1/sites/astronotes.example`);
  await page.evaluate(() => document.querySelector("#ranks").scrollIntoView());
  await shot("rival");
  await page.goto(`${address}/niches/1/rivals/openings?searches-from=50&place-to=10`);
  await shot("openings");
  for (const niche of [3, 1]) {
    await page.goto(`${address}/niches/${niche}/case`);
    await page.getByRole("button", { name: /Look up \d+ topics/ }).click();
    await page.locator(".job").getByText("Done").waitFor();
  }
  await page.goto(`${address}/niches/1/case?with=2&with=3`);
  await page.getByRole("button", { name: /Ask how old/ }).click();
  await page.locator(".job").getByText("Done").waitFor();
  await page.goto(`${address}/niches/1/case?with=2&with=3`);
  await shot("case");
  await page.goto(`${address}/niches/1/sift?words=4&from=100&to=5000&lacks=jobs,login`);
  await page.keyboard.press("c");
  await page.keyboard.press("j");
  await page.keyboard.press("c");
  await page.locator("#lookup-chosen").click();
  await shot("sift");
  await page.goto(`${address}/niches/1/group?holds=saturn`);
  await shot("group");
  await page.goto(`${address}/niches/1/plan`);
  await shot("sheet");
  await page.goto(`${address}/niches/1/plan/calendar`);
  await page.locator(".calendar-name").getByRole("link").first().click();
  await page.locator("main.brief").waitFor();
  await shot("brief");
  await page.goto(`${address}/niches/1/gather`);
  await page.getByLabel("Seeds, one per line").fill("dobsonian telescope\nred flashlight");
  await page.getByRole("button", { name: "Gather" }).click();
  await page.waitForTimeout(700);
  await page.screenshot({ path: "../docs/screenshots/gather.png" });
  await page.locator(".job", { hasText: "dobsonian" }).getByText("Done").waitFor();
  // Last, since the demo's clock goes on: what was looked up goes out, and settles.
  const all = Papa.parse(await (await page.request.get(`${address}/niches/1/export.csv?show=all`)).text(), {
    header: true,
  }).data;
  const looked = all.filter((row) => Number(row["page-one chance"]) > 0).map((row) => row.phrase);
  execFileSync("../bin/cleverniche", ["plan", "add", "--data", file, "--niche", "Backyard astronomy", ...looked]);
  await page.goto(`${address}/niches/1/watch`);
  const publish = page.getByRole("button", { name: "Publish in the simulated web" }).first();
  for (let i = 0; i < 26 && (await publish.count()); i++) {
    await publish.click();
    await page.waitForLoadState();
  }
  await page.getByLabel("Weeks").fill("20");
  await page.getByRole("button", { name: "Move the clock" }).click();
  await page.locator(".job").getByText("Done").waitFor({ timeout: 120_000 });
  await page.goto(`${address}/niches/1/watch/mine`);
  await page.getByRole("button", { name: "Read the site" }).click();
  await page.locator(".job").getByText("Done").waitFor();
  await page.goto(`${address}/niches/1/watch/mine`);
  await shot("mine");
  await page.goto(`${address}/niches/1/watch/right`);
  await page.evaluate(() => document.querySelector("#right table").scrollIntoView());
  await shot("right");
  await page.goto(`${address}/niches/1/watch`);
  await shot("monday");
  await page.evaluate(() => document.querySelector("#strips").scrollIntoView());
  await shot("watch");
  await page.locator(".strips a").nth(1).click();
  await page.locator("#says").fill("added a table of positions");
  await page.getByLabel("On", { exact: true }).first().fill("2027-02-01");
  await page.getByRole("button", { name: "Add note" }).click();
  await page.waitForLoadState();
  await shot("forecast");
  await stop(child);
  // The same for a team.
  const common = ["--data", file, "--config", "/dev/null"];
  const team = start("cleverniche", "serve", "--sign-in", "yes", "--listen", "127.0.0.1:0", ...common);
  await expect.poll(() => team.output, { timeout: 30_000 }).toMatch(/Clever Niche is at \S+/);
  const at = team.output.match(/Clever Niche is at (\S+)/)[1];
  await page.goto(`${at}/sign-in`);
  await shot("sign-in");
  const people = ["people", "invite", "Ada", "--role", "owner", "--address", at];
  await page.goto(execFileSync("../bin/cleverniche", [...people, ...common], { encoding: "utf8" }).trim());
  await page.getByLabel("Password", { exact: true }).fill("four words in a row");
  await page.getByLabel("The same again").fill("four words in a row");
  await page.getByRole("button", { name: "Join" }).click();
  for (const [name, role] of [
    ["Ben", "editor"],
    ["Cyd", "writer"],
  ]) {
    await page.goto(`${at}/people`);
    await page.getByLabel("Name", { exact: true }).fill(name);
    await page.getByLabel("Role", { exact: true }).selectOption(role);
    await page.getByRole("button", { name: "Make a link" }).click();
  }
  await shot("people");
  await page.goto(`${at}/niches/1/watch`);
  await page.getByLabel("Phrases, one a line").fill("observing chair");
  await page.getByRole("button", { name: "Watch them" }).click();
  await page.goto(`${at}/audit`);
  await shot("audit");
  await stop(team);
});
