import { readLayers } from "@/server/hits/candidates";
import { reading, readQuery, refusalResponse, respond } from "@/server/http";
import { placeSchema } from "@/server/api/requests";

/** The candidates that would fill what one lacks against a drum. */
export const GET = reading<{ itemId: string }>(async ({ params, query, db }) => {
  const read = readQuery(query, placeSchema, "Say which drum the sound is to stand in for.");
  if (!read.ok) return refusalResponse(read.refusal);
  const { track, hit, semitones, decay } = read.value;
  return respond(await readLayers(db, params.itemId, { itemId: track, name: hit }, { semitones, decay }));
});
