/**
 * Everything that people change of a study goes through here: one log of edits for all subjects,
 * each a patch of the study's document that was checked as a whole before anything was written.
 */
import { and, desc, eq, gt, isNotNull, isNull, sql } from "drizzle-orm";
import { applyPatch, diff, inverted, type Patch } from "@/core/edits/patch";
import { refuse, success, type Outcome } from "@/core/outcome";
import type { Database } from "../storage/database";
import { edits as editsTable, studies } from "../storage/schema";
import { checked, fullDocument, writing, type Statement } from "./document";
import { loadStudy } from "./record";

/** What a request wants to change. */
export interface WantedEdit {
  /** What is done, in words. */
  label: string;
  patch: Patch;
}

/** What an edit, undo or redo came to. */
export interface AppliedEdit {
  id: number;
  label: string;
  /** The patch as it was applied: the inverse of the edit's own where it was undone. */
  patch: Patch;
  /** The study's count after it. */
  sequence: number;
}

const shared = globalThis as { plainMirrorEditing?: Map<string, Promise<unknown>> };

/** Edits of one study happen one after the other. */
export function inTurn<T>(studyId: string, work: () => Promise<T>): Promise<T> {
  const turns = (shared.plainMirrorEditing ??= new Map<string, Promise<unknown>>());
  const turn = (turns.get(studyId) ?? Promise.resolve()).then(work);
  const settled = turn.catch(() => undefined);
  turns.set(studyId, settled);
  void settled.then(() => {
    if (turns.get(studyId) === settled) turns.delete(studyId);
  });
  return turn;
}

export const studyIsGone = () =>
  refuse("not-found", "This study is not here any more.", "Go back to the list of studies.");

const asBatch = (statements: Statement[]) => statements as [Statement, ...Statement[]];

/**
 * Applies edits to a study, one after the other; none of them where one is refused.
 *
 * @returns each with its patch as it was stored.
 */
export function applyEdits(
  db: Database,
  studyId: string,
  wanted: readonly WantedEdit[],
): Promise<Outcome<AppliedEdit[]>> {
  return inTurn(studyId, async () => {
    const loaded = await loadStudy(db, studyId, { evenRemoved: true });
    if (!loaded) return studyIsGone();
    const begin = fullDocument(loaded);
    let document = begin;
    let { sequence } = loaded.row;
    const applied: Omit<AppliedEdit, "id">[] = [];
    for (const { label, patch } of wanted) {
      const changed = applyPatch(document, patch);
      if (!changed.ok) return changed;
      const valid = await checked(db, loaded, document, changed.value);
      if (!valid.ok) return valid;
      const effective = diff(document, valid.value);
      document = valid.value;
      if (effective.length > 0) applied.push({ label, patch: effective, sequence: ++sequence });
    }
    if (applied.length === 0) return success([]);
    const rows = applied.map((own) =>
      db
        .insert(editsTable)
        .values({ studyId, label: own.label, patch: own.patch, sequence: own.sequence })
        .returning({ id: editsTable.id }),
    );
    const results = await db.batch(
      asBatch([
        ...rows,
        ...writing(db, studyId, begin, document),
        db.update(studies).set({ sequence }).where(eq(studies.id, studyId)),
      ]),
    );
    return success(applied.map((own, i) => ({ ...own, id: (results[i] as { id: number }[])[0]!.id })));
  });
}

type EditRow = typeof editsTable.$inferSelect;

/** Applies a stored edit again, or its inverse, and marks it. */
async function turn(
  db: Database,
  studyId: string,
  row: EditRow,
  direction: "undo" | "redo",
): Promise<Outcome<AppliedEdit>> {
  const loaded = await loadStudy(db, studyId, { evenRemoved: true });
  if (!loaded) return studyIsGone();
  const before = fullDocument(loaded);
  const patch = direction === "undo" ? inverted(row.patch) : row.patch;
  const changed = applyPatch(before, patch);
  if (!changed.ok) return changed;
  const valid = await checked(db, loaded, before, changed.value);
  if (!valid.ok) return valid;
  const sequence = loaded.row.sequence + 1;
  await db.batch(
    asBatch([
      db
        .update(editsTable)
        .set({ undoneSequence: direction === "undo" ? sequence : null })
        .where(eq(editsTable.id, row.id)),
      ...writing(db, studyId, before, valid.value),
      db.update(studies).set({ sequence }).where(eq(studies.id, studyId)),
    ]),
  );
  return success({ id: row.id, label: row.label, patch: diff(before, valid.value), sequence });
}

