/** Analyses one file and prints the time of each stage and the peak of memory as JSON. */
import { analyse } from "@/core/analysis/analyse";
import { decodeFile } from "@/server/decoding/decode";

const file = process.argv[2];
if (!file) throw new Error("a file is needed");
const stages: Record<string, number> = {};
const begun = performance.now();
const cpuBegun = process.cpuUsage();
const decoded = await decodeFile(file);
if (!decoded.ok) throw new Error(decoded.refusal.sentence);
let stage = "decode";
let since = begun;
const enter = (next: string) => {
  if (next === stage) return;
  const now = performance.now();
  stages[stage] = (stages[stage] ?? 0) + (now - since) / 1000;
  stage = next;
  since = now;
};
await analyse(decoded.value.signal, (next) => enter(next));
enter("end");
const cpu = process.cpuUsage(cpuBegun);
console.log(
  JSON.stringify({
    stages,
    total: (performance.now() - begun) / 1000,
    cpu: (cpu.user + cpu.system) / 1e6,
    megabytes: process.resourceUsage().maxRSS / 1024,
  }),
);
