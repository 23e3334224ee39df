/**
 * The lens: parts lifted out of mixes whose parts are known, by the hits and notes that the program itself
 * finds, beside the frequency ranges that were used before.
 */
import { analyse } from "@/core/analysis/analyse";
import { loadFft, realFft } from "@/core/dsp/fft";
import { heardIn, keptOf, lensParts, lift, type LensPart, type LiftedPart } from "@/core/lens";
import { nothingIntended } from "@/core/match";
import { stereo } from "@/core/testing/signals";
import { amplitudeToDecibels, decibelsToAmplitude, powerToDecibels } from "@/core/units";
import { compareOutput, type LiftedSide } from "@/cli/compareOutput";
import { mixDown } from "@/demo/mix";
import { chance } from "@/demo/random";
import { renderRate, type StereoTrack } from "@/demo/render";
import { asKnown, signalToDistortion } from "../material/distortion";
import { measuredPieces, type PartedPiece } from "../material/parts";
import { energyOf, sumOfTracks } from "../material/tracks";
import { mean, quantile, table } from "../tables";
import { thinnedCount, type PartOptions, type Sections } from "./part";

const piecesOfOthers = 6;
const stylesUsed = 8;
const changesDb = [-8, -4, -2, 2, 4, 8] as const;
/** Gains that a part of the piece is changed by, one recreation each. */
const changesAPiece = 2;
/** Parts softer than that beside the whole are left alone: nobody hears them. */
const softest = 1e-3;
/** Elements that the program itself is so sure of, 0–1, count as standing free. */
const surely = 1;

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

interface Heard {
  side: LiftedSide;
  lufs: number;
  lifted: Record<LensPart, LiftedPart>;
  seconds: number;
}

async function heard(mix: StereoTrack): Promise<Heard> {
  const analysed = await analyse(stereo(mix[0], mix[1], renderRate));
  const parts = heardIn(analysed.analysis);
  const begun = performance.now();
  const lifted = lift(mix, renderRate, parts);
  return {
    seconds: (performance.now() - begun) / 1000,
    side: { ...analysed, correction: {}, lifted: keptOf(lifted, renderRate, parts) },
    lufs: analysed.analysis.loudness.integratedLufs ?? -70,
    lifted,
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
  /** Whether it stands free by 5 dB or more. */
  isFree: boolean;
  /** Errors of what is told of its level, and of the level of its range. */
  told: number | null;
  range: number;
}

/** What is in a piece that a recreation could turn up or down by itself, as the lens names it. */
const partsIn = (piece: PartedPiece) => lensParts.filter((part) => piece.parts[part]);

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
  // Alone a part has no level beside the others.
  const audible = names.filter((part) => energyOf(piece.parts[part]!) > softest * energyOf(piece.mix));
  if (audible.length < 2) return first.seconds / (piece.mix[0].length / renderRate / 60);
  for (let turn = 0; turn < changesAPiece; turn++) {
    const part = c.pick(audible.filter((own) => own !== "music"));
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
    const { elements } = compareOutput(first.side, second.side, nothingIntended);
    for (const own of audible) {
      const element = elements.find(({ kind }) => kind === own)!;
      const told = element.aspects.find(({ name }) => name === "level")!.gap;
      const beside = own === part ? change : 0;
      const true_ = beside - (plain - first.lufs);
      const gap = (a: StereoTrack, b: StereoTrack) => levelOf(b) - second.lufs - (levelOf(a) - first.lufs);
      changes.push({
        source: piece.source,
        part: own,
        isChanged: own === part,
        isFree: element.sure >= surely,
        told: told === null ? null : Math.abs(told - beside),
        range: Math.abs(gap(rangeOf(piece.mix, own), rangeOf(mastered, own)) - true_),
      });
    }
  }
  console.error(piece.name);
  return first.seconds / (piece.mix[0].length / renderRate / 60);
}

export async function lensSections({ styles, seeds, oneIn }: PartOptions): Promise<Sections> {
  await loadFft();
  const makers = await measuredPieces(
    styles.slice(0, thinnedCount(stylesUsed, oneIn)),
    seeds[0]!,
    thinnedCount(piecesOfOthers, oneIn),
  );
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
  const changeRow = (title: string, own: readonly Changed[]) => {
    const cells = (of: readonly Changed[]) => {
      const told = of.flatMap((row) => row.told ?? []);
      return [
        of.length,
        told.length > 0 ? both(told, 0.9) : "–",
        of.length > 0
          ? both(
              of.map(({ range }) => range),
              0.9,
            )
          : "–",
      ];
    };
    return [
      title,
      ...cells(own.filter(({ isChanged }) => isChanged)),
      ...cells(own.filter(({ isChanged }) => !isChanged)),
    ];
  };
  const changeRows = [
    ...lensParts.map((part) =>
      changeRow(
        part,
        changes.filter((row) => row.part === part),
      ),
    ),
    changeRow("all", changes),
    changeRow(
      "all that stand free by 5 dB",
      changes.filter(({ isFree }) => isFree),
    ),
  ];
  return {
    "The lens": `Parts lifted out of ${makers.length} mixes of 45 s (own songs, tracker pieces, MIDI pieces by three sound fonts by turns; measuring halves, hits and notes as the program finds them), against the parts themselves: scale-invariant signal-to-distortion ratio in dB of the frequency range that was used before and of the lens, median and worst tenth; median gain; pieces in which the range does better; how far off the lens's own estimate of how free a part stands is, median and nine in ten. ${mean(seconds)} s for a minute of audio.\n\n${table(
      ["part", "source", "pieces", "range", "lens", "gain", "worse", "own estimate off by"],
      liftedRows,
    )}\n\nOne part changed by ±2, ±4 or ±8 dB and the whole driven 3 to 6 dB into a limiter: error in dB of its level gap as the program tells it, beside the other elements, and of those of the parts that were not changed, median and nine in ten; the same of the level of its frequency range against the whole. Targets: within 1 dB and 2 dB; others within 0.7 dB. Parts 30 dB below the mix or softer are left alone.\n\n${table(
      ["part", "changed", "told", "range", "others", "told", "range"],
      changeRows,
    )}`,
  };
}
