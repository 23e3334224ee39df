/** The computing threads. */
import { Piscina } from "piscina";
import { computeThreadFile } from "../storage/paths";
import type * as computeThread from "./computeThread";

/** One for all copies that a bundler makes of this module. */
const shared = globalThis as { plainMirrorThreads?: Piscina; plainMirrorComputing?: number };

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
export async function compute<Name extends keyof Tasks>(
  name: Name,
  task: Parameters<Tasks[Name]>[0],
): Promise<Awaited<ReturnType<Tasks[Name]>>> {
  shared.plainMirrorComputing = (shared.plainMirrorComputing ?? 0) + 1;
  try {
    return (await pool().run(task, { name })) as Awaited<ReturnType<Tasks[Name]>>;
  } finally {
    shared.plainMirrorComputing!--;
  }
}

/** Ends what the threads do; where they do nothing they stay for what comes next. */
export async function cancelThreads(): Promise<void> {
  if (!shared.plainMirrorComputing) return;
  const own = shared.plainMirrorThreads;
  delete shared.plainMirrorThreads;
  await own?.destroy();
}
