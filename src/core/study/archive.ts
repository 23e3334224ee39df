/** A study as it is kept in an archive: what people made of it, and which file is which. */
import { z } from "zod";
import { patchSchema } from "../edits/patch";
import { refuse, success, type Outcome } from "../outcome";
import { studyDocumentSchema } from "./document";

/** Raised when older programs could not read what is written. */
export const archiveVersion = 1;

const id = z.string().regex(/^[0-9a-f]{16}$/);
const hash = z.string().regex(/^[0-9a-f]{64}$/);
const count = z.number().int().min(0).max(1e9);
/** Milliseconds since 1970. */
const time = z.number().min(0).max(1e14);

export const archiveSchema = z.object({
  kind: z.literal("plain-mirror-study"),
  version: z.number().int().min(1).max(archiveVersion),
  study: z.object({ id, addedAt: time, nextNumber: count, sequence: count }),
  /** With what was removed and can come back. */
  document: studyDocumentSchema,
  items: z
    .array(
      z.object({
        id,
        role: z.enum(["reference", "version", "stem", "candidate", "yardstick"]),
        parentId: id.nullable(),
        number: count.nullable(),
        hash,
        fileName: z.string().min(1).max(255),
        addedAt: time,
      }),
    )
    .max(5000),
  /** Where in the archive the original of each file lies. */
  files: z.array(z.object({ hash, path: z.string().min(1).max(1000) })).max(5000),
  /** The log of changes, oldest first. */
  edits: z
    .array(
      z.object({
        label: z.string().max(500),
        patch: patchSchema,
        sequence: count,
        undoneSequence: count.nullable(),
        createdAt: time,
      }),
    )
    .max(100_000),
});
export type Archive = z.infer<typeof archiveSchema>;

const notArchive = (why: string) =>
  refuse(
    "damaged",
    `This is no archive of a study: ${why}.`,
    "Save the study once more, then open that file.",
  );

const idsSchema = z.object({
  kind: z.string(),
  version: z.number(),
  study: z.object({ id }),
  items: z.array(z.object({ id })).max(5000),
  document: z.object({ elements: z.record(id, z.unknown()) }),
});

/**
 * Reads the description in an archive. Everything in it gets a new name, so that the same archive can
 * be opened beside the study that it was made of.
 */
export function readArchive(text: string, newId: () => string): Outcome<Archive> {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    return notArchive("its description cannot be read");
  }
  const named = idsSchema.safeParse(json);
  if (!named.success || named.data.kind !== "plain-mirror-study")
    return notArchive("its description is not that of a study");
  if (named.data.version > archiveVersion)
    return refuse(
      "unsupported-format",
      "This archive was written by a newer Plain Mirror.",
      "Update this one.",
    );
  const { study, items, document } = named.data;
  const names = new Map(
    [study.id, ...items.map((own) => own.id), ...Object.keys(document.elements)].map((old) => [old, newId()]),
  );
  // Names stand as whole strings: as values, as keys, and as steps in the paths of changes.
  const renamed = text.replace(/"([0-9a-f]{16})"/g, (whole, old: string) => {
    const next = names.get(old);
    return next === undefined ? whole : `"${next}"`;
  });
  const parsed = archiveSchema.safeParse(JSON.parse(renamed));
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    return notArchive(`${issue?.path.join(".") || "its description"} is not as it should be`);
  }
  const archive = parsed.data;
  const known = new Set(archive.files.map((own) => own.hash));
  const ids = new Set(archive.items.map((own) => own.id));
  if (ids.size !== archive.items.length) return notArchive("an item is named twice");
  for (const item of archive.items) {
    if (!known.has(item.hash)) return notArchive(`the file of ${item.fileName} is not in it`);
    if (!Object.hasOwn(archive.document.items, item.id)) return notArchive("an item is not described");
    if (item.parentId !== null && !ids.has(item.parentId)) return notArchive("a stem has no track");
  }
  if (Object.keys(archive.document.items).length !== ids.size) return notArchive("an item has no file");
  return success(archive);
}
