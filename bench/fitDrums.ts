/**
 * Fits the drum models and what stands on them, from nothing: makes the takes, trains, then asks how strokes
 * tell tempo and bars, what repetition says and how hard strokes are. `npm run fit:drums`.
 */
import { execFileSync } from "node:child_process";
import { makeFrames } from "./makeFrames";

const run = (command: string, ...options: string[]) => execFileSync(command, options, { stdio: "inherit" });

for (const source of ["midi", "tracker", "own"])
  for (const half of ["fit", "measure"]) await makeFrames("bench/drumFrames.ts", source, half);
const train = (file: string, ...options: string[]) =>
  run("/usr/bin/python3", "bench/fitDrums.py", "--minutes", "45", "--out", file, ...options);
train("src/core/drums/model.ts");
train("src/core/drums/whitenedModel.ts", "--whitened");
run("npm", "run", "fit:grid");
run("npm", "run", "fit:repetition");
run("npm", "run", "fit:velocities");
