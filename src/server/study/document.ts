/** What people edit of a study, between the database and one plain value: read, checked as a whole, written. */
import { and, eq } from "drizzle-orm";
import { diff } from "@/core/edits/patch";
import { gridOf } from "@/core/grid/correction";
import { refuse, success, type Outcome } from "@/core/outcome";
import {
  documentOf,
  editsOfItem,
  itemsOf,
  studyDocumentSchema,
  versionGrid,
  type ItemEdits,
  type StemRecord,
  type StudyDocument,
  type TrackRecord,
} from "@/core/study";
import { loadAnalyses } from "../storage/analyses";
import type { Database } from "../storage/database";
import { derivedKinds, loadDerived } from "../storage/derived";
import {
  correctionSubjects,
  corrections,
  elements as elementsTable,
  items as itemsTable,
  studies,
} from "../storage/schema";
import { misfit } from "./bounds";
import type { LoadedStudy } from "./record";

/** The document of a study, with what was removed and can come back. */
export function fullDocument({ study, row, removed, removedElements }: LoadedStudy): StudyDocument {
  const document = documentOf({
    ...study,
    versions: [...study.versions],
  });
  const gone = Object.fromEntries(
    removed.map((item): [string, ItemEdits] => [item.id, { ...editsOfItem(item), removed: true }]),
  );
  return {
    study: { ...document.study, removed: row.removedAt !== null },
    elements: {
      ...document.elements,
      ...Object.fromEntries(
        removedElements.map(({ id, name, lens, fromHz, toHz, state, note, weight, target, hidden }) => [
          id,
          { name, lens, fromHz, toHz, state, note, weight, target, hidden },
        ]),
      ),
    },
    elementOrder: document.elementOrder,
    items: { ...document.items, ...gone },
  };
}

/** Reads a changed document through its schema and the bounds of its tracks. */
export async function checked(
  db: Database,
  loaded: LoadedStudy,
  before: StudyDocument,
  wanted: StudyDocument,
): Promise<Outcome<StudyDocument>> {
  const parsed = studyDocumentSchema.safeParse(wanted);
  if (!parsed.success) {
    const message = parsed.error.issues[0]?.message ?? "the request is not understood";
    return refuse("bad-request", `This can't be saved: ${message}.`);
  }
  // An element that was ever there is only left out of the order: stems may name it, and it can come back.
  const after = { ...parsed.data, elements: { ...before.elements, ...parsed.data.elements } };
  const sameItems =
    Object.keys(after.items).length === Object.keys(before.items).length &&
    Object.keys(after.items).every((id) => Object.hasOwn(before.items, id));
  if (!sameItems) return refuse("not-found", "This track is not here any more.");
  // Of candidates nothing depends on what was measured.
  const all = [...itemsOf(loaded.study), ...loaded.removed.filter((item) => "corrections" in item)];
  const changed = all.filter(({ id }) => diff(before.items[id], after.items[id]).length > 0);
  if (changed.length === 0) return success(after);

  const { reference } = loaded.study;
  const hashes = [reference, ...changed].flatMap((item) => (item ? [item.file.hash] : []));
  const analyses = await loadAnalyses(db, [...new Set(hashes)]);
  const alignments = await loadDerived(
    db,
    derivedKinds.align,
    changed.map(({ id }) => id),
  );
  const gridFor = (item: TrackRecord | StemRecord) => {
    const analysis = analyses.get(item.file.hash);
    return analysis ? gridOf(analysis.grid, analysis.durationSeconds, after.items[item.id]!.grid) : null;
  };
  const referenceGrid = reference && gridFor(reference);
  for (const item of changed) {
    const own = gridFor(item);
    const edits = after.items[item.id]!;
    if (edits.elementId !== null && !Object.hasOwn(after.elements, edits.elementId))
      return refuse("not-found", "This element is not here any more.");
    const problem = misfit(edits, { item, grid: own, referenceGrid });
    if (!problem) continue;
    // Coverage is counted on the grid of the alignment, which may have more bars than the own one.
    const counted = versionGrid(
      own,
      edits.grid,
      alignments.get(item.id)?.value.alignment ?? null,
      referenceGrid,
    );
    const still = misfit({ ...edits, harmony: {}, form: {} }, { item, grid: counted, referenceGrid });
    const planOnly = misfit({ ...edits, coverage: null }, { item, grid: own, referenceGrid });
    if (still || planOnly) return still ?? planOnly!;
  }
  return success(after);
}

export type Statement = Parameters<Database["batch"]>[0][number];

/** The statements that write what differs between two documents. */
export function writing(
  db: Database,
  studyId: string,
  before: StudyDocument,
  after: StudyDocument,
): Statement[] {
  const statements: Statement[] = [];
  const now = Date.now();
  if (diff(before.study, after.study).length > 0) {
    const { removed, ...own } = after.study;
    statements.push(
      db
        .update(studies)
        .set({ ...own, removedAt: removed ? now : null })
        .where(eq(studies.id, studyId)),
    );
  }
  if (
    diff(before.elements, after.elements).length > 0 ||
    diff(before.elementOrder, after.elementOrder).length > 0
  ) {
    for (const [id, element] of Object.entries(after.elements)) {
      const place = after.elementOrder.indexOf(id);
      const values = { ...element, position: place, removedAt: place < 0 ? now : null };
      statements.push(
        Object.hasOwn(before.elements, id)
          ? db
              .update(elementsTable)
              .set(values)
              .where(and(eq(elementsTable.id, id), eq(elementsTable.studyId, studyId)))
          : db.insert(elementsTable).values({ id, studyId, ...values }),
      );
    }
  }
  for (const [id, item] of Object.entries(after.items)) {
    const old = before.items[id]!;
    if (diff(old, item).length === 0) continue;
    const { note, elementId, offsetSeconds, coverage, chosenFor, starred, place, removed } = item;
    statements.push(
      db
        .update(itemsTable)
        .set({
          note,
          elementId,
          offsetSeconds,
          coverage,
          chosenFor,
          starred,
          place,
          removedAt: removed ? now : null,
        })
        .where(and(eq(itemsTable.id, id), eq(itemsTable.studyId, studyId))),
    );
    for (const subject of correctionSubjects) {
      if (diff(old[subject], item[subject]).length === 0) continue;
      const row = { itemId: id, subject, value: item[subject] };
      statements.push(
        db
          .insert(corrections)
          .values(row)
          .onConflictDoUpdate({ target: [corrections.itemId, corrections.subject], set: row }),
      );
    }
  }
  return statements;
}
