import { database } from "@/server/database";
import { guarded, readJson, refusalResponse, respond } from "@/server/http";
import { correctGrid, undoCorrection } from "@/server/corrections";
import { correctionSchema } from "../../requests";

type Context = { params: Promise<{ placeId: string }> };

/** Lays a correction over the grid of a track or stem; an empty one shows what was measured. */
export const POST = guarded<Context>(async (request, { params }) => {
  const read = await readJson(request, correctionSchema);
  if (!read.ok) return refusalResponse(read.refusal);
  const { correction, tapped } = read.value;
  return respond(await correctGrid(await database(), (await params).placeId, correction, tapped));
});

/** Takes back the newest correction. */
export const DELETE = guarded<Context>(async (_request, { params }) =>
  respond(await undoCorrection(await database(), (await params).placeId)),
);
