/** Fits the network that hears the bass line, from nothing: makes the takes, trains. `npm run fit:bassLine`. */
import { execFileSync } from "node:child_process";
import { makeFrames } from "./makeFrames";
import { bassSources } from "./material/bassTakes";

for (const source of bassSources) await makeFrames("bench/bassFrames.ts", source, "fit");
for (const source of ["own", "midi"]) await makeFrames("bench/bassFrames.ts", source, "measure");
execFileSync(
  "/usr/bin/python3",
  ["bench/fitBassLine.py", "--minutes", "20", "--out", "src/core/lowEnd/bassLineModel.ts"],
  { stdio: "inherit" },
);
