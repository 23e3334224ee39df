/**
 * The bands of a track without its colour: what is equalised, or has lost its treble, then looks as it
 * did. After the whitening of Stowell & Plumbley 2007, "Adaptive whitening for improved real-time audio
 * onset detection", but over the whole track, so that it can be told from the levels alone.
 */
import { compression, drumBandCount, effectiveOf, type DrumBands } from "./bands";

const { log10, max, min } = Math;

/** A frame quieter than this, against the track, is a rest, which says nothing about its colour. */
const leastPower = 1e-4;
/** Nothing quieter than this, against the track, counts when its colour is told. */
const leastLevel = 10 ** (-50 / 20);
/** Bands to either side over which the colour is smoothed: a filter is smooth, what is played is not. */
const colourReach = 3;

/**
 * Gains that bring every band, smoothed over its neighbours, to the same mean level in decibels. A change
 * of level over time, as a limiter makes it, moves all bands alike.
 */
function whiteningGains(magnitudes: Float32Array, effective: number): Float64Array {
  const means = new Float64Array(drumBandCount);
  const least = leastPower * drumBandCount * effective ** 2;
  let frames = 0;
  for (let row = 0; row < magnitudes.length; row += drumBandCount) {
    let power = 0;
    for (let b = 0; b < drumBandCount; b++) power += magnitudes[row + b]! ** 2;
    if (power < least) continue;
    frames++;
    for (let b = 0; b < drumBandCount; b++)
      means[b]! += log10(max(leastLevel, magnitudes[row + b]! / effective));
  }
  return means.map((_, b) => {
    let sum = 0;
    let count = 0;
    for (let near = max(0, b - colourReach); near <= min(drumBandCount - 1, b + colourReach); near++) {
      sum += means[near]!;
      count++;
    }
    return 10 ** (-sum / count / max(1, frames));
  });
}

/** The same bands, each as loud as every other in the mean of decibels. */
export function whitened({ levels, framesPerSecond }: DrumBands): DrumBands {
  const magnitudes = levels.map((level) => 10 ** level - 1);
  const loudness = effectiveOf(magnitudes);
  if (loudness > 0) {
    const gains = whiteningGains(magnitudes, loudness);
    for (let i = 0; i < magnitudes.length; i++) magnitudes[i]! *= gains[i % drumBandCount]!;
    const gain = compression / effectiveOf(magnitudes);
    for (let i = 0; i < magnitudes.length; i++) magnitudes[i] = log10(1 + gain * magnitudes[i]!);
  }
  return { levels: magnitudes, framesPerSecond };
}
