/** The data folder: carried over from older versions, copied before, guarded, and healed once trouble is gone. */
import { cp, mkdir, readdir, readFile, rm, utimes, writeFile } from "node:fs/promises";
import path from "node:path";
import { createClient } from "@libsql/client";
import { drizzle } from "drizzle-orm/libsql";
import { migrate } from "drizzle-orm/libsql/migrator";
import { databaseTrouble, freshDataFolder } from "../testing/helpers";
import { undoEdit } from "../study/edit";
import { loadStudy } from "../study/record";
import { database, leaveDataFolder } from "./database";
import { backupsFolder, databaseFile, dataFolder, filesFolder, lockFile } from "./paths";
import { studies } from "./schema";
import { storageTroubleIn } from "./trouble";

let cleanUp: () => Promise<void>;
beforeEach(async () => {
  cleanUp = await freshDataFolder();
});
afterEach(async () => {
  await leaveDataFolder();
  await cleanUp();
});

/** A database as it was before there was one table of items: its first three migrations, and something in it. */
async function oldDatabase(): Promise<void> {
  const old = path.join(dataFolder(), "old-migrations");
  await cp("drizzle", old, { recursive: true });
  const journalFile = path.join(old, "meta", "_journal.json");
  const journal = JSON.parse(await readFile(journalFile, "utf8")) as { entries: { idx: number }[] };
  journal.entries = journal.entries.filter(({ idx }) => idx < 3);
  await writeFile(journalFile, JSON.stringify(journal));
  const client = createClient({ url: `file:${databaseFile()}` });
  await migrate(drizzle(client), { migrationsFolder: old });
  await rm(old, { recursive: true });
  const hash = "a".repeat(64);
  const key = (tonic: number) => JSON.stringify({ key: { tonic, mode: "minor" } });
  for (const [sql, args] of [
    [
      "insert into files (hash, bytes, format, duration_seconds, sample_rate, channels, warnings, claims) values (?, 1, 'wav', 60, 44100, 2, '[]', ?)",
      [hash, JSON.stringify({ title: "Glass Ladder" })],
    ],
    ["insert into studies (id, title, aspect_weights) values ('s', 'Made up', '{\"tempo\":3}')", []],
    [
      "insert into tracks (id, study_id, role, number, file_hash, file_name) values ('r', 's', 'reference', 0, ?, 'r.wav')",
      [hash],
    ],
    [
      "insert into tracks (id, study_id, role, number, file_hash, file_name, note) values ('v', 's', 'version', 4, ?, 'v.wav', 'dry')",
      [hash],
    ],
    [
      "insert into elements (id, study_id, name, from_hz, to_hz, weight, position) values ('k', 's', 'Kick', 40, 110, 1, 0)",
      [],
    ],
    [
      "insert into stems (id, track_id, element_id, file_hash, file_name, offset_seconds) values ('m', 'v', 'k', ?, 'm.wav', 0.5)",
      [hash],
    ],
    [
      "insert into stems (id, track_id, element_id, file_hash, file_name) values ('o', 'v', 'gone', ?, 'o.wav')",
      [hash],
    ],
    ["insert into grid_corrections (place_id, correction) values ('v', '{\"bpm\":90}')", []],
    [
      "insert into grid_corrections (place_id, correction) values ('v', '{\"bpm\":90,\"nudgeSeconds\":0.01}')",
      [],
    ],
    ["insert into plan_corrections (place_id, subject, correction) values ('r', 'harmony', ?)", [key(2)]],
    ["insert into plan_corrections (place_id, subject, correction) values ('r', 'harmony', ?)", [key(9)]],
    ["insert into grid_corrections (place_id, correction) values ('nobody', '{\"bpm\":70}')", []],
  ] as [string, string[]][])
    await client.execute({ sql, args });
  client.close();
}

describe("a data folder of an older version", () => {
  it("is carried over with everything that people made, and its history can still be undone", async () => {
    await oldDatabase();
    const db = await database();
    const { study, row } = (await loadStudy(db, "s"))!;
    expect(study.title).toBe("Made up");
    expect(study.aspectWeights.tempo).toBe(3);
    expect(study.reference!.file.tags).toEqual({ title: "Glass Ladder" });
    expect(study.reference!.corrections.harmony).toEqual({ key: { tonic: 9, mode: "minor" } });
    const [version] = study.versions;
    expect([version!.number, version!.note, row.nextNumber]).toEqual([4, "dry", 5]);
    expect(version!.corrections.grid).toEqual({ bpm: 90, nudgeSeconds: 0.01 });
    expect(version!.stems.map(({ id, elementId, offsetSeconds }) => [id, elementId, offsetSeconds])).toEqual([
      ["m", "k", 0.5],
      ["o", null, null],
    ]);
    // Two corrections of the grid and two of the harmony, the newest undone first.
    for (let i = 0; i < 4; i++) expect((await undoEdit(db, "s", null)).ok).toBe(true);
    const before = (await loadStudy(db, "s"))!.study;
    expect(before.reference!.corrections.harmony).toEqual({});
    expect(before.versions[0]!.corrections.grid).toEqual({});
    expect((await undoEdit(db, "s", null)).ok).toBe(false);
  });

  it("is copied before it is changed, and the newest three copies are kept", async () => {
    await oldDatabase();
    await mkdir(backupsFolder(), { recursive: true });
    for (const day of [1, 2, 3, 4])
      await writeFile(path.join(backupsFolder(), `plain-mirror-2020-01-0${day}.db`), "an older copy");
    await database();
    const copies = (await readdir(backupsFolder())).sort();
    expect(copies.slice(0, 2)).toEqual(["plain-mirror-2020-01-03.db", "plain-mirror-2020-01-04.db"]);
    expect(copies).toHaveLength(3);
    const copy = createClient({ url: `file:${path.join(backupsFolder(), copies[2]!)}` });
    expect((await copy.execute("select note from tracks where number = 4")).rows[0]!.note).toBe("dry");
    copy.close();
  });

  it("is not copied where nothing has to be changed", async () => {
    await database();
    await leaveDataFolder();
    await database();
    await expect(readdir(backupsFolder())).rejects.toThrow();
  });
});

