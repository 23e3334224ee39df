/** Bass lines written by hand, as the network hears them: low tones of several makes under a chord. */
import { loadFft } from "../dsp/fft";
import { strokesAt } from "../testing/drums";
import { whiteNoise } from "../testing/signals";
import { bassPitches } from "./bassPitch";
import { beginningsIn, hearBass, pitchesOver, type HeardBass } from "./bassNetwork";
import { bassHop, bassInputs, bassScales, bassSpectra } from "./bassSpectra";

beforeAll(loadFft);

const rate = 4800;
const lasts = 0.4;
const hertzOf = (pitch: number) => 440 * 2 ** ((pitch - 69) / 12);
const harmonics = { round: [1, 0.4], bright: [1, 0.7, 0.5, 0.4, 0.3, 0.2], hollow: [1, 0, 0.4, 0, 0.2] };

/** Notes without gaps, and three notes above middle C held throughout. */
function lineOf(pitches: readonly number[], of: readonly number[], chord = 0.05): Float32Array {
  return Float32Array.from({ length: pitches.length * lasts * rate }, (_, i) => {
    const note = Math.floor(i / (lasts * rate));
    const t = i / rate - note * lasts;
    const phase = 2 * Math.PI * hertzOf(pitches[note]!) * t;
    const edge = Math.min(1, t / 0.004, (lasts - t) / 0.008) * Math.exp(-1.2 * t);
    const high = [60, 64, 67].reduce(
      (sum, own) => sum + Math.sin((2 * Math.PI * hertzOf(own) * i) / rate),
      0,
    );
    return (
      0.3 * edge * of.reduce((sum, level, h) => sum + level * Math.sin((h + 1) * phase), 0) + chord * high
    );
  });
}
const heardOf = (samples: Float32Array, starts: readonly number[] = []): HeardBass => {
  const { curves, framesPerSecond } = strokesAt(starts, []);
  return hearBass(bassSpectra(samples, rate, curves, framesPerSecond));
};
const likeliest = (heard: HeardBass, note: number) => {
  const means = pitchesOver(heard, note * lasts + 0.05, (note + 1) * lasts - 0.02);
  return bassPitches[means.indexOf(Math.max(...means))];
};

describe("the bass network", () => {
  const line = [33, 36, 38, 31, 31, 40, 45, 43, 28, 35, 47, 41];

  it.each(Object.entries(harmonics))("hears the notes of a %s bass under a chord", (_name, of) => {
    const starts = line.map((_, i) => i * lasts + 0.005);
    const heard = heardOf(lineOf(line, of), starts);
    const right = line.filter((pitch, i) => likeliest(heard, i) === pitch);
    expect(right.length).toBeGreaterThanOrEqual(line.length - 1);
    const found = beginningsIn(heard).map(({ time }) => time);
    const near = starts.filter((start) => found.some((own) => Math.abs(own - start) < 0.03));
    expect(near.length).toBeGreaterThanOrEqual(line.length - 1);
    expect(found.length).toBeLessThanOrEqual(line.length + 1);
    // The line begins with the file.
    expect(found[0]).toBeLessThan(0.05);
  });

  it("says the same whatever the gain", () => {
    const samples = lineOf(line, harmonics.round);
    const [loud, soft] = [heardOf(samples), heardOf(samples.map((x) => x / 100))];
    const apart = loud.begins.reduce((most, own, i) => Math.max(most, Math.abs(own - soft.begins[i]!)), 0);
    expect(apart).toBeLessThan(0.02);
  });

  it("hears no notes in noise and in silence", () => {
    const noise = whiteNoise(-20, 8, rate);
    expect(beginningsIn(heardOf(noise)).length).toBeLessThan(4);
    expect(beginningsIn(heardOf(new Float32Array(4 * rate)))).toEqual([]);
  });
});

describe("what it hears by", () => {
  it("has a tone in its own bin of either scale, at the time at which it sounds", () => {
    const samples = new Float32Array(4 * rate);
    for (let i = 2 * rate; i < 3 * rate; i++)
      samples[i] = 0.3 * Math.sin((2 * Math.PI * hertzOf(45) * i) / rate);
    const { curves, framesPerSecond } = strokesAt([1], []);
    const rows = bassSpectra(samples, rate, curves, framesPerSecond);
    const row = (seconds: number) => {
      const frame = Math.round(seconds / bassHop);
      return Array.from(rows.subarray(frame * bassInputs, (frame + 1) * bassInputs));
    };
    let at = 0;
    for (const { lowest, perSemitone, bins } of bassScales) {
      const own = row(2.5).slice(at, at + bins);
      expect(lowest + own.indexOf(Math.max(...own)) / perSemitone).toBeCloseTo(45, 0);
      expect(Math.max(...row(0.5).slice(at, at + bins))).toBe(0);
      at += bins;
    }
    expect(row(1)[at]).toBeCloseTo(0.95, 6);
    expect(row(1.1)[at]).toBe(0);
  });
});
