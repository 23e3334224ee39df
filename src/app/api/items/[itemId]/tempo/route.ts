import { tempoSchema } from "@/server/api/requests";
import { fastestTyped, slowestTyped } from "@/core/grid/correction";
import { reading, readQuery, respond } from "@/server/http";
import { tempoOfItem } from "@/server/study/items";

/** The tempo that the onsets of a track say near one that was tapped. */
export const GET = reading<{ itemId: string }>(async ({ params, query, db }) => {
  const read = readQuery(query, tempoSchema, `A tempo lies between ${slowestTyped} and ${fastestTyped} BPM.`);
  if (!read.ok) return respond(read);
  return respond(await tempoOfItem(db, params.itemId, read.value.near));
});
