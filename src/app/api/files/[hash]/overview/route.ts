import { refuse } from "@/core/outcome";
import { database } from "@/server/database";
import { refusalResponse } from "@/server/http";
import { loadOverview } from "@/server/results";

/** The waveform overview of a file: two bytes a block of 128 samples, peak then effective value. */
export async function GET(_request: Request, { params }: { params: Promise<{ hash: string }> }) {
  const overview = await loadOverview(await database(), (await params).hash);
  if (!overview) {
    return refusalResponse(refuse("not-found", "The waveform of this file is not there yet.").refusal);
  }
  return new Response(Uint8Array.from(overview), {
    headers: { "Content-Type": "application/octet-stream", "Cache-Control": "private, max-age=3600" },
  });
}
