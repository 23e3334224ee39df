import { database } from "@/server/database";
import { guarded, readJson, refusalResponse, respond } from "@/server/http";
import { changeStem, removeStem } from "@/server/studies";
import { stemChangeSchema } from "../../requests";

type Context = { params: Promise<{ stemId: string }> };

export const PATCH = guarded<Context>(async (request, { params }) => {
  const read = await readJson(request, stemChangeSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  return respond(await changeStem(await database(), (await params).stemId, read.value));
});

export const DELETE = guarded<Context>(async (_request, { params }) =>
  respond(await removeStem(await database(), (await params).stemId)),
);
