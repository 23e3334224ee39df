/** Texture: what lies under the music, and whether it gets brighter as it gets louder. */
import { z } from "zod";
import { median, quantileOfSorted } from "../median";
import { decibelRange, fractionRange } from "../ranges";
import type { Decibels, Hertz, Seconds } from "../units";
import { envelopeBandCount, envelopeBandsIn, rangePowers } from "./levels";

const { max, min, round } = Math;

export const textureSchema = z.object({
  /** Level in the quietest twentieth of the time, against the mean level: of all bands, and above 5 kHz. */
  floorDb: decibelRange.nullable(),
  hissDb: decibelRange.nullable(),
  /** How surely that is noise and not music: 1 where the quietest moments are all alike. */
  floorConfidence: fractionRange,
  /** By how much the highs gain on the middle from quiet moments to loud ones between hits: distortion adds them. */
  brighteningDb: decibelRange.nullable(),
  brighteningConfidence: fractionRange,
});
export type Texture = z.infer<typeof textureSchema>;

const everything = [0, envelopeBandCount] as const;
const hissBands = envelopeBandsIn(5000, 16000);
const middle = envelopeBandsIn(150, 1200);
const highs = envelopeBandsIn(2400, 9600);
/** Frames after a hit that are its own. */
const over = 8;
const fewestFrames = 200;
/** Power of what is kept as silence. */
const nothing = 1e-11;

/**
 * @param powers of left and right together, `frames × envelopeBandCount`.
 * @param hits of all voices.
 */
export function measureTexture(
  powers: Float32Array,
  framesPerSecond: Hertz,
  isMeasured: (frame: number) => boolean,
  hits: readonly Seconds[],
): Texture {
  const frames = powers.length / envelopeBandCount;
  const isStruck = new Uint8Array(frames);
  for (const time of hits) {
    const frame = round(time * framesPerSecond);
    isStruck.fill(1, max(0, frame - 1), frame + over);
  }
  const [all, hissing, middling, high] = [everything, hissBands, middle, highs].map((bands) =>
    rangePowers(powers, bands),
  ) as [Float64Array, Float64Array, Float64Array, Float64Array];
  const whole: number[] = [];
  const hiss: number[] = [];
  const between: { level: Decibels; brightness: Decibels }[] = [];
  for (let frame = 0; frame < frames; frame++) {
    if (!isMeasured(frame)) continue;
    const own = all[frame]!;
    // Digital silence is no noise.
    if (own < 1e-9) continue;
    whole.push(own);
    hiss.push(hissing[frame]!);
    if (!isStruck[frame]) {
      const level = 10 * Math.log10(middling[frame]! + nothing);
      between.push({ level, brightness: 10 * Math.log10(high[frame]! + nothing) - level });
    }
  }
  const tenths = (value: number) => round(10 * value) / 10;
  const unknown = { floorDb: null, hissDb: null, floorConfidence: 0 };
  const mean = whole.reduce((sum, own) => sum + own, 0) / max(1, whole.length);
  const [levels, hisses] = [whole, hiss].map((values) => new Float64Array(values).sort()) as [
    Float64Array,
    Float64Array,
  ];
  const below = (sorted: Float64Array, share: number) =>
    10 * Math.log10((quantileOfSorted(sorted, share) + nothing) / mean);
  const floors =
    whole.length < fewestFrames
      ? unknown
      : {
          floorDb: tenths(below(levels, 0.05)),
          hissDb: tenths(max(-120, below(hisses, 0.05))),
          // Noise is alike in all quiet moments: from one in fifty to one in ten it hardly rises.
          floorConfidence: tenths(max(0, min(1, 1.5 - (below(hisses, 0.1) - below(hisses, 0.02)) / 4))),
        };
  between.sort((a, b) => a.level - b.level);
  const heard = between.filter(({ level }) => level > (between.at(-1)?.level ?? 0) - 30);
  const fifth = Math.floor(heard.length / 5);
  if (fifth < fewestFrames / 5) return { ...floors, brighteningDb: null, brighteningConfidence: 0 };
  const brightness = (part: typeof heard) => median(part.map((own) => own.brightness));
  return {
    ...floors,
    brighteningDb: tenths(brightness(heard.slice(-fifth)) - brightness(heard.slice(0, fifth))),
    brighteningConfidence: tenths(min(1, (heard.at(-1)!.level - heard[0]!.level) / 20)),
  };
}
