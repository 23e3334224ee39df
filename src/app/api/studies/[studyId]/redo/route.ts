import { changing, readJson, refusalResponse, respond } from "@/server/http";
import { studyChangedSoon } from "@/server/jobs/queue";
import { redoEdit } from "@/server/study/edit";
import { turnSchema } from "@/server/api/requests";

/** Does an edit again: the one that is named, else the one that was undone last. */
export const POST = changing<{ studyId: string }>(async ({ request, params, db }) => {
  const read = await readJson(request, turnSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  const turned = await redoEdit(db, params.studyId, read.value.id);
  if (turned.ok) studyChangedSoon(params.studyId);
  return respond(turned);
});
