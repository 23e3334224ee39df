/** Parts lifted out of mixes whose parts are known, and what is measured of them. */
import { loadFft } from "../dsp/fft";
import { knownMix, type MixSettings } from "../testing/knownMix";
import { whiteNoise } from "../testing/signals";
import { twelfthCount, wholeOf } from "../tone";
import { frameSizeFor } from "../tone/fractionalOctaveSpectrogram";
import {
  LensKeeper,
  lensMeasures,
  lensParts,
  lift,
  ofDrumParts,
  ofLensParts,
  partLevels,
  partSpectrogram,
  strokeLevels,
  type LensPart,
  type LiftedTrack,
} from ".";

beforeAll(loadFft);

const energy = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);
const decibels = (power: number) => 10 * Math.log10(power + 1e-20);
/** Signal-to-distortion ratio of an estimate, whatever its gain. */
function distortion(truth: Float32Array, estimate: Float32Array): number {
  const common = truth.reduce((sum, x, i) => sum + x * estimate[i]!, 0);
  const wanted = common ** 2 / energy(truth);
  return decibels(wanted / (energy(estimate) - wanted));
}
const taken = (settings: MixSettings = {}) => {
  const mix = knownMix({ beats: 14, ...settings });
  return { ...mix, lifted: lift([mix.samples, mix.samples], mix.rate, mix) };
};

describe("a mix taken apart", () => {
  let plain: ReturnType<typeof taken>;
  beforeAll(() => {
    plain = taken();
  });

  it("adds up to itself, sample by sample", () => {
    const { samples, lifted } = plain;
    let most = 0;
    for (let i = 0; i < samples.length; i += 7) {
      const sum = lensParts.reduce((all, part) => all + lifted[part].samples[0][i]!, 0);
      most = Math.max(most, Math.abs(sum - samples[i]!));
    }
    expect(most).toBeLessThan(1e-4);
  });

  it.each([
    ["kick", "kick", 11.5],
    ["snare", "snare", 4.5],
    ["hats", "hat", 6],
    ["bass", "bass", 9],
    ["music", "chords", 9],
  ] as const)("has its %s lifted out with little else", (part, truth, least) => {
    const own = plain.lifted[part].samples;
    expect(distortion(plain.parts[truth], own[0])).toBeGreaterThan(least);
    // About as loud as it is, and in the middle: the longest ring of a drum is cut short.
    expect(Math.abs(decibels(energy(own[0]) / energy(plain.parts[truth])))).toBeLessThan(2);
    expect(energy(own[0].map((x, i) => x - own[1][i]!))).toBeLessThan(1e-6 * energy(own[0]));
  });

  it("has nothing where nothing is played", () => {
    expect(energy(plain.lifted.percussion.samples[0])).toBe(0);
    expect(plain.lifted.percussion.freeDb).toBeNull();
    expect(plain.lifted.kick.freeDb).toBeGreaterThan(6);
  });

  it.each([
    { kick: 4, hats: -5 },
    { snare: -5, bass: 4 },
  ] as Partial<Record<LensPart, number>>[])(
    "tells by how much parts were changed: %j dB, no others",
    (changes) => {
      const gain = (part: LensPart) => 10 ** ((changes[part] ?? 0) / 20);
      const other = taken({
        gains: { kick: gain("kick"), snare: gain("snare"), hat: gain("hats"), bass: gain("bass") },
      });
      for (const part of ["kick", "snare", "hats", "bass"] as const) {
        const gap =
          decibels(energy(other.lifted[part].samples[0])) - decibels(energy(plain.lifted[part].samples[0]));
        expect(Math.abs(gap - (changes[part] ?? 0))).toBeLessThan(1);
      }
    },
  );

  it("lifts strokes that are never twice the same", () => {
    const { parts, lifted } = taken({ variety: 0.9 });
    expect(distortion(parts.snare, lifted.snare.samples[0])).toBeGreaterThan(2.5);
    expect(distortion(parts.hat, lifted.hats.samples[0])).toBeGreaterThan(2.5);
  });

  it("knows its drums again when they are twice as wide apart in samples", () => {
    const { parts, lifted } = taken({ rate: 96000, beats: 12 });
    expect(distortion(parts.kick, lifted.kick.samples[0])).toBeGreaterThan(8);
  });

  it("keeps a sound on one side on that side", () => {
    const { samples, parts, rate, hits, bass, bassStarts } = knownMix({ beats: 16 });
    const right = samples.map((x, i) => x - parts.hat[i]!);
    const { hats } = lift([samples, right], rate, { hits, bass, bassStarts });
    expect(energy(hats.samples[1])).toBeLessThan(0.2 * energy(hats.samples[0]));
  });

  it("leaves a chord that is struck with every snare to the music", () => {
    const { samples, parts, rate, hits, bass, bassStarts } = knownMix({ beats: 24, gains: { chords: 0.3 } });
    const stabs = new Float32Array(samples.length);
    const lasts = Math.round(0.45 * rate);
    for (const { voice, time } of hits) {
      if (voice !== "snare") continue;
      const from = Math.round(time * rate);
      for (let i = 0; i < lasts && from + i < stabs.length; i++)
        for (const hz of [233.1, 311.1, 466.2, 932.3])
          stabs[from + i]! +=
            0.03 * Math.min(1, (lasts - i) / (0.02 * rate)) * Math.sin((2 * Math.PI * hz * i) / rate);
    }
    const mix = samples.map((x, i) => x + stabs[i]!);
    const { snare } = lift([mix, mix], rate, { hits, bass, bassStarts });
    // Of the stabs what lies under the strokes themselves is lost.
    const left = snare.samples[0].map((x, i) => x - parts.snare[i]!);
    expect(energy(left)).toBeLessThan(0.4 * energy(stabs));
    expect(snare.freeDb).toBeLessThan(9);
  });

  it("does not take anything for free that sounds where it is not known to", () => {
    const { samples, rate, hits, bass, bassStarts } = knownMix({ beats: 16 });
    const whole = lift([samples, samples], rate, { hits, bass, bassStarts });
    const without = lift([samples, samples], rate, { hits, bass: [], bassStarts: [] });
    expect(whole.bass.evidence!.beside).toBeLessThan(0.05);
    expect(without.bass.evidence!.beside).toBeGreaterThan(0.9);
    expect(without.bass.freeDb).toBeLessThan(2);
    expect(whole.bass.freeDb).toBeGreaterThan(without.bass.freeDb! + 4);
  });

  it("is all music where nothing was heard in it", () => {
    const noise = whiteNoise(-20, 6);
    const { music, ...others } = lift([noise, noise], 44100, { hits: [], bassStarts: [], bass: [] });
    expect(Object.values(others).filter(({ freeDb }) => freeDb !== null).length).toBeLessThanOrEqual(1);
    expect(energy(music.samples[0])).toBeGreaterThan(0.95 * energy(noise));
  });
});

