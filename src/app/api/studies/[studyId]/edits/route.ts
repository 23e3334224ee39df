import { editsSchema } from "@/server/api/requests";
import { changing, reading, readJson, refusalResponse, respond } from "@/server/http";
import { studyChangedSoon } from "@/server/jobs/queue";
import { applyEdits, listEdits } from "@/server/study/edit";

/** Far more than a whole drum part brought in from MIDI. */
const mostBytes = 4 * 1024 * 1024;

/** Applies edits, one after the other; none of them where one is refused. */
export const POST = changing<{ studyId: string }>(async ({ request, params, db }) => {
  const read = await readJson(request, editsSchema, mostBytes);
  if (!read.ok) return refusalResponse(read.refusal);
  const applied = await applyEdits(db, params.studyId, read.value.edits);
  if (applied.ok) studyChangedSoon(params.studyId);
  return respond(applied);
});

/** The list of changes, newest first. */
export const GET = reading<{ studyId: string }>(async ({ params, db }) =>
  Response.json(await listEdits(db, params.studyId)),
);
