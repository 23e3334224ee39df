import { z } from "zod";
import { database } from "@/server/database";
import { guarded, refusalResponse, respond } from "@/server/http";
import { refuse } from "@/core/outcome";
import { addTrack } from "@/server/studies";
import { uploadOf } from "../../../uploads";

type Context = { params: Promise<{ studyId: string }> };

/** Adds the file in the body as the reference or as a new version. */
export const PUT = guarded<Context>(async (request, { params }) => {
  const role = z.enum(["reference", "version"]).safeParse(new URL(request.url).searchParams.get("role"));
  if (!role.success) {
    return refusalResponse(refuse("bad-request", "A file is either the reference or a version.").refusal);
  }
  return respond(await addTrack(await database(), (await params).studyId, role.data, uploadOf(request)), 201);
});
