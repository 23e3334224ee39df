import { combinedStrength } from "@/core/grid/beats";
import { database } from "@/server/database";
import { curveResponse } from "@/server/http";
import { hasOnsets, loadOnsets } from "@/server/results";

/** Onset strength of a file over all ranges: 32-bit floats, the first of them the frames a second. */
export async function GET(_request: Request, { params }: { params: Promise<{ hash: string }> }) {
  const db = await database();
  const { hash } = await params;
  if (!(await hasOnsets(db, hash))) return curveResponse(null);
  const onsets = await loadOnsets(db, hash);
  const strength = combinedStrength(onsets);
  const curve = new Float32Array(strength.length + 1);
  curve[0] = onsets.framesPerSecond;
  curve.set(strength, 1);
  return curveResponse(Buffer.from(curve.buffer));
}
