/** What the drum model learns from: strokes stay where they are said to be, whatever is done to the sound. */
import { Midi } from "@/core/formats/midiFile";
import { chance } from "@/demo/random";
import { renderRate, type StereoTrack } from "@/demo/render";
import { halfOf } from "./packages";
import { midiStrokes, playedSeconds } from "./pieces";
import { playKit, synthKit } from "./synthKit";
import { duck, limit, resampled, treat } from "./treatment";

const { abs, log10, max, round } = Math;

const loudest = (samples: Float32Array, from: number, to: number): number => {
  let most = 0;
  for (let i = round(from * renderRate); i < round(to * renderRate); i++) most = max(most, abs(samples[i]!));
  return most;
};
const strokes = [0.5, 1, 1.5, 2.1].map((time, i) => ({
  time,
  voice: i % 2 === 0 ? ("kick" as const) : ("snare" as const),
  velocity: 0.9,
  sample: i % 2 === 0 ? "36" : "38",
}));
const played = (seed: number): StereoTrack => {
  const c = chance(seed);
  return playKit(synthKit(c), strokes, 3 * renderRate, c);
};
describe("a synthesised kit", () => {
  it.each([1, 2, 3, 4, 5, 6])("strikes where it is told to (kit %i)", (seed) => {
    const [left] = played(seed);
    expect(loudest(left, 0, 0.49)).toBe(0);
    for (const { time } of strokes) expect(loudest(left, time, time + 0.05)).toBeGreaterThan(0.02);
  });

  it("is another with every seed, and the same with the same", () => {
    expect(Array.from(played(1)[0].subarray(22050, 22150))).toEqual(
      Array.from(played(1)[0].subarray(22050, 22150)),
    );
    expect(Array.from(played(1)[0].subarray(22050, 22150))).not.toEqual(
      Array.from(played(2)[0].subarray(22050, 22150)),
    );
  });
});

describe("treatments", () => {
  it("never let anything but hiss sound before it is struck, nor make numbers that are none", () => {
    const { isFinite } = Number;
    const plain = played(1);
    for (let seed = 1; seed <= 3; seed++) {
      const track: typeof plain = [plain[0].slice(), plain[1].slice()];
      treat(track, chance(seed));
      expect(track.every((samples) => samples.every((x) => isFinite(x)))).toBe(true);
      expect(loudest(track[0], 0, 0.498)).toBeLessThan(0.03);
      expect(loudest(track[0], 0.5, 0.6)).toBeGreaterThan(0.1);
    }
  });

  it("play faster with everything at its share of the time", () => {
    const track = resampled(played(3), 1.25);
    expect(track[0].length / renderRate).toBeCloseTo(3 / 1.25, 2);
    for (const { time } of strokes) {
      expect(loudest(track[0], time / 1.25, time / 1.25 + 0.04)).toBeGreaterThan(0.02);
    }
    expect(loudest(track[0], 0, 0.5 / 1.25 - 0.01)).toBe(0);
  });

  it("limit to full scale and no further, at any drive", () => {
    for (const drive of [0, 14]) {
      const track = played(2);
      limit(track, drive, 0.1);
      for (const samples of track) expect(loudest(samples, 0, 3)).toBeLessThanOrEqual(1 + 1e-6);
    }
  });

  it("duck by the depth that is asked for, and come back", () => {
    const flat: StereoTrack = [new Float32Array(renderRate).fill(1), new Float32Array(renderRate).fill(1)];
    duck(flat, [0.25], 6, 0.2);
    expect(20 * log10(flat[0][round(0.25 * renderRate)]!)).toBeCloseTo(-6, 1);
    expect(flat[0][round(0.24 * renderRate)]).toBe(1);
    expect(flat[0][round(0.46 * renderRate)]).toBe(1);
  });
});

describe("strokes of a MIDI piece", () => {
  const midi = new Midi();
  const drums = midi.addTrack();
  drums.channel = 9;
  const bass = midi.addTrack();
  bass.channel = 1;
  bass.instrument.number = 33;
  const lead = midi.addTrack();
  lead.channel = 2;
  drums.addNote({ midi: 36, time: 0, duration: 0.1, velocity: 1 });
  drums.addNote({ midi: 42, time: 0.5, duration: 0.1, velocity: 0.5 });
  drums.addNote({ midi: 38, time: playedSeconds + 1, duration: 0.1 });
  drums.addNote({ midi: 20, time: 1, duration: 0.1 });
  bass.addNote({ midi: 40, time: 0.25, duration: 0.2, velocity: 0.6 });
  lead.addNote({ midi: 60, time: 0.3, duration: 0.2 });

  it("are those of the drum channel and of the bass, in order, as far as the piece is played", () => {
    expect(midiStrokes(midi).map(({ time, voice, sample }) => [time, voice, sample])).toEqual([
      [0, "kick", "36"],
      [0.25, "bass", "bass"],
      [0.5, "hat", "42"],
    ]);
  });
});

it("halves stay as they are when pieces are added", () => {
  // Figures in the benchmarks rest on this split.
  expect(["D_E1M1", "D_E1M5", "hiscore", "SCAVENG"].map(halfOf)).toEqual(["fit", "fit", "fit", "fit"]);
  expect(["D_E1M2", "D_E2M9", "bigboss", "VOID"].map(halfOf)).toEqual([
    "measure",
    "measure",
    "measure",
    "measure",
  ]);
});
