import { readCandidates } from "@/server/hits/candidates";
import { reading, respond } from "@/server/http";

/** The candidates of the study, ranked by how close they come to a drum. */
export const GET = reading<{ itemId: string; hit: string }>(async ({ params, db }) =>
  respond(await readCandidates(db, params.itemId, params.hit)),
);
