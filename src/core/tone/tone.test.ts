import { applyBiquad, biquadMagnitude, designBiquad } from "../dsp/biquad";
import { loadFft } from "../dsp/fft";
import { stereo, toneSequence, whiteNoise } from "../testing/signals";
import {
  averageSpectrum,
  bands,
  gapCurve,
  rootMeanSquareGap,
  shareOfBands,
  spectralSlope,
  widenBands,
  wholeOf,
} from ".";
import { fractionalOctaveSpectrogram } from "./fractionalOctaveSpectrogram";

const { log10, abs, sqrt } = Math;
beforeAll(loadFft);

const spectrumOf = (left: Float32Array, right = left, rate = 44100) =>
  averageSpectrum(fractionalOctaveSpectrogram([left, right], rate));
const decibels = (power: number) => 10 * log10(power);

describe("bands (IEC 61260-1:2014, from memory: annex E, exact midband frequencies of base ten)", () => {
  it.each([
    [3, [19.953, 25.119, 31.623, 39.811, 50.119, 63.096, 79.433, 100, 125.89, 1000, 10000, 19952.6]],
  ] as const)("1/%i octave has the exact midband frequencies", (perOctave, expected) => {
    const centres = bands(perOctave).map((band) => band.centre);
    for (const centre of expected) {
      expect(Math.min(...centres.map((c) => abs(c / centre - 1)))).toBeLessThan(1e-4);
    }
  });

  it("has third-octave edges a sixth of an octave from the middle", () => {
    const band = bands(3).find((b) => abs(b.centre - 1000) < 1)!;
    expect(band.low).toBeCloseTo(891.25, 2);
    expect(band.high).toBeCloseTo(1122.02, 2);
  });

  it("puts the midbands of even divisions half a band beside 1 kHz", () => {
    const sixth = bands(6).map((b) => b.centre);
    expect(Math.min(...sixth.map((c) => abs(c - 1000 * 10 ** (0.3 / 12))))).toBeLessThan(0.01);
  });

  it.each([3, 6, 12] as const)("covers the range without holes at 1/%i octave", (perOctave) => {
    const all = bands(perOctave);
    expect(all).toHaveLength((31 * perOctave * 4) / 12);
    all.slice(1).forEach((band, i) => expect(band.low).toBeCloseTo(all[i]!.high, 6));
  });
});

describe("average spectrum", () => {
  it("adds up to the mean square of the signal (Parseval)", () => {
    const noise = whiteNoise(-20, 10);
    const total = wholeOf(spectrumOf(noise)).reduce((a, b) => a + b, 0);
    // White noise up to 22.05 kHz; all of it above 17.8 Hz lies in the bands.
    expect(decibels(total)).toBeCloseTo(-20, 1);
  });

  it("finds a sine in its band at its effective level", () => {
    const { channels } = toneSequence([{ level: -12, seconds: 10 }], 1000, 44100);
    const thirds = widenBands(wholeOf(spectrumOf(channels[0]!)), 3);
    const place = bands(3).findIndex((b) => b.low < 1000 && b.high > 1000);
    expect(decibels(thirds[place]!)).toBeCloseTo(-15.01, 1);
    expect(decibels(thirds[place - 2]!)).toBeLessThan(-60);
  });

  it.each([8000, 48000, 96000])("does not depend on the sample rate (%i Hz)", (rate) => {
    const { channels } = toneSequence([{ level: -12, seconds: 5 }], 440, rate);
    const thirds = widenBands(wholeOf(spectrumOf(channels[0]!, channels[0]!, rate)), 3);
    const place = bands(3).findIndex((b) => b.low < 440 && b.high > 440);
    expect(decibels(thirds[place]!)).toBeCloseTo(-15.01, 1);
  });

  it("parts mid and side", () => {
    const a = whiteNoise(-20, 5, 44100, 1);
    const b = whiteNoise(-20, 5, 44100, 2);
    const opposed = spectrumOf(
      a,
      a.map((x) => -x),
    );
    expect(opposed.mid.reduce((x, y) => x + y, 0)).toBeLessThan(1e-9);
    expect(decibels(opposed.side.reduce((x, y) => x + y, 0))).toBeCloseTo(-20, 1);
    const apart = spectrumOf(a, b);
    expect(decibels(apart.mid.reduce((x, y) => x + y, 0))).toBeCloseTo(-23, 0);
    expect(spectrumOf(a).side.every((power) => power === 0)).toBe(true);
  });

  it("measures a span by what sounds in it", () => {
    const { channels } = toneSequence(
      [
        { level: -10, seconds: 10 },
        { level: -30, seconds: 10 },
      ],
      1000,
      44100,
    );
    const map = fractionalOctaveSpectrogram([channels[0]!, channels[0]!], 44100);
    const level = (from: number, to: number) =>
      decibels(wholeOf(averageSpectrum(map, [{ from, to }])).reduce((a, b) => a + b, 0));
    expect(level(1, 9)).toBeCloseTo(-13, 1);
    expect(level(11, 19)).toBeCloseTo(-33, 1);
  });

  it("has the slope of white noise, pink noise and nothing", () => {
    const noise = whiteNoise(-20, 20);
    expect(spectralSlope(wholeOf(spectrumOf(noise)))).toBeCloseTo(0, 1);
    // Pink noise as powers: every octave carries the same.
    const pink = Float64Array.from({ length: 124 }, () => 1);
    expect(spectralSlope(pink)).toBeCloseTo(-3.01, 2);
    expect(spectralSlope(new Float64Array(124))).toBeNull();
  });
});

