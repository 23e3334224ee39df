/**
 * Watches the folders that studies name: a file that is new or was replaced, and has stopped growing,
 * becomes the next version. Folders are looked into again and again in place of waiting for the system to
 * tell of changes, which it does not for shared and mounted drives; see decision 0021.
 */
import { Readable } from "node:stream";
import { and, eq, isNotNull, isNull, notInArray } from "drizzle-orm";
import { z } from "zod";
import { limits } from "@/core/formats/limits";
import { refuse, type Refusal } from "@/core/outcome";
import type { FolderState, WaitingFile } from "@/models/folder";
import { announceStudy } from "../jobs/progress";
import { database, writesSoFar, type Database } from "../storage/database";
import { items, studies, watches } from "../storage/schema";
import { storageTroubleIn } from "../storage/trouble";
import { addItem } from "../study/uploads";
import { filesIn, findFolder, isAsFound, isSameFile, openFound, type FoundFile } from "./folders";

export interface WatchTimes {
  /** How often folders are looked into, milliseconds. */
  lookMs: number;
  /** How long a file must have stayed as it is, milliseconds. */
  settledMs: number;
}

/** Programs write a render in steps of less than a second; a longer pause shows in the header. */
const usualTimes: WatchTimes = { lookMs: 700, settledMs: 2_000 };

const seenSchema = z.record(z.string(), z.object({ bytes: z.number(), modifiedAt: z.number() }));
type Seen = z.infer<typeof seenSchema>;

/** What is remembered of a file between two looks. */
interface Pending {
  file: FoundFile;
  since: number;
  /** Why it was not taken as it is; it is tried again when it changes. */
  refusal: Refusal | null;
}

interface Watch {
  path: string;
  /** The folder as it was found; null before. */
  folder: string | null;
  refusal: Refusal | null;
  seen: Seen | null;
  pending: Map<string, Pending>;
  arrived: string[];
}

interface Watcher {
  times: WatchTimes;
  timer: NodeJS.Timeout | null;
  stopped: boolean;
  /** Whether what was seen of folders that nobody names any more has been forgotten. */
  tidied: boolean;
  looking: Promise<void>;
  watches: Map<string, Watch>;
  /** Studies with a folder, as read at a count of writes. */
  named: { writes: number; rows: { id: string; folder: string }[] } | null;
}

const shared = globalThis as { plainMirrorWatcher?: Watcher };
const watcher = (times = usualTimes): Watcher =>
  (shared.plainMirrorWatcher ??= {
    times,
    timer: null,
    stopped: false,
    tidied: false,
    looking: Promise.resolve(),
    watches: new Map(),
    named: null,
  });

async function foldersNamed(db: Database): Promise<{ id: string; folder: string }[]> {
  const own = watcher();
  const writes = writesSoFar();
  if (own.named?.writes === writes) return own.named.rows;
  const rows = (
    await db
      .select({ id: studies.id, folder: studies.folder })
      .from(studies)
      .where(and(isNotNull(studies.folder), isNull(studies.removedAt)))
  ).flatMap(({ id, folder }) => (folder === null ? [] : [{ id, folder }]));
  own.named = { writes, rows };
  return rows;
}

const stateOf = ({ path, refusal, pending, arrived }: Watch): FolderState => ({
  path,
  refusal,
  waiting: [...pending.values()].map(({ file, refusal: why }): WaitingFile => ({
    name: file.name,
    refusal: why,
  })),
  arrived: [...arrived],
});

/** The watched folder of a study as it stands; null where none is watched, or it was not looked into yet. */
export function folderState(studyId: string): FolderState | null {
  const watch = watcher().watches.get(studyId);
  return watch ? stateOf(watch) : null;
}

const seenOf = (files: readonly FoundFile[]): Seen =>
  Object.fromEntries(files.map(({ name, bytes, modifiedAt }) => [name, { bytes, modifiedAt }]));

async function remember(db: Database, studyId: string, watch: Watch, seen: Seen): Promise<void> {
  const row = { studyId, folder: watch.path, seen };
  await db.insert(watches).values(row).onConflictDoUpdate({ target: watches.studyId, set: row });
  watch.seen = seen;
}

/** What was seen of a folder before; where it is new, all that lies in it counts as seen. */
async function begin(
  db: Database,
  studyId: string,
  watch: Watch,
  files: readonly FoundFile[],
): Promise<Seen> {
  if (watch.seen) return watch.seen;
  const [row] = await db.select().from(watches).where(eq(watches.studyId, studyId));
  const stored = row?.folder === watch.path ? seenSchema.safeParse(row.seen) : null;
  if (stored?.success) watch.seen = stored.data;
  else await remember(db, studyId, watch, seenOf(files));
  return watch.seen!;
}

