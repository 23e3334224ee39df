import { database } from "@/server/database";
import { guarded, readJson, refusalResponse, respond } from "@/server/http";
import { changeElement, removeElement } from "@/server/studies";
import { elementChangeSchema } from "../../requests";

type Context = { params: Promise<{ elementId: string }> };

export const PATCH = guarded<Context>(async (request, { params }) => {
  const read = await readJson(request, elementChangeSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  return respond(await changeElement(await database(), (await params).elementId, read.value));
});

export const DELETE = guarded<Context>(async (_request, { params }) =>
  respond(await removeElement(await database(), (await params).elementId)),
);
