import { database } from "@/server/database";
import { guarded, readJson, refusalResponse, respond } from "@/server/http";
import { changeStudy, deleteStudy } from "@/server/studies";
import { studyChangeSchema } from "../../requests";

type Context = { params: Promise<{ studyId: string }> };

export const PATCH = guarded<Context>(async (request, { params }) => {
  const read = await readJson(request, studyChangeSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  return respond(await changeStudy(await database(), (await params).studyId, read.value));
});

export const DELETE = guarded<Context>(async (_request, { params }) =>
  respond(await deleteStudy(await database(), (await params).studyId)),
);
