/** The database of a data folder, in it or on a server: opened, guarded, copied before it is migrated. */
import { existsSync } from "node:fs";
import { mkdir, readdir, readFile, rm } from "node:fs/promises";
import path from "node:path";
import { createClient, type Client } from "@libsql/client";
import { drizzle, type LibSQLDatabase } from "drizzle-orm/libsql";
import { migrate } from "drizzle-orm/libsql/migrator";
import { z } from "zod";
import { releaseLock, takeLock } from "./lock";
import {
  backupsFolder,
  databaseFile,
  dataFolder,
  filesFolder,
  incomingFolder,
  listeningFolder,
  migrationsFolder,
} from "./paths";
import { remoteDatabase, tieToFolder } from "./remoteDatabase";
import * as schema from "./schema";
import { storageTroubleIn, trouble } from "./trouble";

export type Database = LibSQLDatabase<typeof schema>;

interface Opened {
  client: Client;
  database: Database;
}

const keptBackups = 3;

const journalSchema = z.object({ entries: z.array(z.object({ when: z.number() })) });

/** When the newest migration of this program was made, and the newest one that the database has. */
async function migrationsOf(client: Client): Promise<{ own: number; applied: number | null }> {
  const journal = journalSchema.parse(
    JSON.parse(await readFile(path.join(migrationsFolder(), "meta", "_journal.json"), "utf8")),
  );
  const own = Math.max(...journal.entries.map(({ when }) => when));
  const tables = await client.execute(
    "SELECT name FROM sqlite_master WHERE type = 'table' AND name = '__drizzle_migrations'",
  );
  if (tables.rows.length === 0) return { own, applied: null };
  const { rows } = await client.execute("SELECT max(created_at) AS newest FROM __drizzle_migrations");
  const newest = rows[0]?.newest;
  return { own, applied: newest === null || newest === undefined ? null : Number(newest) };
}

/** Copies the database before it is changed; the newest copies are kept. */
async function backUp(client: Client): Promise<void> {
  await mkdir(backupsFolder(), { recursive: true });
  const stamp = new Date().toISOString().replace(/[:.]/g, "-");
  await client.execute({
    sql: "VACUUM INTO ?",
    args: [path.join(backupsFolder(), `plain-mirror-${stamp}.db`)],
  });
  const copies = (await readdir(backupsFolder())).filter((name) => /^plain-mirror-.*\.db$/.test(name)).sort();
  for (const old of copies.slice(0, -keptBackups)) await rm(path.join(backupsFolder(), old), { force: true });
}

async function open(): Promise<Opened> {
  for (const folder of [dataFolder(), filesFolder(), incomingFolder(), listeningFolder()]) {
    await mkdir(folder, { recursive: true });
  }
  await takeLock();
  const remote = remoteDatabase();
  if (!remote && !existsSync(databaseFile()) && (await readdir(filesFolder())).length > 0) {
    throw trouble(
      "The database of this data folder is missing, while its audio files are there.",
      "Put plain-mirror.db back (its folder “backups” may have a copy), or use an empty folder.",
    );
  }
  const client = countingWrites(createClient(remote ?? { url: `file:${databaseFile()}` }));
  try {
    if (!remote) {
      await client.execute("PRAGMA journal_mode = WAL");
      await client.execute("PRAGMA foreign_keys = ON");
      await client.execute("PRAGMA busy_timeout = 5000");
    }
    const { own, applied } = await migrationsOf(client);
    if (applied !== null && applied > own) {
      throw trouble(
        "This data folder was written by a newer Plain Mirror.",
        "Update this one, or name another folder with PLAIN_MIRROR_DATA.",
      );
    }
    if (remote) await tieToFolder(client, applied === null);
    // Copies of a database on a server are the server's.
    else if (applied !== null && applied < own) await backUp(client);
    const database = drizzle(client, { schema });
    if (applied !== own) await migrate(database, { migrationsFolder: migrationsFolder() });
    return { client, database };
  } catch (error) {
    client.close();
    throw error;
  }
}

const sharedCount = globalThis as { plainMirrorWrites?: number };

/** Grows with every statement that may have written something, once it is through. */
export const writesSoFar = (): number => sharedCount.plainMirrorWrites ?? 0;

const reads = /^\s*(select|pragma|begin|commit)\b/i;
const mayWrite = (statement: unknown): boolean => {
  const own: unknown = Array.isArray(statement) ? statement[0] : statement;
  const text = typeof own === "string" ? own : (own as { sql?: unknown } | undefined)?.sql;
  return typeof text !== "string" || !reads.test(text);
};

/**
 * Counts what is written through a client. SQLite's own counters are of one connection, and the client
 * has several. A data folder belongs to one server, so nobody else writes.
 */
function countingWrites(client: Client): Client {
  const counted =
    <Arguments extends unknown[], T>(
      run: (...all: Arguments) => Promise<T>,
      writes: (...all: Arguments) => boolean,
    ) =>
    async (...all: Arguments): Promise<T> => {
      try {
        return await run(...all);
      } finally {
        if (writes(...all)) sharedCount.plainMirrorWrites = writesSoFar() + 1;
      }
    };
  const own = client as unknown as Record<string, (...all: unknown[]) => Promise<unknown>>;
  for (const name of ["execute", "batch", "migrate", "executeMultiple"] as const) {
    const run = own[name]!.bind(client);
    own[name] = counted(run, (first) =>
      name === "migrate" || name === "executeMultiple"
        ? true
        : Array.isArray(first) && name === "batch"
          ? first.some(mayWrite)
          : mayWrite(first),
    );
  }
  // What a transaction does is not seen here: none is used.
  own.transaction = () => Promise.reject(new Error("use batch: transactions are not counted"));
  return client;
}

// One connection a process: the framework loads this module more than once.
const shared = globalThis as { plainMirrorDatabase?: Promise<Opened> };

/**
 * The database of the data folder. What goes wrong is not remembered: once its cause is gone, the
 * next call succeeds.
 *
 * @throws StorageTrouble
 */
export async function database(): Promise<Database> {
  const opening = (shared.plainMirrorDatabase ??= open());
  try {
    return (await opening).database;
  } catch (error) {
    if (shared.plainMirrorDatabase === opening) delete shared.plainMirrorDatabase;
    throw storageTroubleIn(error) ?? error;
  }
}

/** Closes the database, so that the next use opens it anew. */
export async function closeDatabase(): Promise<void> {
  const opening = shared.plainMirrorDatabase;
  delete shared.plainMirrorDatabase;
  const opened = await opening?.catch(() => null);
  opened?.client.close();
}

/** Closes the database and gives the data folder back. */
export async function leaveDataFolder(): Promise<void> {
  await closeDatabase();
  await releaseLock();
}
