import { z } from "zod";
import { parseBars } from "@/core/grid/barRange";
import { reportedIn, reportOf, reportParts, type ReportPart } from "@/models/report";
import { reportCsv, reportFormats, reportJson, reportMarkdown } from "@/models/reportFiles";
import { fileResponse, reading, readQuery, refusalResponse } from "@/server/http";
import { studyAt } from "@/server/pages";
import { compareInStudy } from "@/server/study/compare";

const isPart = (name: string): name is ReportPart => reportParts.some((own) => own === name);
const querySchema = z.object({
  format: z.enum(reportFormats),
  version: z.coerce.number().int().positive().max(1e6).optional(),
  bars: z.string().max(20).optional(),
  parts: z
    .string()
    .max(200)
    .transform((list) => list.split(","))
    .pipe(z.array(z.string().refine(isPart)))
    .optional(),
});
const files = {
  markdown: { extension: "md", type: "text/markdown", write: reportMarkdown },
  csv: { extension: "csv", type: "text/csv", write: reportCsv },
  json: { extension: "json", type: "application/json", write: reportJson },
} as const;

/** The report of a study as a file to save. */
export const GET = reading<{ studyId: string }>(async ({ params, query, db }) => {
  const read = readQuery(
    query,
    querySchema,
    `Reports are written as ${reportFormats.join(", ")}; their parts are ${reportParts.join(", ")}.`,
  );
  if (!read.ok) return refusalResponse(read.refusal);
  const found = await studyAt(db, params.studyId);
  if (!found.ok) return refusalResponse(found.refusal);
  const results = found.value;
  const { format, version, bars, parts } = read.value;
  const selected = parseBars(bars);
  const comparison = await compareInStudy(db, results, version ?? null, { bars: selected, span: null });
  const report = reportOf(
    results,
    comparison && reportedIn(results, comparison, selected),
    parts ? reportParts.filter((part) => parts.includes(part)) : reportParts,
  );
  const { extension, type, write } = files[format];
  return fileResponse({
    name: `${results.study.title} report.${extension}`,
    type: `${type}; charset=utf-8`,
    bytes: new TextEncoder().encode(write(report)),
  });
});
