/**
 * The picture of a waveform: per block of 128 samples the largest magnitude and the effective
 * value over all channels, small enough to send whole and fine enough to zoom into.
 */

const { ceil, sqrt, min, max, round } = Math;

/** Samples that one block of the overview stands for. */
export const samplesPerBlock = 128;

/**
 * @param channels left and right, same length.
 * @returns two bytes a block, peak then effective value, 255 = full scale; louder is clipped.
 */
export function waveformOverview(channels: readonly [Float32Array, Float32Array]): Uint8Array {
  const [left, right] = channels;
  const blocks = ceil(left.length / samplesPerBlock);
  const overview = new Uint8Array(blocks * 2);
  for (let block = 0; block < blocks; block++) {
    const end = min(left.length, (block + 1) * samplesPerBlock);
    let peak = 0;
    let energy = 0;
    for (let i = block * samplesPerBlock; i < end; i++) {
      const l = left[i]!;
      const r = right[i]!;
      const a = l < 0 ? -l : l;
      const b = r < 0 ? -r : r;
      if (a > peak) peak = a;
      if (b > peak) peak = b;
      energy += l * l + r * r;
    }
    const rms = sqrt(energy / (2 * max(1, end - block * samplesPerBlock)));
    overview[2 * block] = min(255, round(peak * 255));
    overview[2 * block + 1] = min(255, round(rms * 255));
  }
  return overview;
}
