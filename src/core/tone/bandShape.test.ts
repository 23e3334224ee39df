/**
 * Third-octave bands against the limits of IEC 61260-1:2014, table 1, class 1, from memory: how far
 * a sine is attenuated in a band that it does not belong to, and how little in its own.
 */
import { loadFft } from "../dsp/fft";
import { averageSpectrum, bands, widenBands, wholeOf } from ".";
import { fractionalOctaveSpectrogram } from "./fractionalOctaveSpectrogram";

const { PI, cos, log10, max, sin } = Math;
const octave = 10 ** 0.3;
beforeAll(loadFft);

/** Level of each third-octave band for a sine, dB beside the sine's own; faded in and out, so that its edges do not click. */
function bandLevels(frequency: number): number[] {
  const rate = 44100;
  const length = 2 * rate;
  const samples = new Float32Array(length);
  let power = 0;
  for (let i = 0; i < length; i++) {
    const fade = 0.5 * (1 - cos((2 * PI * i) / length));
    samples[i] = fade * sin((2 * PI * frequency * i) / rate);
    power += samples[i]! ** 2 / length;
  }
  const spectrum = averageSpectrum(fractionalOctaveSpectrogram([samples, samples], rate));
  return Array.from(widenBands(wholeOf(spectrum), 3), (own) => 10 * log10(max(own / power, 1e-12)));
}

/** Where a breakpoint of the octave filter lies for third octaves: equation 12 of the standard. */
const third = (atOctave: number) => 1 + ((octave ** (1 / 6) - 1) / (octave ** (1 / 2) - 1)) * (atOctave - 1);

/** The band whose middle is nearest to a frequency. */
const bandAt = (frequency: number) =>
  bands(3).findIndex(({ low, high }) => frequency >= low && frequency < high);

describe.each([125, 1000, 6300])("the band at %i Hz", (nominal) => {
  const place = bandAt(nominal);
  const { centre } = bands(3)[place]!;
  const attenuation = (ratio: number) => -bandLevels(centre * ratio)[place]!;

  it("passes what lies well inside of it whole", () => {
    for (const ratio of [1 / third(octave ** (1 / 4)), 1, third(octave ** (1 / 4))]) {
      expect(attenuation(ratio)).toBeGreaterThan(-0.4);
      expect(attenuation(ratio)).toBeLessThan(0.7);
    }
  });

  it.each([
    [1, 16.6],
    [2, 40.5],
    [3, 60],
    [4, 70],
  ])("attenuates what lies %i octaves of the octave filter beside it by %f dB at least", (octaves, least) => {
    const ratio = third(octave ** octaves);
    expect(attenuation(ratio)).toBeGreaterThanOrEqual(least);
    expect(attenuation(1 / ratio)).toBeGreaterThanOrEqual(least);
  });

  it("shares a sine at its edge with its neighbour, and neither loses more than half", () => {
    const { high } = bands(3)[place]!;
    const levels = bandLevels(high);
    const both = 10 * log10(10 ** (levels[place]! / 10) + 10 ** (levels[place + 1]! / 10));
    expect(both).toBeCloseTo(0, 1);
    expect(levels[place]).toBeGreaterThan(-5.3);
    expect(levels[place + 1]).toBeGreaterThan(-5.3);
  });
});

it("a sweep through all bands is found everywhere at its level", () => {
  for (const { centre } of bands(3).filter((_, i) => i % 4 === 0)) {
    const levels = bandLevels(centre);
    const whole = 10 * log10(levels.reduce((sum, level) => sum + 10 ** (level / 10), 0));
    expect(whole).toBeCloseTo(0, 1);
  }
});
