/**
 * The lens: parts lifted out of mixes whose parts are known, by the hits and notes that the program itself
 * finds, beside the frequency ranges that were used before.
 */
import { analyse } from "@/core/analysis/analyse";
import { loadFft, realFft } from "@/core/dsp/fft";
import { drumParts, heardIn, lensParts, lift, type LensPart, type LiftedPart } from "@/core/lens";
import { stereo } from "@/core/testing/signals";
import { amplitudeToDecibels, decibelsToAmplitude, powerToDecibels } from "@/core/units";
import { mixDown } from "@/demo/mix";
import { chance } from "@/demo/random";
import { renderRate, type StereoTrack } from "@/demo/render";
import { measuredPieces, type PartedPiece } from "../material/parts";
import { energyOf, sumOfTracks } from "../material/tracks";
import { mean, quantile, table } from "../tables";
import type { PartOptions, Sections } from "./part";

const piecesOfOthers = 6;
const stylesUsed = 8;
const changesDb = [-8, -4, -2, 2, 4, 8] as const;
/** Gains that a part of the piece is changed by, one recreation each. */
const changesAPiece = 2;

/** Ranges that elements were heard through before: those that a new study proposes. */
const ranges: Record<LensPart, readonly [number, number]> = {
  kick: [40, 110],
  snare: [150, 4000],
  hats: [6000, 16000],
  percussion: [300, 6000],
  bass: [50, 250],
  music: [200, 2500],
};

/** Width of the edges of a range, in octaves. */
const edge = 0.3;
/** A range cut out of the spectrum of the whole, without moving a phase. */
function rangeOf(mix: StereoTrack, part: LensPart): StereoTrack {
  const [low, high] = ranges[part];
  const size = 2 ** Math.ceil(Math.log2(mix[0].length));
  const transform = realFft(size);
  const slope = (octaves: number) => Math.min(1, Math.max(0, 0.5 + octaves / edge));
  return mix.map((samples) => {
    const input = transform.input();
    input.fill(0);
    input.set(samples);
    const spectrum = transform.forward();
    spectrum[0] = 0;
    spectrum[1] = 0;
    for (let bin = 1; bin < size / 2; bin++) {
      const octave = Math.log2((bin * renderRate) / size);
      const gain = slope(octave - Math.log2(low)) * slope(Math.log2(high) - octave);
      spectrum[2 * bin]! *= gain / size;
      spectrum[2 * bin + 1]! *= gain / size;
    }
    return Float32Array.from(transform.backward().subarray(0, samples.length));
  }) as StereoTrack;
}

/** What counts for a part that was not lifted out at all. */
const nothing = -30;

/** Scale-invariant signal-to-distortion ratio (Le Roux and others 2019, "SDR: half-baked or well done?"). */
function signalToDistortion(truth: StereoTrack, estimate: StereoTrack): number {
  let common = 0;
  truth.forEach((samples, side) => samples.forEach((x, i) => (common += x * estimate[side]![i]!)));
  const wanted = (common * common) / energyOf(truth);
  // Nothing lifted out is as bad as it can be.
  return Math.max(nothing, powerToDecibels(wanted / (energyOf(estimate) - wanted + 1e-12)));
}

interface Heard {
  lufs: number;
  lifted: Record<LensPart, LiftedPart>;
  seconds: number;
}

async function heard(mix: StereoTrack): Promise<Heard> {
  const { analysis } = await analyse(stereo(mix[0], mix[1], renderRate));
  const begun = performance.now();
  const lifted = lift(mix, renderRate, heardIn(analysis));
  return {
    lufs: analysis.loudness.integratedLufs ?? -70,
    lifted,
    seconds: (performance.now() - begun) / 1000,
  };
}

const levelOf = (track: StereoTrack) => powerToDecibels(energyOf(track) / track[0].length + 1e-12);

interface Lifted {
  source: string;
  part: LensPart;
  range: number;
  lens: number;
  free: number;
}
interface Changed {
  source: string;
  part: LensPart;
  isChanged: boolean;
  lens: number;
  range: number;
}

/** What is in a piece that a recreation could turn up or down by itself, as the lens names it. */
const partsIn = (piece: PartedPiece) => lensParts.filter((part) => piece.parts[part]);

/** Where the bass of a piece is not known it counts as music. */
function asKnown(piece: PartedPiece, lifted: Record<LensPart, LiftedPart>, part: LensPart): StereoTrack {
  const own = lifted[part].samples;
  return part === "music" && piece.source === "tracker" ? sumOfTracks([own, lifted.bass.samples]) : own;
}

