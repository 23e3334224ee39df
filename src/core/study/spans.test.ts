/** What is compared of parts of tracks, against the same parts cut out and measured by themselves. */
import { bandEnvelopes } from "../envelopes/bandEnvelopes";
import { levelCurves, measureLoudness } from "../loudness";
import { loadFft } from "../dsp/fft";
import { averageSpectrum } from "../tone";
import { fractionalOctaveSpectrogram } from "../tone/fractionalOctaveSpectrogram";
import { steadyGrid } from "../testing/drums";
import { stereo, whiteNoise } from "../testing/signals";
import { coveredSpans, measuresOfSpans, sameSeconds, timesOf } from "./spans";

const { abs, floor, log10 } = Math;

beforeAll(loadFft);

const rate = 48000;
/** Noise that is louder and duller by the second. */
const samples = (() => {
  const noise = whiteNoise(-20, 24, rate, 3);
  let low = 0;
  return noise.map((x, i) => {
    const second = floor(i / rate);
    low += (x - low) * (second % 4 < 2 ? 0.1 : 0.8);
    return low * (0.2 + 0.1 * (second % 6));
  });
})();
const measured = (from: number, to: number) => {
  const own = samples.slice(from * rate, to * rate);
  const signal = stereo(own, own, rate);
  return {
    levels: levelCurves(signal),
    bands: fractionalOctaveSpectrogram([own, own], rate),
    envelopes: bandEnvelopes([own, own], rate),
  };
};

describe("spans of a track", () => {
  it.each([
    [0, 24],
    [4, 12],
    [10, 14],
  ])("from %i to %i s are as loud and as bright as if they were cut out", (from, to) => {
    const whole = measured(0, 24);
    const { loudness, spectrum } = measuresOfSpans(whole, [{ from, to }], 120, []);
    const cut = measured(from, to);
    const own = measureLoudness(cut.levels);
    expect(loudness.integratedLufs!).toBeCloseTo(own.integratedLufs!, 0.9);
    const alone = averageSpectrum(cut.bands);
    // Frames of a third of a second reach over the edges.
    for (let band = 30; band < alone.mid.length; band += 12) {
      const gap = 10 * log10(spectrum.mid[band]! / alone.mid[band]!);
      expect(abs(gap)).toBeLessThan(1.2);
    }
  });

  it("together count as one passage", () => {
    const whole = measured(0, 24);
    const both = measuresOfSpans(
      whole,
      [
        { from: 0, to: 12 },
        { from: 12, to: 24 },
      ],
      120,
      [],
    );
    const once = measuresOfSpans(whole, [{ from: 0, to: 24 }], 120, []);
    expect(both.loudness.integratedLufs!).toBeCloseTo(once.loudness.integratedLufs!, 1);
  });
});

describe("spans that answer each other", () => {
  const reference = steadyGrid(120, 16, 0.5);
  const version = steadyGrid(100, 8, 1);
  const lined = {
    reference,
    version,
    spans: [
      { referenceFirst: 5, versionFirst: 1, bars: 4 },
      { referenceFirst: 13, versionFirst: 5, bars: 4 },
    ],
  };

  it("are bars in the time of either side", () => {
    // Two seconds a bar there, 2.4 s here.
    expect(timesOf(lined.spans[0]!, lined)).toEqual({
      reference: { from: 8.5, to: 16.5 },
      version: { from: 1, to: expect.closeTo(10.6, 6) as number },
    });
  });

  it("are cut by a selection on both sides alike", () => {
    const { reference: ours, version: theirs } = coveredSpans({ from: 12.5, to: 26.5 }, lined);
    expect(ours).toEqual([
      { from: 12.5, to: 16.5 },
      { from: 24.5, to: 26.5 },
    ]);
    expect(theirs[0]!.from).toBeCloseTo(5.8, 6);
    expect(theirs[0]!.to).toBeCloseTo(10.6, 6);
    expect(theirs[1]!.to - theirs[1]!.from).toBeCloseTo(2.4, 6);
  });

  it("are none where nothing selected is recreated", () => {
    expect(coveredSpans({ from: 17, to: 24 }, lined)).toEqual({ reference: [], version: [] });
  });

  it("are the same seconds where bars are not known, as far as the version goes", () => {
    expect(sameSeconds({ from: 4, to: 9 }, 60, 30)).toEqual({
      reference: [{ from: 4, to: 9 }],
      version: [{ from: 4, to: 9 }],
    });
    expect(sameSeconds({ from: 40, to: 50 }, 60, 30).version).toBeNull();
    // A click is no selection, and what lies outside the track is none either.
    expect(sameSeconds({ from: 4, to: 4.1 }, 60, 30)).toEqual({ reference: null, version: null });
    expect(sameSeconds({ from: 59.8, to: 80 }, 60, 30)).toEqual({ reference: null, version: null });
  });
});
