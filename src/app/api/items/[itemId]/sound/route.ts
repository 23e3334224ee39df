import { soundSchema } from "@/server/api/requests";
import { exportCandidate, exportLoop } from "@/server/hits/candidates";
import { fileResponse, reading, readQuery, refusalResponse } from "@/server/http";

/** A candidate as WAV: as it is, or as loud as the drum that it stands in for, tuned, shaped and layered. */
export const GET = reading<{ itemId: string }>(async ({ params, query, db }) => {
  const read = readQuery(query, soundSchema, "Say which drum the sound is to stand in for.");
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
