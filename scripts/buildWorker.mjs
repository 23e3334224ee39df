/**
 * Bundles what runs in threads of its own: the worker of the server to `dist/worker.mjs`, where
 * packages stay outside, and the audio thread of the pages to `public/listening`, beside the
 * stretching package, which loads itself into that thread and so must be served as it is.
 */
import { copyFileSync, mkdirSync } from "node:fs";
import { build } from "esbuild";

const shared = { bundle: true, format: "esm", tsconfig: "tsconfig.json", logLevel: "warning" };

await build({
  ...shared,
  entryPoints: ["src/server/worker.ts"],
  outfile: "dist/worker.mjs",
  platform: "node",
  target: "node20",
  packages: "external",
});

mkdirSync("public/listening", { recursive: true });
await build({
  ...shared,
  entryPoints: ["src/listening/engine/worklet.ts"],
  outfile: "public/listening/mixer.js",
  platform: "browser",
  target: "es2022",
});
copyFileSync(
  "node_modules/signalsmith-stretch/SignalsmithStretch.mjs",
  "public/listening/SignalsmithStretch.mjs",
);
