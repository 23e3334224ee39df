/**
 * Changes that grow step by step: whether the match only ever falls, and whether of two versions the one that
 * was changed less is nearer, the whole mix and a single element.
 */
import { loadFft } from "@/core/dsp/fft";
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import { lensParts, type LensPart } from "@/core/lens";
import { nothingIntended } from "@/core/match";
import type { AlignmentSide } from "@/core/study";
import { decibelsToAmplitude } from "@/core/units";
import { compareOutput } from "@/cli/compareOutput";
import { renderRate, type StereoTrack } from "@/demo/render";
import { sideOf } from "../drumDifferences";
import { measuredPieces, type PartedPiece } from "../material/parts";
import { sumOfTracks } from "../material/tracks";
import { developmentSongs } from "../songs";
import { share, table } from "../tables";
import { audibleParts, beginningOf, heard, later, scaled } from "./elements";
import { firstSeed, thinnedCount, type PartOptions, type Sections } from "./part";
import { changed, measuredRecordings } from "./same";
import { matchOf, transposed } from "./scale";

/** A match may rise by so much from one step to the next. */
const mostRise = 1;
/** Scores this near to each other rank nothing. */
const tied = 0.05;

const seconds = 40;
const ownSongs = 4;
const recordingsUsed = 4;
const piecesOfOthers = 3;
const stylesUsed = 4;

/** Filters of ffmpeg, from the least change to the most. */
const ladders: Record<string, readonly string[]> = {
  "treble down 2, 4, 8, 12 dB": [2, 4, 8, 12].map((db) => `highshelf=f=4000:g=-${db}`),
  "bass up 2, 4, 8 dB": [2, 4, 8].map((db) => `volume=-9dB,lowshelf=f=120:g=${db}`),
  "low-passed at 12 to 1.5 kHz": [12, 8, 5, 3, 1.5].map((khz) => `lowpass=f=${1000 * khz}`),
  "compressed 1.5 to 10:1": [1.5, 2.5, 5, 10].map(
    (ratio) => `acompressor=threshold=0.1:ratio=${ratio}:attack=5:release=80`,
  ),
  "limited by 3 to 12 dB": [3, 6, 9, 12].map(
    (db) => `alimiter=level_in=${decibelsToAmplitude(db).toFixed(3)}:limit=0.9:level=false`,
  ),
  "clipped by 3 to 14 dB": [3, 6, 9, 14].map((db) => `volume=${db}dB`),
  "room 5 to 40 %": [0.05, 0.1, 0.2, 0.4].map((wet) => {
    const delays = [23, 37, 53, 71, 97, 131, 173];
    return `aecho=0.8:0.8:${delays.join("|")}:${delays.map((ms) => (wet * Math.exp(-ms / 120)).toFixed(4)).join("|")}`;
  }),
  "1 to 8 % faster": [1.01, 1.02, 1.04, 1.08].map((ratio) => transposed(ratio, 0)),
  "¼ to 3 semitones higher": [0.25, 0.5, 1, 2, 3].map((semitones) => transposed(1, semitones)),
  "narrower, to mono": [0.7, 0.4, 0.2, 0.016].map((side) => `stereotools=slev=${side}`),
};

/** Rises beyond what is allowed, and pairs of steps in the right order, in the wrong one and tied. */
interface Count {
  steps: number;
  rises: number;
  worst: number;
  pairs: number;
  right: number;
  ties: number;
}
const nothing = (): Count => ({ steps: 0, rises: 0, worst: 0, pairs: 0, right: 0, ties: 0 });

/** @param scores from the unchanged one on, which is 100. */
function count(into: Count, scores: readonly number[]): void {
  for (let i = 1; i < scores.length; i++) {
    const rise = scores[i]! - scores[i - 1]!;
    into.steps++;
    if (rise > mostRise) into.rises++;
    into.worst = Math.max(into.worst, rise);
    for (let k = 0; k < i; k++) {
      into.pairs++;
      if (scores[k]! > scores[i]! + tied) into.right++;
      else if (Math.abs(scores[k]! - scores[i]!) <= tied) into.ties++;
    }
  }
}

const rowOf = (name: string, { steps, rises, worst, pairs, right, ties }: Count) => [
  name,
  steps,
  rises,
  worst.toFixed(1),
  pairs,
  share(right, pairs),
  share(ties, pairs),
];
const head = ["ladder", "steps", "rises by more than 1", "largest rise", "pairs", "ranked rightly", "tied"];

const dulled = (track: StereoTrack, hertz: number): StereoTrack =>
  track.map((samples) => {
    const own = samples.slice();
    for (let pole = 0; pole < 2; pole++) applyBiquad(designBiquad("lowPass", renderRate, hertz, 0.707), own);
    return own;
  }) as StereoTrack;

