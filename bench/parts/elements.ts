/**
 * One known change in one element of a mix whose parts are known: whether the aspect that was changed
 * falls most, and how far the others fall that were not touched.
 */
import { analyse } from "@/core/analysis/analyse";
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import { loadFft } from "@/core/dsp/fft";
import { drumParts, heardIn, keptOf, lensParts, lift, type LensPart } from "@/core/lens";
import { elementAspects, nothingIntended, type ElementAspect } from "@/core/match";
import { stereo } from "@/core/testing/signals";
import { averageSpectrum, bands } from "@/core/tone";
import { fractionalOctaveSpectrogram } from "@/core/tone/fractionalOctaveSpectrogram";
import { decibelsToAmplitude } from "@/core/units";
import { compareOutput, type CompareOutput, type LiftedSide } from "@/cli/compareOutput";
import { chance } from "@/demo/random";
import { renderRate, type StereoTrack } from "@/demo/render";
import { measuredPieces, type PartedPiece } from "../material/parts";
import { energyOf, sumOfTracks } from "../material/tracks";
import { quantile, table } from "../tables";
import { thinnedCount, type PartOptions, type Sections } from "./part";

const piecesOfOthers = 4;
const stylesUsed = 6;
/** Taken of each piece. */
const seconds = 32;
const changesAPiece = 4;
/** Parts softer than that beside the whole are not changed: nobody hears them. */
const softest = 1e-3;

interface Change {
  kind: string;
  aspect: ElementAspect;
  parts: readonly LensPart[];
  of(track: StereoTrack, c: ReturnType<typeof chance>): StereoTrack;
}

const each = (track: StereoTrack, change: (samples: Float32Array) => Float32Array): StereoTrack => [
  change(track[0]),
  change(track[1]),
];
export const scaled = (track: StereoTrack, decibels: number) =>
  each(track, (samples) => samples.map((x) => decibelsToAmplitude(decibels) * x));
const shelved = (samples: Float32Array, kind: "lowShelf" | "highShelf", hertz: number, decibels: number) => {
  const own = samples.slice();
  applyBiquad(designBiquad(kind, renderRate, hertz, 0.7, decibels), own);
  return own;
};
/** Turned to its old level, so that tone alone differs. */
const leveled = (changed: StereoTrack, track: StereoTrack) => {
  const gain = Math.sqrt(energyOf(track) / Math.max(1e-12, energyOf(changed)));
  return each(changed, (samples) => samples.map((x) => gain * x));
};
export const later = (samples: Float32Array, seconds: number) => {
  const own = new Float32Array(samples.length);
  own.set(
    samples.subarray(0, samples.length - Math.round(seconds * renderRate)),
    Math.round(seconds * renderRate),
  );
  return own;
};

/** Where as much of a part's power lies below as above. */
function middleOf(track: StereoTrack): number {
  const { mid, side } = averageSpectrum(fractionalOctaveSpectrogram(track, renderRate));
  const powers = mid.map((power, b) => power + side[b]!);
  const all = powers.reduce((a, b) => a + b, 0);
  let below = 0;
  const band = powers.findIndex((power) => (below += power) >= all / 2);
  return bands(12)[Math.max(0, band)]!.centre;
}

/** What has fallen by some decibels since its stroke falls by as many more. */
function expanded(samples: Float32Array): Float32Array {
  const follow = Math.exp(-1 / (0.008 * renderRate));
  const forget = Math.exp(-1 / (1.5 * renderRate));
  let [level, peak] = [0, 1e-9];
  return samples.map((x) => {
    level = Math.max(x * x, follow * level + (1 - follow) * x * x);
    peak = Math.max(level, forget * peak);
    return x * Math.sqrt(level / peak);
  });
}

/** Powers of a part, a hundred times a second. */
function powersOf([left, right]: StereoTrack): Float64Array {
  const hop = renderRate / 100;
  return Float64Array.from({ length: Math.floor(left.length / hop) }, (_, k) => {
    let sum = 0;
    for (let i = k * hop; i < (k + 1) * hop; i++) sum += left[i]! ** 2 + right[i]! ** 2;
    return sum / hop;
  });
}

/** Sample at which a part has sounded for a share of the time in which it sounds at all. */
function soundingFor(track: StereoTrack, share: number): number {
  const powers = powersOf(track);
  const least = 1e-3 * powers.reduce((a, b) => Math.max(a, b), 0);
  const sounding = powers.reduce((count, power) => count + Number(power > least), 0);
  let count = 0;
  const frame = powers.findIndex((power) => power > least && ++count >= share * sounding);
  return (Math.max(0, frame) * renderRate) / 100;
}

