import { archiveStudy } from "@/server/exports/archive";
import { reading, refusalResponse, streamResponse } from "@/server/http";

/** A whole study as a zip file to save. */
export const GET = reading<{ studyId: string }>(async ({ params, db }) => {
  const archive = await archiveStudy(db, params.studyId);
  return archive.ok
    ? streamResponse({ ...archive.value, type: "application/zip" })
    : refusalResponse(archive.refusal);
});
