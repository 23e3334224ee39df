import { z } from "zod";
import { parseBars } from "@/core/grid/barRange";
import { limits } from "@/core/formats/limits";
import type { Selection } from "@/server/study/compare";

const seconds = z.coerce.number().min(0).max(limits.longestSeconds).optional().catch(undefined);
const addressSchema = z.object({
  version: z.coerce.number().int().positive().max(1e6).optional().catch(undefined),
  from: seconds,
  to: seconds,
  bars: z.string().max(20).optional().catch(undefined),
});

/** What the page of a view is given. */
export interface ViewPage {
  params: Promise<{ studyId: string }>;
  searchParams: Promise<Record<string, string | string[] | undefined>>;
}

/** What the address of a view says: version and selection. What makes no sense is left out. */
export async function readAddress(
  searchParams: ViewPage["searchParams"],
): Promise<{ version: number | null; selection: Selection }> {
  const { version, from, to, bars } = addressSchema.parse(await searchParams);
  return {
    version: version ?? null,
    selection: {
      span: from !== undefined && to !== undefined && to > from ? { from, to } : null,
      bars: parseBars(bars),
    },
  };
}
