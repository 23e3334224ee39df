/**
 * Wobble of pitch, as of worn tape or a warped record: how far all partials together stray from where
 * they are on average. The frequency of each peak follows from how its phase advances from frame to
 * frame (Flanagan & Golden 1966, "Phase vocoder"); what most peaks do at once is the wobble.
 */
import { median } from "../median";
import type { Cents, Fraction, Hertz } from "../units";

const { abs, atan2, floor, log2, max, min, PI, round } = Math;

/** Peaks are followed in this range, the highest of each frame. */
const lowest: Hertz = 300;
const highest: Hertz = 3500;
const mostPeaks = 16;
/** Peaks this far below the highest one are not followed, as a ratio of powers. */
const weakest = 1e-3;
/** Moving further from one frame to the next, it is another note. */
const furthest: Cents = 30;
const fewestPeaks = 3;
const mostApart: Cents = 2;

/** What strays more slowly is tuning, what strays faster is modulation: Hz. */
const slowest: Hertz = 0.5;
const fastest: Hertz = 8;

export interface Wobble {
  /** How far pitch strays to either side. */
  depthCents: Cents;
  /** How often a second. */
  rateHz: Hertz;
  /** Share of the time in which enough partials could be followed. */
  confidence: Fraction;
}

/**
 * Gathers wobble from the spectra of frames.
 *
 * @param size of a frame, samples.
 * @param hop between frames, samples; bins must be nearer to each other than half of sampleRate / hop.
 */
export function wobbleGatherer(size: number, hop: number, sampleRate: Hertz) {
  const binWidth = sampleRate / size;
  const first = max(2, floor(lowest / binWidth));
  const end = min(size / 2 - 2, floor(highest / binWidth));
  const powers = new Float32Array(end + 2);
  /** Of the frame before: its spectrum, and the frequency of each peak, 0 where there is none. */
  const spectrumBefore = new Float32Array(2 * (end + 1));
  let frequencies = new Float32Array(end + 2);
  let next = new Float32Array(end + 2);
  const moves: number[] = [];
  let followed = 0;
  let hasBefore = false;
  return {
    /** @param spectrum as `RealFft.forward` gives it; frames must come in order, none left out. */
    add(spectrum: Float32Array): void {
      let most = 0;
      for (let k = first - 1; k <= end + 1; k++) {
        const power = spectrum[2 * k]! ** 2 + spectrum[2 * k + 1]! ** 2;
        powers[k] = power;
        if (power > most) most = power;
      }
      next.fill(0);
      const peaks: number[] = [];
      for (let k = first; k <= end; k++) {
        if (powers[k]! > weakest * most && powers[k]! > powers[k - 1]! && powers[k]! >= powers[k + 1]!)
          peaks.push(k);
      }
      peaks.sort((a, b) => powers[b]! - powers[a]!);
      const steps: number[] = [];
      for (const k of peaks.slice(0, mostPeaks)) {
        if (!hasBefore) break;
        const phase = atan2(spectrum[2 * k + 1]!, spectrum[2 * k]!);
        const phaseBefore = atan2(spectrumBefore[2 * k + 1]!, spectrumBefore[2 * k]!);
        let turn = (phase - phaseBefore) / (2 * PI) - (k * hop) / size;
        turn -= round(turn);
        const frequency = k * binWidth + (turn * sampleRate) / hop;
        // Further off than its bin is wide it is no partial.
        if (abs(frequency / binWidth - k) > 1) continue;
        next[k] = frequency;
        for (const before of [frequencies[k]!, frequencies[k - 1]!, frequencies[k + 1]!]) {
          const step = before > 0 ? 1200 * log2(frequency / before) : Infinity;
          if (abs(step) < furthest) {
            steps.push(step);
            break;
          }
        }
      }
      spectrumBefore.set(spectrum.subarray(0, spectrumBefore.length));
      [frequencies, next] = [next, frequencies];
      hasBefore = true;
      const move = steps.length >= fewestPeaks ? median(steps) : 0;
      // Partials move together; peaks of noise do not.
      const isFollowed =
        steps.length >= fewestPeaks && median(steps.map((step) => abs(step - move))) < mostApart;
      if (isFollowed) followed++;
      moves.push(isFollowed ? move : 0);
    },
    /** Null where partials can hardly be followed. */
    finish(): Wobble | null {
      const framesPerSecond = sampleRate / hop;
      const confidence = followed / max(1, moves.length);
      if (moves.length < 3 * framesPerSecond || confidence < 0.2) return null;
      const leak = 1 - (2 * PI * slowest) / framesPerSecond;
      const span = max(1, round(framesPerSecond / fastest / 2));
      const strayed = new Float64Array(moves.length);
      let sum = 0;
      moves.forEach((move, i) => {
        sum = leak * sum + move;
        strayed[i] = sum;
      });
      const smooth: number[] = [];
      for (let i = span; i < strayed.length; i++) {
        let own = 0;
        for (let k = 0; k < span; k++) own += strayed[i - k]!;
        smooth.push(own / span);
      }
      let crossings = 0;
      for (let i = 1; i < smooth.length; i++) if (smooth[i - 1]! < 0 !== smooth[i]! < 0) crossings++;
      return {
        // Half of the time a sine is beyond 0.707 of its height.
        depthCents: round((10 * median(smooth.map(abs))) / Math.SQRT1_2) / 10,
        rateHz: round((10 * crossings * framesPerSecond) / 2 / smooth.length) / 10,
        confidence: round(100 * confidence) / 100,
      };
    },
  };
}
