import { readHits } from "@/server/hits/typical";
import { reading, respond } from "@/server/http";

/** Typical hits of a track, measured; takes seconds the first time. */
export const GET = reading<{ itemId: string }>(async ({ params, db }) =>
  respond(await readHits(db, params.itemId)),
);
