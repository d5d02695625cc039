// Prints what the browser takes: no test, since machines differ. `make measure`.
import { existsSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "@playwright/test";
import { demo, serve, start, stop, freePort, dataFile } from "./app.mjs";

const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
const worst = (list) => Math.max(...list);

const { child, address } = await demo("--latency", "0s");
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-quic"],
});

// Bytes over the wire of the first load, nothing cached.
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const cdp = await page.context().newCDPSession(page);
await cdp.send("Network.enable");
let bytes = 0;
let requests = 0;
cdp.on("Network.loadingFinished", (e) => {
  bytes += e.encodedDataLength;
  requests++;
});
await page.goto(address);
await page.waitForTimeout(1000);
console.log(`first load: ${(bytes / 1000).toFixed(0)} kB over the wire in ${requests} requests`);

// From the key to the new evidence drawn, on judged and unjudged ideas.
await page.goto(`${address}/niches/1/judge`);
const times = [];
for (let i = 0; i < 30; i++) {
  times.push(
    await page.evaluate(
      () =>
        new Promise((done) => {
          const begun = performance.now();
          const watch = new MutationObserver(() => {
            watch.disconnect();
            requestAnimationFrame(() => done(performance.now() - begun));
          });
          watch.observe(document.querySelector("#drawer"), { childList: true });
          document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "j", bubbles: true }));
        }),
    ),
  );
  await page.waitForTimeout(60);
}
console.log(
  `a keyboard move refreshes the drawer in ${median(times).toFixed(0)} ms ` +
    `(median of ${times.length}, worst ${worst(times).toFixed(0)} ms)`,
);
await stop(child);

// A filter changed, and another order, to new counts and first rows; of a million ideas, too, where
// there is such a data file (make measure makes it).
const p95 = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length * 0.95)];

async function sifting(name, at, pause) {
  const view = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await view.addInitScript(() => {
    window.swapped = (act) =>
      new Promise((done) => {
        const begun = performance.now();
        const watch = new MutationObserver(() => {
          watch.disconnect();
          requestAnimationFrame(() => done(performance.now() - begun));
        });
        watch.observe(document.querySelector("#list"), { childList: true });
        act();
      });
  });
  const begun = performance.now();
  await view.goto(`${at}/niches/1/sift?words=2&searches-from=10`);
  await view.locator("#rows tr").first().waitFor();
  const shown = performance.now();
  await view.waitForTimeout(1500); // the chips come after the list
  console.log(`${name}: shown at first in ${((shown - begun) / 1000).toFixed(2)} s`);
  const filters = [];
  const orders = [];
  for (let i = 0; i < 24; i++) {
    filters.push(
      await view.evaluate(
        (value) =>
          swapped(() => {
            const input = document.querySelector("#filter-searches-from");
            input.value = value;
            input.dispatchEvent(new Event("input", { bubbles: true }));
          }),
        20 + 97 * i,
      ),
    );
    await view.waitForTimeout(pause);
    orders.push(
      await view.evaluate(
        (key) => swapped(() => document.querySelector(`#list th[data-key="${key}"] a`).click()),
        ["searches", "words", "cpc"][i % 3],
      ),
    );
    await view.waitForTimeout(pause);
  }
  for (const [what, list] of [
    ["a filter changed", filters],
    ["another order", orders],
  ]) {
    console.log(
      `${name}: ${what}, to new counts and rows, in ${median(list).toFixed(0)} ms (p95 ${p95(list).toFixed(0)} ms)`,
    );
  }
  await view.goto(`${at}/niches/1/sift`);
  await view.waitForTimeout(1500);
  await scrolling(name, view);
  await frames(name, view, at);
  await view.close();
}

// How long what is seen of the list stays without rows, after jumps anywhere in it and while
// a wheel turns.
async function scrolling(name, view) {
  const blank = (top) =>
    view.evaluate(
      (to) =>
        new Promise((done) => {
          const list = document.querySelector("#list");
          const box = list.getBoundingClientRect();
          const there = (y) => document.elementFromPoint(box.left + 200, y)?.closest("#rows");
          const begun = performance.now();
          list.scrollTop = to <= 1 ? to * list.scrollHeight : list.scrollTop + to;
          requestAnimationFrame(function look() {
            const took = performance.now() - begun;
            if ((there(box.top + 60) && there(box.bottom - 25)) || took > 3000) done(took);
            else requestAnimationFrame(look);
          });
        }),
      top,
    );
  await blank(0.5);
  await view.waitForTimeout(400);
  const jumps = [];
  const turns = [];
  for (let i = 0; i < 20; i++) {
    jumps.push(await blank(((i * 7) % 20) / 20));
    await view.waitForTimeout(250);
    for (let k = 0; k < 5; k++) turns.push(await blank(120));
  }
  for (const [what, list] of [
    ["jumps", jumps],
    ["turns of the wheel, 120 pixels each", turns],
  ])
    console.log(`${name}: ${what}: rows in ${median(list).toFixed(0)} ms (p95 ${p95(list).toFixed(0)} ms)`);
}

// Frames while the map is dragged and zoomed.
async function frames(name, view, at) {
  await view.goto(`${at}/niches/1/sift?view=map`);
  await view.locator("#map canvas, canvas").first().waitFor();
  await view.waitForTimeout(2500);
  const box = await view.locator("canvas").first().boundingBox();
  await view.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  const counted = view.evaluate(
    () =>
      new Promise((done) => {
        const gaps = [];
        let last = performance.now();
        const begun = last;
        requestAnimationFrame(function next(now) {
          gaps.push(now - last);
          last = now;
          if (now - begun < 3000) requestAnimationFrame(next);
          else done(gaps.slice(2));
        });
      }),
  );
  for (let i = 0; i < 40; i++) {
    await view.mouse.wheel(0, i % 20 < 10 ? -120 : 120);
    await view.waitForTimeout(50);
  }
  const gaps = await counted;
  console.log(
    `${name}: the map while it is zoomed: ${(1000 / median(gaps)).toFixed(0)} frames a second ` +
      `(slowest of twenty ${(1000 / p95(gaps)).toFixed(0)})`,
  );
}

