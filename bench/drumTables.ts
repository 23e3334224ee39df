/** The drum part of the benchmark's report. */
import { reliability } from "./metrics";
import { drumChanges, type DifferenceResult } from "./drumDifferences";
import { drumGroups, fOfCounts, type DrumGroup, type MeasuredDrums } from "./drums";

export interface DrumRow {
  style: string;
  name: string;
  mix: MeasuredDrums;
  stem: MeasuredDrums;
}

const table = (head: string[], rows: (string | number)[][]): string =>
  [head, head.map(() => "---"), ...rows].map((row) => `| ${row.join(" | ")} |`).join("\n");
const median = (values: readonly number[]) => [...values].sort((a, b) => a - b)[values.length >> 1] ?? 0;
const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / Math.max(1, values.length);
const main = ["kick", "snare and clap", "hats"] as const;

/** Summed over songs, and the mean over the songs that have the voice or in which it was found. */
function f(rows: readonly MeasuredDrums[], group: DrumGroup): string {
  const counts = rows.map(({ groups }) => groups[group]).filter(({ found, real }) => found + real > 0);
  return counts.length === 0
    ? "–"
    : `${fOfCounts(counts).toFixed(3)} (${mean(counts.map((own) => fOfCounts([own]))).toFixed(3)})`;
}

function row(name: string, rows: readonly DrumRow[]) {
  const mixes = rows.map(({ mix }) => mix);
  const stems = rows.map(({ stem }) => stem);
  const sum = (of: (own: MeasuredDrums) => number) => mixes.reduce((total, own) => total + of(own), 0);
  return [
    name,
    rows.length,
    ...main.map((group) => f(mixes, group)),
    ...main.map((group) => f(stems, group)),
    mean(mixes.flatMap(({ velocityCorrelation }) => velocityCorrelation ?? [])).toFixed(2),
    median(mixes.flatMap(({ timeErrors }) => timeErrors)).toFixed(1),
    (
      sum((own) => own.patternsRight) /
      Math.max(
        1,
        sum((own) => own.patterns),
      )
    ).toFixed(3),
  ];
}

export function drumReport(rows: readonly DrumRow[], differences: readonly DifferenceResult[]): string {
  const styles = [...new Set(rows.map(({ style }) => style))];
  const hits = table(
    [
      "style",
      "songs",
      ...main.map((group) => `${group}, mix`),
      ...main.map((group) => `${group}, stem`),
      "velocity correlation",
      "timing error, ms",
      "patterns right",
    ],
    [
      ...styles.map((style) =>
        row(
          style,
          rows.filter((own) => own.style === style),
        ),
      ),
      row("**all**", rows),
    ],
  );
  const others = (Object.keys(drumGroups) as DrumGroup[]).filter(
    (group) => !(main as readonly string[]).includes(group),
  );
  const rest = table(
    ["voice", "full mixes", "stems"],
    others.map((group) => [
      group,
      f(
        rows.map(({ mix }) => mix),
        group,
      ),
      f(
        rows.map(({ stem }) => stem),
        group,
      ),
    ]),
  );
  const sure = table(
    ["confidence", "hits", "mean confidence", "right"],
    reliability(rows.flatMap(({ mix }) => mix.answers)).map((r) => [
      r.range,
      r.count,
      r.meanConfidence.toFixed(3),
      r.shareRight.toFixed(3),
    ]),
  );
  const changes = table(
    ["change", "songs", "reported as such", "false reports in eight bars"],
    drumChanges.map((change) => {
      const own = differences.filter((r) => r.change === change);
      const judged = own.filter(({ reported }) => reported !== null);
      const bars = own.reduce((sum, r) => sum + r.bars, 0);
      const wrong = own.reduce((sum, r) => sum + r.falseReports, 0);
      return [
        change,
        own.length,
        judged.length > 0
          ? (judged.filter(({ reported }) => reported).length / judged.length).toFixed(3)
          : "–",
        ((8 * wrong) / Math.max(1, bars)).toFixed(2),
      ];
    }),
  );
  return `## Drums

The same songs. F-measure of hits at ±50 ms, summed over the songs, and in brackets the mean over songs that have the voice or in which it was found. Targets in full mixes: kick 0.90, snare and clap 0.85, hats 0.90; in the drums alone 0.95, 0.92, 0.94. Velocity: Pearson's correlation over the matched hits of a song, mean; target 0.6. Timing: median over matched hits; target 5 ms. Patterns: sections of which the typical kick and snare (or clap) are exactly those that were written, on sixteenths; target 0.80. The drum model is fitted on other songs of these styles among other sources (docs/decisions/0014-many-sources.md).

${hits}

Other voices:

${rest}

Confidence of single hits in full mixes; those below 0.5 are not counted as hits.

${sure}

Known differences: recreations of two songs of each style, mixed and mastered otherwise, each with one change of the drums. Target: at most one false report in eight bars.

${changes}`;
}
