import { database } from "@/server/database";
import { guarded, readJson, refusalResponse, respond } from "@/server/http";
import { addElement, orderElements } from "@/server/studies";
import { elementOrderSchema, newElementSchema } from "../../../requests";

type Context = { params: Promise<{ studyId: string }> };

export const POST = guarded<Context>(async (request, { params }) => {
  const read = await readJson(request, newElementSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  const added = await addElement(await database(), (await params).studyId, read.value);
  return added.ok
    ? Response.json({ elementId: added.value }, { status: 201 })
    : refusalResponse(added.refusal);
});

/** A new order. */
export const PUT = guarded<Context>(async (request, { params }) => {
  const read = await readJson(request, elementOrderSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  return respond(await orderElements(await database(), (await params).studyId, read.value.order));
});
