import { defineConfig } from "@playwright/test";
import { windowless } from "./browser.mjs";

export default defineConfig({
  testDir: "tests",
  globalSetup: "./tests/world",
  workers: 3,
  timeout: 240_000,
  expect: { timeout: 30_000 },
  reporter: [["line"], ["json", { outputFile: "test-results/report.json" }]],
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: windowless,
  },
});
