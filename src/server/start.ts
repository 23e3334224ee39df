/** Begins and ends the server's own work, beside what Next does. */
import { startWatching, stopWatching } from "./watching/watcher";
import { stopQueue, resumeQueue } from "./jobs/queue";
import { database, leaveDataFolder } from "./storage/database";
import { sweepAtStart } from "./storage/sweep";
import { storageTroubleIn } from "./storage/trouble";

const retryMs = 3_000;

/**
 * Brings the data folder up to date and takes up waiting work. Where the folder cannot be used, pages
 * say why, and this is tried again until it can.
 */
export async function start(): Promise<void> {
  try {
    const db = await database();
    await sweepAtStart(db);
    await resumeQueue();
    startWatching();
  } catch (error) {
    const trouble = storageTroubleIn(error);
    console.error(trouble ? `${trouble.refusal.sentence} ${trouble.refusal.remedy ?? ""}` : error);
    setTimeout(() => void start(), retryMs).unref();
  }
}

/** Ends all work in an orderly way. */
export async function stop(): Promise<void> {
  await stopWatching();
  await stopQueue();
  await leaveDataFolder();
}
