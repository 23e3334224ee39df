/** Trouble with the data folder: what the disk or the database says, as a sentence with what to do. */
import { refuse, type Refusal } from "@/core/outcome";

/** Thrown where storage cannot be used; carries what people are told. */
export class StorageTrouble extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.sentence);
  }
}

export const trouble = (sentence: string, remedy: string): StorageTrouble =>
  new StorageTrouble(refuse("storage", sentence, remedy).refusal);

/** Codes and texts of errors and of what caused them. */
function saidBy(error: unknown): string {
  const parts: string[] = [];
  // By shape, not by class: drivers throw errors that are not made here.
  for (let e = error; typeof e === "object" && e !== null && parts.length < 8;) {
    const { code, rawCode, message, cause } = e as Record<string, unknown>;
    parts.push(String(code ?? ""), String(rawCode ?? ""), String(message ?? ""));
    e = cause;
  }
  return parts.join(" ");
}

const known: readonly [pattern: RegExp, make: () => StorageTrouble][] = [
  [
    /ENOSPC|EDQUOT|SQLITE_FULL|disk is full/i,
    () =>
      trouble(
        "The disk is full, so nothing can be saved. What you have is safe.",
        "Free some space; Plain Mirror goes on by itself.",
      ),
  ],
  [
    /EROFS|EACCES|EPERM|SQLITE_READONLY|SQLITE_CANTOPEN|SQLITE_PERM|readonly database|unable to open (connection|database)/i,
    () =>
      trouble(
        "The data folder can't be written to.",
        "Check its permissions, or name another with PLAIN_MIRROR_DATA.",
      ),
  ],
  [
    /SQLITE_CORRUPT|SQLITE_NOTADB|malformed|not a database/i,
    () =>
      trouble(
        "The database in the data folder is damaged.",
        "Put one of the copies from its folder “backups” in its place, or restore your own backup.",
      ),
  ],
  [
    /SQLITE_BUSY|SQLITE_LOCKED|database is locked/i,
    () => trouble("The database is busy.", "Close other programs that have it open, then try again."),
  ],
  [
    /SQLITE_IOERR|\bEIO\b/i,
    () => trouble("The disk does not answer as it should.", "Check that the drive is connected and healthy."),
  ],
];

const ofServer: typeof known = [
  [/Client was manually closed/, () => trouble("The database is closed.", "Plain Mirror is about to end.")],
  [
    /HTTP status 40[13]/,
    () => trouble("The database server does not let Plain Mirror in.", "Check PLAIN_MIRROR_DATABASE_TOKEN."),
  ],
  [
    /fetch failed|ECONNREFUSED|ECONNRESET|ENOTFOUND|EAI_AGAIN|ETIMEDOUT|SERVER_ERROR|HRANA_/,
    () =>
      trouble("The database server does not answer.", "Check that it runs; Plain Mirror goes on by itself."),
  ],
];

/** The trouble with storage behind an error; null where it is something else, which is a bug. */
export function storageTroubleIn(error: unknown): StorageTrouble | null {
  if (error instanceof StorageTrouble) return error;
  const said = saidBy(error);
  const all = process.env.PLAIN_MIRROR_DATABASE ? [...known, ...ofServer] : known;
  return all.find(([pattern]) => pattern.test(said))?.[1]() ?? null;
}
