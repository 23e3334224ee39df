import { drumFileSchema } from "@/server/api/requests";
import { drumFormats, exportDrums } from "@/server/exports/drumFiles";
import { fileResponse, reading, readQuery, refusalResponse } from "@/server/http";
import { parseBars } from "@/core/grid/barRange";

/** Drums of a track or stem as a file to save: all of them, or some bars of its own grid. */
export const GET = reading<{ itemId: string }>(async ({ params, query, db }) => {
  const sentence = `Drums are written as ${drumFormats.join(", ")}; bars as 5-8.`;
  const read = readQuery(query, drumFileSchema, sentence);
  if (!read.ok) return refusalResponse(read.refusal);
  const { format, bars } = read.value;
  const range = bars === undefined ? null : parseBars(bars);
  if (bars !== undefined && !range) return refusalResponse({ code: "bad-request", sentence });
  const file = await exportDrums(db, params.itemId, format, range);
  return file.ok ? fileResponse(file.value) : refusalResponse(file.refusal);
});
