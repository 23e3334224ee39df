/**
 * Recreations of development songs with known coverage: the whole, a loop from the middle, a longer
 * lead-in, another tempo, another key, a section left out, sections in another order. Mixed
 * otherwise than their reference, with a part missing. Made once and kept in `.cache/versions`.
 */
import { existsSync } from "node:fs";
import { mkdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { writeWav } from "@/core/formats/wav";
import type { CoverageSpan } from "@/core/align/coverage";
import { mixDown } from "@/demo/mix";
import { secondsOf } from "@/demo/makeSong";
import { chance } from "@/demo/random";
import { renderParts, renderRate, type StereoTrack } from "@/demo/render";
import { barsOf, sectionSpans, straightTimeOf, type Part, type PartMix, type Song } from "@/demo/song";
import { styleSong } from "@/demo/songs/styles";

export const versionCases = [
  "whole track",
  "eight-bar loop",
  "longer lead-in",
  "other tempo",
  "other key",
  "section left out",
  "other order",
] as const;
export type VersionCase = (typeof versionCases)[number];

export interface MadeVersion {
  case: VersionCase;
  file: string;
  truth: {
    spans: CoverageSpan[];
    semitones: number;
    tempoRatio: number;
    /** Where the version's bars begin, seconds. */
    starts: number[];
  };
}

const folder = path.join(process.cwd(), ".cache", "versions");

/** Whether sections with other parts than one another still differ when one part is left out. */
function keepsSectionsApart(song: Song, missing: Part): boolean {
  const plays = (part: Part, { startBeat, beats }: { startBeat: number; beats: number }) => {
    const [from, to] = [straightTimeOf(song, startBeat), straightTimeOf(song, startBeat + beats)];
    return part.notes.some(({ time }) => time > from - 0.05 && time < to - 0.3);
  };
  const sections = sectionSpans(song);
  const namesIn = (span: (typeof sections)[number], without: Part | null) =>
    song.parts
      .filter((part) => part !== without && plays(part, span))
      .map(({ name }) => name)
      .join(" ");
  return sections.every((a, i) =>
    sections
      .slice(i + 1)
      .every((b) => namesIn(a, null) === namesIn(b, null) || namesIn(a, missing) !== namesIn(b, missing)),
  );
}

/** Another mix of the same parts: levels moved, one part that is neither drums nor bass left out. */
async function mixAgain(song: Song, seed: number): Promise<StereoTrack> {
  const c = chance(seed * 613 + 7);
  const tracks = await renderParts(song.parts, secondsOf(song));
  const melodic = song.parts.filter((part) => part.sound !== "drums" && part.name !== "bass");
  // Nothing may fall silent: bars without sound are not recreated.
  const dispensable = melodic.filter((part) =>
    sectionSpans(song).every(({ startBeat, beats }) => {
      const [from, to] = [straightTimeOf(song, startBeat), straightTimeOf(song, startBeat + beats)];
      return song.parts.some(
        (p) => p !== part && p.notes.some(({ time }) => time > from - 0.05 && time < to - 0.3),
      );
    }),
  );
  // Nor may sections become alike that are not: nobody could tell which of them is recreated.
  const picked = dispensable.length > 1 ? c.pick(dispensable) : null;
  const missing =
    picked && !keepsSectionsApart(song, picked)
      ? (dispensable.find((part) => keepsSectionsApart(song, part)) ?? null)
      : picked;
  const settings = song.parts.map((part): PartMix | null =>
    part === missing ? null : { ...part.mix, gainDb: part.mix.gainDb + c.between(-3, 3) },
  );
  return mixDown(tracks, settings, { driveDb: c.between(3, 12), ceilingDb: -1, tiltDb: c.between(-2, 2) });
}

/** Passages of whole bars: first bar (from 0) and how many. */
type Passages = readonly [first: number, bars: number][];

const barTime = (song: Song, bar: number) => straightTimeOf(song, bar * song.beatsPerBar);

/** Where the bars of passages in a row begin, after some seconds. */
function startsOf(song: Song, passages: Passages, lead: number): number[] {
  let at = lead;
  return passages.flatMap(([first, bars]) =>
    Array.from({ length: bars }, (_, i) => {
      const start = at;
      at += barTime(song, first + i + 1) - barTime(song, first + i);
      return start;
    }),
  );
}

/** Whole bars of a mix, one passage after the other, after some seconds of silence. */
function cut(song: Song, mix: StereoTrack, passages: Passages, lead: number) {
  const at = (bar: number) => Math.round(barTime(song, bar) * renderRate);
  const length = passages.reduce((sum, [first, bars]) => sum + at(first + bars) - at(first), 0);
  const start = Math.round(lead * renderRate);
  return mix.map((samples) => {
    const joined = new Float32Array(start + length);
    let to = start;
    for (const [first, bars] of passages) {
      joined.set(samples.subarray(at(first), at(first + bars)), to);
      to += at(first + bars) - at(first);
    }
    return joined;
  }) as StereoTrack;
}

/** All cases of one song. */
export async function versionsOf(style: string, seed: number): Promise<MadeVersion[]> {
  const name = `${style.replaceAll(" ", "-")}-${seed}`;
  const list = path.join(folder, `${name}.json`);
  if (existsSync(list)) return JSON.parse(await readFile(list, "utf8")) as MadeVersion[];
  await mkdir(folder, { recursive: true });
  const c = chance(seed * 271 + style.length);
  const song = styleSong(style, seed);
  const bars = barsOf(song);
  const mix = await mixAgain(song, seed);
  const made: MadeVersion[] = [];
  const add = async (
    which: VersionCase,
    track: StereoTrack,
    passages: Passages,
    lead: number,
    change: { song?: Song; semitones?: number; tempoRatio?: number } = {},
  ) => {
    const file = path.join(folder, `${name}-${which.replaceAll(" ", "-")}.wav`);
    await writeFile(file, writeWav(track, renderRate));
    let versionFirst = 1;
    const spans = passages.map(([first, count]) => {
      const span = { referenceFirst: first + 1, versionFirst, bars: count };
      versionFirst += count;
      return span;
    });
    made.push({
      case: which,
      file,
      truth: {
        spans,
        semitones: change.semitones ?? 0,
        tempoRatio: change.tempoRatio ?? 1,
        starts: startsOf(change.song ?? song, passages, lead),
      },
    });
  };
  const all: Passages = [[0, bars]];
  await add("whole track", mix, all, song.leadInSeconds);
  const sections = sectionSpans(song).map((s) => ({
    name: s.name,
    first: s.startBeat / song.beatsPerBar,
    bars: s.beats / song.beatsPerBar,
  }));
  const from = c.pick(sections.filter((s) => s.bars >= 8 && !s.name.startsWith("break"))).first;
  await add("eight-bar loop", cut(song, mix, [[from, 8]], 0), [[from, 8]], 0);
  const lead = c.between(0.7, 3.3);
  await add("longer lead-in", cut(song, mix, all, lead), all, lead);
  const tempoRatio = Math.round(100 * (c.next() < 0.5 ? c.between(0.88, 0.97) : c.between(1.03, 1.12))) / 100;
  const other = styleSong(style, seed, { tempoRatio });
  await add("other tempo", await mixAgain(other, seed + 1), all, song.leadInSeconds, {
    song: other,
    tempoRatio,
  });
  const semitones = c.pick([-4, -3, -2, -1, 1, 2, 3, 5]);
  const higher = await mixAgain(styleSong(style, seed, { semitones }), seed + 2);
  await add("other key", higher, all, song.leadInSeconds, { semitones });
  const gone = sections[c.whole(1, sections.length - 2)]!;
  const rest: Passages = [
    [0, gone.first],
    [gone.first + gone.bars, bars - gone.first - gone.bars],
  ];
  await add("section left out", cut(song, mix, rest, 0.2), rest, 0.2);
  const turned: Passages = [
    [0, sections[1]!.first],
    [sections[2]!.first, sections[2]!.bars],
    [sections[1]!.first, sections[1]!.bars],
    [sections[3]!.first, bars - sections[3]!.first],
  ];
  await add("other order", cut(song, mix, turned, 0), turned, 0);
  await writeFile(list, JSON.stringify(made));
  return made;
}
