/**
 * Ends this process when it takes too much memory or makes no progress. A thread of its own watches,
 * since a decoder that hangs never gives the main thread back; time is counted in seconds of
 * processor, so that a busy machine is not taken for a hang.
 */
import { Worker } from "node:worker_threads";
import { endings } from "./protocol";

/** Places in the memory shared with the watching thread. */
const slots = { progress: 0, active: 1, stallSeconds: 2, memoryMegabytes: 3 } as const;

export interface WatchdogLimits {
  /** Seconds of processor without a sign of progress. */
  stallSeconds: number;
  /** Resident memory of the process. */
  memoryMegabytes: number;
}

/** Without any processor time a process may still wait for ever, as for another program. */
const idleSeconds = 60;

const source = `
const { workerData } = require("node:worker_threads");
const { writeSync } = require("node:fs");
const { shared, slots, endings, idleSeconds } = workerData;
let seen = -1;
let since = { cpu: 0, wall: 0 };
const end = (why) => {
  try { writeSync(2, why + "\\n"); } catch {}
  process.kill(process.pid, "SIGKILL");
};
setInterval(() => {
  const limit = Atomics.load(shared, slots.memoryMegabytes);
  if (limit > 0 && process.memoryUsage.rss() > limit * 1048576) end(endings.memory);
  if (Atomics.load(shared, slots.active) === 0) { seen = -1; return; }
  const { user, system } = process.cpuUsage();
  const now = { cpu: (user + system) / 1e6, wall: Date.now() / 1000 };
  const progress = Atomics.load(shared, slots.progress);
  if (progress !== seen) { seen = progress; since = now; return; }
  const stall = Atomics.load(shared, slots.stallSeconds);
  if (now.cpu - since.cpu > stall || now.wall - since.wall > Math.max(idleSeconds, stall)) end(endings.stalled);
}, 50);
`;

/** Begins watching this process. */
export function startWatchdog() {
  const shared = new Int32Array(new SharedArrayBuffer(16));
  const thread = new Worker(source, { eval: true, workerData: { shared, slots, endings, idleSeconds } });
  thread.unref();
  return {
    /** Says that work goes on. */
    beat: () => void Atomics.add(shared, slots.progress, 1),
    /** Watches from here on within some limits. */
    watch({ stallSeconds, memoryMegabytes }: WatchdogLimits) {
      Atomics.store(shared, slots.stallSeconds, stallSeconds);
      Atomics.store(shared, slots.memoryMegabytes, memoryMegabytes);
      Atomics.add(shared, slots.progress, 1);
      Atomics.store(shared, slots.active, 1);
    },
    rest: () => void Atomics.store(shared, slots.active, 0),
  };
}