async function measure(
  piece: PartedPiece,
  seed: number,
  rows: Lifted[],
  changes: Changed[],
): Promise<number> {
  const names = partsIn(piece);
  const first = await heard(piece.mix);
  for (const part of names) {
    const truth = piece.parts[part]!;
    const lens = asKnown(piece, first.lifted, part);
    rows.push({
      source: piece.source,
      part,
      range: signalToDistortion(truth, rangeOf(piece.mix, part)),
      lens: signalToDistortion(truth, lens),
      free: first.lifted[part].freeDb ?? -20,
    });
  }
  const c = chance(seed);
  for (let turn = 0; turn < changesAPiece; turn++) {
    const part = c.pick(names.filter((own) => own !== "music" || names.length === 1));
    const change = c.pick(changesDb);
    const gains = names.map((own) => (own === part ? decibelsToAmplitude(change) : 1));
    const louder = sumOfTracks(
      names.map((own) => piece.parts[own]!),
      gains,
    );
    const peak = amplitudeToDecibels(
      louder.reduce((most, s) => s.reduce((m, x) => Math.max(m, Math.abs(x)), most), 1e-6),
    );
    // Mastered as records are: three to six decibels into a limiter.
    const mastered = mixDown([louder], [{ gainDb: 0, pan: 0, room: 0 }], {
      driveDb: c.between(3, 6) - peak - 1,
      ceilingDb: -1,
    });
    const second = await heard(mastered);
    // By how much the whole became louder is known before it is mastered.
    const plain =
      (await analyse(stereo(louder[0], louder[1], renderRate))).analysis.loudness.integratedLufs ?? -70;
    for (const own of names) {
      const true_ = (own === part ? change : 0) - (plain - first.lufs);
      const gap = (a: StereoTrack, b: StereoTrack) => levelOf(b) - second.lufs - (levelOf(a) - first.lufs);
      changes.push({
        source: piece.source,
        part: own,
        isChanged: own === part,
        lens: Math.abs(gap(asKnown(piece, first.lifted, own), asKnown(piece, second.lifted, own)) - true_),
        range: Math.abs(gap(rangeOf(piece.mix, own), rangeOf(mastered, own)) - true_),
      });
    }
  }
  console.error(piece.name);
  return first.seconds / (piece.mix[0].length / renderRate / 60);
}

export async function lensSections({ styles, seeds }: PartOptions): Promise<Sections> {
  await loadFft();
  const makers = await measuredPieces(styles.slice(0, stylesUsed), seeds[0]!, piecesOfOthers);
  const rows: Lifted[] = [];
  const changes: Changed[] = [];
  const seconds: number[] = [];
  for (const [i, make] of makers.entries()) seconds.push(await measure(await make(), i + 1, rows, changes));

  const both = (values: readonly number[], share: number) =>
    `${quantile(values, 0.5).toFixed(1)} (${quantile(values, share).toFixed(1)})`;
  const sources = ["own", "tracker", "midi"] as const;
  const liftedRows = lensParts.flatMap((part) =>
    [...sources, "all"].flatMap((source) => {
      const own = rows.filter((row) => row.part === part && (source === "all" || row.source === source));
      if (own.length === 0) return [];
      const worse = own.filter(({ lens, range }) => lens < range);
      return [
        [
          part,
          source,
          own.length,
          both(
            own.map(({ range }) => range),
            0.1,
          ),
          both(
            own.map(({ lens }) => lens),
            0.1,
          ),
          quantile(
            own.map(({ lens, range }) => lens - range),
            0.5,
          ).toFixed(1),
          `${worse.length}`,
          both(
            own.map(({ free, lens }) => Math.abs(free - lens)),
            0.9,
          ),
        ],
      ];
    }),
  );
  const changeRows = [...drumParts, "bass" as const, "music" as const, "all" as const].flatMap((part) => {
    const own = changes.filter((row) => part === "all" || row.part === part);
    const changed = own.filter(({ isChanged }) => isChanged);
    const others = own.filter(({ isChanged }) => !isChanged);
    const cells = (of: readonly Changed[], key: "lens" | "range") =>
      of.length > 0
        ? both(
            of.map((row) => row[key]),
            0.9,
          )
        : "–";
    return [
      [
        part,
        changed.length,
        cells(changed, "lens"),
        cells(changed, "range"),
        others.length,
        cells(others, "lens"),
        cells(others, "range"),
      ],
    ];
  });
  return {
    "The lens": `Parts lifted out of ${makers.length} mixes of 45 s (own songs, tracker pieces, MIDI pieces by three sound fonts by turns; measuring halves, hits and notes as the program finds them), against the parts themselves: scale-invariant signal-to-distortion ratio in dB of the frequency range that was used before and of the lens, median and worst tenth; median gain; pieces in which the range does better; how far off the lens's own estimate of how free a part stands is, median and nine in ten. ${mean(seconds)} s for a minute of audio.\n\n${table(
      ["part", "source", "pieces", "range", "lens", "gain", "worse", "own estimate off by"],
      liftedRows,
    )}\n\nOne part changed by ±2, ±4 or ±8 dB and the whole driven 3 to 6 dB into a limiter: error of its level against the whole in dB, and of the levels of the parts that were not changed, median and nine in ten, through the lens and through the range.\n\n${table(
      ["part", "changed", "lens", "range", "others", "lens", "range"],
      changeRows,
    )}`,
  };
}
