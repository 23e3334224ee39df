import { applyBiquad, biquadMagnitude, designBiquad } from "../dsp/biquad";
import { loadFft } from "../dsp/fft";
import { levelCurves, measureLoudness } from "../loudness";
import { averageSpectrum, bands, gapCurve, rootMeanSquareGap, wholeOf } from "../tone";
import { fractionalOctaveSpectrogram } from "../tone/fractionalOctaveSpectrogram";
import {
  equalised,
  filterOf,
  fitMoves,
  fitResolution,
  impulseResponse,
  responseOf,
  type EqualiserMove,
} from ".";

const { abs, cos, imul, log10, max, PI, sin, SQRT1_2 } = Math;
const rate = 44100;
const middles = bands(fitResolution).map(({ centre }) => centre);
beforeAll(loadFft);

const peak = (hz: number, gainDb: number, q: number): EqualiserMove => ({ type: "peak", hz, gainDb, q });
const shelf = (type: "lowShelf" | "highShelf", hz: number, gainDb: number): EqualiserMove => ({
  type,
  hz,
  gainDb,
  q: SQRT1_2,
});
const lowCut = (hz: number): EqualiserMove => ({ type: "lowCut", hz, gainDb: 0, q: SQRT1_2 });

/** A gap as filters make it, with a level of its own on top. */
const gapOf = (moves: readonly EqualiserMove[], shift = 0) =>
  Array.from(responseOf(moves, middles, rate), (gap, i) => ({
    gap: gap + shift,
    weight: middles[i]! > 40 && middles[i]! < 16000 ? 1 : 0,
    version: -30,
  }));

describe("responses of moves", () => {
  it.each<EqualiserMove>([
    peak(330, -4.5, 1.4),
    shelf("lowShelf", 120, 6),
    shelf("highShelf", 6000, -3),
    lowCut(100),
    { type: "highCut", hz: 9000, gainDb: 0, q: SQRT1_2 },
  ])("are those of the transfer function: %j", (move) => {
    const filter = filterOf(move, rate);
    responseOf([move], middles, rate).forEach((db, i) =>
      expect(db).toBeCloseTo(20 * log10(biquadMagnitude(filter, rate, middles[i]!)), 5),
    );
  });

  it("have the gains that are written on them", () => {
    const at = (move: EqualiserMove, hz: number) => responseOf([move], [hz], rate)[0]!;
    expect(at(peak(1000, 5, 2), 1000)).toBeCloseTo(5, 9);
    expect(at(shelf("lowShelf", 1000, 4), 20)).toBeCloseTo(4, 1);
    expect(at(shelf("lowShelf", 1000, 4), 1000)).toBeCloseTo(2, 6);
    expect(at(shelf("highShelf", 1000, -6), 18000)).toBeCloseTo(-6, 1);
    expect(at(lowCut(100), 100)).toBeCloseTo(-3.01, 2);
    expect(at(lowCut(100), 25)).toBeCloseTo(-24.1, 1);
  });

  it("are what the impulse response does to a sine", () => {
    const moves = [peak(500, 6, 1), lowCut(80)];
    const response = impulseResponse(moves, rate, -2);
    for (const hz of [60, 500, 4000]) {
      let re = 0;
      let im = 0;
      response.forEach((value, i) => {
        re += value * cos((2 * PI * hz * i) / rate);
        im += value * sin((2 * PI * hz * i) / rate);
      });
      expect(20 * log10(Math.hypot(re, im))).toBeCloseTo(responseOf(moves, [hz], rate)[0]! - 2, 2);
    }
  });
});

describe("the shortest list of moves", () => {
  it("is empty where nothing differs but the level", () => {
    expect(fitMoves(gapOf([], 3), rate)).toEqual([]);
  });

  it.each<[string, EqualiserMove[]]>([
    ["a peak", [peak(310, 5, 0.9)]],
    ["a low cut", [lowCut(100)]],
    ["a shelf", [shelf("highShelf", 7000, 4)]],
    ["a shelf and a peak", [shelf("lowShelf", 110, -4), peak(2500, 4, 1.2)]],
    ["four filters", [lowCut(100), peak(350, 5, 1), peak(1800, -4, 1.5), shelf("highShelf", 8000, 5)]],
  ])("undoes %s with as many moves or one more", (_, filters) => {
    const gap = gapOf(filters, 1.5);
    const moves = fitMoves(gap, rate);
    expect(moves.length).toBeLessThanOrEqual(filters.length + 1);
    const left = responseOf([...filters, ...moves], middles, rate);
    const inside = [...left].filter((_, i) => gap[i]!.weight > 0);
    const mean = inside.reduce((a, b) => a + b, 0) / inside.length;
    expect(Math.sqrt(inside.reduce((sum, db) => sum + (db - mean) ** 2, 0) / inside.length)).toBeLessThan(
      0.5,
    );
  });

  it("finds a single peak where it is", () => {
    const [move, ...others] = fitMoves(gapOf([peak(1000, 5, 2)]), rate);
    expect(others).toEqual([]);
    expect(move!.type).toBe("peak");
    expect(move!.hz).toBeCloseTo(1000, -1);
    expect(move!.gainDb).toBeCloseTo(-5, 1);
    expect(move!.q).toBeCloseTo(2, 1);
  });

  it("does to samples what it promises", () => {
    // Noise that falls like music does, and the same through two filters.
    let state = 9;
    const noise = Float32Array.from({ length: 10 * rate }, () => {
      state = (imul(state, 1664525) + 1013904223) >>> 0;
      return state / 2 ** 31 - 1;
    });
    applyBiquad(designBiquad("lowPass", rate, 900, 0.5), noise);
    const filtered = Float32Array.from(noise);
    for (const filter of [
      designBiquad("peak", rate, 300, 1, 5),
      designBiquad("highShelf", rate, 5000, SQRT1_2, -4),
    ])
      applyBiquad(filter, filtered);
    const powers = (samples: Float32Array) =>
      wholeOf(averageSpectrum(fractionalOctaveSpectrogram([samples, samples], rate)));
    const loudness = (samples: Float32Array) =>
      measureLoudness(
        levelCurves({ sampleRate: rate, channels: [samples, samples], layout: ["left", "right"] }),
      ).integratedLufs!;
    const shift = loudness(noise) - loudness(filtered);
    const before = gapCurve(powers(noise), powers(filtered), shift, fitResolution);
    const moves = fitMoves(before, rate);
    const promised = equalised(before, moves, fitResolution, rate);
    const mended = Float32Array.from(filtered);
    for (const move of moves) applyBiquad(filterOf(move, rate), mended);
    const after = gapCurve(powers(noise), powers(mended), shift + promised.gainDb, fitResolution);
    expect(rootMeanSquareGap(after)!).toBeLessThan(0.7);
    const apart = after.map(({ gap, weight }, i) => (weight > 0.9 ? abs(gap - promised.gap[i]!) : 0));
    expect(apart.reduce((a, b) => max(a, b), 0)).toBeLessThan(0.3);
  });
});
