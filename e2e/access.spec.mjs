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
  engine: "/niches/1/engine",
  gather: "/niches/1/gather",
  roots: "/niches/1/gather/roots",
  pen: "/niches/1/gather/pen",
  cross: "/niches/1/gather/cross",
  "a page": "/niches/1/gather/page?at=nightporch.example&site=yes",
  "check a list": "/niches/1/check",
  "other words": "/niches/1/gather/words?of=how+to+find+saturn",
  down: "/niches/1/gather/down?open=telescope+for",
  settings: "/niches/1/settings",
  "new niche": "/niches/new",
  sources: "/asked",
  start: "/start",
  "the scale": "/scale",
  glossary: "/niches/1/glossary",
  "the map": "/niches/1/sift?view=map",
  sites: "/niches/1/sites",
  "a site": "/niches/1/sites/nightyard.example",
  rivals: "/niches/1/rivals",
  openings: "/niches/1/rivals/openings",
  "the case": "/niches/1/case?with=2",
  watch: "/niches/1/watch",
  "one page watched": "/niches/1/watch/1",
  "was the forecast right": "/niches/1/watch/right",
  "my pages": "/niches/1/watch/mine",
  "this week on paper": "/niches/1/watch/print",
  "links of rivals": "/niches/1/rivals/links",
  "what a result ranks for": "/niches/1/ideas/2/ranks?place=1",
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

async function check(page, name) {
  const { violations } = await new AxeBuilder({ page }).setLegacyMode().analyze(); // no page has frames
  expect(
    violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target).join(", ")}`),
    name,
  ).toEqual([]);
}

const widths = { wide: 1280, narrow: 1024, telephone: 390 };

// How far a page is wider than its window.
const over = (page) => page.evaluate(() => document.documentElement.scrollWidth - innerWidth);

for (const [name, width] of Object.entries(widths))
  for (const colorScheme of ["light", "dark"]) {
    test(`every view on a ${name} window, ${colorScheme}: axe finds nothing, nothing is cut off`, async ({
      page,
      at,
    }) => {
      test.skip(width !== widths.wide && process.env.WORLDS !== "all", "in CI, and by make test-all");
      await page.setViewportSize({ width, height: 800 });
      await page.emulateMedia({ colorScheme });
      for (const [name, path] of Object.entries(views)) {
        await page.goto(new URL(path, at("")).href);
        await check(page, name);
        expect(await over(page), `${name} is wider than its window`).toBeLessThanOrEqual(0);
      }
      await page.goto(new URL(views.judge, at("")).href);
      await page.locator("#rows .idea a").first().press("Enter");
      await expect(page.locator("main.story")).toBeVisible();
      await page.locator(".result .open").first().click();
      await expect(page.getByText("Fit, item by item")).toBeVisible();
      await page.getByText("Read it here").click();
      await page.locator(".copied .reading").waitFor();
      await check(page, "the whole story");
      expect(await over(page), "the story is wider than its window").toBeLessThanOrEqual(0);
      await page.getByRole("link", { name: "Who links to it" }).click();
      await page.getByRole("button", { name: "Compare" }).click();
      await expect(page.locator("#beside")).toBeVisible();
      await check(page, "links");
      expect(await over(page), "links are wider than their window").toBeLessThanOrEqual(0);
      await page.goto(new URL(views.judge, at("")).href);
      for (const box of (await page.locator('#rows input[name="id"]').all()).slice(0, 3)) await box.check();
      await page.getByRole("button", { name: "Compare" }).click();
      await page.locator("main.compare-page").waitFor();
      await check(page, "side by side");
      expect(await over(page), "side by side is wider than its window").toBeLessThanOrEqual(0);
      await page.goto(at("plan"));
      await page.goto(
        await page
          .locator("#running-sheet a", { hasText: "brief" })
          .first()
          .evaluate((a) => a.href),
      );
      await check(page, "a brief");
      expect(await over(page), "the brief is wider than its window").toBeLessThanOrEqual(0);
      await page.goto(new URL(views.sift, at("")).href);
      await page.locator("#rows .idea a").first().focus();
      await page.keyboard.press("?");
      await check(page, "keys");
      await page.keyboard.press("Escape");
      await page.getByRole("button", { name: "Look up all left" }).click();
      await expect(page.locator("#lookup form")).toBeVisible();
      await check(page, "the cost of a lookup");
    });
  }

test("magnified to 200 %, nothing is cut off", async ({ page, at }) => {
  await page.setViewportSize({ width: 640, height: 400 }); // 1280×800 at 200 % (WCAG 2.2, 1.4.4)
  for (const [name, path] of Object.entries(views)) {
    const answer = await page.goto(new URL(path, at("")).href);
    expect(answer.status(), name).toBe(name === "not found" ? 404 : 200);
    expect(await over(page), `${name} is wider than its window`).toBeLessThanOrEqual(0);
  }
});

test("what has the focus shows it, targets are large enough, and little moves", async ({ page, at }) => {
  await page.addInitScript(() => {
    window.moved = { sum: 0, what: [] };
    new PerformanceObserver((list) => {
      for (const e of list.getEntries()) {
        if (e.hadRecentInput) continue;
        window.moved.sum += e.value;
        for (const { node, previousRect: from, currentRect: to } of e.sources) {
          const name = node?.nodeType === 1 ? `${node.tagName}.${node.className}` : node?.parentElement?.className;
          window.moved.what.push(`${name} from ${from.x},${from.y} to ${to.x},${to.y}`);
        }
      }
    }).observe({ type: "layout-shift", buffered: true });
  });
  for (const path of ["sift", "group", "group?view=tree", "plan", "gather"]) {
    await page.goto(at(path), { waitUntil: "networkidle" });
    const moved = await page.evaluate(() => window.moved);
    expect(moved.sum, `${path} moves: ${moved.what.join("; ")}`).toBeLessThan(0.02);
    const small = await page.evaluate(() =>
      [
        ...document.querySelectorAll(
          "button, select, summary, .btn, input:not([type=checkbox], [type=radio], [type=hidden])",
        ),
      ]
        .filter((e) => !e.closest("[hidden], dialog, .visually-hidden") && !e.matches(".visually-hidden-focusable"))
        .map((e) => [e, e.getBoundingClientRect()])
        .filter(([, box]) => box.width && (box.width < 24 || box.height < 24))
        .map(([e, box]) => `${e.tagName}.${e.className} ${box.width}×${box.height}`),
    );
    expect(small, `${path} has small targets`).toEqual([]); // WCAG 2.2, 2.5.8
  }
  await page.goto(at("sift"));
  await page.keyboard.press("Tab");
  for (let i = 0; i < 12; i++) {
    await page.keyboard.press("Tab");
    const outline = await page.evaluate(() => {
      const s = getComputedStyle(document.activeElement);
      return `${document.activeElement.tagName} ${s.outlineStyle} ${s.outlineWidth}`;
    });
    expect(outline).toMatch(/solid 2px$/);
  }
});

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
