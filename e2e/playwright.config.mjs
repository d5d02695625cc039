import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: ".",
  testMatch: /.*\.spec\.mjs/,
  workers: 1,
  timeout: 120_000,
  reporter: [["list"]],
  outputDir: "test-results",
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env.CHROMIUM || "/usr/bin/chromium",
      args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-quic"],
    },
  },
});
