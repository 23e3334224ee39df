/** How right drum hits, their velocities and times, and the typical patterns of sections are. */
import { existsSync } from "node:fs";
import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { analyse } from "@/core/analysis/analyse";
import type { TrackAnalysis } from "@/core/analysis/result";
import {
  asHits,
  leastConfidence,
  placeHits,
  stepsPerBeat,
  swingOfDrums,
  typicalPattern,
  type DrumHit,
  type DrumVoice,
  type MainSwing,
} from "@/core/drums";
import { writeWav } from "@/core/formats/wav";
import { gridOf } from "@/core/grid/correction";
import { beatAt, type BarRange, type Grid } from "@/core/grid/grid";
import { secondsOf } from "@/demo/makeSong";
import { mixDown } from "@/demo/mix";
import { chance } from "@/demo/random";
import { renderParts, renderRate } from "@/demo/render";
import { styleSong } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { correlation, matchedEvents } from "./metrics";
import type { DevelopmentSong } from "./songs";

/** Voices that are judged together. */
export const drumGroups = {
  kick: ["kick"],
  "snare and clap": ["snare", "clap"],
  hats: ["hat", "openHat"],
  rim: ["rim"],
  toms: ["tom"],
  cymbals: ["cymbal"],
  percussion: ["perc"],
} as const satisfies Record<string, readonly DrumVoice[]>;
export type DrumGroup = keyof typeof drumGroups;

/** Onsets count as the same within ±50 ms (Wu et al. 2018, "A Review of Automatic Drum Transcription"; from memory). */
const onsetWindow = 0.05;
/** Two voices of a group struck at once are one onset. */
const atOnce = 0.02;

/** With fewer velocities than this a correlation says nothing. */
const leastPairs = 8;

export interface OnsetCounts {
  right: number;
  found: number;
  real: number;
}

export interface MeasuredDrums {
  groups: Record<DrumGroup, OnsetCounts>;
  /** Pearson's correlation of found and true velocities over matched hits; null with too few. */
  velocityCorrelation: number | null;
  /** Milliseconds by which matched hits are off. */
  timeErrors: number[];
  /** Sections of which kick and snare are exactly right on sixteenths, and how many there are. */
  patternsRight: number;
  patterns: number;
  answers: { confidence: number; right: boolean }[];
}

type Timed = Pick<DrumHit, "time" | "voice" | "velocity">;

function onsetsOf(hits: readonly Timed[], voices: readonly DrumVoice[]): Timed[] {
  const own: Timed[] = [];
  for (const hit of hits) {
    if (!voices.includes(hit.voice)) continue;
    if (own.length === 0 || hit.time - own.at(-1)!.time > atOnce) own.push(hit);
  }
  return own;
}

/** Kick and back-beat steps of the typical bars, as words that can be held against each other. */
function patternWords(hits: readonly DrumHit[], grid: Grid, swing: MainSwing, bars: BarRange): string {
  const shape = { beatsPerBar: grid.beatsPerBar, stepsPerBeat: stepsPerBeat(grid.beatsPerBar) };
  const kinds: Partial<Record<DrumVoice, string>> = { kick: "k", snare: "s", clap: "s" };
  const own = hits
    .filter(({ voice }) => kinds[voice])
    .map((hit) => ({ ...hit, voice: hit.voice === "clap" ? ("snare" as const) : hit.voice }));
  const { periodBars, hits: typical } = typicalPattern(placeHits(own, grid, swing), bars, shape);
  const steps = shape.beatsPerBar * shape.stepsPerBeat;
  // Written out over four bars, so that a pattern said as one bar and as two is the same.
  return Array.from({ length: 4 / periodBars }, (_, turn) =>
    typical.map(({ voice, step }) => `${kinds[voice]}${step + turn * periodBars * steps}`),
  )
    .flat()
    .sort()
    .join(" ");
}

/** The grid of a song as it was made. */
export const gridOfTruth = ({ beats, sections, steady, tempo }: DevelopmentSong["truth"]): Grid => ({
  beats: [...beats, sections.at(-1)!.end],
  barOne: 0,
  beatsPerBar: tempo.beatsPerBar,
  steady,
  bpm: tempo.bpm,
});

