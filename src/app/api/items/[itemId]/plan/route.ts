import { planFileSchema } from "@/server/api/requests";
import { exportPlan, planFormats } from "@/server/exports/planFiles";
import { fileResponse, reading, readQuery, refusalResponse } from "@/server/http";

/** Chords and sections of a track or stem as a file to save. */
export const GET = reading<{ itemId: string }>(async ({ params, query, db }) => {
  const read = readQuery(query, planFileSchema, `Plans are written as ${planFormats.join(", ")}.`);
  if (!read.ok) return refusalResponse(read.refusal);
  const file = await exportPlan(db, params.itemId, read.value.format);
  return file.ok ? fileResponse(file.value) : refusalResponse(file.refusal);
});
