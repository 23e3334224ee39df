/**
 * Tone: whether equaliser moves undo known filters with no more moves than there were, and whether
 * a gap that no filter can mend is told from one that is only filtered.
 */
import { applyBiquad } from "@/core/dsp/biquad";
import { loadFft } from "@/core/dsp/fft";
import {
  equalised,
  filterOf,
  fitMoves,
  fitResolution,
  gapOverTime,
  octaveCount,
  strokeLikeness,
  wrongCures,
  type AnsweringSpan,
  type EqualiserMove,
  type ToneSide,
} from "@/core/equaliser";
import { onsetStrength } from "@/core/grid/onset";
import { levelCurves, measureLoudness } from "@/core/loudness";
import { averageSpectrum, gapCurve, wholeOf } from "@/core/tone";
import { fractionalOctaveSpectrogram } from "@/core/tone/fractionalOctaveSpectrogram";
import { developmentMaster, secondsOf } from "@/demo/makeSong";
import { mixDown, type MasterSettings } from "@/demo/mix";
import { chance, type Chance } from "@/demo/random";
import { renderParts, renderRate, type StereoTrack } from "@/demo/render";
import { sectionSpans, straightTimeOf, type Song } from "@/demo/song";
import { styleSong } from "@/demo/songs/styles";
import { mean, median, share, table } from "../tables";
import { thinnedCount, type PartOptions, type Sections } from "./part";

/** 16 styles, two seeds each, less the last two. */
const mostSongs = 30;
const passageBars = 2;

interface Side extends ToneSide {
  powers: Float32Array;
  lufs: number;
}

function sideOf(track: StereoTrack): Side {
  const bands = fractionalOctaveSpectrogram(track, renderRate);
  return {
    bands,
    onsets: onsetStrength(track, renderRate),
    powers: wholeOf(averageSpectrum(bands)),
    lufs: measureLoudness(
      levelCurves({ sampleRate: renderRate, channels: [...track], layout: ["left", "right"] }),
    ).integratedLufs!,
  };
}

/** One to four filters that people use: shelves and peaks of 3 to 6 dB, a low cut at 100 Hz. */
function someFilters(c: Chance): EqualiserMove[] {
  const gain = () => c.between(3, 6) * (c.next() < 0.5 ? -1 : 1);
  const between = (low: number, high: number) => low * (high / low) ** c.next();
  const peak = (low: number, high: number): EqualiserMove => ({
    type: "peak",
    hz: between(low, high),
    gainDb: gain(),
    q: between(0.6, 3),
  });
  const pool: EqualiserMove[] = [
    { type: "lowCut", hz: 100, gainDb: 0, q: Math.SQRT1_2 },
    { type: "lowShelf", hz: between(80, 250), gainDb: gain(), q: Math.SQRT1_2 },
    peak(150, 800),
    peak(1000, 5000),
    { type: "highShelf", hz: between(3000, 9000), gainDb: gain(), q: Math.SQRT1_2 },
  ];
  const count = 1 + Math.floor(c.between(0, 3.99));
  const chosen: EqualiserMove[] = [];
  while (chosen.length < count) {
    const own = c.pick(pool);
    // A low cut and a low shelf in one place are one filter to the ear.
    if (
      !chosen.includes(own) &&
      !(own.type === "lowShelf" && chosen.some(({ type }) => type === "lowCut")) &&
      !(own.type === "lowCut" && chosen.some(({ type }) => type === "lowShelf"))
    )
      chosen.push(own);
  }
  return chosen;
}

function filtered(track: StereoTrack, moves: readonly EqualiserMove[]): StereoTrack {
  return track.map((samples) => {
    const copy = Float32Array.from(samples);
    for (const move of moves) applyBiquad(filterOf(move, renderRate), copy);
    return copy;
  }) as StereoTrack;
}

function passagesIn(song: Song): AnsweringSpan[] {
  const { beatsPerBar } = song;
  return sectionSpans(song).flatMap(({ startBeat, beats }, section) => {
    const count = Math.max(1, Math.floor(beats / (passageBars * beatsPerBar)));
    return Array.from({ length: count }, (_, i) => {
      const span = {
        from: straightTimeOf(song, startBeat + (beats * i) / count),
        to: straightTimeOf(song, startBeat + (beats * (i + 1)) / count),
      };
      return { reference: span, version: span, section };
    });
  });
}

/** A part in some of the sections only, so many dB louder or softer. */
function levelledBySection(tracks: StereoTrack[], song: Song, part: number, c: Chance): StereoTrack[] {
  const spans = sectionSpans(song);
  const moved = new Set(spans.flatMap((_, i) => (i % 2 === 1 ? [i] : [])));
  const gain = 10 ** ((c.next() < 0.5 ? -1 : 1) * (c.between(5, 8) / 20));
  return tracks.map((track, t) =>
    t !== part
      ? track
      : (track.map((samples) => {
          const copy = Float32Array.from(samples);
          for (const i of moved) {
            const { startBeat, beats } = spans[i]!;
            const from = Math.max(0, Math.round((straightTimeOf(song, startBeat) - 0.02) * renderRate));
            const to = Math.min(
              copy.length,
              Math.round((straightTimeOf(song, startBeat + beats) - 0.02) * renderRate),
            );
            for (let k = from; k < to; k++) copy[k]! *= gain;
          }
          return copy;
        }) as StereoTrack),
  );
}

interface Measured {
  filters: number;
  moves: number;
  before: number;
  after: number;
}

