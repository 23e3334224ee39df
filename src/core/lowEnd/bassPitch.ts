/**
 * Which pitch a stretch of the low end has: harmonics that stand out speak for a pitch, what lies between
 * them and below them against it. How much each of it counts is fitted (`npm run fit:bass`).
 */
import { realFft } from "../dsp/fft";
import { probabilities, type ChoiceModel } from "../grid/choice";
import { median } from "../median";
import type { Fraction, Hertz } from "../units";

const { abs, ceil, cos, floor, log, log10, log2, max, min, PI, pow, round, sqrt } = Math;

/** The pitches that are looked for, MIDI note numbers. */
const lowestPitch = 20;
const highestPitch = 58;
export const bassPitches: readonly number[] = Array.from(
  { length: highestPitch - lowestPitch + 1 },
  (_, i) => lowestPitch + i,
);
/** Each is tried at so many places of its semitone. */
const perSemitone = 4;
const candidates = Array.from(
  { length: bassPitches.length * perSemitone },
  (_, i): Hertz => 440 * pow(2, (lowestPitch - 69 + (i + 0.5 - perSemitone / 2) / perSemitone) / 12),
);
const pitchOf = (hertz: Hertz): number => 69 + 12 * log2(hertz / 440);

/** Harmonics that a note is told by, each weighing so much of the one below, up to a frequency. */
const mostHarmonics = 8;
const harmonicWeight = 0.8;
const harmonicsUpTo: Hertz = 800;
/** What lies half way between harmonics speaks against a note. */
const betweenWeight = 0.5;
/** Odd harmonics that are weaker than this beside the even ones are hardly any. */
const leastOdd: Fraction = 0.25;
/** Length of the transform, seconds at least. */
const transformSeconds = 1.4;

/** Levels are told down to here below the strongest, in tens of dB. */
const faintest = 4;
/** Multiples of the fundamental whose levels are looked at: harmonics, and what lies between them. */
const multiples = [1, 2, 3, 4, 5, 6, 0.5, 1.5, 2.5, 1 / 3, 2 / 3] as const;
/** How faint what sounds below a pitch, or its own fundamental, may be to count: as told by `faintest`. */
const audible = [0.2, 0.35, 0.5] as const;
/** A stretch this short blurs what lies near: seconds. */
const blurred = 0.1;

/** A stretch of the low end as it bears on its pitch. */
export interface PitchReading {
  /** Exact pitch of each of `bassPitches`, as it fits best within the semitone. */
  exact: Float32Array;
  /** How much of a harmonic sound is at each of them, the best 1. */
  harmonic: Float32Array;
  /** What speaks for each of them, one row a pitch, without where the line as a whole lies. */
  features: Float32Array;
}

