import { takenTracksSchema } from "@/server/api/requests";
import { changing, readJson, refusalResponse, respond } from "@/server/http";
import { takeFromStudy } from "@/server/study/yardstick";

/** Takes the reference of another study, or its yardstick, into the yardstick of this one. */
export const POST = changing<{ studyId: string }>(async ({ request, params, db }) => {
  const read = await readJson(request, takenTracksSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  return respond(await takeFromStudy(db, params.studyId, read.value.from, read.value.what), 201);
});
