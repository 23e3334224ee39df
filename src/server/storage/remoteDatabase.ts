/** A database on a libSQL server in place of the file in the data folder. */
import { randomUUID } from "node:crypto";
import { existsSync } from "node:fs";
import { readdir, readFile, writeFile } from "node:fs/promises";
import type { Client } from "@libsql/client";
import { z } from "zod";
import { databaseFile, databaseMark, filesFolder } from "./paths";
import { trouble } from "./trouble";

const addressSchema = z.url({ protocol: /^(libsql|https?|wss?)$/ });

/**
 * Where the database is, as `PLAIN_MIRROR_DATABASE` says; null where it is a file.
 *
 * @throws StorageTrouble where that is no address.
 */
export function remoteDatabase(): { url: string; authToken?: string } | null {
  const { PLAIN_MIRROR_DATABASE: named, PLAIN_MIRROR_DATABASE_TOKEN: authToken } = process.env;
  if (!named) return null;
  const url = addressSchema.safeParse(named);
  if (!url.success) {
    throw trouble(
      "PLAIN_MIRROR_DATABASE is not the address of a libSQL server.",
      "Give it one that begins with libsql://, https:// or http://, or leave it out.",
    );
  }
  return { url: url.data, ...(authToken ? { authToken } : {}) };
}

/**
 * Makes sure that a database and the data folder belong together, and writes that down where both are
 * new: what the database does not know is cleared away from the folder.
 *
 * @param isNew whether the database has no tables of Plain Mirror yet.
 * @throws StorageTrouble
 */
export async function tieToFolder(client: Client, isNew: boolean): Promise<void> {
  if (existsSync(databaseFile())) {
    throw trouble(
      "This data folder has a database of its own.",
      "Leave PLAIN_MIRROR_DATABASE out, or name an empty folder with PLAIN_MIRROR_DATA.",
    );
  }
  const { rows } = await client.execute("PRAGMA foreign_keys");
  if (Number(rows[0]?.foreign_keys) !== 1) {
    throw trouble(
      "The database server does not look after what belongs together.",
      "Use a libSQL server with foreign keys enabled.",
    );
  }
  const inFolder = await readFile(databaseMark(), "utf8").catch(() => null);
  const tables = await client.execute("SELECT name FROM sqlite_master WHERE name = 'data_folder'");
  const known =
    tables.rows.length > 0 ? (await client.execute("SELECT mark FROM data_folder")).rows[0]?.mark : null;
  if (inFolder !== null && known === inFolder) return;
  if (!isNew || inFolder !== null || (await readdir(filesFolder())).length > 0) {
    throw trouble(
      "The database and the data folder do not belong together.",
      "Check PLAIN_MIRROR_DATABASE and PLAIN_MIRROR_DATA.",
    );
  }
  const mark = randomUUID();
  await client.batch(
    [
      "CREATE TABLE IF NOT EXISTS data_folder (mark TEXT NOT NULL)",
      "DELETE FROM data_folder",
      { sql: "INSERT INTO data_folder (mark) VALUES (?)", args: [mark] },
    ],
    "write",
  );
  await writeFile(databaseMark(), mark);
}
