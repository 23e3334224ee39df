/** The tracks that a study is held against as of its style: taking them from other studies. */
import { and, asc, eq, inArray, isNull } from "drizzle-orm";
import { diff } from "@/core/edits/patch";
import { refuse, success, type Outcome } from "@/core/outcome";
import type { YardstickSource } from "@/models/yardstick";
import { studyChangedSoon } from "../jobs/queue";
import type { Database } from "../storage/database";
import { newId } from "../storage/identifier";
import { items, studies } from "../storage/schema";
import { applyEdits, inTurn, studyIsGone, type AppliedEdit } from "./edit";
import { withFilesLock } from "./uploads";

/** Other studies with a reference or a yardstick, newest first. */
export async function yardstickSources(db: Database, studyId: string): Promise<YardstickSource[]> {
  const rows = await db
    .select({ id: studies.id, title: studies.title, role: items.role, addedAt: studies.createdAt })
    .from(studies)
    .innerJoin(items, eq(items.studyId, studies.id))
    .where(
      and(
        isNull(studies.removedAt),
        isNull(items.removedAt),
        inArray(items.role, ["reference", "yardstick"]),
      ),
    );
  const sources = new Map<string, YardstickSource & { addedAt: number }>();
  for (const { id, title, role, addedAt } of rows) {
    if (id === studyId) continue;
    const own = sources.get(id) ?? { id, title, tracks: 0, addedAt };
    if (role === "yardstick") own.tracks++;
    sources.set(id, own);
  }
  return [...sources.values()]
    .sort((a, b) => b.addedAt - a.addedAt)
    .map(({ id, title, tracks }) => ({ id, title, tracks }));
}

/** Takes the reference of another study, or all tracks of its yardstick, as one edit. Files that are there already are left out. */
export async function takeFromStudy(
  db: Database,
  studyId: string,
  from: string,
  what: "reference" | "yardstick",
): Promise<Outcome<{ added: number; edit: AppliedEdit | null }>> {
  return withFilesLock(() =>
    inTurn(`upload ${studyId}`, async () => {
      const rows = await db
        .select()
        .from(items)
        .where(and(inArray(items.studyId, [studyId, from]), isNull(items.removedAt)))
        .orderBy(asc(items.createdAt));
      const [own] = await db
        .select({ id: studies.id })
        .from(studies)
        .where(and(eq(studies.id, studyId), isNull(studies.removedAt)));
      if (!own) return studyIsGone();
      const there = new Set(
        rows
          .filter((row) => row.studyId === studyId && row.role === "yardstick")
          .map(({ fileHash }) => fileHash),
      );
      const wanted = rows.filter((row) => row.studyId === from && row.role === what);
      if (wanted.length === 0) return refuse("not-found", "That study has no such tracks any more.");
      const fresh = wanted.filter(({ fileHash }) => !there.has(fileHash));
      if (fresh.length === 0) return success({ added: 0, edit: null });
      const added = fresh.map(({ fileHash, fileName }) => ({
        id: newId(),
        studyId,
        role: "yardstick" as const,
        fileHash,
        fileName,
        removedAt: Date.now(),
      }));
      await db.insert(items).values(added);
      const label =
        added.length === 1
          ? `Yardstick track “${added[0]!.fileName}” added`
          : `${added.length} yardstick tracks added`;
      const patch = added.flatMap(({ id }) => diff(true, false, ["items", id, "removed"]));
      const edit = await applyEdits(db, studyId, [{ label, patch }]);
      if (!edit.ok) {
        await db.delete(items).where(
          inArray(
            items.id,
            added.map(({ id }) => id),
          ),
        );
        return edit;
      }
      studyChangedSoon(studyId);
      return success({ added: added.length, edit: edit.value[0] ?? null });
    }),
  );
}
