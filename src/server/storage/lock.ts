/** One server a data folder: a lock file names the process that uses it, and is renewed while it does. */
import { readFile, rm, stat, utimes, writeFile } from "node:fs/promises";
import { lockFile } from "./paths";
import { trouble } from "./trouble";

const renewMs = 5_000;
/** Without renewal for so long the owner is gone, even if another process has its number now. */
const staleMs = 20_000;

const shared = globalThis as { plainMirrorLock?: { file: string; timer: NodeJS.Timeout } };

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === "EPERM";
  }
}

/** The living process that holds a lock file; null where nobody does. */
async function ownerOf(file: string): Promise<number | null> {
  try {
    const pid = Number(await readFile(file, "utf8"));
    const { mtimeMs } = await stat(file);
    if (!Number.isInteger(pid) || pid <= 0 || Date.now() - mtimeMs > staleMs || !isAlive(pid)) return null;
    return pid;
  } catch {
    return null;
  }
}

/** Takes the data folder for this process; throws where another one has it. */
export async function takeLock(): Promise<void> {
  const file = lockFile();
  if (shared.plainMirrorLock?.file === file) return;
  for (let tries = 0; ; tries++) {
    try {
      await writeFile(file, String(process.pid), { flag: "wx" });
      break;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "EEXIST") throw error;
      const owner = await ownerOf(file);
      if (owner === process.pid) break;
      if (owner !== null || tries > 3) {
        throw trouble(
          `Another Plain Mirror (process ${owner ?? "unknown"}) is using this data folder.`,
          "Use that one, or stop it; this one then goes on by itself.",
        );
      }
      await rm(file, { force: true });
    }
  }
  await releaseLock(file);
  const timer = setInterval(() => void utimes(file, new Date(), new Date()).catch(() => undefined), renewMs);
  timer.unref();
  shared.plainMirrorLock = { file, timer };
}

/** Gives the data folder back. */
export async function releaseLock(except?: string): Promise<void> {
  const held = shared.plainMirrorLock;
  if (!held || held.file === except) return;
  clearInterval(held.timer);
  delete shared.plainMirrorLock;
  await rm(held.file, { force: true });
}
