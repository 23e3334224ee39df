/** Files read at the rate of another, from where they begin beside it. */
import { unpackFrames } from "@/core/formats/chunks";
import { resampled } from "@/core/hits/candidates";
import type { StereoSamples } from "@/core/hits/strokes";
import type { Passage } from "@/core/stems";
import type { Hertz } from "@/core/units";
import { readFrames } from "./listeningCopy";

/**
 * Samples of a file, which begins so much later than the track, at the track's rate.
 *
 * @param offset in samples of the file.
 */
export const passageOf =
  (path: string, own: Hertz, offset: number, rate: Hertz): Passage =>
  async (from, to) => {
    const [first, end] = [Math.round((from * own) / rate) - offset, Math.round((to * own) / rate) - offset];
    const padded = ([0, 1] as const).map(() => new Float32Array(end - first));
    if (end > 0)
      unpackFrames(await readFrames(path, first, end)).forEach((channel, side) =>
        padded[side]!.set(channel, Math.max(0, -first)),
      );
    if (own === rate) return padded as unknown as StereoSamples;
    const read = resampled(padded as unknown as StereoSamples, own, rate);
    return read.map((channel) => {
      const exact = new Float32Array(to - from);
      exact.set(channel.subarray(0, exact.length));
      return exact;
    }) as unknown as StereoSamples;
  };
