/** What pages read: the study of a request once, or why it cannot be read. */
import { cache } from "react";
import { refuse, success, type Outcome } from "@/core/outcome";
import type { StudyResults } from "@/core/study";
import { closeDatabase, database, type Database } from "./storage/database";
import { storageTroubleIn } from "./storage/trouble";
import { readStudy } from "./study/read";
import { studyIsGone } from "./study/edit";

/** Runs something on the database; trouble with it comes back as a refusal, bugs as one that says so. */
export async function fromDatabase<T>(read: (db: Database) => Promise<Outcome<T>>): Promise<Outcome<T>> {
  try {
    return await read(await database());
  } catch (error) {
    const trouble = storageTroubleIn(error);
    if (trouble) {
      await closeDatabase();
      return { ok: false, refusal: trouble.refusal };
    }
    console.error("a page could not be read", error);
    return refuse(
      "internal",
      "Something in here can't be read.",
      "Your files are safe. Reload the page; if it stays, the server's log says why.",
    );
  }
}

/** The study of a request, read once for frame, title and view. */
export const requestedStudy = cache((studyId: string): Promise<Outcome<StudyResults>> =>
  fromDatabase(async (db) => {
    const results = /^[A-Za-z0-9]{1,64}$/.test(studyId) ? await readStudy(db, studyId) : null;
    return results ? success(results) : studyIsGone();
  }),
);
