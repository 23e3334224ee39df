import { exportHit } from "@/server/hits/typical";
import { fileResponse, reading, refusalResponse } from "@/server/http";

/** One typical hit as WAV. */
export const GET = reading<{ itemId: string; hit: string }>(async ({ params, db }) => {
  const file = await exportHit(db, params.itemId, params.hit);
  return file.ok ? fileResponse(file.value) : refusalResponse(file.refusal);
});
