import { parseBars } from "@/core/grid/barRange";
import { reportedIn, reportOf, reportParts } from "@/models/report";
import { reportCsv, reportFormats, reportJson, reportMarkdown } from "@/models/reportFiles";
import { fileResponse, reading, readQuery, refusalResponse } from "@/server/http";
import { studyAt } from "@/server/study/address";
import { reportSchema } from "@/server/api/requests";
import { compareInStudy } from "@/server/study/compare";

const files = {
  markdown: { extension: "md", type: "text/markdown", write: reportMarkdown },
  csv: { extension: "csv", type: "text/csv", write: reportCsv },
  json: { extension: "json", type: "application/json", write: reportJson },
} as const;

/** The report of a study as a file to save. */
export const GET = reading<{ studyId: string }>(async ({ params, query, db }) => {
  const read = readQuery(
    query,
    reportSchema,
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
