// What html-validate says of pages is as recorded: study/watch holds faults of my pages against it, where they overlap.
import { readFileSync, readdirSync, writeFileSync } from "node:fs";
import { HtmlValidate } from "html-validate";
import { test, expect } from "@playwright/test";

const folder = new URL("../study/watch/testdata/faults/", import.meta.url).pathname;

// Our faults, by the rules that say the same.
const rules = {
  "empty-title": "title",
  "element-required-content": "title",
  "long-title": "title long",
  "heading-level": "heading",
};

test("faults of pages that html-validate finds, too, are as recorded", async () => {
  const checker = new HtmlValidate({
    root: true,
    rules: {
      "empty-title": "error",
      "element-required-content": "error",
      "long-title": ["error", { maxlength: 70 }],
      "heading-level": ["error", { allowMultipleH1: false }],
    },
  });
  const found = {};
  for (const name of readdirSync(folder).filter((one) => one.endsWith(".html"))) {
    const report = await checker.validateString(readFileSync(folder + name, "utf8"));
    const messages = report.results.flatMap((result) => result.messages);
    found[name] = [
      ...new Set(
        messages.map((message) =>
          message.ruleId === "heading-level" && /Multiple/.test(message.message)
            ? "headings"
            : rules[message.ruleId],
        ),
      ),
    ].sort();
  }
  const record = `${folder}html-validate.json`;
  if (process.env.RECORD) writeFileSync(record, `${JSON.stringify(found, null, 2)}\n`);
  expect(found).toEqual(JSON.parse(readFileSync(record, "utf8")));
});
