import { z } from "zod";
import { changing, readQuery, respond } from "@/server/http";
import { addItem } from "@/server/study/uploads";
import { uploadOf } from "../../../uploads";

const querySchema = z.object({
  role: z.enum(["reference", "version", "stem"]),
  parent: z.string().max(64).optional(),
});

/** Adds the file in the body as the reference, as a new version, or as a stem of a track. */
export const PUT = changing<{ studyId: string }>(async ({ request, params, query, db }) => {
  const read = readQuery(query, querySchema, "A file is the reference, a version or a stem.");
  if (!read.ok) return respond(read);
  const { role, parent = null } = read.value;
  return respond(await addItem(db, params.studyId, role, uploadOf(request, query), parent), 201);
});
