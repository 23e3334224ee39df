/** Key and chords found in made-up sounds whose notes are known. */
import { loadFft } from "../dsp/fft";
import type { Grid } from "../grid/grid";
import { beatChroma } from "./beatChroma";
import { chordName, chordQualityNames, readChord, type Chord } from "./chords";
import { chordPath } from "./chordSequence";
import { chordStates, noChord } from "./chordModel";
import { estimateHarmony } from "./estimateHarmony";
import { keyName } from "./keys";
import { keyOfBars } from "./keyOfBars";
import { pitchSalience } from "./pitchSalience";
import { voicing } from "./voicing";

beforeAll(loadFft);

const { PI, exp, log, round, sin } = Math;
const rate = 22050;
const beatSeconds = 0.5;

const gridOf = (bars: number): Grid => ({
  beats: Array.from({ length: 4 * bars + 1 }, (_, k) => k * beatSeconds),
  barOne: 0,
  beatsPerBar: 4,
  steady: true,
  bpm: 120,
});

/** A chord a bar, each note struck on every beat with three overtones. */
function sounding(chords: readonly (Chord | null)[]): Float32Array {
  const samples = new Float32Array(round(chords.length * 4 * beatSeconds * rate));
  chords.forEach((chord, bar) => {
    if (!chord) return;
    const { bass, notes } = voicing(chord);
    for (let beat = 0; beat < 4; beat++) {
      const from = round((4 * bar + beat) * beatSeconds * rate);
      for (const pitch of [bass, ...notes]) {
        const step = (2 * PI * 440 * 2 ** ((pitch - 69) / 12)) / rate;
        for (let i = 0; i < beatSeconds * rate && from + i < samples.length; i++) {
          const strength = 0.08 * exp(-(i / rate) * 2);
          samples[from + i]! +=
            strength * (sin(step * i) + 0.4 * sin(2 * step * i) + 0.2 * sin(3 * step * i));
        }
      }
    }
  });
  return samples;
}

function harmonyOf(names: readonly string[]) {
  const samples = sounding(names.map((name) => readChord(name)!));
  const seconds = samples.length / rate;
  return estimateHarmony(pitchSalience([samples, samples], rate), gridOf(names.length), seconds);
}

const inWords = (names: readonly string[]) =>
  harmonyOf(names).chords.map(
    ({ startBeat, endBeat, chord }) => `${startBeat}-${endBeat} ${chordName(chord)}`,
  );

describe("chords", () => {
  it("of a loop are found with their lengths", () => {
    expect(inWords(["F#m", "D", "A", "E", "F#m", "D", "A", "A"])).toEqual([
      "0-4 F♯m",
      "4-8 D",
      "8-12 A",
      "12-16 E",
      "16-20 F♯m",
      "20-24 D",
      "24-32 A",
    ]);
  });

  it.each(chordQualityNames)("of the kind %s are told on every third root", (quality) => {
    for (const root of [0, 3, 6, 9]) {
      const own: Chord = { root, quality, bass: root };
      const found = harmonyOf(Array<string>(4).fill(chordName(own))).chords;
      const longest = found.reduce((a, b) => (b.endBeat - b.startBeat > a.endBeat - a.startBeat ? b : a));
      expect(chordName(longest.chord)).toBe(chordName(own));
    }
  });

  it("have another bass where it is another note of theirs", () => {
    const [found] = harmonyOf(["C/E", "C/E", "C/E", "C/E"]).chords;
    expect(chordName(found!.chord)).toBe("C/E");
  });

  it("are none where nothing sounds", () => {
    const found = harmonyOf(["Am", "Am", "N", "N", "Am", "Am"]).chords;
    expect(found.map(({ chord }) => chordName(chord))).toEqual(["Am", "–", "Am"]);
    expect(found[1]!.startBeat).toBeGreaterThanOrEqual(8);
    expect(found[1]!.endBeat).toBeLessThanOrEqual(17);
  });

  it("change where bars begin rather than a beat beside", () => {
    // Beat 4, the last of bar 1, is torn between two chords, a little more for the second.
    const state = (root: number) => root;
    const likelihoods = new Float32Array(8 * chordStates).fill(log(0.001));
    for (let beat = 0; beat < 8; beat++) likelihoods[beat * chordStates + state(beat < 4 ? 0 : 5)] = log(0.9);
    likelihoods[3 * chordStates + state(0)] = log(0.4);
    likelihoods[3 * chordStates + state(5)] = log(0.5);
    const path = chordPath(likelihoods, [0, 1, 2, 3, 0, 1, 2, 3], 4);
    expect([...path.states]).toEqual([0, 0, 0, 0, 5, 5, 5, 5]);
    expect(path.confidences[3]!).toBeLessThan(path.confidences[1]!);
  });
});

describe("the key", () => {
  it.each([
    ["F♯ minor", ["F#m", "Bm", "C#7", "F#m", "D", "Bm", "C#7", "F#m"]],
    ["A major", ["A", "D", "E7", "A", "D", "A", "E7", "A"]],
    ["C minor", ["Cm", "Fm", "G", "Cm", "Ab", "Fm", "G", "Cm"]],
  ])("is %s where the cadence says so", (expected, names) => {
    const { key } = harmonyOf(names);
    expect(keyName(key!.options[0]!.key)).toBe(expected);
    const total = key!.options.reduce((sum, { confidence }) => sum + confidence, 0);
    expect(total).toBeLessThanOrEqual(1 + 1e-9);
  });

  it("of a part is that of the part", () => {
    const names = [
      "Am",
      "Dm",
      "E7",
      "Am",
      "Am",
      "Dm",
      "E7",
      "Am",
      "Ebm",
      "Abm",
      "Bb7",
      "Ebm",
      "Ebm",
      "Abm",
      "Bb7",
      "Ebm",
    ];
    const harmony = harmonyOf(names);
    const keyIn = (first: number, last: number) =>
      keyName(keyOfBars(harmony, harmony.chords, first, last)!.options[0]!.key);
    expect(keyIn(1, 8)).toBe("A minor");
    expect(keyIn(9, 16)).toBe("D♯ minor");
  });

  it("is none in silence", () => {
    const silence = new Float32Array(4 * rate);
    const found = estimateHarmony(pitchSalience([silence, silence], rate), gridOf(2), 4);
    expect(found.key).toBeNull();
    expect(found.chords.every(({ chord }) => chord === null)).toBe(true);
  });
});

it("folds pitches into beats of length one", () => {
  const samples = sounding([readChord("C")!]);
  const chroma = beatChroma(pitchSalience([samples, samples], rate), gridOf(1).beats);
  expect(chroma.count).toBe(4);
  for (let beat = 0; beat < 4; beat++) {
    const own = chroma.values.subarray(beat * 36, beat * 36 + 36);
    expect(own.reduce((sum, value) => sum + value ** 2, 0)).toBeCloseTo(1, 4);
  }
  expect(noChord).toBe(chordStates - 1);
});
