/** How well versions, whole or in part, are aligned with their reference. */
import { coverageRows, measureCoverage } from "../coverage";
import { median, table } from "../tables";
import type { PartOptions, Sections } from "./part";

/** Versions of two songs of each style, at most. */
export async function alignmentSections({ styles, seeds }: PartOptions): Promise<Sections> {
  const coverage = await measureCoverage([...styles], seeds.slice(0, 2));
  for (const r of coverage) {
    if (!r.right || !r.semitonesRight) console.log(`${r.name}, ${r.case}: ${r.found} for ${r.wanted}`);
  }
  const coverageTable = table(["case", "songs", "right to the bar", "key right"], coverageRows(coverage));
  const secondsPerPair = median(coverage.map((r) => r.seconds)).toFixed(2);
  return {
    Alignment: `Versions of development songs, mixed otherwise and mostly with a part missing. Right to the bar: every span begins, ends and answers as it was made, with nothing more and nothing less; bars in which the same parts play the very same notes stand for one another. Median time for a pair ${secondsPerPair} s.

${coverageTable}`,
  };
}