async function newestDone(db: Database, studyId: string): Promise<EditRow | undefined> {
  const [row] = await db
    .select()
    .from(editsTable)
    .where(and(eq(editsTable.studyId, studyId), isNull(editsTable.undoneSequence)))
    .orderBy(desc(editsTable.id))
    .limit(1);
  return row;
}

/** The edit that was undone last, unless something new has been done since. */
async function newestUndone(db: Database, studyId: string): Promise<EditRow | undefined> {
  const [row] = await db
    .select()
    .from(editsTable)
    .where(and(eq(editsTable.studyId, studyId), isNotNull(editsTable.undoneSequence)))
    .orderBy(desc(editsTable.undoneSequence))
    .limit(1);
  if (!row) return undefined;
  const [since] = await db
    .select({ id: editsTable.id })
    .from(editsTable)
    .where(
      and(
        eq(editsTable.studyId, studyId),
        isNull(editsTable.undoneSequence),
        gt(editsTable.sequence, row.undoneSequence!),
      ),
    )
    .limit(1);
  return since ? undefined : row;
}

/**
 * Undoes an edit: the one that is named, wherever it stands in the log, or else the newest.
 */
export function undoEdit(db: Database, studyId: string, id: number | null): Promise<Outcome<AppliedEdit>> {
  return inTurn(studyId, async () => {
    const row =
      id === null
        ? await newestDone(db, studyId)
        : (
            await db
              .select()
              .from(editsTable)
              .where(and(eq(editsTable.id, id), eq(editsTable.studyId, studyId)))
          )[0];
    if (!row) return refuse("not-found", "There is nothing to undo.");
    if (row.undoneSequence !== null) return refuse("already-here", "This change has been undone already.");
    return turn(db, studyId, row, "undo");
  });
}

/** Does again what was undone: the edit that is named, or else the one that was undone last. */
export function redoEdit(db: Database, studyId: string, id: number | null): Promise<Outcome<AppliedEdit>> {
  return inTurn(studyId, async () => {
    const row =
      id === null
        ? await newestUndone(db, studyId)
        : (
            await db
              .select()
              .from(editsTable)
              .where(and(eq(editsTable.id, id), eq(editsTable.studyId, studyId)))
          )[0];
    if (!row || row.undoneSequence === null) return refuse("not-found", "There is nothing to redo.");
    return turn(db, studyId, row, "redo");
  });
}

/** What Undo and Redo would do; null where there is nothing. */
export interface UndoState {
  sequence: number;
  undo: string | null;
  redo: string | null;
}

export async function undoState(db: Database, studyId: string): Promise<UndoState> {
  const [row] = await db.select({ sequence: studies.sequence }).from(studies).where(eq(studies.id, studyId));
  return {
    sequence: row?.sequence ?? 0,
    undo: (await newestDone(db, studyId))?.label ?? null,
    redo: (await newestUndone(db, studyId))?.label ?? null,
  };
}

/** A line in the list of changes. */
export interface LoggedEdit {
  id: number;
  label: string;
  createdAt: number;
  undone: boolean;
}

/** The newest edits of a study, newest first. */
export async function listEdits(db: Database, studyId: string, most = 200): Promise<LoggedEdit[]> {
  return db
    .select({
      id: editsTable.id,
      label: editsTable.label,
      createdAt: editsTable.createdAt,
      undone: sql<boolean>`${editsTable.undoneSequence} IS NOT NULL`.mapWith(Boolean),
    })
    .from(editsTable)
    .where(eq(editsTable.studyId, studyId))
    .orderBy(desc(editsTable.id))
    .limit(most);
}
