import { z } from "zod";
import { planCorrectionSchema, planSubjects } from "@/core/plan";
import { refuse } from "@/core/outcome";
import { correctPlan, undoPlanCorrection } from "@/server/corrections";
import { database } from "@/server/database";
import { guarded, readJson, refusalResponse, respond } from "@/server/http";

type Context = { params: Promise<{ placeId: string }> };

/** Lays a correction over chords, sections or drums of a track or stem; an empty one shows what was measured. */
export const POST = guarded<Context>(async (request, { params }) => {
  const read = await readJson(request, planCorrectionSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  return respond(await correctPlan(await database(), (await params).placeId, read.value));
});

const subjectSchema = z.enum(planSubjects);

/** Takes back the newest correction of one subject. */
export const DELETE = guarded<Context>(async (request, { params }) => {
  const subject = subjectSchema.safeParse(new URL(request.url).searchParams.get("subject"));
  if (!subject.success)
    return respond(refuse("bad-request", `Say what is to be undone: ${planSubjects.join(", ")}.`));
  return respond(await undoPlanCorrection(await database(), (await params).placeId, subject.data));
});
