import { changing, readJson, refusalResponse, respond } from "@/server/http";
import { studyChangedSoon } from "@/server/jobs/queue";
import { undoEdit } from "@/server/study/edit";
import { turnSchema } from "@/server/api/requests";

/** Undoes an edit: the one that is named, else the newest. */
export const POST = changing<{ studyId: string }>(async ({ request, params, db }) => {
  const read = await readJson(request, turnSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  const turned = await undoEdit(db, params.studyId, read.value.id);
  if (turned.ok) studyChangedSoon(params.studyId);
  return respond(turned);
});
