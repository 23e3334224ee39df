/** A whole server with its database on another one, over a real connection. */
import { mkdir, writeFile } from "node:fs/promises";
import { createClient } from "@libsql/client";
import { databaseServer } from "../testing/databaseServer";
import { databaseTrouble, freshDataFolder, pieceWav } from "../testing/helpers";
import { testServer } from "../testing/testServer";
import { readStudy } from "../study/read";
import { start, stop } from "../start";
import { database, leaveDataFolder } from "./database";
import { databaseFile, filesFolder } from "./paths";
import { tieToFolder } from "./remoteDatabase";

let server: Awaited<ReturnType<typeof databaseServer>>;
const name = (url: string | null, token = "secret") => {
  process.env.PLAIN_MIRROR_DATABASE = url ?? "";
  process.env.PLAIN_MIRROR_DATABASE_TOKEN = token;
};
beforeAll(async () => {
  server = await databaseServer("secret");
  name(server.url);
});
afterAll(async () => {
  name(null);
  await server.stop();
});

const sentence = async (): Promise<string> => {
  await stop();
  return databaseTrouble();
};

describe("a server with its database on another one", () => {
  const { begin, beginVersion, allDone, edit, undo, idle } = testServer();

  it("keeps studies, results and edits there, and has them after a restart", async () => {
    const { studyId } = await begin();
    await beginVersion(studyId, pieceWav({ gainDb: -3 }));
    const done = await allDone(studyId);
    const { match } = done.scores[0]!;
    expect(match).toBeGreaterThan(50);
    const called = (title: string) =>
      edit(studyId, (document) => ({ ...document, study: { ...document.study, title } }));
    await called("Slow Harbour");
    await called("Slow Harbor");
    await undo(studyId);
    await idle();
    const stored = await server.client.execute("SELECT id, title FROM studies");
    expect(stored.rows.map((row) => [row.id, row.title])).toEqual([[studyId, "Slow Harbour"]]);
    await stop();
    await start();
    const again = (await readStudy(await database(), studyId))!;
    expect(again.study.title).toBe("Slow Harbour");
    expect(again.scores[0]!.match).toBe(match);
  });

  it("says what is wrong with the way there, and goes on once it is right", async () => {
    name(server.url, "wrong");
    expect(await sentence()).toMatch(/does not let Plain Mirror in/);
    name("http://127.0.0.1:9");
    expect(await sentence()).toMatch(/does not answer/);
    name("plain-mirror.db");
    expect(await sentence()).toMatch(/not the address of a libSQL server/);
    name(server.url);
    expect(await sentence()).toBe("");
  });

  it("goes on where it was ended between tying the folder and making its tables", async () => {
    const own = process.env.PLAIN_MIRROR_DATA!;
    await stop();
    const cleanUp = await freshDataFolder();
    const fresh = await databaseServer("secret");
    name(fresh.url);
    await mkdir(filesFolder(), { recursive: true });
    const client = createClient({ url: fresh.url, authToken: "secret" });
    await tieToFolder(client, true);
    client.close();
    expect(await sentence()).toBe("");
    await stop();
    await fresh.stop();
    await cleanUp();
    process.env.PLAIN_MIRROR_DATA = own;
    name(server.url);
    expect(await sentence()).toBe("");
  });

  it("takes no folder that belongs to another database", async () => {
    await writeFile(databaseFile(), "");
    expect(await sentence()).toMatch(/has a database of its own/);
    await leaveDataFolder();
    const own = process.env.PLAIN_MIRROR_DATA!;
    const cleanUp = await freshDataFolder();
    expect(await sentence()).toMatch(/do not belong together/);
    await leaveDataFolder();
    await cleanUp();
    process.env.PLAIN_MIRROR_DATA = own;
  });
});
