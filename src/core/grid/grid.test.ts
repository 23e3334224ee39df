import MusicTempo from "music-tempo";
import { loadFft } from "../dsp/fft";
import { clicks } from "../testing/signals";
import { highBandOnsets } from "./highBandOnsets";
import { trackBeats } from "./beats";
import { estimateGrid } from "./estimateGrid";
import { onsetStrength } from "./onset";

beforeAll(loadFft);

const { PI, abs, exp, min, round, sin } = Math;
const onsetsOf = (samples: Float32Array, rate = 44100) => onsetStrength([samples, samples], rate);
const attacksOf = (samples: Float32Array, rate = 44100) => highBandOnsets([samples, samples], rate);
const nearest = (time: number, times: readonly number[]) =>
  times.reduce((a, b) => (abs(b - time) < abs(a - time) ? b : a));
const median = (numbers: number[]) => [...numbers].sort((a, b) => a - b)[numbers.length >> 1]!;

describe("beats", () => {
  it.each([22050, 44100, 96000])("of a steady click stand within 5 ms of the clicks (%i Hz)", (rate) => {
    const times = Array.from({ length: 50 }, (_, i) => 0.43 + i * 0.52);
    const { beats, steady, bpm } = trackBeats(onsetsOf(clicks(times, 27, rate), rate), 60 / 0.52, 0.4, 26.5);
    expect(steady).toBe(true);
    expect(bpm).toBeCloseTo(60 / 0.52, 3);
    expect(beats).toHaveLength(51);
    expect(median(beats.slice(0, 50).map((beat) => abs(beat - nearest(beat, times))))).toBeLessThan(0.005);
  });

  it("follow a player who speeds up and slows down", () => {
    // The tempo sways by 2 % over some twenty seconds.
    const times: number[] = [];
    for (let time = 0.5; time < 50; time += 0.5 * (1 + 0.02 * sin((2 * PI * time) / 20))) times.push(time);
    const { beats, steady } = trackBeats(onsetsOf(clicks(times, 51)), 120, 0.4, 50.2);
    expect(steady).toBe(false);
    const far = times.filter((time) => abs(nearest(time, beats) - time) > 0.03);
    expect(far.length).toBeLessThanOrEqual(2);
  });

  /** Strokes half a second apart as loud as said by their number and sixteenth, in a tempo that sways a little. */
  function swaying(loudness: (beat: number, sixteenth: number) => number) {
    const beats = [0.5];
    for (let i = 0; i < 240; i++) beats.push(beats[i]! + 0.5 * (1 + 0.012 * sin((2 * PI * i) / 60)));
    const samples = new Float32Array(44100 * 126);
    const sixteenths = beats.slice(0, -1).flatMap((time, i) => {
      const step = (beats[i + 1]! - time) / 4;
      return [0, 1, 2, 3].map((k) => ({ time: time + k * step, loud: loudness(i, k) }));
    });
    for (const loud of new Set(sixteenths.map((own) => own.loud))) {
      const times = sixteenths.filter((own) => own.loud === loud).map(({ time }) => time);
      clicks(times, 126).forEach((x, i) => (samples[i]! += loud * x));
    }
    return { beats, found: trackBeats(onsetsOf(samples), 120, 0.4, 121).beats };
  }
  const met = (beats: readonly number[], found: readonly number[]) =>
    beats.filter((time) => abs(nearest(time, found) - time) < 0.03).length / beats.length;

  it("are those of the drums in an introduction too that stresses sixteenths off the beat", () => {
    const { beats, found } = swaying((beat, k) =>
      beat < 100 ? [0.5, 1, 0.3, 0.3][k]! : [1, 0.2, 0.4, 0.2][k]!,
    );
    expect(met(beats.slice(4, 90), found)).toBeGreaterThan(0.9);
    expect(met(beats.slice(110, 230), found)).toBeGreaterThan(0.95);
  });

  it("go over to others where nothing falls on those of before", () => {
    const { beats, found } = swaying((beat, k) => (beat < 100 ? [0, 1, 0, 0.4][k]! : [1, 0, 0.4, 0][k]!));
    expect(met(beats.slice(4, 50), found)).toBeLessThan(0.1);
    expect(met(beats.slice(110, 230), found)).toBeGreaterThan(0.95);
  });
});

