/**
 * The one way to know whether all is well: installs what a fresh machine lacks, then lint, types,
 * unit tests, build, browser tests and forty damaged files. Ends with a line `N passed, N failed`.
 */
import { existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
import { chromiumPackage, chromiumPath } from "./chromium.mjs";
import { buildWorker, ensureBuilt, ensureInstalled, run } from "./steps.mjs";

const counts = { passed: 0, failed: 0 };

/** How long a step may take; one that stalls must not take the others with it. */
const minutes = 20;
const runInTime = (program, options, env) => run(program, options, env, minutes);
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => process.exit(1));

/** Runs a step; a failure is counted and the rest still runs. */
async function step(name, work) {
  const begun = Date.now();
  console.log(`\n— ${name}`);
  try {
    await work();
    counts.passed++;
  } catch (error) {
    console.error(String(error.message ?? error));
    counts.failed++;
  }
  console.log(`— ${name}: ${((Date.now() - begun) / 1000).toFixed(0)} s`);
}

async function ensureChromium() {
  if (chromiumPath() !== null) return;
  console.log("Installing Chromium …");
  const env = { DEBIAN_FRONTEND: "noninteractive" };
  await runInTime("apt-get", ["update", "-q"], env);
  const install = (name) =>
    runInTime("apt-get", ["install", "-y", "-q", "--no-install-recommends", name], env);
  // Older releases have only the whole one.
  await install(chromiumPackage).catch(() => install("chromium"));
}

/** Takes the tests' own counts from a report in place of the one step that ran them. */
function countTests(file, read) {
  if (!existsSync(file)) return;
  const { passed, failed } = read(JSON.parse(readFileSync(file, "utf8")));
  counts.passed += passed - (failed === 0 ? 1 : 0);
  counts.failed += failed === 0 ? 0 : failed - 1;
}

const unitOptions = ["--json", "--outputFile=test-results/unit.json", "--maxWorkers=2"];

// Downloads wait for the network, not for a core; Chromium has time until the browser tests.
const chromium = step("Chromium", ensureChromium);
await ensureInstalled(minutes);
rmSync("test-results", { recursive: true, force: true });
mkdirSync("test-results", { recursive: true });
await buildWorker();

// Pages are built on one core, by and large; only browser tests need them.
await Promise.all([
  step("lint and types", () => runInTime("npx", ["oxlint", "--type-aware", "--type-check"]))
    .then(() =>
      step("format", () => runInTime("npx", ["oxfmt", "--check", "src", "bench", "e2e", "scripts"])),
    )
    .then(() => step("unit tests", () => runInTime("npm", ["test", "--silent", "--", ...unitOptions]))),
  step("build", () => ensureBuilt(minutes)),
]);
countTests("test-results/unit.json", (r) => ({
  passed: r.numPassedTests,
  failed: r.numFailedTests + r.numRuntimeErrorTestSuites,
}));
await chromium;
// Browser tests wait a good deal, so there is room for more beside them.
await Promise.all([
  step("browser tests", () => runInTime("npx", ["playwright", "test"])),
  step("damaged input", () =>
    runInTime("npx", [
      "tsx",
      "bench/robustness/fuzz.ts",
      "--files",
      "40",
      "--requests",
      "60",
      "--seconds",
      "40",
    ]),
  ),
]);
countTests("test-results/report.json", (r) => ({
  passed: r.stats.expected,
  failed: r.stats.unexpected + r.stats.flaky,
}));

console.log(`\n${counts.passed} passed, ${counts.failed} failed`);
process.exit(counts.failed === 0 ? 0 : 1);