/** What is done to one part, ever more of it. */
const partLadders: Record<string, readonly ((track: StereoTrack) => StereoTrack)[]> = {
  "2, 4, 8 dB louder": [2, 4, 8].map((db) => (track) => scaled(track, db)),
  "3, 6, 12 dB softer": [3, 6, 12].map((db) => (track) => scaled(track, -db)),
  "low-passed at 6, 3, 1.5 kHz": [6000, 3000, 1500].map((hertz) => (track) => dulled(track, hertz)),
  "15, 30, 60 ms late": [0.015, 0.03, 0.06].map((late) => (track) => [
    later(track[0], late),
    later(track[1], late),
  ]),
};

/** Parts in the order in which they are left out. */
const leftOut: readonly LensPart[] = ["percussion", "hats", "music", "bass"];

async function partRows(
  make: () => Promise<PartedPiece>,
  mixes: Record<string, Count>,
  parts: Record<string, Count>,
) {
  const piece = beginningOf(await make());
  const names = lensParts.filter((part) => piece.parts[part]);
  if (names.length < 3) return;
  const audible = audibleParts(piece);
  const reference = await heard(piece.mix);
  const compared = async (tracks: readonly StereoTrack[]) =>
    compareOutput(reference, await heard(sumOfTracks(tracks)), nothingIntended);
  let out: LensPart[] = [];
  const missing = [100];
  for (const part of leftOut.filter((own) => audible.includes(own))) {
    out = [...out, part];
    const left = names.filter((own) => !out.includes(own));
    if (left.length === 0) break;
    missing.push((await compared(left.map((own) => piece.parts[own]!))).match ?? 0);
  }
  count((mixes["parts left out, one after the other"] ??= nothing()), missing);
  // By turns: every ladder on another part.
  const able = audible.filter((part) => part !== "percussion");
  for (const [i, [name, steps]] of Object.entries(partLadders).entries()) {
    const part = able[i % able.length]!;
    const scores: number[] = [100];
    const matches: number[] = [100];
    for (const change of steps) {
      const { elements, match } = await compared(
        names.map((own) => (own === part ? change(piece.parts[own]!) : piece.parts[own]!)),
      );
      scores.push(elements.find(({ kind }) => kind === part)!.score ?? 0);
      matches.push(match ?? 0);
    }
    console.error(`${piece.name}, ${part} ${name}: ${scores.map((own) => own.toFixed(1)).join(" ")}`);
    count((parts[name] ??= nothing()), scores);
    count((mixes[`one part ${name}`] ??= nothing()), matches);
  }
}

const summed = (counts: readonly Count[]): Count =>
  counts.reduce(
    (all, own) => ({
      steps: all.steps + own.steps,
      rises: all.rises + own.rises,
      worst: Math.max(all.worst, own.worst),
      pairs: all.pairs + own.pairs,
      right: all.right + own.right,
      ties: all.ties + own.ties,
    }),
    nothing(),
  );

export async function ladderSections({ styles, oneIn }: PartOptions): Promise<Sections> {
  await loadFft();
  const tracks: { name: string; file: string }[] = [];
  for (const style of styles.filter((_, i) => i % 2 === 1).slice(0, thinnedCount(ownSongs, oneIn))) {
    const [song] = await developmentSongs([firstSeed], [style]);
    tracks.push({ name: song!.name, file: song!.file });
  }
  for (const { name, file } of (await measuredRecordings()).slice(0, thinnedCount(recordingsUsed, oneIn)))
    tracks.push({ name, file });
  const mixes: Record<string, Count> = {};
  for (const { name, file } of tracks) {
    const of = (label: string, filter?: string): Promise<AlignmentSide> =>
      sideOf(changed(file, `${name} for ${seconds} s ${label}`, { filter, until: seconds }));
    const reference = await of("as it is");
    for (const [ladder, filters] of Object.entries(ladders)) {
      const matches: number[] = [100];
      for (const [i, filter] of filters.entries())
        matches.push(matchOf(reference, await of(`${ladder} ${i}`, filter)).match);
      console.error(`${name}, ${ladder}: ${matches.map((own) => own.toFixed(1)).join(" ")}`);
      count((mixes[ladder] ??= nothing()), matches);
    }
  }
  const parts: Record<string, Count> = {};
  for (const make of await measuredPieces(
    styles.slice(0, thinnedCount(stylesUsed, oneIn)),
    firstSeed,
    thinnedCount(piecesOfOthers, oneIn),
  ))
    await partRows(make, mixes, parts);
  const rows = (counts: Record<string, Count>) => [
    ...Object.entries(counts).map(([name, own]) => rowOf(name, own)),
    rowOf("all", summed(Object.values(counts))),
  ];
  return {
    "Changes that grow": `${tracks.length} tracks (own songs and recordings by others that nothing was fitted on, the first ${seconds} s) changed ever more, each step held against the unchanged one as in “What a match means”; then mixes of which every part is known, as in “One change in one element”. Whether the match ever rises by more than a point from one step to the next (target: never), and of all pairs of steps, the unchanged one included, in how many the one that was changed less matches better (target 0.97).

${table(head, rows(mixes))}

The same of the score of the one element that was changed (target 0.92).

${table(head, rows(parts))}`,
  };
}
