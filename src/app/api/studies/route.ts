import { database } from "@/server/database";
import { guarded, readJson, refusalResponse, respond } from "@/server/http";
import { createStudy, createStudyFrom } from "@/server/studies";
import { newStudySchema } from "../requests";
import { uploadOf } from "../uploads";

/** An empty study. */
export const POST = guarded(async (request) => {
  const read = await readJson(request, newStudySchema);
  if (!read.ok) return refusalResponse(read.refusal);
  return Response.json({ studyId: await createStudy(await database(), read.value.title) }, { status: 201 });
});

/** A study around the file in the body. */
export const PUT = guarded(async (request) =>
  respond(await createStudyFrom(await database(), uploadOf(request)), 201),
);
