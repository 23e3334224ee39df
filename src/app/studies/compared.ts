import { success } from "@/core/outcome";
import type { StudyResults } from "@/core/study";
import type { Database } from "@/server/storage/database";
import { fromDatabase, requestedStudy } from "@/server/pages";
import type { MixAspect } from "@/core/match";
import {
  compareAspectsInStudy,
  compareInStudy,
  type AspectComparison,
  type Selection,
  type StudyComparison,
} from "@/server/study/compare";
import { readAddress, type ViewPage } from "./address";

interface Asked<Compared> {
  results: StudyResults;
  comparison: Compared | null;
  selection: Selection;
}

async function asked<Compared>(
  { params, searchParams }: ViewPage,
  compare: (
    ...of: [db: Database, results: StudyResults, version: number | null, selection: Selection]
  ) => Promise<Compared | null>,
): Promise<Asked<Compared> | null> {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version, selection } = await readAddress(searchParams);
  const results = found.value;
  const compared = await fromDatabase(async (db) => success(await compare(db, results, version, selection)));
  return { results, comparison: compared.ok ? compared.value : null, selection };
}

/**
 * What the address of a view asks for, compared; the comparison is null while something of it is
 * not there. Null where there is no such study: the frame says so.
 */
export const comparedAs = (page: ViewPage): Promise<Asked<StudyComparison> | null> =>
  asked(page, compareInStudy);

/** The same for a view of some aspects of the mix. */
export const comparedIn = (
  page: ViewPage,
  aspects: readonly MixAspect[],
): Promise<Asked<AspectComparison> | null> => asked(page, (...of) => compareAspectsInStudy(...of, aspects));
