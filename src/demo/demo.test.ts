/** The song generator: what it writes is what it says it writes, and what it plays is that. */
import { levelCurves } from "@/core/loudness";
import { mixDown } from "./mix";
import { renderParts, renderRate, type StereoTrack } from "./render";
import { barsOf, sectionSpans, straightTimeOf, timeOf, type Part, type SongSettings } from "./song";
import { copperKites } from "./songs/copperKites";
import { paperTram } from "./songs/paperTram";
import { styleSong, styles } from "./songs/styles";
import { truthOf } from "./truth";
import { pitchClass } from "./writing";

const settings = (changes: Partial<SongSettings> = {}): SongSettings => ({
  title: "Made up",
  artist: "Nobody",
  style: "test",
  seed: 1,
  bpm: 120,
  beatsPerBar: 4,
  tonic: "C",
  mode: "major",
  swing: { of: 16, percent: 50 },
  sections: [{ name: "verse", bars: 4 }],
  leadInSeconds: 0.5,
  drift: 0,
  looseness: { seconds: 0, velocity: 0 },
  ...changes,
});

describe("time", () => {
  it.each([
    ["straight sixteenths", { of: 16, percent: 50 } as const, 0.25, 0.125],
    ["a triplet swing of eighths", { of: 8, percent: 200 / 3 } as const, 0.5, 1 / 3],
    ["a light swing of sixteenths", { of: 16, percent: 56 } as const, 0.25, 0.14],
    ["on the beat nothing swings", { of: 8, percent: 66 } as const, 1, 0.5],
  ])("%s", (_name, swing, beat, seconds) => {
    expect(timeOf(settings({ swing }), beat)).toBeCloseTo(0.5 + seconds, 9);
  });

  it("sways around the tempo where a player drifts, and comes back", () => {
    const song = settings({ drift: 0.012 });
    expect(straightTimeOf(song, 96)).toBeCloseTo(0.5 + 48, 9);
    const local = (beat: number) => straightTimeOf(song, beat + 1) - straightTimeOf(song, beat);
    const beats = Array.from({ length: 96 }, (_, beat) => local(beat) / 0.5);
    expect(Math.max(...beats)).toBeCloseTo(1.012, 3);
    expect(Math.min(...beats)).toBeCloseTo(0.988, 3);
  });
});

describe("songs", () => {
  it("are at least six styles, each the same for the same seed and another for another", () => {
    expect(styles.length).toBeGreaterThanOrEqual(6);
    for (const style of styles) {
      expect(JSON.stringify(truthOf(styleSong(style, 3)))).toBe(JSON.stringify(truthOf(styleSong(style, 3))));
      expect(JSON.stringify(truthOf(styleSong(style, 3)))).not.toBe(
        JSON.stringify(truthOf(styleSong(style, 4))),
      );
    }
  });

  it.each([...styles])("%s: the truth hangs together", (style) => {
    const song = styleSong(style, 7);
    const truth = truthOf(song);
    expect(truth.beats).toHaveLength(barsOf(song) * song.beatsPerBar);
    expect(truth.downbeats).toHaveLength(barsOf(song));
    expect(truth.sections.at(-1)!.end).toBeCloseTo(straightTimeOf(song, barsOf(song) * song.beatsPerBar), 9);
    // Sections and chords follow each other without holes.
    truth.sections.slice(1).forEach((s, i) => expect(s.start).toBeCloseTo(truth.sections[i]!.end, 9));
    truth.chords.slice(1).forEach((c, i) => expect(c.start).toBeCloseTo(truth.chords[i]!.end, 9));
    for (const { label } of truth.chords)
      expect(label).toMatch(/^([A-G]#?:(maj|min|7|maj7|min7|sus4|dim)|N)$/);
    // Loosely played, hits stay near the sixteenth they belong to.
    expect(truth.drums.hits.length).toBeGreaterThan(50);
    for (const { velocity, time } of truth.drums.hits) {
      expect(velocity).toBeGreaterThan(0);
      expect(velocity).toBeLessThanOrEqual(1);
      expect(time).toBeGreaterThanOrEqual(0);
    }
    expect(song.parts.length).toBeLessThanOrEqual(16);
  });

  it("of the demo are what the demo says", () => {
    const kites = copperKites();
    expect(truthOf(kites)).toMatchObject({ tempo: { bpm: 118 }, key: { tonic: "F#", mode: "minor" } });
    expect(sectionSpans(kites).map((s) => s.name)).toEqual([
      "intro",
      "verse 1",
      "chorus 1",
      "verse 2",
      "break",
      "chorus 2",
      "outro",
    ]);
    expect(straightTimeOf(kites, barsOf(kites) * 4)).toBeCloseTo(155, -1);
    expect(truthOf(paperTram())).toMatchObject({ tempo: { bpm: 92 }, key: { tonic: "A#", mode: "major" } });
    expect(pitchClass("Bb")).toBe(pitchClass("A#"));
  });
});

describe("sound", () => {
  const hit = (time: number): Part => ({
    name: `at ${time}`,
    sound: "drums",
    mix: { gainDb: 0, pan: 0, room: 0 },
    notes: [{ time, duration: 0.2, pitch: 36, velocity: 110, voice: "kick" }],
  });
  const firstSound = ([left]: StereoTrack) => left.findIndex((x) => Math.abs(x) > 1e-4) / renderRate;

  it("begins where the note stands, on each channel apart", async () => {
    const tracks = await renderParts([hit(0.25), hit(0.6003)], 1);
    expect(firstSound(tracks[0]!)).toBeGreaterThanOrEqual(0.25);
    expect(firstSound(tracks[0]!) - 0.25).toBeLessThan(0.004);
    expect(firstSound(tracks[1]!) - firstSound(tracks[0]!)).toBeCloseTo(0.3503, 4);
  });

  it("never passes the ceiling of the limiter, and leaves out what is left out", async () => {
    const tracks = await renderParts([hit(0.1), hit(0.3)], 1);
    const loud = mixDown(tracks, [hit(0).mix, hit(0).mix], { driveDb: 40, ceilingDb: -1 });
    const { samplePeak } = levelCurves({ sampleRate: renderRate, channels: loud, layout: ["left", "right"] });
    expect(20 * Math.log10(samplePeak)).toBeLessThanOrEqual(-1 + 1e-4);
    expect(20 * Math.log10(samplePeak)).toBeGreaterThan(-1.5);
    const one = mixDown(tracks, [null, hit(0).mix], { driveDb: 0, ceilingDb: 0 });
    expect(firstSound(one)).toBeGreaterThan(0.29);
  });

  it("stands where it is placed", async () => {
    const [track] = await renderParts([hit(0.1)], 0.5);
    const power = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);
    const [left, right] = mixDown([track!], [{ gainDb: 0, pan: 1, room: 0 }], { driveDb: 0, ceilingDb: 0 });
    expect(power(left)).toBeLessThan(1e-9 * power(right));
  });
});