/** Kick on the first of each bar, snare noise on the middle, hats on eighths, a tone that changes each bar. */
function bars(beatsPerBar: 3 | 4, count: number, period = 0.5, lead = 0.7): Float32Array {
  const rate = 44100;
  const seconds = lead + count * beatsPerBar * period + 0.3;
  const eighth = Array.from({ length: 2 * beatsPerBar * count }, (_, i) => lead + (i * period) / 2);
  const samples = clicks(eighth, seconds, rate).map((x) => 0.15 * x);
  const backbeats = Array.from({ length: count }, (_, bar) =>
    (beatsPerBar === 4 ? [1, 3] : [1, 2]).map((beat) => lead + (bar * beatsPerBar + beat) * period),
  ).flat();
  clicks(backbeats, seconds, rate).forEach((x, i) => {
    samples[i]! += 0.5 * x;
  });
  for (let bar = 0; bar < count; bar++) {
    const start = round((lead + bar * beatsPerBar * period) * rate);
    const pitch = [220, 262, 330, 294][bar % 4]!;
    for (let i = 0; i < beatsPerBar * period * rate; i++) {
      samples[start + i]! +=
        0.8 * exp(-i / (0.05 * rate)) * sin((2 * PI * 55 * i) / rate) +
        0.1 * sin((2 * PI * pitch * i) / rate);
    }
  }
  return samples;
}

describe("a second opinion", () => {
  // A general-purpose library after Dixon 2001, "Automatic extraction of tempo and beat from
  // expressive performances", which knows nothing of ours.
  it.each([0.5, 0.62, 0.43])("agrees on tempo and beats of %f s", (period) => {
    const samples = bars(4, 8, period);
    const other = new MusicTempo(samples);
    const own = estimateGrid(onsetsOf(samples), attacksOf(samples), 60 / period, 0.65, 32 * period)!;
    const ratio = Number(other.tempo) / own.bpm;
    expect(min(abs(ratio - 1), abs(ratio - 2), abs(ratio - 0.5))).toBeLessThan(0.02);
    // Beats at half tempo are every second one of ours, at double tempo ours lie between theirs.
    const [few, many] = ratio > 1.5 ? [own.beats, other.beats] : [other.beats, own.beats];
    const inside = few.filter((time) => time > 2 && time < 28 * period);
    const met = inside.filter((time) => abs(nearest(time, many) - time) < 0.07);
    expect(met.length / inside.length).toBeGreaterThan(0.9);
  });
});

describe("bars", () => {
  it.each([3, 4] as const)("of %i beats are found, beginning at the kick", (beatsPerBar) => {
    const found = estimateGrid(
      onsetsOf(bars(beatsPerBar, 24)),
      attacksOf(bars(beatsPerBar, 24)),
      120,
      0.65,
      60,
    )!;
    expect(found.beatsPerBar).toBe(beatsPerBar);
    const truth = Array.from({ length: 24 }, (_, bar) => 0.7 + bar * beatsPerBar * 0.5);
    for (const time of truth) expect(abs(nearest(time, found.downbeats) - time)).toBeLessThan(0.02);
    expect(found.confidence).toBeGreaterThan(0.5);
  });

  it("go on to the end of an ending that grows quiet", () => {
    const onsets = onsetsOf(bars(4, 24));
    const scaled = (from: number, to: number, by: number) =>
      onsets.ranges.forEach((range) => {
        for (let i = round(100 * (0.6 + 2 * from)); i < 100 * (0.6 + 2 * to) && i < range.length; i++)
          range[i]! *= by;
      });
    // An outro of five bars a fifth as strong, the last of them a sixtieth: under a quarter of the
    // whole track's beats, but not of those before the end. Strength counts by its root.
    scaled(18, 23, 1 / 5);
    scaled(23, 24, 1 / 60);
    // The tone is cut off at the end, which is no onset of music.
    scaled(24, 26, 0);
    const found = estimateGrid(onsets, attacksOf(bars(4, 24)), 120, 0.65, 52)!;
    expect(found.downbeats).toHaveLength(24);
  });

  it("do not go on into what rings after the end", () => {
    const rate = 44100;
    const end = round((0.7 + 24 * 2) * rate);
    const whole = new Float32Array(end + 4 * rate);
    whole.set(bars(4, 24).subarray(0, end));
    // The last note dies away.
    for (let i = 0; i < 4 * rate; i++) {
      whole[end + i]! += 0.1 * exp(-i / (0.8 * rate)) * sin((2 * PI * 294 * (i + 2 * rate)) / rate);
    }
    const found = estimateGrid(onsetsOf(whole), attacksOf(whole), 120, 0.65, 52)!;
    expect(found.downbeats).toHaveLength(24);
  });

  it("are not made of a handful of beats", () => {
    expect(estimateGrid(onsetsOf(bars(4, 1)), attacksOf(bars(4, 1)), 120, 0.65, 2.5)).toBeNull();
  });
});