describe("trouble with the data folder is said, and gone with its cause", () => {
  it("a database of a newer version", async () => {
    await database();
    await leaveDataFolder();
    const change = async (sql: string) => {
      const client = createClient({ url: `file:${databaseFile()}` });
      await client.execute(sql);
      client.close();
    };
    await change("insert into __drizzle_migrations (hash, created_at) values ('later', 99999999999999)");
    expect(await databaseTrouble()).toMatch(/newer Plain Mirror/);
    await change("delete from __drizzle_migrations where hash = 'later'");
    expect(await databaseTrouble()).toBe("");
  });

  it("a damaged database", async () => {
    await database();
    await leaveDataFolder();
    // So that the log beside it does not put right what is damaged.
    const client = createClient({ url: `file:${databaseFile()}` });
    await client.execute("PRAGMA wal_checkpoint(TRUNCATE)");
    client.close();
    const whole = await readFile(databaseFile());
    await writeFile(
      databaseFile(),
      Buffer.concat([Buffer.from("not a database at all"), whole.subarray(21)]),
    );
    expect(await databaseTrouble()).toMatch(/damaged/);
    await writeFile(databaseFile(), whole);
    expect(await databaseTrouble()).toBe("");
  });

  it("a missing database beside files that it should know", async () => {
    await mkdir(filesFolder(), { recursive: true });
    const orphan = path.join(filesFolder(), "b".repeat(64));
    await writeFile(orphan, "sound");
    expect(await databaseTrouble()).toMatch(/missing/);
    expect(await readdir(dataFolder())).not.toContain("plain-mirror.db");
    await rm(orphan);
    expect(await databaseTrouble()).toBe("");
  });

  it("a folder in the place of the database", async () => {
    await mkdir(databaseFile(), { recursive: true });
    expect(await databaseTrouble()).toMatch(/can't be written to/);
    await rm(databaseFile(), { recursive: true });
    expect(await databaseTrouble()).toBe("");
  });

  it("another server on the same folder, while it lives", async () => {
    await mkdir(dataFolder(), { recursive: true });
    // The process that runs these tests is alive and somebody else.
    await writeFile(lockFile(), String(process.ppid));
    expect(await databaseTrouble()).toMatch(new RegExp(`process ${process.ppid}`));
    const longAgo = new Date(Date.now() - 60_000);
    await utimes(lockFile(), longAgo, longAgo);
    expect(await databaseTrouble()).toBe("");
    expect(await readFile(lockFile(), "utf8")).toBe(String(process.pid));
  });

  it("a lock that a dead process left", async () => {
    await mkdir(dataFolder(), { recursive: true });
    await writeFile(lockFile(), "4194301");
    expect(await databaseTrouble()).toBe("");
  });

  it.each([
    [{ code: "ENOSPC" }, /disk is full/],
    [{ code: "SQLITE_FULL" }, /disk is full/],
    [{ code: "EROFS" }, /can't be written/],
    [{ code: "SQLITE_READONLY_DBMOVED" }, /can't be written/],
    [{ code: "SQLITE_CORRUPT" }, /damaged/],
    [{ code: "SQLITE_BUSY" }, /busy/],
  ])("%o has a sentence, also as a cause", (properties, expected) => {
    const error = Object.assign(new Error("failed"), properties);
    const wrapped = new Error("query failed", { cause: error });
    for (const own of [error, wrapped]) expect(storageTroubleIn(own)!.refusal.sentence).toMatch(expected);
    expect(storageTroubleIn(new Error("a bug"))).toBeNull();
  });

  it("a connection that was there before", async () => {
    const db = await database();
    await db.insert(studies).values({ id: "s", title: "Kept", aspectWeights: {} });
    await leaveDataFolder();
    expect((await loadStudy(await database(), "s"))!.study.title).toBe("Kept");
  });
});
