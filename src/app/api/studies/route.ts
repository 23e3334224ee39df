import { success } from "@/core/outcome";
import { changing, reading, readJson, refusalResponse, respond } from "@/server/http";
import { newStudySchema } from "@/server/api/requests";
import { openArchive } from "@/server/study/openArchive";
import { listStudies } from "@/server/study/summary";
import { createStudy, createStudyFrom } from "@/server/study/uploads";
import { uploadOf } from "../uploads";

/** All studies, newest first. */
export const GET = reading(async ({ db }) =>
  respond(success((await listStudies(db)).map(({ id, title, addedAt }) => ({ id, title, addedAt })))),
);

/** An empty study. */
export const POST = changing(async ({ request, db }) => {
  const read = await readJson(request, newStudySchema);
  if (!read.ok) return refusalResponse(read.refusal);
  return Response.json({ studyId: await createStudy(db, read.value.title) }, { status: 201 });
});

/** A study around the file in the body, or the one that an archive was made of. */
export const PUT = changing(async ({ request, query, db }) => {
  const upload = uploadOf(request, query);
  const make = /\.zip$/i.test(upload.fileName) ? openArchive : createStudyFrom;
  return respond(await make(db, upload), 201);
});
