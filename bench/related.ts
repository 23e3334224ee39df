/**
 * Pairs of tracks that have to do with each other, and pairs that have not: development songs with
 * their versions and with other sounds, recordings by others with what may become of a recording, and
 * all of them held against one another.
 */
import { createHash } from "node:crypto";
import { existsSync } from "node:fs";
import { mkdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { deserialize, serialize } from "node:v8";
import { findCoverage, type AlignedSide, type Alignment } from "@/core/align/coverage";
import { analyse } from "@/core/analysis/analyse";
import { analysisVersion } from "@/core/analysis/result";
import type { Signal } from "@/core/audio/signal";
import { asHits } from "@/core/drums";
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import { gridOf } from "@/core/grid/correction";
import { barStart, barsOf } from "@/core/grid/grid";
import { developmentMaster, makeSong, secondsOf } from "@/demo/makeSong";
import { mixDown } from "@/demo/mix";
import { chance } from "@/demo/random";
import { renderParts, renderRate, type StereoTrack } from "@/demo/render";
import type { Part } from "@/demo/song";
import { styles, styleSong } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { recordings } from "./material/recordings";
import { firstSeed } from "./parts/part";
import { developmentSongs } from "./songs";
import { versionsOf } from "./versions";

export interface Pair {
  source: string;
  /** What was done to the reference, or that the two are unrelated. */
  kind: string;
  name: string;
  half: "fit" | "measure";
  isRelated: boolean;
  /** What `relationFeatures` says; null where no bars are answered at all. */
  evidence: number[] | null;
  related: number;
  /** Share of the version's bars that are answered. */
  covered: number;
}

/** A track as it goes into pairs. */
interface Track {
  source: string;
  kind: string;
  /** The piece that it is of. */
  piece: string;
  half: Pair["half"];
  /** The song at whose tempo another one of its style is played. */
  ofStyle?: string;
  side(): Promise<AlignedSide | null>;
}

const folder = path.join(process.cwd(), ".cache", "sides");
/** Recordings are taken from their beginning on for so long. */
const longest = 110;

/** What aligning needs of a signal, worked out once. */
async function sideOf(name: string, make: () => Promise<Signal>): Promise<AlignedSide | null> {
  const key = createHash("sha1").update(`${analysisVersion} ${name}`).digest("hex");
  const file = path.join(folder, `${key}.v8`);
  if (existsSync(file)) return deserialize(await readFile(file)) as AlignedSide | null;
  await mkdir(folder, { recursive: true });
  const { analysis, curves } = await analyse(await make());
  const grid = gridOf(analysis.grid, analysis.durationSeconds);
  const side: AlignedSide | null = grid && {
    grid,
    durationSeconds: analysis.durationSeconds,
    hits: asHits(analysis.drums),
    curves: {
      onsets: { ranges: curves.onsets.ranges, framesPerSecond: curves.onsets.framesPerSecond },
      pitches: curves.pitches,
      kWeightedMeanSquares: curves.levels.kWeightedMeanSquares,
    },
  };
  await writeFile(file, serialize(side));
  return side;
}

async function decoded(file: string, seconds = Infinity): Promise<Signal> {
  const outcome = await decodeFile(file);
  if (!outcome.ok) throw new Error(`${file}: ${outcome.refusal.sentence}`);
  const { signal } = outcome.value;
  const frames = Math.min(signal.channels[0]!.length, Math.round(seconds * signal.sampleRate));
  return { ...signal, channels: signal.channels.map((channel) => channel.slice(0, frames)) };
}

const each = (signal: Signal, change: (channel: Float32Array) => Float32Array): Signal => ({
  ...signal,
  channels: signal.channels.map(change),
});

/** Played faster, and higher with it, by linear interpolation. */
const faster = (signal: Signal, ratio: number): Signal =>
  each(signal, (channel) =>
    Float32Array.from({ length: Math.floor((channel.length - 1) / ratio) }, (_, i) => {
      const at = i * ratio;
      const whole = Math.floor(at);
      return channel[whole]! + (at - whole) * (channel[whole + 1]! - channel[whole]!);
    }),
  );

const filtered = (signal: Signal): Signal =>
  each(signal, (channel) => {
    const own = channel.slice();
    applyBiquad(designBiquad("peak", signal.sampleRate, 300, 0.8, 4), own);
    applyBiquad(designBiquad("highShelf", signal.sampleRate, 4000, 0.7, -4), own);
    return own;
  });

const limited = (signal: Signal): Signal =>
  each(signal, (channel) => channel.map((x) => Math.tanh(4 * x) / Math.tanh(4)));

/** What may become of a recording. */
const changes: readonly { kind: string; of(signal: Signal, starts: readonly number[]): Signal }[] = [
  { kind: "filtered and limited", of: (signal) => limited(filtered(signal)) },
  { kind: "six per cent faster and a semitone higher", of: (signal) => faster(signal, 2 ** (1 / 12)) },
  {
    kind: "sixteen bars of it",
    of: (signal, starts) => filtered(barsFrom(signal, starts, 16)),
  },
];

const generator = "own generator";
export const ofTheStyle = "another song of the style at the same tempo";

/** Development songs with their versions, and with every part played by another sound. */
async function generated(seeds: readonly number[], names: readonly string[]): Promise<Track[]> {
  const tracks: Track[] = [];
  for (const style of names) {
    for (const seed of seeds) {
      const [song] = await developmentSongs([seed], [style]);
      // Songs of the benchmark's own seeds are never fitted on.
      const half: Pair["half"] = seed < firstSeed ? "fit" : "measure";
      const own = { source: generator, piece: song!.name, half };
      tracks.push({ ...own, kind: "", side: () => sideOf(song!.name, () => decoded(song!.file)) });
      for (const made of await versionsOf(style, seed)) {
        tracks.push({
          ...own,
          kind: made.case,
          side: () => sideOf(`${song!.name} ${made.case}`, () => decoded(made.file)),
        });
      }
      for (const { kind, plays, bars } of sketches) {
        tracks.push({
          ...own,
          kind,
          side: () =>
            sideOf(`${song!.name} ${kind}`, async () => {
              const whole = await withOtherSounds(style, seed, plays);
              return bars
                ? barsFrom(
                    whole,
                    song!.truth.downbeats.map((time) => time / otherTempo),
                    bars,
                  )
                : whole;
            }),
        });
      }
      for (const later of otherSeeds) {
        tracks.push({
          ...own,
          kind: "",
          piece: `${song!.name} against ${seed + later}`,
          ofStyle: song!.name,
          side: () =>
            sideOf(`${song!.name} at the tempo of which ${seed + later} is played`, async () => {
              const tempoRatio = styleSong(style, seed).bpm / styleSong(style, seed + later).bpm;
              return makeSong(
                styleSong(style, seed + later, { tempoRatio }),
                developmentMaster(seed + later),
              );
            }),
        });
      }
    }
  }
  return tracks;
}

/** Seeds of other songs of a style, counted from a song's own. */
const otherSeeds = [6, 7] as const;

/** What somebody may have of a recreation, played by what they have. */
const sketches: readonly { kind: string; plays(part: Part): boolean; bars: number | null }[] = [
  { kind: "other sounds", plays: () => true, bars: null },
  { kind: "drums alone", plays: ({ sound }) => sound === "drums", bars: null },
  {
    kind: "drums without hats",
    plays: ({ sound, name }) => sound === "drums" && !/hat|shak|ride|perc/i.test(name),
    bars: null,
  },
  { kind: "drums alone, eight bars", plays: ({ sound }) => sound === "drums", bars: 8 },
  {
    kind: "drums and bass, other sounds",
    plays: ({ sound, name }) => sound === "drums" || name === "bass",
    bars: null,
  },
  { kind: "without drums, other sounds, sixteen bars", plays: ({ sound }) => sound !== "drums", bars: 16 },
];
const otherTempo = 1.03;

let rendered: { key: string; parts: Part[]; tracks: StereoTrack[] } | null = null;

/** The same notes by other instruments, at another tempo, some parts of them. */
export async function withOtherSounds(
  style: string,
  seed: number,
  plays: (part: Part) => boolean,
): Promise<Signal> {
  const c = chance(seed * 97 + style.length);
  const key = `${style} ${seed}`;
  if (rendered?.key !== key) {
    const song = styleSong(style, seed, { tempoRatio: otherTempo });
    const parts = song.parts.map((part) =>
      part.sound === "drums" ? part : { ...part, sound: (part.sound + c.whole(9, 60)) % 96 },
    );
    rendered = { key, parts, tracks: await renderParts(parts, secondsOf(song)) };
  }
  const { parts, tracks } = rendered;
  const channels = mixDown(
    tracks,
    parts.map((part) => (plays(part) ? { ...part.mix, gainDb: part.mix.gainDb + c.between(-3, 3) } : null)),
    developmentMaster(seed + 1),
  );
  return { sampleRate: renderRate, channels: [...channels], layout: ["left", "right"] };
}

/** Some bars out of a signal, from a third of it on, where it sounds. */
function barsFrom(signal: Signal, starts: readonly number[], bars: number): Signal {
  const first = Math.floor(starts.length / 3);
  const [from, to] = [starts[first]!, starts[Math.min(starts.length - 1, first + bars)]!].map((time) =>
    Math.max(0, Math.round(time * signal.sampleRate)),
  ) as [number, number];
  return each(signal, (channel) => channel.slice(from, to));
}

/** Recordings by others, with what may become of them. */
async function recorded(most: number): Promise<Track[]> {
  const all = await recordings();
  const tracks: Track[] = [];
  for (const { package: source, name, file, half } of all.slice(0, most)) {
    const own = { source, piece: name, half };
    const make = () => decoded(file, longest);
    tracks.push({ ...own, kind: "", side: () => sideOf(name, make) });
    for (const { kind, of } of changes) {
      tracks.push({
        ...own,
        kind,
        side: async () => {
          const reference = await sideOf(name, make);
          if (!reference) return null;
          const { first, last } = barsOf(reference.grid);
          const starts = Array.from({ length: last - Math.max(1, first) + 1 }, (_, i) =>
            barStart(reference.grid, Math.max(1, first) + i),
          );
          return sideOf(`${name} ${kind}`, async () => of(await make(), starts));
        },
      });
    }
  }
  return tracks;
}

function pairOf(reference: AlignedSide, version: AlignedSide) {
  let evidence: number[] | null = null;
  const alignment: Alignment = findCoverage(reference, version, false, (own) => {
    evidence = own;
  });
  const { last } = barsOf(version.grid);
  const bars = alignment.spans.reduce((sum, own) => sum + own.bars, 0);
  return {
    evidence: evidence as number[] | null,
    related: alignment.related,
    covered: Math.min(1, (bars * alignment.reading.factor ** -1) / Math.max(1, last)),
  };
}

/** All related pairs, and so many unrelated ones for each track that is a reference. */
export async function* pairs({
  only,
  seeds,
  names = styles,
  mostRecordings = 40,
  strangers = 5,
}: {
  only: Pair["half"];
  seeds: readonly number[];
  names?: readonly string[];
  mostRecordings?: number;
  strangers?: number;
}): AsyncGenerator<Pair> {
  const made = [...(await generated(seeds, names)), ...(await recorded(mostRecordings))];
  const all = made.filter(({ half }) => half === only);
  const references = all.filter(({ kind, ofStyle }) => kind === "" && !ofStyle);
  const c = chance(20261126);
  for (const reference of references) {
    const side = await reference.side();
    if (!side) continue;
    const { source, half } = reference;
    const own = all.filter(({ piece, kind }) => piece === reference.piece && kind !== "");
    for (const { kind, piece, side: make } of own) {
      const version = await make();
      if (version) yield { source, kind, name: piece, half, isRelated: true, ...pairOf(side, version) };
    }
    // Of another piece of the same half: what is fitted on is never measured.
    const unlike = all.filter((other) => other.piece !== reference.piece);
    const others = unlike.filter(({ ofStyle }) => !ofStyle);
    // A few bars or drums alone agree with anything most easily: every second stranger is of that kind.
    const sketchy = others.filter(({ kind }) => /bars|drums|loop/.test(kind));
    for (let i = 0; i < strangers && others.length > 0; i++) {
      const other = c.pick(i % 2 === 1 && sketchy.length > 0 ? sketchy : others);
      const version = await other.side();
      if (!version) continue;
      const name = `${reference.piece} and ${other.piece}`;
      yield { source, kind: "unrelated", name, half, isRelated: false, ...pairOf(side, version) };
    }
    // And songs of the generator against one another, which share more than music of several makers does.
    const kindred = unlike.filter(
      (other) =>
        other.kind === "" &&
        other.source === source &&
        (other.ofStyle ?? reference.piece) === reference.piece,
    );
    if (source !== generator) continue;
    for (const other of kindred) {
      const version = await other.side();
      if (!version) continue;
      const kind = other.ofStyle ? ofTheStyle : "a song of another style";
      const name = `${reference.piece} and ${other.piece}`;
      yield { source, kind, name, half, isRelated: false, ...pairOf(side, version) };
    }
  }
}