describe("gap curve", () => {
  const noise = whiteNoise(-20, 20);

  it.each([
    ["lowShelf", 200, 4],
    ["highShelf", 4000, -5],
    ["peak", 1000, 6],
  ] as const)("gives back a known filter: %s at %i Hz by %i dB", (shape, frequency, gain) => {
    const filter = designBiquad(shape, 44100, frequency, 1, gain);
    const filtered = Float32Array.from(noise);
    applyBiquad(filter, filtered);
    const curve = gapCurve(wholeOf(spectrumOf(noise)), wholeOf(spectrumOf(filtered)), 0, 6);
    for (const band of curve.filter((b) => b.centre > 60 && b.centre < 15000)) {
      // Within a sixth of an octave the response hardly changes.
      expect(abs(band.gap - 20 * log10(biquadMagnitude(filter, 44100, band.centre)))).toBeLessThan(0.35);
    }
  });

  it("is moved as a whole by gain and by nothing else", () => {
    const quiet = noise.map((x) => x / 2);
    const curve = gapCurve(wholeOf(spectrumOf(noise)), wholeOf(spectrumOf(quiet)), 20 * log10(2), 3);
    expect(rootMeanSquareGap(curve)).toBeLessThan(1e-4);
  });

  it("takes no difference between two inaudible levels for a gap", () => {
    const loud = new Float64Array(124).fill(1e-12);
    loud[60] = 1;
    const other = new Float64Array(124).fill(1e-10);
    other[60] = 1;
    const curve = gapCurve(loud, other, 0, 12);
    expect(rootMeanSquareGap(curve)).toBe(0);
    expect(curve[0]!.weight).toBe(0);
  });

  it("changes its sign, not its size, when the sides are exchanged", () => {
    const a = wholeOf(spectrumOf(noise));
    const filtered = Float32Array.from(noise);
    applyBiquad(designBiquad("highShelf", 44100, 3000, 0.7, 6), filtered);
    const b = wholeOf(spectrumOf(filtered));
    const there = gapCurve(a, b, 1.5, 3);
    const back = gapCurve(b, a, -1.5, 3);
    there.forEach((band, i) => expect(band.gap).toBeCloseTo(-back[i]!.gap, 6));
  });
});

describe("shares of a range", () => {
  it("add up to its width in twelfths of an octave", () => {
    const sum = shareOfBands(100, 200).reduce((a, b) => a + b, 0);
    expect(sum).toBeCloseTo((12 * Math.log2(2)) / Math.log2(10 ** 0.3), 6);
  });
});

describe("biquads (Audio EQ Cookbook: gain at the centre, half power at the corner)", () => {
  it.each([
    ["peak", 1000, 1.4, 6, 1000, 6],
    ["peak", 1000, 1.4, -9, 1000, -9],
    ["lowShelf", 200, 0.707, 5, 10, 5],
    ["highShelf", 5000, 0.707, -4, 20000, -4],
    ["lowPass", 2000, sqrt(0.5), 0, 2000, -3.01],
    ["highPass", 80, sqrt(0.5), 0, 80, -3.01],
  ] as const)("%s at %f Hz, q %f, %f dB", (shape, frequency, q, gain, at, expected) => {
    const filter = designBiquad(shape, 48000, frequency, q, gain);
    expect(20 * log10(biquadMagnitude(filter, 48000, at))).toBeCloseTo(expected, 1);
  });
});

it("keeps mono and stereo of the same sound alike", () => {
  const noise = whiteNoise(-20, 5);
  const { channels } = stereo(noise, Float32Array.from(noise));
  const both = wholeOf(spectrumOf(channels[0]!, channels[1]!));
  const one = wholeOf(spectrumOf(noise));
  both.forEach((power, b) => expect(abs(power - one[b]!)).toBeLessThan(1e-7));
});

describe("the average gap", () => {
  const flat = Array.from({ length: 24 }, () => ({ gap: 0, weight: 1 }));

  it("lets a band that hardly counts be off by little, however much it lacks", () => {
    // By hand: 40 dB times the square of the weight at most.
    const top = { gap: -34, weight: 0.22 };
    const most = 40 * 0.22 ** 2;
    expect(rootMeanSquareGap([...flat, top])).toBeCloseTo(Math.sqrt((0.22 * most ** 2) / 24.22), 9);
    expect(rootMeanSquareGap([...flat, { ...top, gap: 34 }])).toBe(rootMeanSquareGap([...flat, top]));
    expect(rootMeanSquareGap([...flat, { ...top, gap: -1 }])).toBeCloseTo(Math.sqrt(0.22 / 24.22), 9);
  });

  it("takes a band that counts whole by all that it lacks", () => {
    expect(rootMeanSquareGap([...flat, { gap: -34, weight: 1 }])).toBeCloseTo(34 / 5, 9);
  });
});