/** Faded out over some milliseconds from one sample on, and in again at another. */
const withoutSpan = (samples: Float32Array, from: number, to: number): Float32Array => {
  const fade = 0.003 * renderRate;
  return samples.map((x, i) => x * Math.min(1, Math.max(0, (from - i) / fade, (i - to) / fade)));
};

/** Where a drum that is alone in a track is struck: sample numbers. */
function strokesAlone(track: StereoTrack): number[] {
  const powers = powersOf(track);
  const least = 3e-3 * powers.reduce((a, b) => Math.max(a, b), 0);
  const found: number[] = [];
  powers.forEach((power, k) => {
    const before = Math.max(powers[k - 1] ?? 0, powers[k - 2] ?? 0);
    const last = found.at(-1);
    if (power > least && power > 4 * before && (last === undefined || k - last > 6)) found.push(k);
  });
  return found.map((k) => (Math.max(0, k - 1) * renderRate) / 100);
}

/** With the tail of a room behind it, which falls by 60 dB in 1.2 s: four combs (Schroeder 1962, from memory). */
export function inRoom(track: StereoTrack): StereoTrack {
  const delays = [0.0297, 0.0371, 0.0411, 0.0437];
  return each(track, (samples) => {
    const own = samples.slice();
    for (const delay of delays) {
      const length = Math.round(delay * renderRate);
      const feedback = 10 ** ((-3 * delay) / 1.2);
      const line = new Float32Array(length);
      for (let i = 0; i < samples.length; i++) {
        const out = line[i % length]!;
        line[i % length] = samples[i]! + feedback * out;
        own[i]! += 0.2 * out;
      }
    }
    return own;
  });
}

const everyPart = lensParts;
const changes: readonly Change[] = [
  { kind: "6 dB louder", aspect: "level", parts: everyPart, of: (track) => scaled(track, 6) },
  { kind: "6 dB softer", aspect: "level", parts: everyPart, of: (track) => scaled(track, -6) },
  {
    kind: "tilted by 10 dB",
    aspect: "tone",
    parts: everyPart,
    of: (track) => {
      const hertz = middleOf(track);
      return leveled(
        each(track, (samples) => shelved(shelved(samples, "highShelf", hertz, -5), "lowShelf", hertz, 5)),
        track,
      );
    },
  },
  {
    kind: "10 dB to one side",
    aspect: "width",
    parts: ["snare", "hats", "percussion", "music"],
    of: (track) => leveled([track[0], track[1].map((x) => 0.316 * x)], track),
  },
  {
    kind: "left out for a third",
    aspect: "presence",
    parts: everyPart,
    of: (track, c) => {
      const first = c.between(0.1, 0.5);
      const [from, to] = [soundingFor(track, first), soundingFor(track, first + 1 / 3)];
      return each(track, (samples) => withoutSpan(samples, from, to));
    },
  },
  {
    kind: "darker for a half",
    aspect: "movement",
    parts: ["snare", "hats", "bass", "music"],
    of: (track) => {
      const hertz = middleOf(track);
      const closed = leveled(
        each(track, (samples) => shelved(samples, "highShelf", hertz, -18)),
        track,
      );
      const half = soundingFor(track, 0.5);
      return track.map((samples, side) =>
        samples.map((x, i) => (i < half ? closed[side]![i]! : x)),
      ) as StereoTrack;
    },
  },
  {
    kind: "decays twice as fast",
    aspect: "envelope",
    parts: ["kick", "snare", "percussion"],
    of: (track) => each(track, (samples) => expanded(samples)),
  },
  {
    kind: "in a room",
    aspect: "space",
    parts: ["kick", "snare", "percussion", "music"],
    of: (track) => leveled(inRoom(track), track),
  },
  {
    kind: "25 ms late",
    aspect: "timing",
    parts: drumParts,
    of: (track) => each(track, (samples) => later(samples, 0.025)),
  },
  {
    kind: "every third stroke left out",
    aspect: "pattern",
    parts: drumParts,
    of: (track) => {
      const strokes = strokesAlone(track);
      return each(track, (samples) =>
        strokes.reduce(
          (left, from, i) => (i % 3 === 1 ? withoutSpan(left, from, strokes[i + 1] ?? samples.length) : left),
          samples,
        ),
      );
    },
  },
];

export async function heard(mix: StereoTrack): Promise<LiftedSide> {
  const analysed = await analyse(stereo(mix[0], mix[1], renderRate));
  const parts = heardIn(analysed.analysis);
  return { ...analysed, correction: {}, lifted: keptOf(lift(mix, renderRate, parts), renderRate, parts) };
}

interface Row {
  source: string;
  kind: string;
  aspect: ElementAspect;
  part: LensPart;
  element: CompareOutput["elements"][number];
  /** The furthest that another part fell, of those that are there. */
  others: { part: LensPart; score: number }[];
}