const small = await demo("--latency", "0s");
await sifting("the demo", small.address, 150);
await stop(small.child);

// Five thousand ideas, read from a list.
const words = ["best", "moon", "map", "how", "to", "see", "dark", "star", "chart", "for", "beginners", "cheap"];
const phrase = (i) => Array.from({ length: 3 }, (_, k) => words[(i * (k + 5) + (i >> (3 * k))) % 12]).join(" ");
const list = join(tmpdir(), "five-thousand.csv");
writeFileSync(
  list,
  "phrase,searches,cpc\n" +
    Array.from({ length: 5000 }, (_, i) => `${phrase(i)} ${i},${(i * 7919) % 4000},${(i % 300) / 100}\n`).join(""),
);
const five = dataFile();
for (const command of [
  ["niche", "Five thousand"],
  ["import", "--yes", list],
])
  await start("cleverniche", ...command, "--data", five, "--config", "/dev/null").ended;
const middle = await freePort();
const fives = await serve(middle, 1, five);
await sifting("5,000 ideas", `http://127.0.0.1:${middle}`, 200);
await stop(fives);

const million = join(tmpdir(), "cleverniche-million.db");
if (existsSync(million)) {
  const port = await freePort();
  const app = await serve(port, 1, million);
  await sifting("a million ideas", `http://127.0.0.1:${port}`, 700);
  await stop(app);
}
// Topics regrouped on the slider, and a sowing dragged over the calendar.
const crowd = join(tmpdir(), "cleverniche-crowd.db");
if (existsSync(crowd)) {
  const port = await freePort();
  const app = await serve(port, 1, crowd);
  await grouping(`http://127.0.0.1:${port}`);
  await stop(app);
}
await browser.close();

async function grouping(at) {
  const view = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const shown = [];
  for (let i = 0; i < 6; i++) {
    const begun = performance.now();
    await view.goto(`${at}/niches/1/group`);
    await view.locator("#rows tr").first().waitFor();
    shown.push(performance.now() - begun);
  }
  const says = await view.locator("#grouped-says").innerText();
  const moved = [];
  for (let i = 0; i < 21; i++) {
    moved.push(
      await view.evaluate(
        (value) =>
          new Promise((done) => {
            const begun = performance.now();
            const watch = new MutationObserver(() => {
              watch.disconnect();
              requestAnimationFrame(() => done(performance.now() - begun));
            });
            watch.observe(document.querySelector("#list"), { childList: true });
            const slider = document.querySelector("#shared");
            slider.value = value;
            slider.dispatchEvent(new Event("input", { bubbles: true }));
          }),
        2 + (i % 7),
      ),
    );
    await view.waitForTimeout(400);
  }
  console.log(
    `${says} Shown in ${median(shown.slice(1)).toFixed(0)} ms (the first time ${shown[0].toFixed(0)}); ` +
      `the slider moved, another list shown: ${median(moved).toFixed(0)} ms (p95 ${p95(moved).toFixed(0)})`,
  );
  await view.evaluate(async () => {
    const rows = [...document.querySelectorAll("#rows > tr")].slice(0, 24);
    const token = document.querySelector('meta[name="csrf"]').content;
    const post = (path, values) =>
      fetch(`/niches/1/${path}`, {
        method: "POST",
        body: new URLSearchParams(values),
        headers: { "X-Csrf-Token": token, "HX-Request": "true" },
      });
    await post(
      "aside",
      rows.map((row) => ["id", row.dataset.id]),
    );
    await post("plan/lay-out", []);
  });
  await view.goto(`${at}/niches/1/plan/calendar`);
  const sowings = await view.locator(".sown").count();
  const box = await view.locator(".sown .write").nth(5).boundingBox();
  await view.mouse.move(box.x + 3, box.y + 8);
  await view.mouse.down();
  await view.evaluate(() => {
    window.stamps = [];
    const look = (t) => window.stamps.push(t) < 400 && requestAnimationFrame(look);
    requestAnimationFrame(look);
  });
  for (let i = 0; i < 120; i++) {
    await view.mouse.move(box.x + 3 + 4 * Math.abs(60 - i), box.y + 8);
    await view.waitForTimeout(8);
  }
  const stamps = await view.evaluate(() => window.stamps);
  await view.mouse.up();
  const gaps = stamps.slice(1).map((t, i) => t - stamps[i]);
  const rate = (1000 * gaps.length) / gaps.reduce((a, b) => a + b, 0);
  const over = gaps.filter((gap) => gap > 20).length;
  console.log(
    `a sowing of ${sowings} dragged: ${rate.toFixed(0)} frames a second, ` +
      `${over} of ${gaps.length} frames later than 20 ms`,
  );
  await view.close();
}

// Ready on an existing data file.
const data = dataFile();
await stop(await serve(await freePort(), 1, data));
const ready = [];
for (let i = 0; i < 5; i++) {
  const port = await freePort();
  const begun = performance.now();
  const app = await serve(port, 1, data);
  ready.push(performance.now() - begun);
  await stop(app);
}
console.log(
  `ready on an existing data file in ${median(ready).toFixed(0)} ms (median of ${ready.length}; asked every 50 ms)`,
);
process.exit(0);
