import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { defineConfig } from "@playwright/test";
import { chromiumPath } from "./scripts/chromium.mjs";

const port = 3217;
// Kept in the environment: the configuration is read again in every worker.
process.env.E2E_DATA ??= mkdtempSync(path.join(tmpdir(), "plain-mirror-e2e-"));
/** Below it folders may be watched. */
process.env.E2E_FOLDERS ??= mkdtempSync(path.join(tmpdir(), "plain-mirror-renders-"));

export default defineConfig({
  testDir: "e2e",
  // Side by side; all share one server, and each begins a study of its own. Much of each is waiting.
  workers: 3,
  fullyParallel: true,
  // Room for a machine that is shared: a slow one must not look like a failure.
  timeout: 300_000,
  retries: 0,
  expect: { timeout: 60_000 },
  reporter: [["list"], ["json", { outputFile: "test-results/report.json" }]],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    // A page that has stopped drawing says so early.
    actionTimeout: 90_000,
    launchOptions: {
      executablePath: chromiumPath() ?? undefined,
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--autoplay-policy=no-user-gesture-required",
        "--disable-background-networking",
      ],
    },
    trace: "off",
  },
  webServer: {
    command: `npx next start -H 127.0.0.1 -p ${port}`,
    url: `http://127.0.0.1:${port}`,
    reuseExistingServer: false,
    // Parts are lifted out of mixes when a test asks to hear them: there are many files.
    env: {
      PLAIN_MIRROR_DATA: process.env.E2E_DATA,
      PLAIN_MIRROR_FOLDERS: process.env.E2E_FOLDERS,
      PLAIN_MIRROR_LENS: "asked",
      NEXT_TELEMETRY_DISABLED: "1",
    },
  },
});