/** What moves leave of the gap, measured on the version with the moves applied to its samples. */
function mended(reference: Side, track: StereoTrack, version: Side, filters: number): Measured {
  const before = gapCurve(reference.powers, version.powers, reference.lufs - version.lufs, fitResolution);
  const moves = fitMoves(before, renderRate);
  const after = sideOf(filtered(track, moves));
  const inside = (curve: ReturnType<typeof gapCurve>) => {
    const own = curve.filter(({ centre, weight }) => weight > 0 && centre > 40 && centre < 16000);
    return Math.sqrt(own.reduce((sum, { gap }) => sum + gap * gap, 0) / own.length);
  };
  return {
    filters,
    moves: moves.length,
    before: equalised(before, [], fitResolution, renderRate).left,
    after: inside(gapCurve(reference.powers, after.powers, reference.lufs - after.lufs, fitResolution)),
  };
}

export async function toneSections({ styles, seeds, oneIn }: PartOptions): Promise<Sections> {
  await loadFft();
  const fits: Record<"same mix" | "mixed otherwise", Measured[]> = { "same mix": [], "mixed otherwise": [] };
  const said: Record<string, { wrong: number; count: number }> = {};
  const judge = (kind: string, reference: Side, version: Side, passages: AnsweringSpan[], name: string) => {
    const own = (said[kind] ??= { wrong: 0, count: 0 });
    const found = wrongCures(reference, version, passages);
    own.count++;
    if (found.length > 0) own.wrong++;
    const { beside } = gapOverTime(reference.bands, version.bands, passages);
    const spreads = Array.from({ length: octaveCount }, (_, o) => {
      const values = passages.map((_, u) => beside[u * octaveCount + o]!).filter((db) => !Number.isNaN(db));
      return Math.sqrt(values.reduce((sum, db) => sum + db * db, 0) / (values.length || 1));
    });
    const alike = strokeLikeness(reference.onsets, version.onsets, passages);
    console.log(
      name,
      kind,
      `spread ${spreads.map((db) => db.toFixed(1)).join(" ")}`,
      `alike ${alike.map((own) => own?.toFixed(2) ?? "–").join(" ")}`,
      found.map(({ kind: why, fromHz, toHz }) => `${why} ${fromHz.toFixed(0)}–${toHz.toFixed(0)}`).join(", "),
    );
  };
  const songs = seeds.slice(0, 2).flatMap((seed) => styles.map((style) => ({ style, seed })));
  for (const { style, seed } of songs.slice(0, thinnedCount(mostSongs, oneIn))) {
    const name = `${style}-${seed}`;
    const song = styleSong(style, seed);
    const c = chance(seed * 7919 + style.length * 31 + 3);
    const tracks = await renderParts(song.parts, secondsOf(song));
    const mixes = song.parts.map(({ mix }) => mix);
    const master = developmentMaster(seed + style.length);
    const track = mixDown(tracks, mixes, master);
    const reference = sideOf(track);
    const passages = passagesIn(song);
    const filters = someFilters(c);
    const only = filtered(track, filters);
    const onlySide = sideOf(only);
    fits["same mix"].push(mended(reference, only, onlySide, filters.length));
    judge("only filtered", reference, onlySide, passages, name);
    const otherMaster: MasterSettings = { ...master, driveDb: c.between(3, 12) };
    const other = filtered(
      mixDown(
        tracks,
        mixes.map((mix) => ({ ...mix, gainDb: mix.gainDb + c.between(-1, 1) })),
        otherMaster,
      ),
      filters,
    );
    const otherSide = sideOf(other);
    fits["mixed otherwise"].push(mended(reference, other, otherSide, filters.length));
    judge("mixed otherwise and filtered", reference, otherSide, passages, name);
    const heard = song.parts.flatMap(({ notes }, i) => (notes.length > 15 ? [i] : []));
    const out = c.pick(heard);
    judge(
      "an element left out",
      reference,
      sideOf(
        mixDown(
          tracks,
          mixes.map((mix, i) => (i === out ? null : mix)),
          otherMaster,
        ),
      ),
      passages,
      `${name} without ${song.parts[out]!.name}`,
    );
    const moved = c.pick(heard);
    judge(
      "one element by section",
      reference,
      sideOf(mixDown(levelledBySection(tracks, song, moved, c), mixes, otherMaster)),
      passages,
      `${name} ${song.parts[moved]!.name}`,
    );
    const last = Object.values(fits).map((own) => own.at(-1)!);
    console.log(
      name,
      last
        .map(
          (own) =>
            `${own.filters} filters, ${own.moves} moves, ${own.before.toFixed(2)} → ${own.after.toFixed(2)}`,
        )
        .join("; "),
    );
  }
  return {
    "Equaliser moves": `${fits["same mix"].length} development songs through one to four known filters (shelves and peaks of 3 to 6 dB, a low cut at 100 Hz), the same mix and another one (levels of all parts ±1 dB, another drive into the limiter). The gap that is left is measured on the samples with the moves applied, 40 Hz to 16 kHz in sixth-octaves at equal loudness. Targets: at most 0.7 dB, and no more moves than filters and one in 90 %.

${table(
  [
    "",
    "songs",
    "gap before, dB",
    "gap after, median",
    "at most 0.7 dB",
    "at most one move more than filters",
    "moves, mean",
  ],
  Object.entries(fits).map(([name, own]) => [
    name,
    own.length,
    mean(own.map(({ before }) => before)),
    median(own.map(({ after }) => after)).toFixed(2),
    share(own.filter(({ after }) => after <= 0.7).length, own.length),
    share(own.filter(({ moves, filters }) => moves <= filters + 1).length, own.length),
    mean(own.map(({ moves }) => moves)),
  ]),
)}

Whether it is said that an equaliser is the wrong cure. Targets: in at least 90 % of those with an element left out or another level in some sections, in at most 10 % of those that are only filtered.

${table(
  ["", "songs", "wrong cure said"],
  Object.entries(said).map(([name, { wrong, count }]) => [name, count, share(wrong, count)]),
)}`,
  };
}
