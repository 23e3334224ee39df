import { database } from "@/server/database";
import { guarded, readJson, refusalResponse, respond } from "@/server/http";
import { changeTrack, deleteTrack } from "@/server/studies";
import { trackChangeSchema } from "../../requests";

type Context = { params: Promise<{ trackId: string }> };

export const PATCH = guarded<Context>(async (request, { params }) => {
  const read = await readJson(request, trackChangeSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  return respond(await changeTrack(await database(), (await params).trackId, read.value));
});

export const DELETE = guarded<Context>(async (_request, { params }) =>
  respond(await deleteTrack(await database(), (await params).trackId)),
);
