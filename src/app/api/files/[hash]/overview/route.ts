import { database } from "@/server/database";
import { curveResponse } from "@/server/http";
import { loadOverview } from "@/server/results";

/** The waveform overview of a file: two bytes a block of 128 samples, peak then effective value. */
export const GET = async (_request: Request, { params }: { params: Promise<{ hash: string }> }) =>
  curveResponse(await loadOverview(await database(), (await params).hash));
