import { database } from "@/server/database";
import { curveResponse } from "@/server/http";
import { loadEnergies } from "@/server/results";

/** K-weighted energy of a file: a 32-bit float every 10 ms, from which the loudness of any span follows. */
export const GET = async (_request: Request, { params }: { params: Promise<{ hash: string }> }) =>
  curveResponse(await loadEnergies(await database(), (await params).hash));
