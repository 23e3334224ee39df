/** Whether a recording that is only filtered, coded, limited, turned down, folded to mono or cut elsewhere is heard alike. */
import { execFileSync } from "node:child_process";
import { existsSync, mkdirSync } from "node:fs";
import path from "node:path";
import { compareDrums, countedDrums, drumReports, type DrumVoice } from "@/core/drums";
import { planTimes } from "@/core/formats/planTimes";
import { gridOf } from "@/core/grid/correction";
import { harteLabel } from "@/core/harmony/chords";
import { compareBass } from "@/core/lowEnd";
import { compareMixes, type MixAspect } from "@/core/match";
import { countedPlan } from "@/core/plan";
import { alignVersion, gridOfSide, measuresOfWhole, versionGrid, type AlignmentSide } from "@/core/study";
import { drumSide, sideOf } from "../drumDifferences";
import { boundaryF, majorMinorOverlap, matchedEvents } from "../metrics";
import { recordings, type Recording } from "../material/recordings";
import { mean, table } from "../tables";
import { thinned, type PartOptions, type Sections } from "./part";

const folder = path.join(process.cwd(), ".cache", "same");
const seconds = 90;
/** How far into the recording the other cut begins. */
const cutBy = 7.3;
const mostPieces = 10;

/** What is done to a recording: filters of ffmpeg, how it is written, where it begins and ends. */
interface Treatment {
  filter?: string;
  coded?: readonly string[];
  from?: number;
  until?: number;
}

const changes: Record<string, Treatment> = {
  filtered: { filter: "equalizer=f=300:t=q:w=0.8:g=4,highshelf=f=6000:g=-4" },
  "low-passed at 9 kHz": { filter: "lowpass=f=9000,lowpass=f=9000" },
  "MP3 at 128 kbit/s": { coded: ["mp3", "-b:a", "128k"] },
  "Opus at 96 kbit/s": { coded: ["opus", "-b:a", "96k"] },
  "limited by 8 dB": { filter: "alimiter=level_in=2.5:limit=0.9:level=false" },
  "12 dB lower": { filter: "volume=-12dB" },
  mono: { filter: "pan=mono|c0=0.5*c0+0.5*c1" },
  [`cut ${cutBy} s later`]: { from: cutBy },
};

export const made = (file: string, name: string, change: string): string =>
  changed(file, `${name} ${change}`, changes[change] ?? {});

/** A recording with something done to it, made once and kept. */
export function changed(
  file: string,
  name: string,
  { filter, coded, from = 0, until = seconds }: Treatment,
): string {
  const [extension = "wav", ...options] = coded ?? [];
  const out = path.join(folder, name.replace(/[^\w.-]+/g, "_") + `.${extension}`);
  if (!existsSync(out)) {
    mkdirSync(folder, { recursive: true });
    const begin = ["-ss", String(from), "-t", String(until - from)];
    const filters = filter ? ["-af", filter] : [];
    execFileSync("ffmpeg", ["-loglevel", "error", "-y", ...begin, "-i", file, ...filters, ...options, out]);
  }
  return out;
}

/** What is shown of a side, in seconds of the first cut. */
function answersOf({ analysis }: AlignmentSide, late: number) {
  const grid = gridOf(analysis.grid, analysis.durationSeconds);
  const times = planTimes(countedPlan(analysis.plan), grid, analysis.durationSeconds);
  return {
    bpm: analysis.tempo?.bpm ?? null,
    hits: countedDrums(analysis.drums, {}, grid).hits.map((hit) => ({ ...hit, time: hit.time + late })),
    chords: times.chords.map(({ start, end, chord }) => ({
      start: start + late,
      end: end + late,
      label: harteLabel(chord),
    })),
    boundaries: times.sections.slice(1).map(({ start }) => start + late),
  };
}
type Answers = ReturnType<typeof answersOf>;

/** F-measure of hits of the same voice at ±50 ms, all voices together; null where neither has many. */
function hitsAgree(a: Answers["hits"], b: Answers["hits"]): number | null {
  if (a.length + b.length < 20) return null;
  let right = 0;
  for (const voice of new Set<DrumVoice>(a.map((hit) => hit.voice))) {
    const of = (hits: Answers["hits"]) => hits.flatMap((hit) => (hit.voice === voice ? [hit.time] : []));
    right += matchedEvents(of(a), of(b), 0.05).length;
  }
  return (2 * right) / (a.length + b.length);
}

/** Hits that are said to be missing or too many, in eight bars; null where the two do not line up. */
function falseReports(reference: AlignmentSide, version: AlignmentSide): number | null {
  const grid = gridOfSide(reference);
  const { alignment } = alignVersion(reference, version);
  const own = versionGrid(gridOfSide(version), {}, alignment, grid);
  if (!grid || !own || !alignment || alignment.spans.length === 0) return null;
  const compared = compareDrums(drumSide(reference, grid), drumSide(version, own), alignment.spans);
  const places = drumReports(compared, grid.beatsPerBar)
    .filter(({ kind }) => kind === "missing" || kind === "extra")
    .reduce((sum, report) => sum + report.places.length, 0);
  return (8 * places) / compared.bars;
}

