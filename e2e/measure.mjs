// Prints what the browser takes: no test, since machines differ. `make measure`.
import { existsSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "@playwright/test";
import { demo, serve, stop, freePort, dataFile } from "./app.mjs";

const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
const worst = (list) => Math.max(...list);

const { child, address } = await demo("--latency", "0s");
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM || "/usr/bin/chromium",
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

// A mesh changed, and another order, to new counts and first rows; of a million ideas, too, where
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
  const meshes = [];
  const orders = [];
  for (let i = 0; i < 24; i++) {
    meshes.push(
      await view.evaluate(
        (value) =>
          swapped(() => {
            const input = document.querySelector("#mesh-searches-from");
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
    ["a mesh changed", meshes],
    ["another order", orders],
  ]) {
    console.log(
      `${name}: ${what}, to new counts and rows, in ${median(list).toFixed(0)} ms (p95 ${p95(list).toFixed(0)} ms)`,
    );
  }
  await view.close();
}

const small = await demo("--latency", "0s");
await sifting("the demo", small.address, 150);
await stop(small.child);
const million = join(tmpdir(), "cleverniche-million.db");
if (existsSync(million)) {
  const port = await freePort();
  const app = await serve(port, 1, million);
  await sifting("a million ideas", `http://127.0.0.1:${port}`, 700);
  await stop(app);
}
await browser.close();

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