/** Makes a settled file a version. Gives what keeps it from becoming one; null where it has, or is gone. */
async function take(db: Database, studyId: string, watch: Watch, file: FoundFile): Promise<Refusal | null> {
  if (file.bytes > limits.largestBytes)
    return refuse("too-large", `This file is larger than ${limits.largestBytes / 1048576} MB.`).refusal;
  if (!watch.folder) return null;
  const opened = await openFound(watch.folder, file);
  if (!opened.ok) return opened.refusal;
  const handle = opened.value;
  if (!handle) return null;
  try {
    const [reference] = await db
      .select({ id: items.id })
      .from(items)
      .where(and(eq(items.studyId, studyId), eq(items.role, "reference"), isNull(items.removedAt)));
    const outcome = await addItem(db, studyId, reference ? "version" : "reference", {
      body: Readable.toWeb(handle.createReadStream({ autoClose: false })) as ReadableStream<Uint8Array>,
      bytes: file.bytes,
      fileName: file.name.slice(0, 200),
      note: "",
      wasLeftAlone: () => isAsFound(handle, file),
    });
    if (!outcome.ok) return outcome.refusal;
    if (!outcome.value.recognised) watch.arrived.push(outcome.value.itemId);
    await remember(db, studyId, watch, { ...watch.seen, ...seenOf([file]) });
    return null;
  } finally {
    await handle.close().catch(() => undefined);
  }
}

/** One look into the folder of a study. */
async function look(db: Database, studyId: string, watch: Watch): Promise<void> {
  const folder = await findFolder(watch.path);
  const files = folder.ok ? await filesIn(folder.value) : folder;
  watch.folder = folder.ok ? folder.value : null;
  watch.refusal = files.ok ? null : files.refusal;
  if (!files.ok) return watch.pending.clear();
  const seen = await begin(db, studyId, watch, files.value);
  const now = Date.now();
  const there = new Set<string>();
  for (const file of files.value) {
    const known = seen[file.name];
    if (known && isSameFile({ name: file.name, ...known }, file)) continue;
    there.add(file.name);
    const pending = watch.pending.get(file.name);
    if (!pending || !isSameFile(pending.file, file)) {
      watch.pending.set(file.name, { file, since: now, refusal: null });
      continue;
    }
    if (pending.refusal || now - pending.since < watcher().times.settledMs) continue;
    if (watcher().stopped) return;
    pending.refusal = await take(db, studyId, watch, file);
    if (!pending.refusal) watch.pending.delete(file.name);
  }
  for (const name of watch.pending.keys()) if (!there.has(name)) watch.pending.delete(name);
}

/** Looks into all folders once. */
async function lookIntoAll(): Promise<void> {
  const own = watcher();
  const db = await database();
  const named = await foldersNamed(db);
  const ids = new Set(named.map(({ id }) => id));
  // A folder that is watched again begins anew: what came meanwhile was not meant.
  const gone = [...own.watches.keys()].filter((id) => !ids.has(id));
  for (const id of gone) own.watches.delete(id);
  if (gone.length > 0 || !own.tidied) await db.delete(watches).where(notInArray(watches.studyId, [...ids]));
  own.tidied = true;
  for (const { id, folder } of named) {
    if (own.stopped) return;
    const known = own.watches.get(id);
    const watch: Watch =
      known?.path === folder
        ? known
        : { path: folder, folder: null, refusal: null, seen: null, pending: new Map(), arrived: [] };
    const before = known && JSON.stringify(stateOf(known));
    own.watches.set(id, watch);
    await look(db, id, watch);
    if (JSON.stringify(stateOf(watch)) !== before) announceStudy(id);
  }
}

/** Looks once, and again after a while, until the watcher is stopped. */
function lookAgain(): void {
  const own = watcher();
  if (own.stopped) return;
  own.looking = lookIntoAll()
    .catch((error: unknown) => {
      if (!storageTroubleIn(error)) console.error("a watched folder could not be looked into", error);
    })
    .finally(() => {
      if (own.stopped) return;
      own.timer = setTimeout(lookAgain, own.times.lookMs);
      own.timer.unref();
    });
}

/** Begins to watch; without effect where it has begun. */
export function startWatching(times = usualTimes): void {
  if (shared.plainMirrorWatcher) return;
  watcher(times);
  lookAgain();
}

export async function stopWatching(): Promise<void> {
  const own = shared.plainMirrorWatcher;
  if (!own) return;
  own.stopped = true;
  if (own.timer) clearTimeout(own.timer);
  await own.looking;
  delete shared.plainMirrorWatcher;
}