describe("what is kept of a part", () => {
  it("adds up to its mean square over the whole and over spans", () => {
    const rate = 22050;
    const noise = whiteNoise(-20, 12, rate);
    const second = noise.map((x, i) => (i < 6 * rate ? x : 2 * x));
    const track: LiftedTrack = {
      free: { kick: 12, snare: null, hats: 4, percussion: null, bass: 9, music: 3 },
      spectrograms: ofLensParts(() => partSpectrogram([second, second], rate)),
      levels: ofLensParts(() => partLevels([second, second], rate)),
      strokes: ofDrumParts(() => strokeLevels([])),
      strokeLengths: { kick: 120, snare: null, hats: 40, percussion: null },
      durationSeconds: 12,
    };
    const { mid, frames } = track.spectrograms.kick;
    expect(mid).toHaveLength(frames * twelfthCount);
    const level = (spans: { from: number; to: number }[] | null) =>
      decibels(wholeOf(lensMeasures(track, spans).kick.spectrum).reduce((sum, power) => sum + power, 0));
    // Bands end at 20 kHz and begin at 20 Hz; the noise fills all of them.
    expect(level([{ from: 1, to: 5 }])).toBeCloseTo(-20, 0);
    expect(level([{ from: 7, to: 11 }]) - level([{ from: 1, to: 5 }])).toBeCloseTo(6.02, 0);
    expect(lensMeasures(track, null).snare.freeDb).toBeNull();
  });

  it("is the same of a track that comes in passages", () => {
    const rate = 22050;
    const hop = frameSizeFor(rate);
    // Passages end where frames do and where levels are measured anew.
    const length = 2 * hop * Math.round((6 * rate) / (2 * hop));
    const noise = whiteNoise(-20, 12, rate).subarray(0, 2 * length);
    const times = [0.5, 2, 3.5, 7, 9.5];
    for (const time of times)
      for (let i = Math.round(time * rate); i < (time + 0.1) * rate; i++) noise[i]! *= 4;
    const hits = times.map((time) => ({
      time,
      voice: "kick" as const,
      velocity: 1,
      confidence: 1,
    }));
    const kept = (cuts: number[]) => {
      const keeper = new LensKeeper(rate, { hits, bassStarts: [], bass: [] });
      cuts.slice(1).forEach((end, i) => {
        const begin = cuts[i]!;
        const own = noise.subarray(begin, end);
        const parts = ofLensParts((part) => ({
          samples: [own, own] as [Float32Array, Float32Array],
          // Of the hats the second passage stands less free.
          freeDb: part === "hats" ? (begin === 0 && end < noise.length ? 20 : 10) : 12,
        }));
        keeper.add({ parts, begin: begin / rate, frames: end === noise.length ? null : (end - begin) / hop });
      });
      return keeper.result(noise.length / rate);
    };
    const whole = kept([0, 2 * length]);
    const passages = kept([0, length, 2 * length]);
    const sums = ({ spectrograms: { kick } }: LiftedTrack) => decibels(kick.mid.reduce((a, b) => a + b, 0));
    expect(passages.spectrograms.kick.mid).toHaveLength(passages.spectrograms.kick.frames * twelfthCount);
    expect(Math.abs(passages.spectrograms.kick.frames - whole.spectrograms.kick.frames)).toBeLessThan(2);
    expect(sums(passages)).toBeCloseTo(sums(whole), 0);
    expect([...passages.strokes.kick.times]).toEqual([...whole.strokes.kick.times]);
    passages.strokes.kick.powers.forEach((power, i) =>
      expect(power / whole.strokes.kick.powers[i]!).toBeCloseTo(1, 1),
    );
    expect(passages.free.kick).toBeCloseTo(12, 5);
    const [first, second] = [energy(noise.subarray(0, length)), energy(noise.subarray(length))];
    expect(passages.free.hats).toBeCloseTo(decibels((first + second) / (0.01 * first + 0.1 * second)), 3);
    expect(passages.strokes.snare.times).toHaveLength(0);
  });
});
