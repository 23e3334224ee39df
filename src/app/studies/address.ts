import { z } from "zod";
import type { Selection } from "@/server/comparing";

const addressSchema = z.object({
  version: z.coerce.number().int().positive().optional().catch(undefined),
  from: z.coerce.number().min(0).optional().catch(undefined),
  to: z.coerce.number().min(0).optional().catch(undefined),
  bars: z
    .string()
    .regex(/^-?\d+-\d+$/)
    .optional()
    .catch(undefined),
  element: z.string().optional().catch(undefined),
});

export type SearchParams = Promise<Record<string, string | string[] | undefined>>;

/** What the page of a view is given. */
export interface ViewPage {
  params: Promise<{ studyId: string }>;
  searchParams: SearchParams;
}

function barRange(text: string | undefined): Selection["bars"] {
  const [, first, last] = /^(-?\d+)-(\d+)$/.exec(text ?? "") ?? [];
  return first !== undefined && Number(last) >= Number(first)
    ? { first: Number(first), last: Number(last) }
    : null;
}

/** What the address of a view says: version, selection, element. */
export async function readAddress(searchParams: SearchParams): Promise<{
  version: number | null;
  selection: Selection;
  element: string | null;
}> {
  const { version, from, to, bars, element } = addressSchema.parse(await searchParams);
  return {
    version: version ?? null,
    selection: {
      span: from !== undefined && to !== undefined && to > from ? { from, to } : null,
      bars: barRange(bars),
    },
    element: element ?? null,
  };
}
