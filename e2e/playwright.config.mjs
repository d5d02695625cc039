import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: ".",
  testMatch: /.*\.spec\.mjs/,
  globalSetup: "./prepare.mjs",
  fullyParallel: true,
  workers: 2,
  timeout: 120_000,
  reporter: [["list"]],
  outputDir: "test-results",
  use: {
    timezoneId: process.env.TZ,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env.CHROMIUM || "/usr/bin/chromium",
      args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-quic"],
    },
  },
});
