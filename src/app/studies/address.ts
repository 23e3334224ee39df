import { z } from "zod";
import type { Span } from "@/core/study";

const addressSchema = z.object({
  version: z.coerce.number().int().positive().optional().catch(undefined),
  from: z.coerce.number().min(0).optional().catch(undefined),
  to: z.coerce.number().min(0).optional().catch(undefined),
  element: z.string().optional().catch(undefined),
});

export type SearchParams = Promise<Record<string, string | string[] | undefined>>;

/** What the address of a view says: version, selection, element. */
export async function readAddress(searchParams: SearchParams): Promise<{
  version: number | null;
  selection: Span | null;
  element: string | null;
}> {
  const { version, from, to, element } = addressSchema.parse(await searchParams);
  return {
    version: version ?? null,
    selection: from !== undefined && to !== undefined && to > from ? { from, to } : null,
    element: element ?? null,
  };
}