export function measureDrums(
  { truth }: Pick<DevelopmentSong, "truth">,
  analysis: TrackAnalysis,
): MeasuredDrums {
  const all = asHits(analysis.drums);
  const found = all.filter(({ confidence }) => confidence >= leastConfidence);
  const real: DrumHit[] = truth.drums.hits.map((hit) => ({ ...hit, confidence: 1 }));
  const velocities: [number, number][] = [];
  const timeErrors: number[] = [];
  const groups = Object.fromEntries(
    Object.entries(drumGroups).map(([name, voices]) => {
      const a = onsetsOf(real, voices);
      const b = onsetsOf(found, voices);
      const pairs = matchedEvents(
        a.map(({ time }) => time),
        b.map(({ time }) => time),
        onsetWindow,
      );
      for (const [i, k] of pairs) {
        velocities.push([b[k]!.velocity, a[i]!.velocity]);
        timeErrors.push(1000 * Math.abs(b[k]!.time - a[i]!.time));
      }
      return [name, { right: pairs.length, found: b.length, real: a.length }];
    }),
  ) as Record<DrumGroup, OnsetCounts>;

  const answers = all.map((hit) => ({
    confidence: hit.confidence,
    right: real.some((own) => own.voice === hit.voice && Math.abs(own.time - hit.time) <= onsetWindow),
  }));

  const { beatsPerBar } = truth.tempo;
  const truthGrid = gridOfTruth(truth);
  const grid = gridOf(analysis.grid, analysis.durationSeconds);
  let patterns = 0;
  let patternsRight = 0;
  const barAt = (own: Grid, time: number) => Math.round(beatAt(own, time) / own.beatsPerBar) + 1;
  for (const { start, end } of truth.sections) {
    const bars = { first: barAt(truthGrid, start), last: barAt(truthGrid, end) - 1 };
    const wanted = patternWords(
      real,
      truthGrid,
      { of: truth.drums.swingOf, percent: truth.drums.swingPercent },
      bars,
    );
    if (wanted === "") continue;
    patterns++;
    if (!grid || grid.beatsPerBar !== beatsPerBar) continue;
    const own = { first: barAt(grid, start), last: barAt(grid, end) - 1 };
    if (patternWords(found, grid, swingOfDrums(found, grid, analysis.grid?.swing), own) === wanted)
      patternsRight++;
  }
  return {
    groups,
    velocityCorrelation: correlation(velocities, leastPairs),
    timeErrors,
    patterns,
    patternsRight,
    answers,
  };
}

const folder = path.join(process.cwd(), ".cache", "drum-stems");

/** The same song's drums alone, as a file that is made once. */
export async function drumStemOf({ name, style }: DevelopmentSong): Promise<string> {
  await mkdir(folder, { recursive: true });
  const file = path.join(folder, `${name}.wav`);
  if (!existsSync(file)) {
    const seed = Number(name.split("-").at(-1));
    const notes = styleSong(style, seed);
    const parts = notes.parts.filter(({ sound }) => sound === "drums");
    const c = chance(seed * 97 + 11);
    const track = mixDown(
      await renderParts(parts, secondsOf(notes)),
      parts.map(({ mix }) => mix),
      { driveDb: c.between(0, 6), ceilingDb: -1 },
    );
    await writeFile(file, writeWav(track, renderRate));
  }
  return file;
}

/** The same song's drums alone, measured like a mix. */
export async function measureDrumStem(song: DevelopmentSong): Promise<MeasuredDrums> {
  const decoded = await decodeFile(await drumStemOf(song));
  if (!decoded.ok) throw new Error(decoded.refusal.sentence);
  const { analysis } = await analyse(decoded.value.signal);
  return measureDrums(song, analysis);
}

/** F-measure of counts summed over songs; 1 where there was nothing to find and nothing was found. */
export const fOfCounts = (counts: readonly OnsetCounts[]): number => {
  const sum = (of: (own: OnsetCounts) => number) => counts.reduce((total, own) => total + of(own), 0);
  const whole = sum(({ found, real }) => found + real);
  return whole === 0 ? 1 : (2 * sum(({ right }) => right)) / whole;
};
