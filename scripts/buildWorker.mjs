/** Bundles the entry of the worker threads to `dist/worker.mjs`; packages stay outside. */
import { build } from "esbuild";

await build({
  entryPoints: ["src/server/worker.ts"],
  outfile: "dist/worker.mjs",
  bundle: true,
  platform: "node",
  format: "esm",
  target: "node20",
  packages: "external",
  tsconfig: "tsconfig.json",
  logLevel: "warning",
});
