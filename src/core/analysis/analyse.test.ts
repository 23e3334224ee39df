/** The whole analysis: what is heard belongs to the music, not to the file that it comes in. */
import { asHits, type DrumHit } from "../drums/hits";
import type { Signal } from "../audio/signal";
import { drumsAsWritten, playedDrums, steadyGrid, type Written } from "../testing/drums";
import { stereo } from "../testing/signals";
import type { EarlyFindings } from "./early";
import { analyse } from "./analyse";
import { analysisStages, trackAnalysisSchema, type TrackAnalysis } from "./result";

const { PI, abs, floor, min, round, sin } = Math;
const bars = 8;
const written = {
  kick: ["X.....X.X......."],
  snare: ["....X.......X..."],
  hat: ["X.x.X.x.X.x.X.x."],
} satisfies Written;
const roots = [57, 53, 48, 55];

/** Eight bars at 120 BPM of kick, snare, hats and bass under chords of a bar each, after some silence. */
function song(sampleRate = 44100, lead = 0): Float32Array {
  const grid = steadyGrid(120, bars, lead);
  const samples = playedDrums(drumsAsWritten(written, grid), lead + bars * 2, sampleRate);
  const steps = roots.map((root, bar) =>
    [0, bar === 0 ? 3 : 4, 7].map((up) => 2 * PI * 440 * 2 ** ((root + up - 69) / 12)),
  );
  for (let i = round(lead * sampleRate); i < samples.length; i++) {
    const time = i / sampleRate - lead;
    const bar = floor(time / 2);
    const edge = min(1, (time - 2 * bar) / 0.02, (2 * bar + 2 - time) / 0.02);
    for (const step of steps[bar % 4]!) samples[i]! += 0.03 * edge * sin(step * time);
  }
  return samples;
}

const plain = song();
let whole: TrackAnalysis;
beforeAll(async () => {
  whole = (await analyse(stereo(plain, plain, 44100))).analysis;
});

/** What is heard, without what is measured in decibels. */
const heardOf = ({ tempo, grid, plan, drums, tuningCents }: TrackAnalysis) => ({
  bpm: tempo?.bpm,
  downbeats: grid?.downbeats,
  chords: plan.harmony.chords.map(({ chord, startBeat, endBeat }) => ({ chord, startBeat, endBeat })),
  key: plan.harmony.key?.options[0]?.key,
  hits: asHits(drums).map(({ time, voice }) => ({ time: round(1e3 * time), voice })),
  tuningCents,
});
type Struck = Pick<DrumHit, "time" | "voice">;
const sureHits = ({ drums }: TrackAnalysis): Struck[] =>
  asHits(drums).filter(({ confidence, voice }) => confidence > 0.6 && voice in written);
/** F-measure of two answers: hits of a voice within 25 ms are the same, the second's moved back by a time. */
function agreement(a: readonly Struck[], b: readonly Struck[], later = 0): number {
  const rest = [...b];
  let both = 0;
  for (const { time, voice } of a) {
    const place = rest.findIndex((own) => own.voice === voice && abs(own.time - later - time) <= 0.025);
    if (place < 0) continue;
    rest.splice(place, 1);
    both++;
  }
  return (2 * both) / (a.length + b.length);
}

