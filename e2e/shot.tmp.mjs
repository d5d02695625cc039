import { chromium } from "@playwright/test";
const [url, out, js, scheme] = process.argv.slice(2);
const b = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox","--disable-gpu","--disable-background-networking","--disable-quic"] });
const p = await b.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: scheme || "light" });
await p.goto(url); await p.waitForTimeout(900);
if (js) { await p.evaluate(js); await p.waitForTimeout(900); }
await p.screenshot({ path: out }); await b.close();
