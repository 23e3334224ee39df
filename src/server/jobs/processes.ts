/** The decoding processes: one lane looks through uploads, the other analyses, so that neither waits for the other. */
import { cpus } from "node:os";
import { ProcessPool } from "../decoding/processPool";

export const analysisProcesses = Math.max(1, Math.min(4, cpus().length - 1));

const shared = globalThis as { plainMirrorProcesses?: { inspection: ProcessPool; analysis: ProcessPool } };

const pools = () =>
  (shared.plainMirrorProcesses ??= {
    inspection: new ProcessPool(1),
    analysis: new ProcessPool(analysisProcesses),
  });

export const inspectionPool = (): ProcessPool => pools().inspection;
export const analysisPool = (): ProcessPool => pools().analysis;

export async function closeProcesses(): Promise<void> {
  const own = shared.plainMirrorProcesses;
  delete shared.plainMirrorProcesses;
  await Promise.all([own?.inspection.close(), own?.analysis.close()]);
}
