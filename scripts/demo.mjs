/**
 * One command from a fresh clone to a running demo: installs, builds, makes the demo music, fills
 * a fresh data folder and starts the server. What is up to date already is not done again.
 */
import { spawn } from "node:child_process";
import { buildWorker, ensureBuilt, ensureInstalled, run } from "./steps.mjs";

process.env.PLAIN_MIRROR_DATA ??= "data";
const port = process.env.PORT ?? "3000";
const host = process.env.HOST ?? "127.0.0.1";

await ensureInstalled();
await buildWorker();
// Neither needs the other, and together they take most of the time of a first start.
await Promise.all([ensureBuilt(), run("npx", ["tsx", "src/demo/seed.ts"])]);
console.log(`\nPlain Mirror is at http://${host === "127.0.0.1" ? "localhost" : host}:${port}\n`);
const server = spawn("npx", ["next", "start", "-H", host, "-p", port], { stdio: "inherit" });
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.kill(signal));
server.on("exit", (code) => process.exit(code ?? 0));
