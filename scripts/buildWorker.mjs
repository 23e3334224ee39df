/**
 * Bundles what runs outside the server's own thread: its decoding processes and its computing
 * threads to `dist`, where packages stay outside, and the audio thread of the pages to
 * `public/listening`, beside the stretching package, which loads itself into that thread and so must
 * be served as it is.
 */
import { copyFileSync, mkdirSync } from "node:fs";
import { build } from "esbuild";

const shared = { bundle: true, format: "esm", tsconfig: "tsconfig.json", logLevel: "warning" };

await build({
  ...shared,
  entryPoints: {
    decoding: "src/server/decoding/decodingProcess.ts",
    compute: "src/server/jobs/computeThread.ts",
  },
  outdir: "dist",
  outExtension: { ".js": ".mjs" },
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