const cut = (track: StereoTrack): StereoTrack =>
  each(track, (samples) => samples.subarray(0, seconds * renderRate));
/** Parts that are not so soft that nobody hears them. */
export const audibleParts = ({ parts, mix }: PartedPiece): LensPart[] =>
  lensParts.filter((part) => parts[part] && energyOf(parts[part]) > softest * energyOf(mix));

export const beginningOf = (piece: PartedPiece): PartedPiece => ({
  ...piece,
  mix: cut(piece.mix),
  parts: Object.fromEntries(Object.entries(piece.parts).map(([part, track]) => [part, cut(track)])),
});

async function measure(piece: PartedPiece, seed: number, rows: Row[]): Promise<void> {
  const names = lensParts.filter((part) => piece.parts[part]);
  const audible = audibleParts(piece);
  const reference = await heard(piece.mix);
  const c = chance(seed);
  const rest = [...changes];
  for (let turn = 0; turn < changesAPiece; turn++) {
    const [change] = rest.splice(c.whole(0, rest.length - 1), 1);
    const able = change!.parts.filter((part) => audible.includes(part) && names.length > 1);
    if (able.length === 0) continue;
    const part = c.pick(able);
    const mix = sumOfTracks(
      names.map((own) => (own === part ? change!.of(piece.parts[own]!, c) : piece.parts[own]!)),
    );
    const { elements } = compareOutput(reference, await heard(mix), nothingIntended);
    rows.push({
      source: piece.source,
      kind: change!.kind,
      aspect: change!.aspect,
      part,
      element: elements.find(({ kind }) => kind === part)!,
      others: elements.flatMap(({ kind, score }) =>
        kind !== part && score !== null && audible.includes(kind) ? [{ part: kind, score }] : [],
      ),
    });
  }
  console.error(piece.name);
}

/** The aspect that is furthest from right. */
function lowestOf({ aspects }: Row["element"]): string | null {
  const scored = aspects.filter(({ score }) => score !== null);
  return scored.length > 0 ? scored.reduce((a, b) => (b.score! < a.score! ? b : a)).name : null;
}

export async function elementsSections({ styles, seeds, oneIn }: PartOptions): Promise<Sections> {
  await loadFft();
  const makers = await measuredPieces(
    styles.slice(0, thinnedCount(stylesUsed, oneIn)),
    seeds[0]!,
    thinnedCount(piecesOfOthers, oneIn),
  );
  const rows: Row[] = [];
  for (const [i, make] of makers.entries()) await measure(beginningOf(await make()), i + 1, rows);

  const share = (own: readonly Row[], isSo: (row: Row) => boolean) =>
    `${own.filter(isSo).length} of ${own.length}`;
  const cells = (own: readonly Row[]) => {
    const falls = own.flatMap(({ others }) => others.map(({ score }) => 100 - score));
    return [
      share(own, ({ element, aspect }) => lowestOf(element) === aspect),
      own.length > 0
        ? quantile(
            own.map(({ element }) => element.score ?? 100),
            0.5,
          ).toFixed(0)
        : "–",
      `${falls.filter((fall) => fall <= 5).length} of ${falls.length}`,
      falls.length > 0 ? `${quantile(falls, 0.5).toFixed(1)} (${quantile(falls, 0.9).toFixed(1)})` : "–",
    ];
  };
  const sources = ["own", "tracker", "midi"];
  return {
    "One change in one element": `One element of ${makers.length} mixes of ${seconds} s changed in one way, everything else left as it is (parts, hits and notes as in “The lens”): whether the aspect that was changed is the lowest of the element (target 0.90), what the element scores then (median), whether the other elements that are there fall by at most 5 (target 0.90) and by how much they fall, median and nine in ten.\n\n${table(
      ["change", "aspect", "named", "score", "others within 5", "others fall by"],
      [
        ...changes.map(({ kind, aspect }) => [
          kind,
          aspect,
          ...cells(rows.filter((row) => row.kind === kind)),
        ]),
        ["all that stand free by −4 dB", "", ...cells(rows.filter(({ element }) => element.sure >= 0.3))],
        ...sources.map((source) => [
          `all, ${source}`,
          "",
          ...cells(rows.filter((row) => row.source === source)),
        ]),
        ["all", "", ...cells(rows)],
      ],
    )}\n\nWhat was the lowest instead: ${
      elementAspects
        .map((name) => ({
          name,
          count: rows.filter(({ element, aspect }) => aspect !== name && lowestOf(element) === name).length,
        }))
        .filter(({ count }) => count > 0)
        .map(({ name, count }) => `${name} ${count}`)
        .join(", ") || "nothing"
    }.`,
  };
}
