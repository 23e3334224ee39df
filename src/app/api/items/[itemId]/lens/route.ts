import { lensFileSchema } from "@/server/api/requests";
import { exportLens } from "@/server/exports/lensFile";
import { reading, readQuery, refusalResponse, streamResponse } from "@/server/http";

/** A part that the lens lifts out of a track, or all but that, as WAV. */
export const GET = reading<{ itemId: string }>(async ({ params, query, db }) => {
  const read = readQuery(
    query,
    lensFileSchema,
    "Say which part (kick, snare, hats, percussion, bass or music), and from where: start or bar1.",
  );
  if (!read.ok) return refusalResponse(read.refusal);
  const { part, rest, from } = read.value;
  const file = await exportLens(db, params.itemId, {
    part,
    isRest: rest === "yes",
    fromBarOne: from === "bar1",
  });
  return file.ok ? streamResponse(file.value) : refusalResponse(file.refusal);
});
