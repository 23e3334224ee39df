/**
 * Fills a fresh data folder with the demo. The music is made once and kept in `.cache/demo`; the
 * analyses are left to the server, which takes them up when it starts.
 */
import { readFile } from "node:fs/promises";
import { eq } from "drizzle-orm";
import { stop } from "@/server/start";
import { database } from "@/server/storage/database";
import { elements, items, studies } from "@/server/storage/schema";
import { addItem, createStudyFrom, type Upload } from "@/server/study/uploads";
import { demoMusic, type DemoFile } from "./music";

async function uploadOf({ file, name, note }: DemoFile): Promise<Upload> {
  const bytes = await readFile(file);
  return { body: new Blob([bytes]).stream(), bytes: bytes.length, fileName: name, note };
}

const db = await database();
if ((await db.select({ id: studies.id }).from(studies)).length > 0) {
  await stop();
  process.exit(0);
}
console.log("Making the demo music …");
const dayMs = 24 * 60 * 60 * 1000;
const now = Date.now();
for (const [s, study] of (await demoMusic()).entries()) {
  const made = await createStudyFrom(db, await uploadOf(study.reference));
  if (!made.ok) throw new Error(made.refusal.sentence);
  const { studyId } = made.value;
  const addStems = async (trackId: string, stems: readonly DemoFile[]) => {
    for (const stem of stems) {
      const added = await addItem(db, studyId, "stem", await uploadOf(stem), trackId);
      if (!added.ok) throw new Error(added.refusal.sentence);
    }
  };
  await addStems(made.value.itemId, study.reference.stems);
  // As if it had been going on for some days; the larger study is the newer one.
  const began = now - (9 - 4 * s) * dayMs;
  await db.update(studies).set({ title: study.title, createdAt: began }).where(eq(studies.id, studyId));
  for (const [i, version] of study.versions.entries()) {
    const added = await addItem(db, studyId, "version", await uploadOf(version));
    if (!added.ok) throw new Error(added.refusal.sentence);
    await db
      .update(items)
      .set({ createdAt: began + (i + 1) * dayMs })
      .where(eq(items.id, added.value.itemId));
    await addStems(added.value.itemId, version.stems);
  }
  for (const sound of study.sounds) {
    const added = await addItem(db, studyId, "candidate", await uploadOf(sound));
    if (!added.ok) throw new Error(added.refusal.sentence);
  }
  for (const track of study.yardstick) {
    const added = await addItem(db, studyId, "yardstick", await uploadOf(track));
    if (!added.ok) throw new Error(added.refusal.sentence);
  }
  const rows = await db.select().from(elements).where(eq(elements.studyId, studyId));
  for (const row of rows) {
    const set = study.elements[row.name];
    if (set) await db.update(elements).set(set).where(eq(elements.id, row.id));
  }
}
await stop();
process.exit(0);
