import { z } from "zod";
import { refuse } from "@/core/outcome";
import { database } from "@/server/database";
import { fileResponse, refusalResponse } from "@/server/http";
import { exportPlan, planFormats } from "@/server/planFiles";

type Context = { params: Promise<{ placeId: string }> };

const formatSchema = z.enum(planFormats);

/** Chords and sections of a track or stem as a file to save. */
export async function GET(request: Request, { params }: Context): Promise<Response> {
  const format = formatSchema.safeParse(new URL(request.url).searchParams.get("format"));
  if (!format.success) {
    return refusalResponse(refuse("bad-request", `Plans are written as ${planFormats.join(", ")}.`).refusal);
  }
  const outcome = await exportPlan(await database(), (await params).placeId, format.data);
  if (!outcome.ok) return refusalResponse(outcome.refusal);
  return fileResponse(outcome.value);
}
