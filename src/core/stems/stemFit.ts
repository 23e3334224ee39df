/**
 * How the stems of a track make it up: the filter of each, by third-octave band, with which their sum comes
 * nearest to the track (multiple-input least squares; Bendat & Piersol, "Random Data", from memory). A gain,
 * an equaliser or a polarity on the way from the stems to the mix therefore counts as no difference.
 */
import { hannWindow, loadFrame, realFft } from "../dsp/fft";
import type { StereoSamples } from "../hits/strokes";
import { bands } from "../tone";
import { powerToDecibels, type Decibels, type Hertz } from "../units";

const { ceil, hypot, log2, max, min, round, sqrt } = Math;

/** Long enough to tell third octaves of the bass apart, short enough for strokes. */
const frameSizeFor = (rate: Hertz) => 2 ** round(log2(0.093 * rate));

/** First bins of third-octave bands, and where the last one ends; bands without a bin of their own join the next. */
function bandEdges(size: number, rate: Hertz): Int32Array {
  const bins = bands(3).map(({ low }) => round((low * size) / rate));
  const inside = bins.filter((bin) => bin >= 1 && bin < size / 2);
  return Int32Array.from([...new Set([1, ...inside, size / 2])].sort((a, b) => a - b));
}

/** Filters of all stems: a complex factor each by band, `bands × stems`. */
export interface StemFilters {
  re: Float64Array;
  im: Float64Array;
  /** How much louder each stem is in the track than in its file; null where it is silent, or nothing of it is heard in the track. */
  gainsDb: (Decibels | null)[];
}

/** Added to the diagonal, so that stems that are the same share what they explain. */
const ridge = 1e-4;
/** Stems softer than this, beside all in a band, tell nothing of it. */
const softest = 1e-7;
/** No filter raises a band by more. */
const highest = 64;
/** Less than that of a stem is chance. */
const leastGain: Decibels = -24;

/** @param count of the stems. */
export function stemFitting(count: number, rate: Hertz) {
  const size = frameSizeFor(rate);
  const edges = bandEdges(size, rate);
  const bandCount = edges.length - 1;
  const window = hannWindow(size);
  const transform = realFft(size);
  const mixSpectrum = new Float32Array(size);
  const spectra = Array.from({ length: count }, () => new Float32Array(size));
  // Products of each stem with each, and with the mix: complex, by band.
  const gramRe = new Float64Array(bandCount * count * count);
  const gramIm = new Float64Array(bandCount * count * count);
  const mixRe = new Float64Array(bandCount * count);
  const mixIm = new Float64Array(bandCount * count);

  return {
    /** Takes in a passage: the track and all stems over the same time. */
    add(mix: StereoSamples, stems: readonly StereoSamples[]): void {
      for (let start = 0; start + size <= mix[0].length; start += size)
        for (const channel of [0, 1] as const) {
          loadFrame(transform, [mix[channel]], start, window);
          mixSpectrum.set(transform.forward());
          stems.forEach((stem, k) => {
            loadFrame(transform, [stem[channel]], start, window);
            spectra[k]!.set(transform.forward());
          });
          for (let j = 0; j < count; j++) {
            addProducts(spectra[j]!, mixSpectrum, edges, mixRe, mixIm, j, count);
            for (let k = j; k < count; k++)
              addProducts(spectra[j]!, spectra[k]!, edges, gramRe, gramIm, j * count + k, count * count);
          }
        }
    },
    filters(): StemFilters {
      const re = new Float64Array(bandCount * count);
      const im = new Float64Array(bandCount * count);
      for (let band = 0; band < bandCount; band++) {
        const at = band * count * count;
        const power = (j: number) => gramRe[at + j * count + j]!;
        let all = 0;
        for (let j = 0; j < count; j++) all += power(j);
        const told = Array.from({ length: count }, (_, j) => j).filter((j) => power(j) > softest * all);
        if (told.length === 0) continue;
        const solved = solve(
          told.map((j) =>
            told.map((k): Complex => {
              const [low, high] = [min(j, k), max(j, k)];
              const own = at + low * count + high;
              if (j === k) return [gramRe[own]! * (1 + ridge), 0];
              return [gramRe[own]!, j < k ? gramIm[own]! : -gramIm[own]!];
            }),
          ),
          told.map((j): Complex => [mixRe[band * count + j]!, mixIm[band * count + j]!]),
        );
        told.forEach((j, i) => {
          const [own, other] = solved[i]!;
          const shrink = min(1, highest / hypot(own, other));
          re[band * count + j] = own * shrink;
          im[band * count + j] = other * shrink;
        });
      }
      const gainsDb = Array.from({ length: count }, (_, j): Decibels | null => {
        let [own, heard] = [0, 0];
        for (let band = 0; band < bandCount; band++) {
          const power = gramRe[band * count * count + j * count + j]!;
          own += power;
          heard += power * (re[band * count + j]! ** 2 + im[band * count + j]! ** 2);
        }
        const gain = own > 0 ? powerToDecibels(heard / own) : -Infinity;
        return gain > leastGain ? round(10 * gain) / 10 : null;
      });
      return { re, im, gainsDb };
    },
  };
}

