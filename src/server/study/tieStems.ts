/** Ties stems to the elements that they hold, where their name or their sound tells which. */
import { and, eq, isNull } from "drizzle-orm";
import { elementOfStem, tracksOf, type StudyResults } from "@/core/study";
import type { Database } from "../storage/database";
import { edits, items } from "../storage/schema";

/** Stems whose element was ever set by hand, which includes those that were untied on purpose. */
async function tiedByHand(db: Database, studyId: string): Promise<Set<string>> {
  const log = await db.select({ patch: edits.patch }).from(edits).where(eq(edits.studyId, studyId));
  return new Set(
    log.flatMap(({ patch }) =>
      patch.flatMap(({ path: [first, id, what] }) =>
        first === "items" && what === "elementId" && id !== undefined ? [id] : [],
      ),
    ),
  );
}

/** @returns whether anything was changed. */
export async function tieStems(db: Database, { study, analyses }: StudyResults): Promise<boolean> {
  const found = tracksOf(study)
    .flatMap(({ stems }) => stems)
    .filter(({ elementId }) => elementId === null)
    .flatMap(({ id, fileName, file }) => {
      const element = elementOfStem(fileName, analyses.get(file.hash) ?? null, study.elements);
      return element ? [{ id, elementId: element.id }] : [];
    });
  if (found.length === 0) return false;
  const byHand = await tiedByHand(db, study.id);
  const [first, ...others] = found
    .filter(({ id }) => !byHand.has(id))
    .map(({ id, elementId }) =>
      db
        .update(items)
        .set({ elementId })
        // Somebody may have tied it meanwhile.
        .where(and(eq(items.id, id), isNull(items.elementId))),
    );
  if (!first) return false;
  await db.batch([first, ...others]);
  return true;
}
