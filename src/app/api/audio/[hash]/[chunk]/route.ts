import { chunkSchema } from "@/server/api/requests";
import { refuse } from "@/core/outcome";
import { bytesResponse, reading, refusalResponse } from "@/server/http";
import { readAudio } from "@/server/exports/audio";

/** A chunk of a file's decoded samples, whole or its percussive or sustained part; empty past the end. */
export const GET = reading<{ hash: string; chunk: string }>(async ({ params, query, db }) => {
  const read = chunkSchema.safeParse({ chunk: params.chunk, part: query.get("part") ?? undefined });
  if (!read.success)
    return refusalResponse(refuse("bad-request", "There is no such chunk of a file.").refusal);
  const bytes = await readAudio(db, params.hash, read.data.chunk, read.data.part);
  return bytes.ok ? bytesResponse(bytes.value) : refusalResponse(bytes.refusal);
});
