import { importAnnotations, longestAnnotations } from "@/server/exports/planFiles";
import { changing, readText, refusalResponse, respond } from "@/server/http";
import { studyChangedSoon } from "@/server/jobs/queue";

/** Takes chords, key and sections from a JAMS file, as one edit. */
export const PUT = changing<{ itemId: string }>(async ({ request, params, db }) => {
  const text = await readText(request, longestAnnotations);
  if (!text.ok) return refusalResponse(text.refusal);
  const taken = await importAnnotations(db, params.itemId, text.value);
  if (taken.ok) studyChangedSoon(taken.value.studyId);
  return respond(taken);
});
