import { analysisVersion } from "@/core/analysis/result";
import { isCurveName } from "@/core/analysis/curves";
import { refuse } from "@/core/outcome";
import { bytesResponse, reading, refusalResponse } from "@/server/http";
import { loadCurve } from "@/server/storage/analyses";

/** A stored curve as raw bytes; its rate stands in a header. The address holds the version of the analysis. */
export const GET = reading<{ hash: string; version: string; name: string }>(async ({ params, db }) => {
  const { hash, version, name } = params;
  const curve =
    isCurveName(name) && version === String(analysisVersion) ? await loadCurve(db, hash, name) : null;
  return curve
    ? bytesResponse(Uint8Array.from(curve.data), { "X-Curve-Rate": String(curve.rate) })
    : refusalResponse(refuse("not-found", "This file has not been analysed yet.").refusal);
});
