import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: "./tests",
  // Each test starts a server of its own, on a data folder of its own.
  fullyParallel: true,
  workers: 2,
  // Wide enough for a busy machine with two cores: a slow step is no failure.
  timeout: 240_000,
  expect: { timeout: 20_000 },
  reporter: [["list"]],
  forbidOnly: true,
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
    actionTimeout: 30_000,
    trace: "retain-on-failure",
  },
});
