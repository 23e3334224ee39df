/** Studies by their address, which may name a version that stands in for the reference. */
import { success, type Outcome } from "@/core/outcome";
import { parseStudyAddress, type StudyResults } from "@/core/study";
import { compareWithStandIn } from "../jobs/queue";
import type { Database } from "../storage/database";
import { studyIsGone } from "./edit";
import { readStudy } from "./read";

/** The study of an address; where a version stands in for the reference, what is missing of that is begun. */
export async function studyAt(db: Database, address: string): Promise<Outcome<StudyResults>> {
  const asked = parseStudyAddress(address);
  const results = asked && (await readStudy(db, asked.id, asked.standIn));
  if (!results) return studyIsGone();
  if (results.study.standIn !== null) await compareWithStandIn(db, results);
  return success(results);
}
