/** Makes the frames that a network is fitted on, on both cores. */
import { spawn } from "node:child_process";

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
