/** Makes the frames that a network is fitted on, on both cores. */
import { spawn } from "node:child_process";
import path from "node:path";
import { parseArgs } from "node:util";
import type { Half } from "./material/packages";

const shares = 2;

/** @param script that takes `--source`, `--half` and `--share`. */
export async function makeFrames(script: string, source: string, half: string): Promise<void> {
  const one = (share: number) =>
    new Promise<void>((resolve, reject) => {
      const options = ["--source", source, "--half", half, "--share", `${share}/${shares}`];
      spawn("npx", ["tsx", script, ...options], { stdio: "inherit" }).on("exit", (code) =>
        code === 0 ? resolve() : reject(new Error(`frames of ${source} ended with ${code}`)),
      );
    });
  await Promise.all(Array.from({ length: shares }, (_, share) => one(share)));
}

/** What such a script is told, and the folder below `.cache/<name>` that its frames belong in. */
export function frameOptions<Source extends string>(name: string) {
  const { values } = parseArgs({
    options: {
      source: { type: "string" },
      half: { type: "string", default: "fit" },
      share: { type: "string", default: "0/1" },
    },
  });
  const [place, of] = values.share.split("/").map(Number) as [number, number];
  const half = values.half as Half;
  const source = values.source as Source;
  return { source, half, place, of, folder: path.join(process.cwd(), ".cache", name, `${source}-${half}`) };
}
