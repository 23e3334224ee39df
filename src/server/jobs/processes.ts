/**
 * The processes beside the server: some look through uploads, some analyse, one takes mixes apart, so
 * that none waits for another. What they take of memory goes with them.
 */
import { cpus } from "node:os";
import { ProcessPool } from "../decoding/processPool";

export const analysisProcesses = Math.max(1, Math.min(4, cpus().length - 1));

type Pools = Record<"inspection" | "analysis" | "lifting", ProcessPool>;
const shared = globalThis as { plainMirrorProcesses?: Pools };

const pools = (): Pools =>
  (shared.plainMirrorProcesses ??= {
    inspection: new ProcessPool(1),
    analysis: new ProcessPool(analysisProcesses),
    lifting: new ProcessPool(1),
  });

export const inspectionPool = (): ProcessPool => pools().inspection;
export const analysisPool = (): ProcessPool => pools().analysis;
export const liftingPool = (): ProcessPool => pools().lifting;

/** Cancels all that they do; those that are idle stay for what comes next. */
export function cancelProcesses(): void {
  for (const pool of Object.values(shared.plainMirrorProcesses ?? {})) pool.cancelAll();
}
