/**
 * The benchmark: prints its tables and puts them into docs/benchmarks.md, each part its own sections.
 *
 * `npm run bench` for all, two parts side by side and those that take times by themselves;
 * `npm run bench -- --only pages,speed` for some, one after the other. `--in 8` measures one piece in eight.
 * That, or `--seeds 3 --styles house`, is a quick look at the
 * accuracy and is not written.
 */
import { mkdir, readFile, writeFile } from "node:fs/promises";
import { cpus } from "node:os";
import { parseArgs } from "node:util";
import { analysisVersion } from "@/core/analysis/result";
import { styles } from "@/demo/songs/styles";
import { runAll } from "./runAll";
import { alignmentSections } from "./parts/alignment";
import { changeSections } from "./parts/changes";
import { hitSections } from "./parts/hits";
import { lowEndSections } from "./parts/lowEnd";
import { elementsSections } from "./parts/elements";
import { kindSections } from "./parts/kinds";
import { lensSections } from "./parts/lens";
import { ladderSections } from "./parts/ladders";
import { momentSections } from "./parts/moments";
import { othersSections } from "./parts/others";
import { pageSections } from "./parts/pages";
import { firstSeed, thinned, type PartOptions, type Sections } from "./parts/part";
import { songSections } from "./parts/songs";
import { relatedSections } from "./parts/related";
import { sameSections } from "./parts/same";
import { scaleSections } from "./parts/scale";
import { toneSections } from "./parts/tone";
import { stemSections } from "./parts/stems";
import { voiceSections } from "./parts/voices";
import { speedSections } from "./parts/speed";
import { putSections } from "./sections";

/** The longest first, so that two that run side by side end together. */
const parts: Record<string, (options: PartOptions) => Promise<Sections>> = {
  songs: songSections,
  ladders: ladderSections,
  changes: changeSections,
  lens: lensSections,
  elements: elementsSections,
  scale: scaleSections,
  tone: toneSections,
  related: relatedSections,
  lowEnd: lowEndSections,
  hits: hitSections,
  kinds: kindSections,
  same: sameSections,
  alignment: alignmentSections,
  moments: momentSections,
  voices: voiceSections,
  others: othersSections,
  stems: stemSections,
  speed: speedSections,
  pages: pageSections,
};
/** These take times: nothing may run beside them. */
const alone = ["speed", "pages"];

const { values } = parseArgs({
  options: {
    only: { type: "string" },
    in: { type: "string" },
    seeds: { type: "string" },
    styles: { type: "string" },
  },
});
const chosen = values.only?.split(",") ?? Object.keys(parts);
const unknown = chosen.filter((name) => !parts[name]);
if (unknown.length > 0)
  throw new Error(`parts are ${Object.keys(parts).join(", ")}; not ${unknown.join(", ")}`);
const oneIn = Number(values.in ?? 1);
if (!Number.isInteger(oneIn) || oneIn < 1) throw new Error("--in is a whole number: one piece in so many");
if (!values.only) {
  const failed = await runAll(
    chosen.filter((name) => !alone.includes(name)),
    alone,
    process.argv.slice(2),
  );
  process.exit(failed ? 1 : 0);
}
const options: PartOptions = {
  styles: values.styles?.split(",") ?? thinned(styles, oneIn),
  seeds: Array.from({ length: Number(values.seeds ?? 6) }, (_, i) => firstSeed + i),
  oneIn,
};
const isWhole = values.seeds === undefined && values.styles === undefined && oneIn === 1;
const page = "docs/benchmarks.md";
const measuredOn = `*Measured ${new Date().toISOString().slice(0, 10)}, analysis version ${analysisVersion}, on ${cpus().length} cores of ${cpus()[0]?.model.trim() || "an unnamed processor"}, Node ${process.version}.*`;

for (const name of chosen) {
  const sections = await parts[name]!(options);
  const dated = Object.fromEntries(
    Object.entries(sections).map(([heading, text]) => [heading, `${measuredOn}\n\n${text}`]),
  );
  for (const [heading, text] of Object.entries(dated)) console.log(`## ${heading}\n\n${text}\n`);
  if (!isWhole) continue;
  await mkdir("docs", { recursive: true });
  // Read at the last moment: another part may have written meanwhile.
  await writeFile(page, putSections(await readFile(page, "utf8").catch(() => ""), dated));
}
process.exit(0);
