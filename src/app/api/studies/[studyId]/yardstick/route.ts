import { z } from "zod";
import { changing, readJson, refusalResponse, respond } from "@/server/http";
import { takeFromStudy } from "@/server/study/yardstick";

const wantedSchema = z.object({
  from: z.string().regex(/^[A-Za-z0-9]{1,64}$/, "this is no study"),
  what: z.enum(["reference", "yardstick"]),
});

/** Takes the reference of another study, or its yardstick, into the yardstick of this one. */
export const POST = changing<{ studyId: string }>(async ({ request, params, db }) => {
  const read = await readJson(request, wantedSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  return respond(await takeFromStudy(db, params.studyId, read.value.from, read.value.what), 201);
});
