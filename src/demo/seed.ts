/**
 * Fills a fresh data folder with the demo. The music is made once and kept in `.cache/demo`; the
 * analyses are left to the server, which takes them up when it starts.
 */
import { createHash } from "node:crypto";
import { existsSync } from "node:fs";
import { mkdir, readFile, readdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { eq } from "drizzle-orm";
import { z } from "zod";
import { writeWav } from "@/core/formats/wav";
import { openDatabase } from "@/server/database";
import { addTrack, createStudyFrom, type Upload } from "@/server/studies";
import { elements, studies, tracks } from "@/server/schema";
import { renderRate } from "./render";
import { demoStudies } from "./scenario";

const fileSchema = z.object({ file: z.string(), name: z.string(), note: z.string() });
const listSchema = z.array(
  z.object({
    title: z.string(),
    reference: fileSchema,
    versions: z.array(fileSchema),
    elements: z.record(
      z.string(),
      z.object({
        state: z.enum(["not started", "in work", "close enough", "done", "left out"]),
        note: z.string().optional(),
      }),
    ),
  }),
);

const cache = path.join(process.cwd(), ".cache", "demo");

/** Changes whenever the code that makes the music changes. */
async function stamp(): Promise<string> {
  const digest = createHash("sha256");
  for (const folder of ["src/demo", "src/demo/songs"]) {
    for (const name of (await readdir(folder)).sort()) {
      if (name.endsWith(".ts")) digest.update(await readFile(path.join(folder, name)));
    }
  }
  return digest.digest("hex").slice(0, 12);
}

async function makeMusic(): Promise<z.infer<typeof listSchema>> {
  const listFile = path.join(cache, `${await stamp()}.json`);
  if (!existsSync(listFile)) {
    await mkdir(cache, { recursive: true });
    const write = async (
      study: string,
      part: string,
      { name, note, track }: { name: string; note: string; track: Float32Array[] },
    ) => {
      const file = path.join(cache, `${study}-${part}.wav`.toLowerCase().replaceAll(" ", "-"));
      await writeFile(file, writeWav(track, renderRate));
      return { file, name, note };
    };
    const list: z.infer<typeof listSchema> = [];
    for (const study of await demoStudies()) {
      const versions = [];
      for (const [i, version] of study.versions.entries())
        versions.push(await write(study.title, `v${i + 1}`, version));
      list.push({
        title: study.title,
        reference: await write(study.title, "reference", study.reference),
        versions,
        elements: study.elements,
      });
    }
    await writeFile(listFile, JSON.stringify(list));
  }
  return listSchema.parse(JSON.parse(await readFile(listFile, "utf8")));
}

async function uploadOf({ file, name, note }: z.infer<typeof fileSchema>): Promise<Upload> {
  const bytes = await readFile(file);
  return { body: new Blob([bytes]).stream(), bytes: bytes.length, fileName: name, note };
}

const db = await openDatabase();
if ((await db.select().from(studies)).length > 0) process.exit(0);
console.log("Making the demo music …");
const dayMs = 24 * 60 * 60 * 1000;
const now = Date.now();
for (const [s, study] of (await makeMusic()).entries()) {
  const made = await createStudyFrom(db, await uploadOf(study.reference));
  if (!made.ok) throw new Error(made.refusal.sentence);
  const { studyId } = made.value;
  // As if it had been going on for some days; the larger study is the newer one.
  const began = now - (9 - 4 * s) * dayMs;
  await db.update(studies).set({ title: study.title, createdAt: began }).where(eq(studies.id, studyId));
  for (const [i, version] of study.versions.entries()) {
    const added = await addTrack(db, studyId, "version", await uploadOf(version));
    if (!added.ok) throw new Error(added.refusal.sentence);
    await db
      .update(tracks)
      .set({ createdAt: began + (i + 1) * dayMs })
      .where(eq(tracks.id, added.value.trackId));
  }
  const rows = await db.select().from(elements).where(eq(elements.studyId, studyId));
  for (const row of rows) {
    const set = study.elements[row.name];
    if (set) await db.update(elements).set(set).where(eq(elements.id, row.id));
  }
}
process.exit(0);
