/**
 * Whether known differences of drums are reported as such: recreations of development songs, mixed
 * and mastered otherwise, each with one change of the drums. Made once and kept in
 * `.cache/drum-differences`.
 */
import { existsSync } from "node:fs";
import { mkdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { analyse } from "@/core/analysis/analyse";
import {
  compareDrums,
  countedDrums,
  drumReports,
  swingOfDrums,
  velocityLevel,
  type DrumReport,
  type DrumSide,
  type DrumVoice,
} from "@/core/drums";
import type { CoverageSpan } from "@/core/align/coverage";
import { writeWav } from "@/core/formats/wav";
import { secondsAt, type Grid } from "@/core/grid/grid";
import { gridOfSide, alignVersion, versionGrid, type AlignmentSide } from "@/core/study";
import {
  addHits,
  flattenVelocities,
  removeHits,
  shiftHits,
  straighten,
  writtenPlace,
} from "@/demo/drumChanges";
import { secondsOf } from "@/demo/makeSong";
import { mixDown } from "@/demo/mix";
import { chance } from "@/demo/random";
import { renderParts, renderRate } from "@/demo/render";
import { barsOf, type Song } from "@/demo/song";
import { styleSong } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { backVoices } from "@/core/drums/voices";
import { gridOfTruth } from "./drums";
import { developmentSongs } from "./songs";

export const drumChanges = [
  "nothing",
  "hits removed",
  "hits added",
  "15 ms late",
  "velocities flattened",
  "swing removed",
] as const;
export type DrumChange = (typeof drumChanges)[number];

/** What a change is to be reported as. */
interface Wanted {
  kind: DrumReport["kind"] | "swing" | null;
  voices: DrumVoice[];
  /** Written places in beats of the hits that were removed or added. */
  places: number[];
}

export interface DifferenceResult {
  style: string;
  name: string;
  change: DrumChange;
  /** Whether it was reported as such; null where the song has nothing to change so, or could not be lined up. */
  reported: boolean | null;
  /** Reports of what was not changed. */
  falseReports: number;
  bars: number;
  /** The false ones in words, for reading. */
  words: string[];
}

const voicesOf = (song: Song) => {
  const counts = new Map<DrumVoice, number>();
  for (const { notes } of song.parts) {
    for (const { voice } of notes) if (voice) counts.set(voice, (counts.get(voice) ?? 0) + 1);
  }
  return (wanted: readonly DrumVoice[]) =>
    wanted
      .filter((voice) => (counts.get(voice) ?? 0) > 8)
      .sort((a, b) => counts.get(b)! - counts.get(a)!)[0] ?? null;
};

const swungNotes = (song: Song): number =>
  song.parts
    .flatMap(({ notes }) => notes)
    .filter((note) => note.voice && Math.abs((writtenPlace(song, note).beat % 0.5) - 0.25) < 0.01).length;

/** Accents narrower than this are chance: players and programs vary every stroke a little. */
const leastAccents = 1.5;

/** Standard deviation in dB of the mean levels of the places of a bar, each counting by its hits. */
function accentsOf(song: Song, voice: DrumVoice): number {
  const places = new Map<number, number[]>();
  for (const note of song.parts.flatMap(({ notes }) => notes)) {
    if (note.voice !== voice) continue;
    const place = Math.round(24 * (writtenPlace(song, note).beat % song.beatsPerBar));
    places.set(place, [...(places.get(place) ?? []), velocityLevel(note.velocity / 127)]);
  }
  const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length;
  const whole = mean([...places.values()].flat());
  const spread = mean([...places.values()].flatMap((own) => own.map(() => (mean(own) - whole) ** 2)));
  return Math.sqrt(spread);
}

/** Changes a song in place; null where it has nothing that could be changed so. */
function apply(song: Song, change: DrumChange): Wanted | null {
  const most = voicesOf(song);
  const back = most(backVoices);
  const top = most(["hat", "openHat", "cymbal"]);
  const bars = barsOf(song);
  const { beatsPerBar } = song;
  switch (change) {
    case "nothing":
      return { kind: null, voices: [], places: [] };
    case "hits removed": {
      if (!most(["kick"])) return null;
      // The first kick of every fourth bar.
      const gone = removeHits(
        song,
        "kick",
        (beat) => Math.floor(beat / beatsPerBar + 1e-6) % 4 === 2 && beat % beatsPerBar < 0.1,
      );
      return gone.length > 0
        ? { kind: "missing", voices: ["kick"], places: gone.map((note) => writtenPlace(song, note).beat) }
        : null;
    }
    case "hits added": {
      if (!back) return null;
      const beats = Array.from({ length: bars >> 1 }, (_, i) => (2 * i + 1) * beatsPerBar + 0.5);
      const added = addHits(song, back, beats);
      return added.length > 0
        ? { kind: "extra", voices: [back], places: added.map((note) => writtenPlace(song, note).beat) }
        : null;
    }
    case "15 ms late":
      if (!back) return null;
      shiftHits(song, back, 0.015);
      return { kind: "late", voices: [back], places: [] };
    case "velocities flattened": {
      if (!top) return null;
      // Only where there were accents to begin with: some places of the bar louder than others.
      if (accentsOf(song, top) < leastAccents) return null;
      flattenVelocities(song, top);
      return { kind: "even", voices: [top], places: [] };
    }
    case "swing removed":
      // Only where drums play the notes that swing moves.
      if (song.swing.percent < 54 || song.swing.of !== 16 || swungNotes(song) < 16) return null;
      straighten(song);
      return { kind: "swing", voices: [], places: [] };
  }
}

const folder = path.join(process.cwd(), ".cache", "drum-differences");

async function made(
  style: string,
  seed: number,
  change: DrumChange,
): Promise<{ file: string; wanted: Wanted } | null> {
  await mkdir(folder, { recursive: true });
  const base = path.join(folder, `${style} ${seed} ${change}`.replaceAll(" ", "-"));
  if (existsSync(`${base}.json`)) {
    const wanted = JSON.parse(await readFile(`${base}.json`, "utf8")) as Wanted | null;
    return wanted && { file: `${base}.wav`, wanted };
  }
  const song = styleSong(style, seed);
  const wanted = apply(song, change);
  if (wanted) {
    const c = chance(seed * 811 + change.length);
    const mix = mixDown(
      await renderParts(song.parts, secondsOf(song)),
      song.parts.map((part) => ({ ...part.mix, gainDb: part.mix.gainDb + c.between(-1.5, 1.5) })),
      { driveDb: c.between(4, 12), ceilingDb: -0.5, tiltDb: c.between(-1, 1) },
    );
    await writeFile(`${base}.wav`, writeWav(mix, renderRate));
  }
  await writeFile(`${base}.json`, JSON.stringify(wanted));
  return wanted && { file: `${base}.wav`, wanted };
}

/** A file, heard, as a side of an alignment. */
export async function sideOf(file: string): Promise<AlignmentSide> {
  const decoded = await decodeFile(file);
  if (!decoded.ok) throw new Error(decoded.refusal.sentence);
  return { ...(await analyse(decoded.value.signal)), correction: {} };
}

/** Drums of a side as a comparison takes them, on a grid that coverage is counted on. */
export function drumSide({ analysis }: AlignmentSide, grid: Grid): DrumSide {
  const drums = countedDrums(analysis.drums, {}, grid);
  return { drums, grid, swing: swingOfDrums(drums.hits, grid, analysis.grid?.swing) };
}

const family = (voice: DrumVoice): string =>
  backVoices.includes(voice) ? "back" : ["hat", "openHat", "cymbal", "perc"].includes(voice) ? "top" : voice;

/** One recreation beside its reference, ready to be compared; null where the two could not be lined up. */
export interface PreparedDifference {
  style: string;
  name: string;
  change: DrumChange;
  wanted: Wanted;
  swingPercent: number;
  /** When what was removed or added is struck, on straight steps: a grid that was read otherwise counts other beats. */
  times: number[];
  sides: { reference: DrumSide; version: DrumSide; spans: CoverageSpan[] } | null;
}

/** All changes of some songs, heard and lined up. */
export async function* prepareDifferences(
  styles: readonly string[],
  seeds: readonly number[],
): AsyncGenerator<PreparedDifference> {
  for (const style of styles) {
    for (const seed of seeds) {
      const [song] = await developmentSongs([seed], [style]);
      const reference = await sideOf(song!.file);
      const grid = gridOfSide(reference);
      for (const change of drumChanges) {
        const version = await made(style, seed, change);
        if (!version) continue;
        const side = await sideOf(version.file);
        const { alignment } = alignVersion(reference, side);
        const own = versionGrid(gridOfSide(side), {}, alignment, grid);
        yield {
          style,
          name: song!.name,
          change,
          wanted: version.wanted,
          swingPercent: song!.truth.drums.swingPercent,
          times: version.wanted.places.map((place) => secondsAt(gridOfTruth(song!.truth), place)),
          sides:
            grid && own && alignment && alignment.spans.length > 0
              ? { reference: drumSide(reference, grid), version: drumSide(side, own), spans: alignment.spans }
              : null,
        };
      }
    }
  }
}

/** What is reported of one recreation, held against what was changed. */
export function judged({
  style,
  name,
  change,
  wanted,
  swingPercent,
  times,
  sides,
}: PreparedDifference): DifferenceResult {
  const base = { style, name, change };
  if (!sides) return { ...base, reported: null, falseReports: 0, bars: 0, words: [] };
  const compared = compareDrums(sides.reference, sides.version, sides.spans);
  const reports = drumReports(compared, sides.reference.grid.beatsPerBar);
  const { grid } = sides.reference;
  const isWantedPlace = (place: number) =>
    times.some((time) => Math.abs(time - secondsAt(grid, place)) < (0.2 * 60) / grid.bpm);
  const isWanted = (report: DrumReport) =>
    report.kind === wanted.kind && wanted.voices.some((voice) => family(voice) === family(report.voice));
  const words: string[] = [];
  let falseReports = 0;
  let placesReported = 0;
  for (const report of reports) {
    if (report.kind === "missing" || report.kind === "extra") {
      const wrong = report.places.filter((place) => !(isWanted(report) && isWantedPlace(place)));
      placesReported += report.places.length - wrong.length;
      falseReports += wrong.length;
      if (wrong.length > 0) words.push(`${report.voice} ${report.kind} ${wrong.length}`);
    } else if (!isWanted(report)) {
      falseReports++;
      words.push(`${report.voice} ${report.kind} ${report.amount?.toFixed(3) ?? ""}`);
    }
  }
  const { swing } = compared;
  const swingGap = swing ? swing.version - swing.reference : 0;
  if (wanted.kind !== "swing" && Math.abs(swingGap) > 2.5) {
    falseReports++;
    words.push(`swing ${swingGap.toFixed(1)}`);
  }
  const reported =
    wanted.kind === null
      ? null
      : wanted.kind === "swing"
        ? swingGap < -0.5 * (swingPercent - 50)
        : wanted.places.length > 0
          ? placesReported >= 0.8 * wanted.places.length
          : reports.some(isWanted);
  return { ...base, reported, falseReports, bars: compared.bars, words };
}

/** All changes of some songs. */
export async function measureDifferences(
  styles: readonly string[],
  seeds: readonly number[],
): Promise<DifferenceResult[]> {
  const results: DifferenceResult[] = [];
  for await (const prepared of prepareDifferences(styles, seeds)) results.push(judged(prepared));
  return results;
}
