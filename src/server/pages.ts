/** What pages read: the study of a request once, or why it cannot be read. */
import { cache } from "react";
import { refuse, type Outcome } from "@/core/outcome";
import type { StudyResults } from "@/core/study";
import { closeDatabase, database, type Database } from "./storage/database";
import { storageTroubleIn } from "./storage/trouble";
import { studyAt } from "./study/address";

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

/**
 * The study of a request, read once for frame, title and view.
 *
 * @param address as `studyAddress` writes it.
 */
export const requestedStudy = cache((address: string): Promise<Outcome<StudyResults>> =>
  fromDatabase((db) => studyAt(db, address)),
);
