import { z } from "zod";
import { refuse } from "@/core/outcome";
import { database } from "@/server/database";
import { drumFormats, exportDrums } from "@/server/drumFiles";
import { fileResponse, refusalResponse } from "@/server/http";

type Context = { params: Promise<{ placeId: string }> };

const querySchema = z.object({
  format: z.enum(drumFormats),
  bars: z
    .string()
    .regex(/^-?\d+-\d+$/)
    .optional(),
});

/** Drums of a track or stem as a file to save: all of them, or some bars of its own grid. */
export async function GET(request: Request, { params }: Context): Promise<Response> {
  const query = querySchema.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (!query.success) {
    return refusalResponse(
      refuse("bad-request", `Drums are written as ${drumFormats.join(", ")}; bars as 5-8.`).refusal,
    );
  }
  const { format, bars } = query.data;
  const [, first, last] = /^(-?\d+)-(\d+)$/.exec(bars ?? "") ?? [];
  const range = first !== undefined ? { first: Number(first), last: Number(last) } : null;
  const outcome = await exportDrums(await database(), (await params).placeId, format, range);
  return outcome.ok ? fileResponse(outcome.value) : refusalResponse(outcome.refusal);
}
