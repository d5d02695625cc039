// Prints what the browser takes: no test, since machines differ. `make measure`.
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
await browser.close();
await stop(child);

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
