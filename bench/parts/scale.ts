/** Whether the match says what its scale promises: pairs of tracks by how they belong together, and what they match at. */
import { execFileSync } from "node:child_process";
import { existsSync } from "node:fs";
import { mkdir } from "node:fs/promises";
import path from "node:path";
import { analyse } from "@/core/analysis/analyse";
import type { Signal } from "@/core/audio/signal";
import { countedDrums } from "@/core/drums";
import { gridOf } from "@/core/grid/correction";
import type { Grid } from "@/core/grid/grid";
import { defaultAspectWeights, evidenceShare } from "@/core/match";
import { countedPlan } from "@/core/plan";
import {
  alignVersion,
  compareAll,
  comparisonSide,
  compareVersion,
  gridOfSide,
  noCorrections,
  proposedElements,
  versionGrid,
  type AlignmentSide,
} from "@/core/study";
import { element } from "@/core/testing/records";
import { developmentMaster, makeSong } from "@/demo/makeSong";
import { chance } from "@/demo/random";
import { styleSong } from "@/demo/songs/styles";
import { sideOf } from "../drumDifferences";
import { withOtherSounds } from "../related";
import { developmentSongs } from "../songs";
import { quantile, table } from "../tables";
import { firstSeed, thinned, thinnedCount, type PartOptions, type Sections } from "./part";
import { changed, made, measuredRecordings } from "./same";

const mostStyles = 10;
const strangersOfEach = 6;
const coded = path.join(process.cwd(), ".cache", "scale");

const elements = proposedElements.map(({ name, fromHz, toHz }) => element(name, name, fromHz, toHz));

/** The match of a study with nothing but the two, its tempo intended; elements by their ranges. */
export function matchOf(reference: AlignmentSide, version: AlignmentSide, isTempoIntended = false) {
  const { alignment, measures } = alignVersion(reference, version);
  const grids = {
    reference: gridOfSide(reference),
    version: versionGrid(gridOfSide(version), {}, alignment, gridOfSide(reference)),
  };
  const side = (own: AlignmentSide, grid: Grid | null) => {
    const ownGrid = gridOfSide(own);
    const drums = countedDrums(own.analysis.drums, {}, ownGrid);
    const plan = countedPlan(own.analysis.plan);
    return comparisonSide(own.analysis, noCorrections, plan, drums, grid, ownGrid, own.curves);
  };
  const stored = compareVersion(
    side(reference, grids.reference),
    side(version, grids.version),
    alignment?.spans ?? [],
  );
  const study = {
    elements,
    aspectWeights: defaultAspectWeights,
    intended: { bpm: isTempoIntended ? (grids.version?.bpm ?? null) : null, semitones: 0 },
  };
  const share = evidenceShare({
    related: alignment?.related ?? null,
    harmony: alignment?.harmony ?? null,
    isSaid: false,
  });
  const { match } = compareAll(
    measures.reference,
    measures.version,
    study,
    alignment?.semitones ?? null,
    stored,
    null,
    share,
  );
  return { match: match!, likeness: match! / share };
}

const analysed = async (signal: Signal): Promise<AlignmentSide> => ({
  ...(await analyse(signal)),
  correction: {},
});

function asMp3(file: string, name: string): string {
  const out = path.join(coded, `${name.replace(/[^\w.-]+/g, "_")}.mp3`);
  if (!existsSync(out)) execFileSync("ffmpeg", ["-loglevel", "error", "-y", "-i", file, "-b:a", "128k", out]);
  return out;
}

const alikeOfEach = 3;

/** The others that take the least stretching to a reference's tempo, with what brings them to its tempo and key. */
function nearestInTempo<T extends { side: AlignmentSide }>(reference: T, others: readonly T[]) {
  const of = ({ side: { analysis } }: T) => ({
    bpm: gridOf(analysis.grid, analysis.durationSeconds)?.bpm ?? 120,
    tonic: countedPlan(analysis.plan).key?.tonic ?? 0,
  });
  const own = of(reference);
  return others
    .filter((version) => version !== reference)
    .map((version) => {
      const { bpm, tonic } = of(version);
      const octaves = Math.log2(own.bpm / bpm);
      return {
        version,
        tempoRatio: 2 ** (octaves - Math.round(octaves)),
        semitones: ((own.tonic - tonic + 18) % 12) - 6,
      };
    })
    .sort((a, b) => Math.abs(Math.log2(a.tempoRatio)) - Math.abs(Math.log2(b.tempoRatio)))
    .slice(0, alikeOfEach);
}

/** Filters of ffmpeg that stretch and transpose. */
export function transposed(tempoRatio: number, semitones: number): string {
  const pitch = 2 ** (semitones / 12);
  return `aresample=44100,asetrate=${Math.round(44100 * pitch)},aresample=44100,atempo=${(tempoRatio / pitch).toFixed(6)}`;
}

interface Row {
  matches: number[];
  likeness: number[];
  isRight(match: number): boolean;
  target: string;
}

