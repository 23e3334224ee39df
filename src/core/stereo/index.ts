/**
 * Width, correlation and balance per octave band, from the powers of mid and side and what they
 * have in common: left is mid + side, right is mid − side.
 */
import { bands, twelfthCount, type Spectrum } from "../tone";
import { powerToDecibels, type Decibels, type Hertz } from "../units";

const { max, min, sqrt } = Math;

/** Twelfth-octave bands in an octave, and where the octave around 31.5 Hz begins among them. */
const perOctave = 12;
const firstTwelfth = 4;
/** Octave bands from 31.5 Hz to 16 kHz (IEC 61260-1). */
export const octaveCount = 10;
export const octaves: readonly { low: Hertz; centre: Hertz; high: Hertz }[] = Array.from(
  { length: octaveCount },
  (_, o) => {
    const first = firstTwelfth + o * perOctave;
    const low = bands(12)[first]!.low;
    const high = bands(12)[min(twelfthCount - 1, first + perOctave - 1)]!.high;
    return { low, centre: sqrt(low * high), high };
  },
);

/** Wider than this is heard as wide, narrower than the other as mono; beyond both nothing changes to the ear. */
const widest: Decibels = 6;
const narrowest: Decibels = -24;
/** Bands this far below the loudest one are not heard. */
const audible: Decibels = 50;

/** How one band lies between left and right. Null where nothing sounds. */
export interface BandStereo {
  /** Power of side over mid; −∞ in mono is held at −60. */
  sideToMidDb: Decibels | null;
  /** Correlation of left and right, −1 … 1. */
  correlation: number | null;
  /** Power of left over right. */
  balanceDb: Decibels | null;
  /** What is lost of the band's power when left and right are summed, 0 or less. */
  monoLossDb: Decibels | null;
  /** Share of the power of all bands. */
  share: number;
}

const held = (decibels: Decibels): Decibels => max(-60, min(60, decibels));

function bandStereo(mid: number, side: number, cross: number, whole: number): BandStereo {
  if (mid + side <= 1e-14 || whole <= 0)
    return { sideToMidDb: null, correlation: null, balanceDb: null, monoLossDb: null, share: 0 };
  const left = max(0, mid + side + 2 * cross);
  const right = max(0, mid + side - 2 * cross);
  const both = sqrt(left * right);
  return {
    sideToMidDb: held(powerToDecibels(side / max(mid, 1e-20))),
    correlation: both > 0 ? max(-1, min(1, (mid - side) / both)) : null,
    balanceDb: held(powerToDecibels(max(left, 1e-20) / max(right, 1e-20))),
    monoLossDb: held(powerToDecibels(mid / (mid + side))),
    share: (mid + side) / whole,
  };
}

/** A spectrum, as it is measured or as it is stored. */
type Powers = Record<keyof Spectrum, ArrayLike<number>>;

/** Each octave band from 31.5 Hz to 16 kHz, low to high. */
export function stereoByOctave({ mid, side, cross }: Powers): BandStereo[] {
  const sum = (powers: ArrayLike<number>, o: number) => {
    let total = 0;
    for (let b = 0; b < perOctave; b++) total += powers[firstTwelfth + o * perOctave + b] ?? 0;
    return total;
  };
  const rows = octaves.map((_, o) => [sum(mid, o), sum(side, o), sum(cross, o)] as const);
  const whole = rows.reduce((total, [m, s]) => total + m + s, 0);
  return rows.map(([m, s, x]) => bandStereo(m, s, x, whole));
}

/** All bands together. */
export function stereoOfWhole({ mid, side, cross }: Powers): BandStereo {
  const sum = (powers: ArrayLike<number>) => {
    let total = 0;
    for (let b = 0; b < powers.length; b++) total += powers[b]!;
    return total;
  };
  const [m, s] = [sum(mid), sum(side)];
  return bandStereo(m, s, sum(cross), m + s);
}

/** Width as it is compared: what is narrower or wider than can be told is held at the edge. */
const heardWidth = ({ sideToMidDb }: BandStereo): Decibels =>
  max(narrowest, min(widest, sideToMidDb ?? narrowest));

/** The gap in width of one band, version less reference; null where it is not heard on both sides. */
export function widthGap(
  reference: BandStereo,
  version: BandStereo,
  loudest: Record<"reference" | "version", number>,
): Decibels | null {
  const isHeard = ({ share }: BandStereo, most: number) => share > most / 10 ** (audible / 10);
  if (!isHeard(reference, loudest.reference) || !isHeard(version, loudest.version)) return null;
  return heardWidth(version) - heardWidth(reference);
}

/** Gaps in width per octave band. */
export function widthGaps(reference: Spectrum, version: Spectrum): (Decibels | null)[] {
  const [ours, theirs] = [stereoByOctave(reference), stereoByOctave(version)];
  const most = (all: readonly BandStereo[]) => all.reduce((sum, own) => max(sum, own.share), 0);
  const loudest = { reference: most(ours), version: most(theirs) };
  return ours.map((own, o) => widthGap(own, theirs[o]!, loudest));
}

/** Root-mean-square of the gaps in width from 125 Hz up, where width is heard; null where no band counts. */
export function rootMeanSquareWidthGap(reference: Spectrum, version: Spectrum): Decibels | null {
  let sum = 0;
  let count = 0;
  widthGaps(reference, version).forEach((gap, o) => {
    if (gap === null || octaves[o]!.centre < 90) return;
    sum += gap * gap;
    count++;
  });
  return count > 0 ? sqrt(sum / count) : null;
}

/** A low end is mono where its side lies at least so far below its mid. Common practice, no source. */
export const monoBelow: Hertz = 120;
export const monoFrom: Decibels = -18;

/** Power of side over mid below 120 Hz; null where nothing sounds there. */
export function lowEndWidth({ mid, side }: Pick<Powers, "mid" | "side">): Decibels | null {
  let m = 0;
  let s = 0;
  bands(12).forEach(({ centre }, b) => {
    if (centre > monoBelow) return;
    m += mid[b]!;
    s += side[b]!;
  });
  return m + s > 1e-12 ? held(powerToDecibels(s / max(m, 1e-20))) : null;
}

/** Off centre by so much is said. Common practice, no source. */
export const offCentre: Decibels = 1.5;
