import { mkdir } from "node:fs/promises";
import { createClient } from "@libsql/client";
import { drizzle, type LibSQLDatabase } from "drizzle-orm/libsql";
import { migrate } from "drizzle-orm/libsql/migrator";
import {
  databaseFile,
  dataFolder,
  filesFolder,
  incomingFolder,
  migrationsFolder,
  listeningFolder,
} from "./places";
import * as schema from "./schema";

export type Database = LibSQLDatabase<typeof schema>;

/** Opens, creating and migrating as needed, the database of a data folder. */
export async function openDatabase(): Promise<Database> {
  for (const folder of [dataFolder(), filesFolder(), incomingFolder(), listeningFolder()]) {
    await mkdir(folder, { recursive: true });
  }
  const client = createClient({ url: `file:${databaseFile()}` });
  await client.execute("PRAGMA journal_mode = WAL");
  await client.execute("PRAGMA foreign_keys = ON");
  await client.execute("PRAGMA busy_timeout = 5000");
  const database = drizzle(client, { schema });
  await migrate(database, { migrationsFolder: migrationsFolder() });
  return database;
}

// One connection a process: the framework loads this module more than once.
const shared = globalThis as { plainMirrorDatabase?: Promise<Database> };

export const database = (): Promise<Database> => (shared.plainMirrorDatabase ??= openDatabase());