/** Adds conj(a) · b, summed over each band. */
function addProducts(
  a: Float32Array,
  b: Float32Array,
  edges: Int32Array,
  re: Float64Array,
  im: Float64Array,
  at: number,
  step: number,
): void {
  for (let band = 0; band + 1 < edges.length; band++) {
    let [sumRe, sumIm] = [0, 0];
    for (let i = 2 * edges[band]!; i < 2 * edges[band + 1]!; i += 2) {
      sumRe += a[i]! * b[i]! + a[i + 1]! * b[i + 1]!;
      sumIm += a[i]! * b[i + 1]! - a[i + 1]! * b[i]!;
    }
    re[at + band * step]! += sumRe;
    im[at + band * step]! += sumIm;
  }
}

type Complex = readonly [re: number, im: number];

/** Gaussian elimination; the matrix is Hermitian with a positive diagonal, so that no rows need to change places. */
function solve(matrix: Complex[][], right: Complex[]): Complex[] {
  const size = right.length;
  const times = (a: Complex, b: Complex): Complex => [a[0] * b[0] - a[1] * b[1], a[0] * b[1] + a[1] * b[0]];
  const less = (a: Complex, b: Complex): Complex => [a[0] - b[0], a[1] - b[1]];
  const over = (a: Complex, b: Complex): Complex => {
    const power = b[0] ** 2 + b[1] ** 2;
    return power > 0 ? [(a[0] * b[0] + a[1] * b[1]) / power, (a[1] * b[0] - a[0] * b[1]) / power] : [0, 0];
  };
  for (let j = 0; j < size; j++)
    for (let i = j + 1; i < size; i++) {
      const factor = over(matrix[i]![j]!, matrix[j]![j]!);
      for (let k = j; k < size; k++) matrix[i]![k] = less(matrix[i]![k]!, times(factor, matrix[j]![k]!));
      right[i] = less(right[i]!, times(factor, right[j]!));
    }
  const result: Complex[] = right.map(() => [0, 0]);
  for (let j = size - 1; j >= 0; j--) {
    let own = right[j]!;
    for (let k = j + 1; k < size; k++) own = less(own, times(matrix[j]![k]!, result[k]!));
    result[j] = over(own, matrix[j]![j]!);
  }
  return result;
}

/** In a passage compression may hold the whole down, or let it up, by so much. */
const furthestMoved = 4;

/**
 * What is left of a passage of the track when its stems are taken from it. Their sum may be louder or softer
 * in the passage than elsewhere, by band: a compressor of the whole is no part that is missing.
 *
 * @param mix, stems over the same time.
 */