export async function scaleSections({ styles, oneIn }: PartOptions): Promise<Sections> {
  await mkdir(coded, { recursive: true });
  const row = (target: string, isRight: Row["isRight"]): Row => ({
    matches: [],
    likeness: [],
    isRight,
    target,
  });
  const rows = {
    "the same file": row("100", (match) => match > 99.95),
    "the same, MP3 at 128 kbit/s": row("at least 95", (match) => match >= 95),
    "other sounds and mix, all parts right": row("55 to 90", (match) => match >= 55 && match <= 90),
    "another song of the style at the same tempo": row("at most 35", (match) => match <= 35),
    "another recording by others, brought to its tempo and key": row("at most 35", (match) => match <= 35),
    "unrelated, recordings by others": row("at most 20", (match) => match <= 20),
    "unrelated, songs of the own generator": row("at most 20", (match) => match <= 20),
  };
  const add = (
    kind: keyof typeof rows,
    reference: AlignmentSide,
    version: AlignmentSide,
    intended = false,
  ) => {
    const { match, likeness } = matchOf(reference, version, intended);
    rows[kind].matches.push(match);
    rows[kind].likeness.push(likeness);
    return match;
  };
  const tracks: { name: string; side: AlignmentSide; file?: string; isOwn: boolean }[] = [];
  for (const style of styles.filter((_, i) => i % 2 === 1).slice(0, thinnedCount(mostStyles, oneIn))) {
    const [song] = await developmentSongs([firstSeed], [style]);
    const side = await sideOf(song!.file);
    add("the same file", side, side);
    add("the same, MP3 at 128 kbit/s", side, await sideOf(asMp3(song!.file, song!.name)));
    add(
      "other sounds and mix, all parts right",
      side,
      await analysed(await withOtherSounds(style, firstSeed, () => true)),
      true,
    );
    for (const seed of [firstSeed + 6, firstSeed + 7]) {
      const tempoRatio = styleSong(style, firstSeed).bpm / styleSong(style, seed).bpm;
      const other = styleSong(style, seed, { tempoRatio });
      const match = add(
        "another song of the style at the same tempo",
        side,
        await analysed(await makeSong(other, developmentMaster(seed))),
      );
      if (match > 35) console.log(`${song!.name} and seed ${seed}: ${match.toFixed(0)}`);
    }
    tracks.push({ name: song!.name, side, isOwn: true });
    console.log(song!.name);
  }
  for (const { file, name } of thinned(await measuredRecordings(), oneIn)) {
    const side = await sideOf(made(file, name, "as it is"));
    add("the same file", side, side);
    add("the same, MP3 at 128 kbit/s", side, await sideOf(made(file, name, "MP3 at 128 kbit/s")));
    tracks.push({ name, side, file, isOwn: false });
    console.log(name);
  }
  const others = tracks.filter(({ isOwn }) => !isOwn);
  for (const reference of others) {
    for (const { version, tempoRatio, semitones } of nearestInTempo(reference, others)) {
      const label = `${version.name} as ${reference.name}`;
      const side = await sideOf(changed(version.file!, label, { filter: transposed(tempoRatio, semitones) }));
      const match = add("another recording by others, brought to its tempo and key", reference.side, side);
      if (match > 35) console.log(`${label}: ${match.toFixed(0)}`);
    }
  }
  const c = chance(20261127);
  for (const reference of tracks) {
    const others = tracks.filter((own) => own !== reference);
    for (let i = 0; i < strangersOfEach; i++) {
      const [version] = others.splice(c.whole(0, others.length - 1), 1);
      if (!version) break;
      const areOwn = reference.isOwn && version.isOwn;
      const match = add(
        areOwn ? "unrelated, songs of the own generator" : "unrelated, recordings by others",
        reference.side,
        version.side,
      );
      if (match > 20) console.log(`${reference.name} and ${version.name}: ${match.toFixed(0)}`);
    }
  }
  const figure = (values: readonly number[], share: number) => quantile(values, share).toFixed(0);
  return {
    "What a match means": `Pairs by how they belong together, and what a new study matches them at (its eight elements by their ranges, all weights as proposed; where another tempo is played it is intended). ${tracks.filter(({ isOwn }) => isOwn).length} own songs of as many styles and ${tracks.filter(({ isOwn }) => !isOwn).length} recordings by others that nothing was fitted on, each against ${strangersOfEach} others as unrelated. Without evidence: the mean of the scores alone.

${table(
  ["pairs", "number", "target", "right", "worst tenth", "median", "best tenth", "median without evidence"],
  Object.entries(rows).map(([name, { matches, likeness, isRight, target }]) => [
    name,
    matches.length,
    target,
    (matches.filter(isRight).length / matches.length).toFixed(2),
    figure(matches, 0.1),
    figure(matches, 0.5),
    figure(matches, 0.9),
    figure(likeness, 0.5),
  ]),
)}`,
  };
}
