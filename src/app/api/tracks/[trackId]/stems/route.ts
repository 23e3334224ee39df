import { database } from "@/server/database";
import { guarded, respond } from "@/server/http";
import { addStem } from "@/server/studies";
import { uploadOf } from "../../../uploads";

type Context = { params: Promise<{ trackId: string }> };

/** Adds the file in the body as an isolated part of the track. */
export const PUT = guarded<Context>(async (request, { params }) =>
  respond(await addStem(await database(), (await params).trackId, uploadOf(request)), 201),
);
