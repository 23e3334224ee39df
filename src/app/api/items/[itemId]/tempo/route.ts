import { z } from "zod";
import { fastestTyped, slowestTyped } from "@/core/grid/correction";
import { reading, readQuery, respond } from "@/server/http";
import { tempoOfItem } from "@/server/study/items";

const querySchema = z.object({ near: z.coerce.number().min(slowestTyped).max(fastestTyped) });

/** The tempo that the onsets of a track say near one that was tapped. */
export const GET = reading<{ itemId: string }>(async ({ params, query, db }) => {
  const read = readQuery(query, querySchema, `A tempo lies between ${slowestTyped} and ${fastestTyped} BPM.`);
  if (!read.ok) return respond(read);
  return respond(await tempoOfItem(db, params.itemId, read.value.near));
});
