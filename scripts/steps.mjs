/** Steps that the demo and the check share. Uses nothing but Node, so that it runs before installing. */
import { spawn } from "node:child_process";
import { existsSync, readdirSync, statSync, writeFileSync, mkdirSync } from "node:fs";
import path from "node:path";

/**
 * Runs a program with its output shown; rejects where it fails.
 *
 * @param minutes after which it is stopped, with all that it has begun, and counts as failed; none by default.
 */
export function run(program, options, env = {}, minutes = Infinity) {
  return new Promise((resolve, reject) => {
    const what = `${program} ${options.join(" ")}`;
    const isLimited = Number.isFinite(minutes);
    // What is to be stopped whole leads a group of its own.
    const child = spawn(program, options, {
      stdio: "inherit",
      env: { ...process.env, ...env },
      detached: isLimited,
    });
    let isLate = false;
    const stop = () => {
      try {
        process.kill(-child.pid, "SIGKILL");
      } catch {
        // It has ended by itself.
      }
    };
    const timer = isLimited
      ? setTimeout(
          () => {
            isLate = true;
            stop();
          },
          minutes * 60 * 1000,
        )
      : null;
    if (isLimited) process.on("exit", stop);
    const end = (settle) => {
      if (timer !== null) clearTimeout(timer);
      process.off("exit", stop);
      settle();
    };
    child.on("error", (error) => end(() => reject(error)));
    child.on("exit", (code) =>
      end(() => {
        if (code === 0) resolve();
        else
          reject(new Error(isLate ? `${what} did not end in ${minutes} min` : `${what} ended with ${code}`));
      }),
    );
  });
}

const timeOf = (file) => (existsSync(file) ? statSync(file).mtimeMs : 0);

function newest(place) {
  if (!existsSync(place)) return 0;
  const { mtimeMs } = statSync(place);
  if (!statSync(place).isDirectory()) return mtimeMs;
  return readdirSync(place).reduce((latest, name) => Math.max(latest, newest(path.join(place, name))), 0);
}

/** Installs what the lock file says, unless it is installed. */
export async function ensureInstalled(minutes = Infinity) {
  if (
    timeOf("node_modules/.package-lock.json") >= timeOf("package-lock.json") &&
    existsSync("node_modules/next")
  )
    return;
  console.log("Installing …");
  await run("npm", ["ci", "--no-audit", "--no-fund"], {}, minutes);
}

const builtStamp = ".next/built";

/** Bundles the entry of the worker threads; takes well under a second. */
export const buildWorker = () => run("node", ["scripts/buildWorker.mjs"]);

/** Builds the pages, unless nothing has changed since the last build. */
export async function ensureBuilt(minutes = Infinity) {
  const sources = ["src", "drizzle", "package-lock.json", "next.config.ts"];
  if (timeOf(builtStamp) > Math.max(...sources.map(newest))) return;
  console.log("Building …");
  await run("npx", ["next", "build"], { NEXT_TELEMETRY_DISABLED: "1" }, minutes);
  mkdirSync(".next", { recursive: true });
  writeFileSync(builtStamp, new Date().toISOString());
}
