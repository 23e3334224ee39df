/** Leaves those of the proposed elements that the reference has. */
import { and, eq, isNull } from "drizzle-orm";
import { defaultElementWeight } from "@/core/match";
import {
  foundElements,
  heardInReference,
  proposedElements,
  tracksOf,
  type ElementRecord,
  type StudyResults,
} from "@/core/study";
import type { Database } from "../storage/database";
import { edits, elements } from "../storage/schema";

/** Whether the elements of a study are still those that it was begun with. */
const areAsProposed = (all: readonly ElementRecord[]): boolean =>
  all.length === proposedElements.length &&
  all.every((own, i) => {
    const { name, lens, fromHz, toHz } = proposedElements[i]!;
    return (
      own.name === name &&
      own.lens === lens &&
      own.fromHz === fromHz &&
      own.toHz === toHz &&
      own.state === "not started" &&
      own.note === "" &&
      own.weight === defaultElementWeight
    );
  });

/** Whether an element was ever edited: one that was put back is wanted. */
async function wereElementsEdited(db: Database, studyId: string): Promise<boolean> {
  const log = await db.select({ patch: edits.patch }).from(edits).where(eq(edits.studyId, studyId));
  return log.some(({ patch }) =>
    patch.some(({ path: [first] }) => first === "elements" || first === "elementOrder"),
  );
}

/**
 * Takes away those of the proposed elements that are not heard in the reference, and names the others
 * by what is heard. Does nothing once anybody has edited an element, or brought a stem that may be tied to one.
 *
 * @returns whether anything was changed.
 */
export async function keepFoundElements(db: Database, results: StudyResults): Promise<boolean> {
  const { study } = results;
  if (!areAsProposed(study.elements) || tracksOf(study).some(({ stems }) => stems.length > 0)) return false;
  const heard = heardInReference(results);
  if (!heard || (await wereElementsEdited(db, study.id))) return false;
  const found = foundElements(heard);
  // Where nothing is heard the usual ones are as good as any.
  if (found.length === 0) return false;
  const [first, ...others] = study.elements.flatMap(({ id, name }) => {
    const own = found.find(({ proposed }) => proposed === name);
    if (own?.name === name) return [];
    return [
      db
        .update(elements)
        .set(own ? { name: own.name } : { removedAt: Date.now() })
        // Somebody may have edited it meanwhile.
        .where(and(eq(elements.id, id), eq(elements.name, name), isNull(elements.removedAt))),
    ];
  });
  if (!first) return false;
  await db.batch([first, ...others]);
  return true;
}
