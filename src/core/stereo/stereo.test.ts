import { applyBiquad, designBiquad } from "../dsp/biquad";
import { loadFft } from "../dsp/fft";
import { averageSpectrum } from "../tone";
import { fractionalOctaveSpectrogram } from "../tone/fractionalOctaveSpectrogram";
import { lowEndWidth, octaves, rootMeanSquareWidthGap, stereoByOctave, stereoOfWhole, widthGaps } from ".";

const { imul } = Math;
const rate = 44100;
beforeAll(loadFft);

function noise(seed: number, seconds = 4): Float32Array {
  let state = seed;
  return Float32Array.from({ length: seconds * rate }, () => {
    state = (imul(state, 1664525) + 1013904223) >>> 0;
    return 0.2 * (state / 2 ** 31 - 1);
  });
}
const [a, b] = [noise(3), noise(11)];
/** A mid and a side with a gain each. */
const spectrumOf = (left: Float32Array, right: Float32Array) =>
  averageSpectrum(fractionalOctaveSpectrogram([left, right], rate));
const fromMidSide = (mid: Float32Array, side: Float32Array, sideGain: number) =>
  spectrumOf(
    mid.map((m, i) => m + sideGain * side[i]!),
    mid.map((m, i) => m - sideGain * side[i]!),
  );

describe("stereo per octave band", () => {
  it("has bands around 31.5 Hz to 16 kHz", () => {
    expect(octaves.map(({ centre }) => Math.round(centre))).toEqual([
      32, 63, 126, 251, 501, 1000, 1995, 3981, 7943, 15849,
    ]);
  });

  it("tells mono, independent sides and opposite polarity apart", () => {
    const mono = stereoOfWhole(spectrumOf(a, a));
    expect(mono).toMatchObject({ sideToMidDb: -60, correlation: 1, monoLossDb: 0 });
    const apart = stereoOfWhole(spectrumOf(a, b));
    expect(apart.correlation).toBeCloseTo(0, 1);
    expect(apart.sideToMidDb).toBeCloseTo(0, 0);
    expect(apart.monoLossDb).toBeCloseTo(-3, 0);
    const opposite = stereoOfWhole(
      spectrumOf(
        a,
        a.map((x) => -x),
      ),
    );
    expect(opposite.correlation).toBeCloseTo(-1, 3);
    expect(opposite.monoLossDb).toBe(-60);
  });

  it("measures a change of the side's gain by 3 dB as 3 dB in every band", () => {
    const [plain, wide] = [fromMidSide(a, b, 0.5), fromMidSide(a, b, 0.5 * 10 ** (3 / 20))];
    for (const gap of widthGaps(plain, wide)) expect(Math.abs(gap! - 3)).toBeLessThan(0.3);
    expect(rootMeanSquareWidthGap(plain, wide)).toBeCloseTo(3, 1);
    expect(rootMeanSquareWidthGap(plain, plain)).toBe(0);
  });

  it("measures a balance of 4 dB in every band, whatever the width", () => {
    const left = a.map((x, i) => x + 0.3 * b[i]!);
    const right = a.map((x, i) => (x - 0.3 * b[i]!) * 10 ** (-4 / 20));
    for (const { balanceDb, share } of stereoByOctave(spectrumOf(left, right)))
      if (share > 0.002) expect(Math.abs(balanceDb! - 4)).toBeLessThan(0.4);
  });

  it("finds the low end mono after it was made mono", () => {
    expect(lowEndWidth(fromMidSide(a, b, 0.5))!).toBeGreaterThan(-9);
    const side = Float32Array.from(b);
    for (let i = 0; i < 2; i++) applyBiquad(designBiquad("highPass", rate, 200, 0.707), side);
    expect(lowEndWidth(fromMidSide(a, side, 0.5))!).toBeLessThan(-18);
  });

  it("says nothing of silence", () => {
    const silent = new Float32Array(2 * rate);
    expect(stereoOfWhole(spectrumOf(silent, silent))).toMatchObject({ sideToMidDb: null, share: 0 });
    expect(lowEndWidth(spectrumOf(silent, silent))).toBeNull();
    expect(rootMeanSquareWidthGap(spectrumOf(silent, silent), spectrumOf(a, b))).toBeNull();
  });
});
