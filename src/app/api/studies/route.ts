import { z } from "zod";
import { titleSchema } from "@/core/study";
import { changing, readJson, refusalResponse, respond } from "@/server/http";
import { createStudy, createStudyFrom } from "@/server/study/uploads";
import { uploadOf } from "../uploads";

const newStudySchema = z.object({ title: titleSchema });

/** An empty study. */
export const POST = changing(async ({ request, db }) => {
  const read = await readJson(request, newStudySchema);
  if (!read.ok) return refusalResponse(read.refusal);
  return Response.json({ studyId: await createStudy(db, read.value.title) }, { status: 201 });
});

/** A study around the file in the body. */
export const PUT = changing(async ({ request, query, db }) =>
  respond(await createStudyFrom(db, uploadOf(request, query)), 201),
);
