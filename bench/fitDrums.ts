/**
 * Fits the drum models and what stands on them, from nothing: makes the takes, trains, then asks how strokes
 * tell tempo and bars, what repetition says and how hard strokes are. `npm run fit:drums`.
 */
import { execFileSync, spawn } from "node:child_process";

const run = (command: string, ...options: string[]) => execFileSync(command, options, { stdio: "inherit" });

const shares = 2;
const frames = (source: string, half: string) =>
  Promise.all(
    Array.from(
      { length: shares },
      (_, i) =>
        new Promise<void>((resolve, reject) => {
          const options = ["--source", source, "--half", half, "--share", `${i}/${shares}`];
          spawn("npx", ["tsx", "bench/drumFrames.ts", ...options], { stdio: "inherit" }).on("exit", (code) =>
            code === 0 ? resolve() : reject(new Error(`frames of ${source} ended with ${code}`)),
          );
        }),
    ),
  );

for (const source of ["midi", "tracker", "own"])
  for (const half of ["fit", "measure"]) await frames(source, half);
const train = (file: string, ...options: string[]) =>
  run("/usr/bin/python3", "bench/fitDrums.py", "--minutes", "45", "--out", file, ...options);
train("src/core/drums/model.ts");
train("src/core/drums/whitenedModel.ts", "--whitened");
run("npm", "run", "fit:grid");
run("npm", "run", "fit:repetition");
run("npm", "run", "fit:velocities");
