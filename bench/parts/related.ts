/** Whether tracks that have to do with each other are told from strangers, by source, on pieces that nothing was fitted on. */
import { pairs, type Pair } from "../related";
import { table } from "../tables";
import { firstSeed, thinnedCount, type PartOptions, type Sections } from "./part";

/** Likely enough to go on, and unlikely enough to say so. */
const sure = { related: 0.7, strangers: 0.3 } as const;
const mostStyles = 8;

const share = (part: number, whole: number) => (whole === 0 ? "–" : (part / whole).toFixed(3));

function row(name: string, all: readonly Pair[]): (string | number)[] {
  const related = all.filter(({ isRelated }) => isRelated);
  const strangers = all.filter(({ isRelated }) => !isRelated);
  return [
    name,
    related.length,
    share(related.filter((own) => own.related > sure.related).length, related.length),
    share(related.filter((own) => own.covered > 0).length, related.length),
    strangers.length,
    share(strangers.filter((own) => own.related < sure.strangers).length, strangers.length),
    share(
      strangers.reduce((sum, own) => sum + own.covered, 0),
      strangers.length,
    ),
  ];
}

export async function relatedSections({ styles, oneIn }: PartOptions): Promise<Sections> {
  const measured: Pair[] = [];
  const names = styles.filter((_, i) => i % 2 === 1).slice(0, thinnedCount(mostStyles, oneIn));
  for await (const pair of pairs({
    only: "measure",
    seeds: [firstSeed],
    names,
    mostRecordings: thinnedCount(32, oneIn),
    strangers: 6,
  })) {
    measured.push(pair);
    if (pair.isRelated ? pair.related < sure.related : pair.related > sure.strangers)
      console.log(`${pair.name}, ${pair.kind}: ${pair.related.toFixed(2)}`);
  }
  const head = ["", "related pairs", "above 0.7", "aligned", "strangers", "below 0.3", "their bars aligned"];
  const by = (key: "source" | "kind") =>
    [...new Set(measured.map((own) => own[key]))].map((name) =>
      row(
        name,
        measured.filter((own) => own[key] === name),
      ),
    );
  return {
    Strangers: `How likely two tracks are to have to do with each other (\`related\`), for pieces that nothing was fitted on: songs of other styles and seeds, and the measuring half of recordings by others (Debian packages, from their beginning for 110 s). Targets: above 0.7 for 97 % of related pairs, below 0.3 for 95 % of strangers, at most 10 % of whose bars are aligned.

${table(head, [...by("source"), row("all", measured)])}

By what was done to the reference:

${table(head, by("kind"))}`,
  };
}