/** What the low end scores, 0–100, where it can be compared. */
function lowScores(
  reference: AlignmentSide,
  version: AlignmentSide,
): Record<"bass" | "lowEnd", number | null> {
  const grid = gridOfSide(reference);
  const { alignment } = alignVersion(reference, version);
  const own = versionGrid(gridOfSide(version), {}, alignment, grid);
  if (!grid || !own || !alignment || alignment.spans.length === 0) return { bass: null, lowEnd: null };
  const { overlaps, expected, lengthOctaves, late } = compareBass(
    { notes: reference.analysis.bass, grid },
    { notes: version.analysis.bass, grid: own },
    alignment.spans,
  );
  const { aspects } = compareMixes(measuresOfWhole(reference.analysis), measuresOfWhole(version.analysis), {
    low: {
      notes: overlaps[0] === null || expected === null ? null : { overlap: overlaps[0]!, expected },
      lengthOctaves,
      late,
      reference: reference.analysis.lowEnd,
      version: version.analysis.lowEnd,
    },
  });
  const score = (name: MixAspect) => aspects.find((aspect) => aspect.name === name)!.score;
  return { bass: score("bass"), lowEnd: score("lowEnd") };
}

/** Recordings of the measuring half that ffmpeg can read, of all packages by turns. */
export async function measuredRecordings(): Promise<Recording[]> {
  const packages = new Map<string, Recording[]>();
  for (const own of await recordings()) {
    if (own.half !== "measure") continue;
    try {
      made(own.file, own.name, "as it is");
    } catch {
      console.log(`${own.name} cannot be read by ffmpeg; going on without it.`);
      continue;
    }
    packages.set(own.package, [...(packages.get(own.package) ?? []), own]);
  }
  const longest = Math.max(0, ...[...packages.values()].map((list) => list.length));
  return Array.from({ length: longest }, (_, i) =>
    [...packages.values()].flatMap((list) => list.slice(i, i + 1)),
  )
    .flat()
    .slice(0, mostPieces);
}

export async function sameSections({ oneIn }: PartOptions): Promise<Sections> {
  const pieces = thinned(await measuredRecordings(), oneIn);
  const rows = new Map(
    Object.keys(changes).map((change) => [
      change,
      {
        hits: [] as number[],
        reports: [] as number[],
        tempo: [] as number[],
        chords: [] as number[],
        boundaries: [] as number[],
        bass: [] as number[],
        lowEnd: [] as number[],
        apart: 0,
      },
    ]),
  );
  for (const { file, name } of pieces) {
    const reference = await sideOf(made(file, name, "as it is"));
    const plain = answersOf(reference, 0);
    for (const [change, row] of rows) {
      const late = changes[change]!.from ?? 0;
      const version = await sideOf(made(file, name, change));
      const other = answersOf(version, late);
      const after = <T extends { time: number }>(events: T[]) => events.filter(({ time }) => time > late + 1);
      const agree = hitsAgree(after(plain.hits), after(other.hits));
      if (agree !== null) row.hits.push(agree);
      row.tempo.push(
        plain.bpm !== null && other.bpm !== null && Math.abs(plain.bpm - other.bpm) <= 0.02 ? 1 : 0,
      );
      const later = plain.chords.filter(({ start }) => start > late);
      if (later.length > 0) row.chords.push(majorMinorOverlap(later, other.chords));
      const inside = (times: number[]) => times.filter((time) => time > late + 4);
      if (inside(plain.boundaries).length > 0)
        row.boundaries.push(boundaryF(inside(plain.boundaries), inside(other.boundaries), 3));
      const reports = falseReports(reference, version);
      if (reports === null) row.apart++;
      else row.reports.push(reports);
      const low = lowScores(reference, version);
      if (low.bass !== null) row.bass.push(low.bass);
      if (low.lowEnd !== null) row.lowEnd.push(low.lowEnd);
      console.log(
        name,
        change,
        `bass ${low.bass?.toFixed(0) ?? "–"} low end ${low.lowEnd?.toFixed(0) ?? "–"}`,
        agree?.toFixed(3) ?? "–",
        `tempo ${plain.bpm} ${other.bpm}`,
        `reports ${reports?.toFixed(2) ?? "–"}`,
      );
    }
  }
  return {
    "Same sound": `${pieces.length} recordings by others of the measuring half, their first ${seconds} s, against the same ones changed in ways that change nothing of what is played. Hits: F-measure of the same voice at ±50 ms (target 0.95); tempo: share within 0.02 BPM; chords: overlap (target 0.93); boundaries: F at ±3 s (target 0.95); reports: hits said to be missing or too many in eight bars (target 0.2); bass and kick: what these aspects of the match score, 100 where nothing differs. How much likelier groups of four bars are to begin at bar 1 was set on these recordings, so boundaries are a little too good; how sure hats must be where nothing else of a kit is heard was set with one of them in view.

${table(
  ["change", "hits", "tempo", "chords", "boundaries", "reports", "bass", "kick and bass", "not lined up"],
  [...rows].map(([change, own]) => [
    change,
    mean(own.hits),
    mean(own.tempo),
    mean(own.chords),
    mean(own.boundaries),
    mean(own.reports),
    mean(own.bass),
    mean(own.lowEnd),
    own.apart,
  ]),
)}`,
  };
}
