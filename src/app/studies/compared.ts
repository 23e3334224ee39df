import { success } from "@/core/outcome";
import type { StudyResults } from "@/core/study";
import { fromDatabase, requestedStudy } from "@/server/pages";
import { compareInStudy, type Selection, type StudyComparison } from "@/server/study/compare";
import { readAddress, type ViewPage } from "./address";

/**
 * What the address of a view asks for, compared; the comparison is null while something of it is
 * not there. Null where there is no such study: the frame says so.
 */
export async function comparedAs({ params, searchParams }: ViewPage): Promise<{
  results: StudyResults;
  comparison: StudyComparison | null;
  selection: Selection;
} | null> {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version, selection } = await readAddress(searchParams);
  const results = found.value;
  const compared = await fromDatabase(async (db) =>
    success(await compareInStudy(db, results, version, selection)),
  );
  return { results, comparison: compared.ok ? compared.value : null, selection };
}
