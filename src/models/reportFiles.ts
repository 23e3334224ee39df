/** Reports as files: Markdown for people, CSV for tables, JSON for programs. */
import type { Report, ReportFigure, ReportTable } from "./report";

export const reportFormats = ["markdown", "csv", "json"] as const;
export type ReportFormat = (typeof reportFormats)[number];

const cell = (text: string) => text.replace(/\|/g, "\\|").replace(/\s*\n\s*/g, " ");

function markdownTable({ head, rows, numbers }: ReportTable): string {
  const line = (cells: readonly string[]) => `| ${cells.map(cell).join(" | ")} |`;
  const rule = head.map((_, i) => (numbers.includes(i) ? "---:" : "---"));
  return [line(head), line(rule), ...rows.map(line)].join("\n");
}

export function reportMarkdown({ title, subject, match, chapters }: Report): string {
  return `${[
    `# ${title}`,
    subject,
    ...(match ? [`**Match ${match.text} of 100**: ${match.meaning}.`] : []),
    ...chapters.flatMap((own) => [
      `## ${own.title}`,
      ...own.lines,
      ...(own.table ? [markdownTable(own.table)] : []),
    ]),
  ].join("\n\n")}\n`;
}

const isNumber = (text: string) => /^-?\d+(\.\d+)?$/.test(text);

/** What a spreadsheet would take for a formula is kept as text; a plain number, or one with a true minus sign, is none. */
const quoted = (text: string) =>
  `"${(/^[=+@\t-]/.test(text) && !isNumber(text) ? `'${text}` : text).replace(/"/g, '""')}"`;

/** What a chart is drawn from, as a table. */
function figureRows(figure: ReportFigure): string[][] {
  if (figure.kind === "spectra")
    return [
      ["Hz", "Reference, dB", "Version, dB", "Gap, dB"],
      ...figure.bands.map(({ hertz, reference, version, gap }) =>
        [hertz, reference, version, gap].map((value) => String(value)),
      ),
    ];
  const plays = (height: number | null | undefined) => (height === null ? "" : height! > 0 ? "1" : "0");
  return [
    ["Bar", ...figure.lanes.flatMap(({ name }) => [`${name}, reference`, `${name}, version`])],
    ...Array.from({ length: figure.bars }, (_, bar) => [
      String(bar + 1),
      ...figure.lanes.flatMap(({ reference, version }) => [plays(reference[bar]), plays(version[bar])]),
    ]),
  ];
}

/** One table under the other, each with its title in the first column. */
export function reportCsv({ title, match, chapters }: Report): string {
  const rows: string[][] = [["Study", title], ...(match ? [["Match", match.text, match.meaning]] : [])];
  for (const { title: heading, table, figure } of chapters) {
    if (table) rows.push([], [heading], table.head, ...table.rows);
    if (figure) rows.push([], [heading], ...figureRows(figure));
  }
  return `${rows.map((row) => row.map(quoted).join(",")).join("\r\n")}\r\n`;
}

export const reportJson = (report: Report): string => `${JSON.stringify(report, null, 2)}\n`;
