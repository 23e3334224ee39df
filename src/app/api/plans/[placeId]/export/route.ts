import { z } from "zod";
import { refuse } from "@/core/outcome";
import { database } from "@/server/database";
import { refusalResponse } from "@/server/http";
import { exportPlan, planFormats } from "@/server/planFiles";

type Context = { params: Promise<{ placeId: string }> };

const formatSchema = z.enum(planFormats);

/** Chords and sections of a track or stem as a file to save. */
export async function GET(request: Request, { params }: Context): Promise<Response> {
  const format = formatSchema.safeParse(new URL(request.url).searchParams.get("format"));
  if (!format.success) {
    return refusalResponse(refuse("bad-request", `Plans are written as ${planFormats.join(", ")}.`).refusal);
  }
  const outcome = await exportPlan(await database(), (await params).placeId, format.data);
  if (!outcome.ok) return refusalResponse(outcome.refusal);
  const { name, type, bytes } = outcome.value;
  const plain = name.replace(/[^\x20-\x7e]|["\\]/g, "_");
  return new Response(bytes, {
    headers: {
      "Content-Type": type,
      "Content-Disposition": `attachment; filename="${plain}"; filename*=UTF-8''${encodeURIComponent(name)}`,
      "X-Content-Type-Options": "nosniff",
    },
  });
}
