/** Pitches against equal temperament (ISO 16: A4 = 440 Hz). */
import { loadFft } from "../dsp/fft";
import { whiteNoise } from "../testing/signals";
import { pitchSalience } from "./pitchSalience";
import { lowestPitch, pitchCount } from "./pitches";

beforeAll(loadFft);

const { PI, abs, max, sin } = Math;
const rate = 44100;

/** Some notes at once, each with three overtones, detuned by some cents. */
function chord(pitches: readonly number[], cents = 0, seconds = 3): Float32Array {
  return Float32Array.from({ length: seconds * rate }, (_, i) =>
    pitches.reduce((sum, pitch) => {
      const frequency = 440 * 2 ** ((pitch - 69 + cents / 100) / 12);
      return (
        sum +
        [1, 0.4, 0.2].reduce(
          (s, gain, k) => s + 0.1 * gain * sin((2 * PI * frequency * (k + 1) * i) / rate),
          0,
        )
      );
    }, 0),
  );
}

/** Mean strength of each semitone. */
const meanOf = (samples: Float32Array) => {
  const { strengths, tuningCents } = pitchSalience([samples, samples], rate);
  const means = new Float64Array(pitchCount);
  for (let i = 0; i < strengths.length; i++) means[i % pitchCount]! += strengths[i]!;
  return { means, tuningCents };
};

const strongest = (means: Float64Array, count: number) =>
  [...means.keys()]
    .sort((a, b) => means[b]! - means[a]!)
    .slice(0, count)
    .map((i) => i + lowestPitch)
    .sort((a, b) => a - b);

describe("pitches", () => {
  it.each([
    ["C major", [60, 64, 67]],
    ["A minor, low", [45, 48, 52]],
    ["F sharp minor seventh", [54, 57, 61, 64]],
  ])("of %s are the strongest", (_name, pitches) => {
    expect(strongest(meanOf(chord(pitches)).means, pitches.length)).toEqual(pitches);
  });

  it.each([-40, -12.5, 0, 8, 33])(
    "are found in a tuning of %f cents, and the tuning to two cents",
    (cents) => {
      const { means, tuningCents } = meanOf(chord([60, 64, 67, 72], cents));
      expect(abs(tuningCents - cents)).toBeLessThan(2);
      expect(strongest(means, 4)).toEqual([60, 64, 67, 72]);
    },
  );

  it("are not heard in noise as they are in notes", () => {
    const note = meanOf(chord([69])).means[69 - lowestPitch]!;
    const noise = meanOf(whiteNoise(-20, 3, rate, 4)).means;
    expect(max(...noise)).toBeLessThan(0.1 * note);
  });

  it("are none in silence", () => {
    const { means, tuningCents } = meanOf(new Float32Array(rate));
    expect(max(...means)).toBe(0);
    expect(tuningCents).toBe(0);
  });
});
