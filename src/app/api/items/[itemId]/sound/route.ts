import { z } from "zod";
import { exportCandidate, exportLoop } from "@/server/hits/candidates";
import { fileResponse, reading, readQuery, refusalResponse } from "@/server/http";
import { placeSchema } from "../../place";

const querySchema = placeSchema.partial({ track: true, hit: true }).extend({
  /** Another candidate that is laid over it. */
  layer: z.string().min(1).max(64).optional(),
  offset: z.coerce.number().min(-50).max(50).default(0),
  inverted: z.enum(["yes", "no"]).default("no"),
  gain: z.coerce.number().min(-60).max(24).default(0),
});

/** A candidate as WAV: as it is, or as loud as the drum that it stands in for, tuned, shaped and layered. */
export const GET = reading<{ itemId: string }>(async ({ params, query, db }) => {
  const read = readQuery(query, querySchema, "Say which drum the sound is to stand in for.");
  if (!read.ok) return refusalResponse(read.refusal);
  const { track, hit, semitones, decay, layer, offset, inverted, gain } = read.value;
  const file =
    track !== undefined && hit !== undefined
      ? await exportCandidate(
          db,
          params.itemId,
          { itemId: track, name: hit },
          { semitones, decay },
          layer === undefined
            ? null
            : { id: layer, offsetMs: offset, inverted: inverted === "yes", gainDb: gain },
        )
      : await exportLoop(db, params.itemId);
  return file.ok ? fileResponse(file.value) : refusalResponse(file.refusal);
});
