import { changing, readQuery, respond } from "@/server/http";
import { addedItemSchema } from "@/server/api/requests";
import { addItem } from "@/server/study/uploads";
import { uploadOf } from "../../../uploads";

/** Adds the file in the body as the reference, as a new version, as a stem of a track, or as a candidate for its drums. */
export const PUT = changing<{ studyId: string }>(async ({ request, params, query, db }) => {
  const read = readQuery(
    query,
    addedItemSchema,
    "A file is the reference, a version, a stem or a candidate.",
  );
  if (!read.ok) return respond(read);
  const { role, parent = null } = read.value;
  return respond(await addItem(db, params.studyId, role, uploadOf(request, query), parent), 201);
});
