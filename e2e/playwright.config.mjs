import { existsSync } from "node:fs";
import { defineConfig } from "@playwright/test";

// Debian's Chromium; its build without windows, where it is installed, takes a third less time.
const chromium = ["/usr/bin/chromium-headless-shell", "/usr/bin/chromium"].find(existsSync);

export default defineConfig({
  testDir: ".",
  testMatch: /.*\.spec\.mjs/,
  globalSetup: "./prepare.mjs",
  fullyParallel: true,
  workers: 2,
  timeout: 300_000, // machines are shared: at times one is a tenth as fast as at others
  expect: { timeout: 20_000 },
  reporter: [["list"]],
  outputDir: "test-results",
  use: {
    timezoneId: process.env.TZ,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? chromium,
      args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-quic"],
    },
  },
});
