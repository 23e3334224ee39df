import { refuse } from "@/core/outcome";
import { database } from "@/server/database";
import { guarded, respond } from "@/server/http";
import { importAnnotations, longestAnnotations } from "@/server/planFiles";

type Context = { params: Promise<{ placeId: string }> };

/** Takes chords, key and sections from a JAMS file. */
export const PUT = guarded<Context>(async (request, { params }) => {
  if (Number(request.headers.get("content-length") ?? 0) > longestAnnotations) {
    return respond(refuse("too-large", "This annotation file is over 5 MB."));
  }
  return respond(await importAnnotations(await database(), (await params).placeId, await request.text()));
});
