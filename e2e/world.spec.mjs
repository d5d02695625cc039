// What the stand-in's sites serve, read by packages that others wrote.
import { request } from "node:http";
import { Readable } from "node:stream";
import { HtmlValidate } from "html-validate";
import { parseSitemap } from "sitemap";
import { test, expect, standin, stop, freePort } from "./app.mjs";

// The HTML standard, without rules of style. Pages that are broken on purpose are
// not in the truth, and so not tried.
const validator = new HtmlValidate({ extends: ["html-validate:standard"] });

let port, web;
test.beforeAll(async () => {
  port = await freePort();
  web = await standin(port);
});
test.afterAll(() => stop(web));

const get = (host, path) =>
  new Promise((done, failed) => {
    request({ port, host: "127.0.0.1", path, headers: { Host: host } }, (res) => {
      const parts = [];
      res
        .on("data", (d) => parts.push(d))
        .on("end", () => done({ status: res.statusCode, body: Buffer.concat(parts).toString() }));
    })
      .on("error", failed)
      .end();
  });

test("pages of every kind are valid HTML", async () => {
  const { Pages } = JSON.parse((await get("127.0.0.1", "/lab/truth")).body);
  const tried = new Map();
  const wrong = [];
  for (const [i, p] of Pages.entries()) {
    if (i % 7 || (tried.get(p.Kind) ?? 0) >= 5) continue;
    tried.set(p.Kind, (tried.get(p.Kind) ?? 0) + 1);
    const { host, pathname } = new URL(p.URL);
    const { status, body } = await get(host, pathname);
    expect(status, p.URL).toBe(200);
    const { results } = await validator.validateString(body);
    for (const m of results[0]?.messages ?? []) wrong.push(`${p.Kind} ${p.URL}:${m.line} ${m.ruleId} ${m.message}`);
  }
  expect([...tried.keys()].sort()).toEqual([
    "article",
    "comparison",
    "entry",
    "home",
    "howto",
    "official",
    "product",
    "review",
    "shelf",
    "thread",
    "tool",
    "video",
  ]);
  expect(wrong).toEqual([]);
});

test("sitemaps are read by a sitemap library", async () => {
  const vertices = (await get("127.0.0.1", "/links/v1/graph/vertices")).body
    .trim()
    .split("\n")
    .map((l) => l.split("\t")[1]);
  for (const host of vertices.filter((_, i) => i % 61 === 0)) {
    const items = await parseSitemap(Readable.from([(await get(host, "/sitemap.xml")).body]));
    expect(items.length, host).toBeGreaterThan(0);
    for (const item of items) {
      expect(new URL(item.url).host).toBe(host);
      expect(Date.parse(item.lastmod)).not.toBeNaN();
    }
  }
});
