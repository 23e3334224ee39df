/** Swing and attacks of made-up hats, and what is made of silence and noise around music. */
import { firstSoundOf, lastSoundOf } from "../audio/silence";
import { loadFft } from "../dsp/fft";
import { clicks, whiteNoise } from "../testing/signals";
import { highBandOnsets } from "./highBandOnsets";
import { onsetStrength } from "./onset";
import { estimateSwing, mainSwing } from "./swing";

beforeAll(loadFft);

const rate = 44100;
const { abs, round } = Math;

/** Hats on every pair of notes, the second where the swing puts it, over thuds on the beats. */
function swung(bpm: number, of: 8 | 16, percent: number, soft = 0.5, beats = 48) {
  const beat = 60 / bpm;
  const pair = of === 8 ? beat : beat / 2;
  const lead = 0.4;
  const seconds = lead + beats * beat + 0.5;
  const firsts: number[] = [];
  const seconds_: number[] = [];
  for (let time = lead; time < lead + beats * beat - 1e-6; time += pair) {
    firsts.push(time);
    seconds_.push(time + (pair * percent) / 100);
  }
  const samples = clicks(firsts, seconds, rate);
  clicks(seconds_, seconds, rate).forEach((x, i) => {
    samples[i]! += soft * x;
  });
  const channels = [samples, samples] as const;
  return {
    tops: highBandOnsets(channels, rate),
    onsets: onsetStrength(channels, rate),
    grid: Array.from({ length: beats + 1 }, (_, k) => lead + k * beat),
  };
}

describe("swing", () => {
  it.each([
    [120, 16, 50],
    [96, 16, 54],
    [96, 16, 58.5],
    [130, 16, 62],
    [92, 8, 50],
    [92, 8, 62],
    [110, 8, 66.7],
  ] as const)("at %i BPM of %iths by %f %%, to a point", (bpm, of, percent) => {
    for (const soft of [1, 0.4]) {
      const { tops, onsets, grid } = swung(bpm, of, percent, soft);
      const found = mainSwing(estimateSwing(tops, onsets, grid, 4));
      if (percent !== 50) expect(found.of).toBe(of);
      expect(abs(found.percent - percent)).toBeLessThan(1);
    }
  });

  it("is straight where nothing lies between the beats, and not asked of 6/8", () => {
    const { tops, onsets, grid } = swung(100, 8, 50, 0);
    expect(mainSwing(estimateSwing(tops, onsets, grid, 4)).percent).toBe(50);
    const triplets = swung(100, 8, 66.7);
    expect(estimateSwing(triplets.tops, triplets.onsets, triplets.grid, 2).eighths).toBeNull();
  });
});

describe("attacks", () => {
  it.each([22050, 44100, 96000])("stand within two milliseconds of the hits, loud or soft (%i Hz)", (own) => {
    const times = [0.2503, 0.6111, 1.0037, 1.4];
    const samples = clicks(times, 2, own).map((x, i) => (i > 0.9 * own ? 0.1 * x : x));
    const { strength, framesPerSecond } = highBandOnsets([samples, samples], own);
    for (const time of times) {
      let best = 0;
      for (let i = round((time - 0.03) * framesPerSecond); i < (time + 0.03) * framesPerSecond; i++) {
        if (strength[i]! > strength[best]!) best = i;
      }
      expect(abs(best / framesPerSecond - time)).toBeLessThanOrEqual(0.002);
    }
  });
});

describe("where a file begins and ends to sound", () => {
  const music = (lead: number, noise: number) => {
    const samples = whiteNoise(noise, 4, rate, 2);
    for (let i = round(lead * rate); i < 3 * rate; i++) samples[i]! += 0.3 * Math.sin(i / 20);
    return [samples, samples] as const;
  };

  it.each([
    ["after silence", 0.5, -Infinity],
    ["out of a noise floor", 0.5, -55],
    ["at once", 0, -Infinity],
  ])("%s", (_name, lead, noise) => {
    expect(firstSoundOf(music(lead, noise), rate)).toBeCloseTo(lead, 2);
    expect(lastSoundOf(music(lead, noise), rate)).toBeCloseTo(3, 2);
  });

  it("is nowhere in silence", () => {
    const nothing = new Float32Array(rate);
    expect(firstSoundOf([nothing, nothing], rate)).toBeNull();
    expect(lastSoundOf([nothing, nothing], rate)).toBe(0);
  });
});