describe("what is heard in a track", () => {
  it("is what was played: tempo, bars, chords and strokes", () => {
    expect(abs(whole.tempo!.bpm - 120)).toBeLessThan(0.1);
    expect(abs(whole.grid!.downbeats[0]!)).toBeLessThan(0.02);
    expect(whole.grid!.beatsPerBar).toBe(4);
    const played = drumsAsWritten(written, steadyGrid(120, bars, 0)).hits;
    expect(agreement(played, sureHits(whole))).toBeGreaterThan(0.9);
    expect(trackAnalysisSchema.safeParse(whole).success).toBe(true);
  });

  it("does not depend on gain, but for the levels, which follow it exactly", async () => {
    const quiet = plain.map((x) => x * 10 ** (-18 / 20));
    const { analysis } = await analyse(stereo(quiet, quiet, 44100));
    expect(heardOf(analysis)).toEqual(heardOf(whole));
    expect(analysis.loudness.integratedLufs! - whole.loudness.integratedLufs!).toBeCloseTo(-18, 2);
    expect(analysis.loudness.truePeakDbtp! - whole.loudness.truePeakDbtp!).toBeCloseTo(-18, 2);
  });

  it("does not depend on polarity or on which side is left", async () => {
    const right = plain.map((x, i) => x * (i % 2 === 0 ? 0.9 : 0.91));
    const [one, other] = await Promise.all([
      analyse(stereo(plain, right, 44100)),
      analyse(stereo(right, plain, 44100)),
    ]);
    expect(heardOf(other.analysis)).toEqual(heardOf(one.analysis));
    const turned = plain.map((x) => -x);
    expect(heardOf((await analyse(stereo(turned, turned, 44100))).analysis)).toEqual(heardOf(whole));
  });

  it("is the same of one channel as of two that are alike", async () => {
    const mono: Signal = { sampleRate: 44100, channels: [plain], layout: ["mono"] };
    const { analysis } = await analyse(mono);
    expect(agreement(sureHits(analysis), sureHits(whole))).toBeGreaterThan(0.98);
    expect(heardOf(analysis).chords).toEqual(heardOf(whole).chords);
    expect(analysis.tempo!.bpm).toBeCloseTo(whole.tempo!.bpm, 2);
  });

  it("moves with the music where silence stands before it", async () => {
    const later = song(44100, 1.25);
    const { analysis } = await analyse(stereo(later, later, 44100));
    expect(analysis.leadInSeconds).toBeCloseTo(1.25, 2);
    expect(analysis.tempo!.bpm).toBeCloseTo(whole.tempo!.bpm, 1);
    expect(abs(analysis.grid!.downbeats[0]! - 1.25)).toBeLessThan(0.02);
    expect(agreement(sureHits(whole), sureHits(analysis), 1.25)).toBeGreaterThan(0.9);
  });

  it.each([48000, 88200])("is the same at another sample rate (%i Hz)", async (rate) => {
    const samples = song(rate);
    const { analysis } = await analyse(stereo(samples, samples, rate));
    expect(analysis.tempo!.bpm).toBeCloseTo(whole.tempo!.bpm, 1);
    expect(heardOf(analysis).chords.map(({ chord }) => chord)).toEqual(
      heardOf(whole).chords.map(({ chord }) => chord),
    );
    expect(agreement(sureHits(analysis), sureHits(whole))).toBeGreaterThan(0.9);
  });
});

it("silence has nothing to hear, and says so", async () => {
  const silent = new Float32Array(3 * 44100);
  const { analysis } = await analyse(stereo(silent, silent, 44100));
  expect(analysis).toMatchObject({
    silent: true,
    tempo: null,
    grid: null,
    leadInSeconds: null,
    clippedRuns: 0,
    clippedPlaces: [],
  });
  expect(analysis.drums.times).toEqual([]);
  expect(analysis.loudness.integratedLufs).toBeNull();
  expect(trackAnalysisSchema.safeParse(analysis).success).toBe(true);
});

it("what is known early is what the whole analysis says", async () => {
  const told: EarlyFindings[] = [];
  const { analysis } = await analyse(stereo(plain, plain, 44100), undefined, (early) => told.push(early));
  const { integratedLufs, truePeakDbtp } = analysis.loudness;
  const { slopeDbPerOctave } = analysis;
  const first = { integratedLufs, truePeakDbtp, slopeDbPerOctave };
  expect(told).toEqual([
    first,
    { ...first, grid: { bpm: analysis.tempo!.bpm, beatsPerBar: analysis.grid!.beatsPerBar } },
  ]);
});

it("progress rises from stage to stage", async () => {
  const told: { stage: string; done: number }[] = [];
  await analyse(stereo(plain, plain, 44100), (stage, done) => told.push({ stage, done }));
  expect([...new Set(told.map(({ stage }) => stage))]).toEqual(analysisStages.map(({ name }) => name));
  for (const [i, { done }] of told.slice(1).entries())
    expect(done).toBeGreaterThanOrEqual(told[i]!.done - 1e-9);
  expect(told.at(-1)!.done).toBe(1);
});
