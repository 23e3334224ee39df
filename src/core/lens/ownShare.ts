/** How much of what was lifted out as a part lies where that part is louder than all others. */
import { twelfthCount } from "../tone";
import type { Fraction, Seconds } from "../units";
import type { PartSpectrogram } from "./lensMeasures";
import { lensParts, ofLensParts, type LensPart } from "./parts";

const { ceil, floor, max, min, round } = Math;

export interface OwnShare {
  /** Of its power in each twelfth-octave band. */
  ofBands: Float32Array;
  /** Of each frame: its power, and how much of that is its own. */
  powers: Float32Array;
  own: Float32Array;
  hopSeconds: Seconds;
}

/**
 * Every part's power by what share of all parts it is, weighed by itself: 1 where nothing else sounds, a half
 * beside another that is as loud.
 */
export function ownShares(parts: Record<LensPart, PartSpectrogram>): Record<LensPart, OwnShare> {
  const frames = min(...lensParts.map((part) => parts[part].frames));
  const all = new Float64Array(twelfthCount);
  const sums = ofLensParts((part) => ({
    ...parts[part],
    powersOfBands: new Float64Array(twelfthCount),
    ownOfBands: new Float64Array(twelfthCount),
    powers: new Float32Array(frames),
    own: new Float32Array(frames),
  }));
  const listed = lensParts.map((part) => sums[part]);
  for (let frame = 0; frame < frames; frame++) {
    const row = frame * twelfthCount;
    all.fill(1e-20);
    for (const { mid, side } of listed)
      for (let b = 0; b < twelfthCount; b++) all[b]! += mid[row + b]! + side[row + b]!;
    for (const { mid, side, powersOfBands, ownOfBands, powers, own } of listed) {
      let [whole, its] = [0, 0];
      for (let b = 0; b < twelfthCount; b++) {
        const power = mid[row + b]! + side[row + b]!;
        const ownPower = (power * power) / all[b]!;
        powersOfBands[b]! += power;
        ownOfBands[b]! += ownPower;
        whole += power;
        its += ownPower;
      }
      powers[frame] = whole;
      own[frame] = its;
    }
  }
  return ofLensParts((part) => {
    const { powersOfBands, ownOfBands, powers, own, hopSeconds } = sums[part];
    const ofBands = Float32Array.from(ownOfBands, (sum, b) => sum / max(1e-20, powersOfBands[b]!));
    return { ofBands, powers, own, hopSeconds };
  });
}

/**
 * The same of bars, to a hundredth; 0 where nothing of it is there.
 *
 * @param starts of all bars in order, and where the last ends.
 */
export function ownOfBars({ powers, own, hopSeconds }: OwnShare, starts: readonly Seconds[]): Fraction[] {
  return starts.slice(1).map((end, bar) => {
    // Frames centred inside, as for the spectra of bars.
    const first = min(powers.length - 1, max(0, ceil(starts[bar]! / hopSeconds)));
    const last = min(powers.length - 1, max(first, floor(end / hopSeconds)));
    let [all, its] = [1e-20, 0];
    for (let frame = first; frame <= last; frame++) {
      all += powers[frame]!;
      its += own[frame]!;
    }
    return round(100 * (its / all)) / 100;
  });
}
