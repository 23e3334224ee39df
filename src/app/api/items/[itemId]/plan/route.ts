import { z } from "zod";
import { exportPlan, planFormats } from "@/server/exports/planFiles";
import { fileResponse, reading, readQuery, refusalResponse } from "@/server/http";

const querySchema = z.object({ format: z.enum(planFormats) });

/** Chords and sections of a track or stem as a file to save. */
export const GET = reading<{ itemId: string }>(async ({ params, query, db }) => {
  const read = readQuery(query, querySchema, `Plans are written as ${planFormats.join(", ")}.`);
  if (!read.ok) return refusalResponse(read.refusal);
  const file = await exportPlan(db, params.itemId, read.value.format);
  return file.ok ? fileResponse(file.value) : refusalResponse(file.refusal);
});
