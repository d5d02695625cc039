// Every view, in both themes: axe finds nothing, and the HTML is valid.
import AxeBuilder from "@axe-core/playwright";
import { HtmlValidate } from "html-validate";
import { test, expect } from "./app.mjs";

// Short lists: axe looks at every row, and they are all alike.
const views = {
  sift: "/niches/1/sift?from=2500",
  "an empty list": "/niches/1/sift?words=20",
  judge: "/niches/1/judge?difficulty=50",
  group: "/niches/1/group?holds=saturn",
  hubs: "/niches/1/group?view=tree",
  "nothing to group": "/niches/1/group?words=20",
  plan: "/niches/1/plan",
  calendar: "/niches/1/plan/calendar",
  choice: "/niches/1/plan/choice",
  "my pages": "/niches/1/plan/actions",
  gather: "/niches/1/gather",
  settings: "/niches/1/settings",
  "new niche": "/niches/new",
  "the scale": "/scale",
  glossary: "/niches/1/glossary",
  "the map": "/niches/1/sift?view=map",
  sieves: "/niches/1/sieves",
  "not found": "/nosuch",
};

// Rules of style that are not about validity are left out.
const validator = new HtmlValidate({
  extends: ["html-validate:recommended"],
  rules: {
    "void-style": "off",
    "no-trailing-whitespace": "off",
    "long-title": "off",
    "attr-quotes": "off",
    "doctype-style": "off",
    "prefer-native-element": "off",
    "no-implicit-button-type": "off",
    "no-redundant-role": "off",
    "text-content": "off",
    "require-sri": "off",
    "svg-focusable": "off",
    "attribute-boolean-style": "off",
    "attribute-empty-style": "off",
    "form-dup-name": ["error", { shared: ["radio", "checkbox"] }],
  },
});

// Themes differ in their colours alone: all else is the same page, and looked at in one of them.
const rules = { light: null, dark: ["color-contrast"] };

async function check(page, name, only) {
  const axe = new AxeBuilder({ page }).setLegacyMode(); // no page has frames
  const { violations } = await (only ? axe.withRules(only) : axe).analyze();
  expect(
    violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target).join(", ")}`),
    name,
  ).toEqual([]);
}

test.describe.configure({ timeout: 120_000 });

for (const [colorScheme, only] of Object.entries(rules)) {
  test(`axe finds nothing in the ${colorScheme} theme`, async ({ page, app }) => {
    await page.emulateMedia({ colorScheme });
    for (const [name, path] of Object.entries(views)) {
      await page.goto(app.address + path);
      await check(page, name, only);
    }
    await page.goto(app.address + views.judge);
    await page.locator("#rows .idea a").first().press("Enter");
    await expect(page.locator("main.story")).toBeVisible();
    for (const d of await page.locator(".result").first().locator("summary").all()) await d.click();
    await check(page, "the whole story", only);
    await page.goto(app.address + views.sift);
    await page.keyboard.press("?");
    await check(page, "keys", only);
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Look up all left" }).click();
    await expect(page.locator("#lookup form")).toBeVisible();
    await check(page, "the cost of a lookup", only);
  });
}

test("served HTML is valid", async ({ page, app }) => {
  for (const [name, path] of Object.entries(views)) {
    const html = await page.request.get(app.address + path).then((r) => r.text());
    const report = await validator.validateString(html);
    expect(
      report.results.flatMap((r) => r.messages.map((m) => `${m.line}: ${m.ruleId}: ${m.message}`)),
      name,
    ).toEqual([]);
  }
});

for (const width of [1024, 700]) {
  test(`usable ${width} pixels wide`, async ({ page, app }) => {
    await page.setViewportSize({ width, height: 800 });
    for (const path of [views.judge, views.gather]) {
      await page.goto(app.address + path);
      const over = await page.evaluate(
        () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
      );
      expect(over, path).toBeLessThanOrEqual(0);
    }
    await page.goto(app.address + views.judge);
    await expect(page.locator("#rows .idea").first()).toBeVisible();
  });
}