/** Reads stretches of the low end; null where nothing sounds. */
export function pitchReader(samples: Float32Array, rate: Hertz) {
  const size = 2 ** ceil(log2(transformSeconds * rate));
  const transform = realFft(size);
  const binWidth = rate / size;
  const magnitudes = new Float32Array(size / 2);
  const at = (hertz: Hertz): number => {
    const place = hertz / binWidth;
    const low = floor(place);
    const share = place - low;
    return (magnitudes[low] ?? 0) * (1 - share) + (magnitudes[low + 1] ?? 0) * share;
  };
  const harmonicOf = (hertz: Hertz): number => {
    let sum = 0;
    let weight = 1;
    for (let h = 1; h <= mostHarmonics && h * hertz <= harmonicsUpTo; h++, weight *= harmonicWeight)
      sum += weight * (at(h * hertz) - betweenWeight * at((h - 0.5) * hertz));
    return sum;
  };
  return (first: number, length: number): PitchReading | null => {
    const input = transform.input();
    input.fill(0);
    let power = 0;
    for (let i = 0; i < length; i++) {
      const x = samples[first + i] ?? 0;
      power += (x * x) / length;
      input[i] = x * (0.54 - 0.46 * cos((2 * PI * (i + 0.5)) / length));
    }
    if (power < 1e-9) return null;
    const spectrum = transform.forward();
    const upTo = min(size / 2, ceil(harmonicsUpTo / binWidth));
    const from = floor(candidates[0]! / binWidth);
    let strongest = 1e-12;
    for (let k = 1; k < size / 2; k++) {
      magnitudes[k] = sqrt(spectrum[2 * k]! ** 2 + spectrum[2 * k + 1]! ** 2);
      if (k >= from && k < upTo) strongest = max(strongest, magnitudes[k]!);
    }
    /** 0 for the strongest, 1 for `faintest` and below. */
    const faintness = (magnitude: number): number =>
      min(1, max(0, (-2 * log10(magnitude / strongest + 1e-9)) / faintest));
    // The strongest of all that lies below each bin.
    const below = new Float32Array(size / 2);
    for (let k = from + 1; k < below.length; k++) below[k] = max(below[k - 1]!, magnitudes[k - 1]!);
    const sums = candidates.map(harmonicOf);
    const most = max(1e-12, ...sums);
    const blur = min(1, blurred / (length / rate));
    const exact = new Float32Array(bassPitches.length);
    const harmonic = new Float32Array(bassPitches.length);
    const rows = bassPitches.flatMap((_, p) => {
      let best = p * perSemitone;
      for (let i = best + 1; i < (p + 1) * perSemitone; i++) if (sums[i]! > sums[best]!) best = i;
      const [a, b, c] = [sums[best - 1] ?? 0, sums[best]!, sums[best + 1] ?? 0];
      const bend = a - 2 * b + c;
      const off = bend < 0 ? max(-0.5, min(0.5, (0.5 * (a - c)) / bend)) : 0;
      const hertz = candidates[best]!;
      exact[p] = pitchOf(hertz) + off / perSemitone;
      const levels = multiples.map((multiple) => faintness(at(multiple * hertz)));
      // A peak of its own, or the flank of another.
      const beside = max(at(hertz * pow(2, -2 / 12)), at(hertz * pow(2, 2 / 12)));
      const odd = at(hertz) + at(3 * hertz);
      const even = at(2 * hertz) + at(4 * hertz);
      // With next to nothing at the odd harmonics it is rather the octave above.
      harmonic[p] = (max(0, b) / most) * (odd < leastOdd * even ? 0.5 : 1);
      const lower = faintness(below[min(below.length - 1, floor((0.84 * hertz) / binWidth))]!);
      return [
        ...levels,
        blur * levels[6]!,
        blur * levels[7]!,
        harmonic[p]!,
        harmonic[p]! ** 4,
        faintness(beside) - levels[0]!,
        odd / (odd + even + 1e-12),
        min(1, levels[0]! * 2),
        lower,
        max(0, levels[0]! - lower),
        // Even harmonics without the odd ones between them are those of the octave above.
        max(0, levels[2]! - levels[3]!),
        max(0, levels[4]! - levels[5]!),
        max(0, levels[0]! - levels[1]!),
        ...audible.flatMap((least) => [
          max(0, least - lower),
          max(0, least - levels[6]!),
          max(0, least - levels[0]!),
        ]),
      ];
    });
    return { exact, harmonic, features: Float32Array.from(rows) };
  };
}

/** How much the harmonics of a stretch say beside what the network hears. */
const harmonicsSay = 0.5;
/** Neither is surer than that of what a pitch is not. */
const unheard = 1e-3;
/** A bass line keeps to a range: semitones from its middle that cost nothing. */
const freely = 5;
/** Pitches this near, semitones, are the same note seen through a short window. */
const sameNote = 1;

/** All that speaks for each of `bassPitches`; `middle` is that of the line, null where it is not known. */
export function pitchFeatures({ features }: PitchReading, middle: number | null): number[][] {
  const size = features.length / bassPitches.length;
  return bassPitches.map((pitch, p) => {
    const off = middle === null ? 0 : pitch - middle;
    return [
      ...features.subarray(p * size, (p + 1) * size),
      max(0, off - freely) / 12,
      max(0, -off - freely) / 12,
      abs(off) / 12,
      pitch / 12,
    ];
  });
}

/** How far a pitch stands out of all others, 0–1; its octaves do not speak against it. */
function standsOut({ harmonic }: PitchReading, best: number): Fraction {
  let other = 0;
  harmonic.forEach((own, p) => {
    const off = abs(p - best);
    if (off > sameNote && off !== 12) other = max(other, own);
  });
  return max(0, min(1, 1 - other / max(1e-12, harmonic[best]!)));
}

/**
 * The likeliest pitch of a stretch, with its fraction, and how far it stands out; null where nothing is left.
 *
 * @param likely how likely each of `bassPitches` sounds, as the network hears it.
 */
export function likeliestPitch(
  reading: PitchReading,
  middle: number | null,
  model: ChoiceModel,
  likely: Float64Array,
): { exact: number; midi: number; sure: Fraction } | null {
  const features = pitchFeatures(reading, middle);
  if (features.every(([fundamental]) => fundamental! >= 1)) return null;
  const chances = probabilities(model, features).map(
    (chance, p) => log(likely[p]! + unheard) + harmonicsSay * log(chance + unheard),
  );
  const best = chances.indexOf(max(...chances));
  return { exact: reading.exact[best]!, midi: bassPitches[best]!, sure: standsOut(reading, best) };
}

/** The middle of a line, by the most harmonic pitch of each of its notes. */
export function middleOf(readings: readonly PitchReading[]): number | null {
  const pitches = readings.map(({ harmonic }) => {
    let best = 0;
    harmonic.forEach((own, p) => {
      if (own > harmonic[best]!) best = p;
    });
    return bassPitches[best]!;
  });
  return pitches.length > 0 ? round(median(pitches)) : null;
}