export function restOfStems(
  mix: StereoSamples,
  stems: readonly StereoSamples[],
  filters: StemFilters,
  rate: Hertz,
): [Float32Array, Float32Array] {
  const size = frameSizeFor(rate);
  const hop = size / 2;
  const edges = bandEdges(size, rate);
  const count = stems.length;
  const transform = realFft(size);
  // Before the transform and after it: together a Hann window, which adds up to 1.
  const window = hannWindow(size).map(sqrt);
  const { length } = mix[0];
  const frames = ceil(length / hop) + 1;
  const own = [0, 1].map(() => new Float32Array(frames * size));
  const sums = [0, 1].map(() => new Float32Array(frames * size));
  const products = { re: new Float64Array(edges.length - 1), im: new Float64Array(edges.length - 1) };
  const power = { re: new Float64Array(edges.length - 1), im: new Float64Array(edges.length - 1) };
  for (const channel of [0, 1] as const)
    for (let frame = 0; frame < frames; frame++) {
      const at = frame * size;
      loadFrame(transform, [mix[channel]], (frame - 1) * hop, window);
      const spectrum = own[channel]!.subarray(at, at + size);
      spectrum.set(transform.forward());
      const sum = sums[channel]!.subarray(at, at + size);
      stems.forEach((stem, k) => {
        loadFrame(transform, [stem[channel]], (frame - 1) * hop, window);
        const stemSpectrum = transform.forward();
        for (let band = 0; band + 1 < edges.length; band++) {
          const [re, im] = [filters.re[band * count + k]!, filters.im[band * count + k]!];
          if (re === 0 && im === 0) continue;
          for (let i = 2 * edges[band]!; i < 2 * edges[band + 1]!; i += 2) {
            sum[i]! += stemSpectrum[i]! * re - stemSpectrum[i + 1]! * im;
            sum[i + 1]! += stemSpectrum[i]! * im + stemSpectrum[i + 1]! * re;
          }
        }
      });
      addProducts(sum, spectrum, edges, products.re, products.im, 0, 1);
      addProducts(sum, sum, edges, power.re, power.im, 0, 1);
    }
  const rest: [Float32Array, Float32Array] = [new Float32Array(length), new Float32Array(length)];
  for (const channel of [0, 1] as const)
    for (let frame = 0; frame < frames; frame++) {
      const left = transform.spectrum();
      left.set(own[channel]!.subarray(frame * size, (frame + 1) * size));
      // Neither 0 Hz nor half the rate belongs to a band.
      left[0] = 0;
      left[1] = 0;
      const sum = sums[channel]!.subarray(frame * size, (frame + 1) * size);
      for (let band = 0; band + 1 < edges.length; band++) {
        if (power.re[band] === 0) continue;
        const moved = [products.re[band]! / power.re[band]!, products.im[band]! / power.re[band]!] as const;
        const shrink = min(1, furthestMoved / hypot(...moved));
        const [re, im] = [moved[0] * shrink, moved[1] * shrink];
        for (let i = 2 * edges[band]!; i < 2 * edges[band + 1]!; i += 2) {
          left[i]! -= sum[i]! * re - sum[i + 1]! * im;
          left[i + 1]! -= sum[i]! * im + sum[i + 1]! * re;
        }
      }
      const samples = transform.backward();
      const begin = (frame - 1) * hop;
      for (let i = max(0, -begin); i < min(size, length - begin); i++)
        rest[channel][begin + i]! += (samples[i]! * window[i]!) / size;
    }
  return rest;
}

/** The samples of a file from one of the track's to another, at the track's rate; silence where the file has none. */
export type Passage = (from: number, to: number) => Promise<StereoSamples>;

/** Taken in at once. Whole seconds: files of other rates are read from whole samples on, too. */
const passageSeconds = 8;
/** Read on either side of what is taken from a passage. */
const contextSeconds = 1;

export interface StemRest {
  /** What is left of the track when its stems are taken from it. */
  rest: [Float32Array, Float32Array];
  gainsDb: StemFilters["gainsDb"];
}

/**
 * @param length of the track in samples.
 * @param onProgress called with 0–1 now and then.
 */
export async function restOfTrack(
  length: number,
  rate: Hertz,
  track: Passage,
  stems: readonly Passage[],
  onProgress?: (done: number) => void,
): Promise<StemRest> {
  const passage = passageSeconds * rate;
  const context = contextSeconds * rate;
  const read = async (from: number, to: number) =>
    [await track(from, to), await Promise.all(stems.map((stem) => stem(from, to)))] as const;
  const fitting = stemFitting(stems.length, rate);
  for (let begin = 0; begin < length; begin += passage) {
    fitting.add(...(await read(begin, min(length, begin + passage))));
    onProgress?.((0.5 * begin) / length);
  }
  const filters = fitting.filters();
  const rest: [Float32Array, Float32Array] = [new Float32Array(length), new Float32Array(length)];
  for (let begin = 0; begin < length; begin += passage) {
    const from = max(0, begin - context);
    const end = min(length, begin + passage);
    const [mix, sounds] = await read(from, min(length, end + context));
    restOfStems(mix, sounds, filters, rate).forEach((channel, side) =>
      rest[side]!.set(channel.subarray(begin - from, end - from), begin),
    );
    onProgress?.(0.5 + (0.5 * begin) / length);
  }
  return { rest, gainsDb: filters.gainsDb };
}
