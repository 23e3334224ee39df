/** The computing threads. */
import { Piscina } from "piscina";
import { computeThreadFile } from "../storage/paths";
import type * as computeThread from "./computeThread";

const shared = globalThis as { plainMirrorThreads?: Piscina };

/** Work that can be shared out is cut into so many pieces. */
export const computingThreads = 2;

const pool = (): Piscina =>
  (shared.plainMirrorThreads ??= new Piscina({
    filename: computeThreadFile(),
    minThreads: 0,
    maxThreads: computingThreads,
    // Kept long: an edit should not wait for a thread to start.
    idleTimeout: 600_000,
    resourceLimits: { maxOldGenerationSizeMb: 1024 },
  }));

type Tasks = Pick<
  typeof computeThread,
  | "align"
  | "plan"
  | "compare"
  | "sharpenTempo"
  | "readPart"
  | "hits"
  | "rankOneShots"
  | "fitLoops"
  | "layersFor"
  | "measureSounds"
  | "prepareSound"
>;

/** Runs a task in a computing thread. */
export const compute = <Name extends keyof Tasks>(
  name: Name,
  task: Parameters<Tasks[Name]>[0],
): Promise<Awaited<ReturnType<Tasks[Name]>>> =>
  pool().run(task, { name }) as Promise<Awaited<ReturnType<Tasks[Name]>>>;

export async function closeThreads(): Promise<void> {
  const own = shared.plainMirrorThreads;
  delete shared.plainMirrorThreads;
  await own?.destroy();
}
