import { z } from "zod";
import { exportCandidate, exportLoop } from "@/server/hits/candidates";
import { fileResponse, reading, readQuery, refusalResponse } from "@/server/http";

const querySchema = z.object({
  /** The track and its drum that the sound is to stand in for; without them it is heard as it is. */
  track: z.string().min(1).max(64).optional(),
  hit: z.string().min(1).max(40).optional(),
  semitones: z.coerce.number().min(-24).max(24).default(0),
  decay: z.coerce.number().min(0.1).max(4).default(1),
});

/** A candidate as WAV: as it is, or as loud as the drum that it stands in for, tuned and shaped on request. */
export const GET = reading<{ itemId: string }>(async ({ params, query, db }) => {
  const read = readQuery(query, querySchema, "Say which drum the sound is to stand in for.");
  if (!read.ok) return refusalResponse(read.refusal);
  const { track, hit, semitones, decay } = read.value;
  const file =
    track !== undefined && hit !== undefined
      ? await exportCandidate(db, params.itemId, { itemId: track, name: hit, semitones, decay })
      : await exportLoop(db, params.itemId);
  return file.ok ? fileResponse(file.value) : refusalResponse(file.refusal);
});
