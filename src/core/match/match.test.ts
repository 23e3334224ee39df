import { downmix, type Signal } from "../audio/signal";
import { analyse } from "../analysis/analyse";
import { analysisStages } from "../analysis/result";
import { applyBiquad, designBiquad } from "../dsp/biquad";
import { loadFft } from "../dsp/fft";
import { measureEnvelopes } from "../envelopes";
import { bandEnvelopes } from "../envelopes/bandEnvelopes";
import { levelCurves, measureLoudness } from "../loudness";
import { measuresOfWhole } from "../study";
import { clicks, stereo, whiteNoise } from "../testing/signals";
import { figuresOfMix } from "../testing/yardstick";
import { averageSpectrum } from "../tone";
import { fractionalOctaveSpectrogram } from "../tone/fractionalOctaveSpectrogram";
import { yardstickOf } from "../yardstick";
import {
  compareElements,
  compareMixes,
  defaultAspectWeights,
  measureRules,
  mixAspects,
  elementScore,
  gainOfAspect,
  pointsWorth,
  scoreOf,
  styleAspects,
  weightedMean,
  type LowFigures,
  type LowGaps,
  type StyleTarget,
  type TrackMeasures,
} from ".";

beforeAll(loadFft);

const { PI, abs, exp, floor, max, min, round, sin } = Math;

const seconds = 62;
/** When kicks are struck. */
const beatTimes = (bpm: number) =>
  Array.from({ length: floor((seconds * bpm) / 60) }, (_, i) => 0.1 + (i * 60) / bpm);

/** A little over a minute of a made-up beat with bass and a noisy top, loud and quiet by turns. */
function music(bpm = 120): Signal {
  const rate = 22050;
  const period = 60 / bpm;
  const noise = whiteNoise(-38, seconds, rate, 3);
  const other = whiteNoise(-38, seconds, rate, 4);
  const hits = clicks(beatTimes(bpm), seconds, rate);
  const left = new Float32Array(noise.length);
  const right = new Float32Array(noise.length);
  for (let i = 0; i < left.length; i++) {
    const time = i / rate;
    const loud = time % 20 < 10 ? 1 : 0.5;
    const inBeat = (time - 0.1) % period;
    const low = inBeat > 0 ? 0.35 * exp(-inBeat / 0.09) * sin(2 * PI * 60 * inBeat) : 0;
    const middle = 0.08 * sin(2 * PI * 330 * time) + 0.05 * sin(2 * PI * 1470 * time);
    left[i] = loud * (low + middle + hits[i]! * 0.5) + noise[i]!;
    right[i] = loud * (low + middle + hits[i]! * 0.5) + other[i]!;
  }
  return stereo(left, right, rate);
}

const analysisOf = async (signal: Signal) => (await analyse(signal)).analysis;
const changed = (signal: Signal, change: (samples: Float32Array) => Float32Array): Signal => ({
  ...signal,
  channels: signal.channels.map((channel) => change(Float32Array.from(channel))),
});
/** What comparing needs of a track whose beat is known: all but what is heard in it. */
function measured(signal: Signal, bpm = 120): TrackMeasures {
  const channels = downmix(signal);
  const levels = levelCurves(signal);
  const kicks = beatTimes(bpm).map((time) => ({
    time,
    voice: "kick" as const,
    velocity: 0.8,
    confidence: 1,
  }));
  return {
    bpm,
    loudness: measureLoudness(levels),
    spectrum: averageSpectrum(fractionalOctaveSpectrogram(channels, signal.sampleRate)),
    envelopes: measureEnvelopes(bandEnvelopes(channels, signal.sampleRate), kicks, 60 / bpm),
  };
}
const scoresOf = (reference: TrackMeasures, version: TrackMeasures) => {
  const compared = compareMixes(reference, version);
  return Object.fromEntries(compared.aspects.map((a) => [a.name, a.score])) as Record<string, number>;
};
const withShelf = (signal: Signal, gain: number) =>
  changed(signal, (samples) => {
    applyBiquad(designBiquad("highShelf", signal.sampleRate, 900, 0.7, gain), samples);
    return samples;
  });
/** The same loudness as the reference, so that tone is all that differs. */
function matchedTo(reference: TrackMeasures, signal: Signal): Signal {
  const own = measureLoudness(levelCurves(signal)).integratedLufs!;
  const gain = 10 ** ((reference.loudness.integratedLufs! - own) / 20);
  return changed(signal, (samples) => samples.map((x) => x * gain));
}

describe("score of a gap", () => {
  it("is 100 within the tolerance and halves with each further step, by hand", () => {
    const rule = { justNoticeable: 0.5, halving: 2 };
    expect(scoreOf(0, rule)).toBe(100);
    expect(scoreOf(0.5, rule)).toBe(100);
    expect(scoreOf(2.5, rule)).toBe(50);
    expect(scoreOf(-4.5, rule)).toBe(25);
  });

  it("never rises when the gap grows, whatever the measure", () => {
    for (const rule of Object.values(measureRules)) {
      let last = 100;
      for (let gap = 0; gap < 50; gap += 0.1) {
        const score = scoreOf(gap, rule);
        expect(score).toBeLessThanOrEqual(last);
        last = score;
      }
    }
  });

  it("leaves out what does not apply", () => {
    expect(
      weightedMean([
        { score: 80, weight: 1 },
        { score: null, weight: 5 },
        { score: 50, weight: 2 },
      ]),
    ).toBe(60);
    expect(weightedMean([{ score: null, weight: 1 }])).toBeNull();
  });

  it("holds an element for about as close as what is furthest off in it", () => {
    const of = (...scores: (number | null)[]) => elementScore(scores.map((score) => ({ score, weight: 1 })));
    expect(of(73, 73, null)).toBeCloseTo(73, 9);
    expect(of(100, 100, 100, 100)).toBeCloseTo(100, 9);
    // 6 / (5/110 + 1/20) − 10
    expect(of(100, 100, 100, 100, 100, 10)).toBeCloseTo(52.857, 3);
    expect(of(0, 0)).toBeCloseTo(0, 9);
    expect(of(null)).toBeNull();
    const aspects = [10, 60].map((score) => ({ score, weight: 1 }));
    expect(gainOfAspect(aspects[0]!, aspects)).toBeCloseTo(of(100, 60)! - of(10, 60)!, 9);
    expect(gainOfAspect(aspects[0]!, aspects)).toBeGreaterThan(gainOfAspect(aspects[1]!, aspects));
  });

  it("says what a part is worth", () => {
    const part = { score: 60, weight: 1 };
    expect(pointsWorth(part, [part, { score: 100, weight: 3 }, { score: null, weight: 9 }])).toBe(10);
  });
});

const figures = { kickLengthBeats: 0.3, kickLengthIsSure: true, kickToBassDb: 6, bassEvennessDb: 2 };
const lowGaps = (gaps: Partial<LowGaps> = {}, version: Partial<LowFigures> = {}): LowGaps => ({
  notes: { overlap: 1, expected: 0.9 },
  lengthOctaves: 0,
  late: 0,
  reference: figures,
  version: { ...figures, ...version },
  ...gaps,
});

describe("comparing mixes", () => {
  let signal: Signal;
  let reference: TrackMeasures;
  beforeAll(() => {
    signal = music();
    reference = measured(signal);
  });

  it("gives a track against itself 100 in every aspect", () => {
    const compared = compareMixes(reference, reference, {
      semitones: 0,
      plans: { chordOverlap: 1, formOverlap: 1 },
      drums: { pattern: 1, timing: 0, accents: 0, swing: { reference: 56, version: 56 } },
      low: lowGaps(),
    });
    expect(compared.match).toBe(100);
    for (const aspect of compared.aspects) expect(aspect.score).toBe(100);
    const [element] = compareElements(reference, reference, [{ fromHz: 40, toHz: 110 }]);
    expect(element!.score).toBe(100);
  });

  it("says nothing of bass lines that are hardly heard, and takes off what hearing errs by", () => {
    const bass = (notes: LowGaps["notes"]) =>
      compareMixes(reference, reference, { low: lowGaps({ notes }) }).aspects.find(
        ({ name }) => name === "bass",
      )!.measures[0]!;
    expect(bass({ overlap: 0.3, expected: 0.5 }).score).toBeNull();
    expect(bass({ overlap: 0.7, expected: 0.72 }).score).toBe(100);
    // Of 34 % less, 4 are forgiven; half is lost every 30.
    expect(bass({ overlap: 0.4, expected: 0.74 }).score).toBeCloseTo(50, 6);
    const unsure = lowGaps({}, { kickLengthBeats: 0.9, kickLengthIsSure: false });
    const { aspects } = compareMixes(reference, reference, { low: unsure });
    expect(aspects.find(({ name }) => name === "lowEnd")!.measures[0]!.score).toBeNull();
  });

  it("lets gain alone move loudness only", () => {
    const quiet = measured(changed(signal, (samples) => samples.map((x) => x * 10 ** (-3 / 20))));
    const scores = scoresOf(reference, quiet);
    expect(scores.loudness).toBeCloseTo(scoreOf(3, measureRules.integratedLoudness), 0);
    expect(scores.tempo).toBe(100);
    expect(scores.dynamics).toBe(100);
    expect(scores.tone).toBe(100);
    for (const other of ["punch", "pumping", "width", "space"])
      expect(scores[other]).toBeGreaterThanOrEqual(97);
    const [element] = compareElements(reference, quiet, [{ fromHz: 40, toHz: 110 }]);
    expect(element!.score).toBeCloseTo(100, 3);
  });

  it("lets a shelf alone move tone and hardly anything else, the more the larger it is", () => {
    let last = 100;
    for (const gain of [4, 12]) {
      const version = measured(matchedTo(reference, withShelf(signal, gain)));
      const scores = scoresOf(reference, version);
      expect(scores.tone).toBeLessThan(last);
      expect(scores.tempo).toBeGreaterThanOrEqual(97);
      expect(scores.loudness).toBeGreaterThanOrEqual(97);
      last = scores.tone!;
    }
    expect(last).toBeLessThan(60);
  });

  it("holds what is asked for against the style in the reference's place", () => {
    const at = (lufs: number): TrackMeasures => ({
      ...reference,
      loudness: { ...reference.loudness, integratedLufs: lufs },
    });
    const tracks = [0, 1, 2, 3, 4].map((i) => figuresOfMix(at(-14 + i)));
    const style = (aspects: StyleTarget["aspects"]) => ({ yardstick: yardstickOf(tracks), aspects });
    const compared = (version: TrackMeasures, aspects: StyleTarget["aspects"]) =>
      compareMixes(reference, version, { style: style(aspects) }).aspects.map(({ score }) => score);
    const loudness = mixAspects.indexOf("loudness");
    // By hand: a tenth of the way along −14 to −10 is −13.6.
    expect(compared(at(-12), ["loudness"])[loudness]).toBe(100);
    expect(compared(at(-13.6 - 2), ["loudness"])[loudness]).toBeCloseTo(
      scoreOf(2, measureRules.integratedLoudness),
      6,
    );
    // Nothing else moves, and without the style it is the reference that counts.
    const plain = compareMixes(reference, at(-12)).aspects.map(({ score }) => score);
    expect(plain[loudness]).toBeCloseTo(
      scoreOf(-12 - reference.loudness.integratedLufs!, measureRules.integratedLoudness),
      6,
    );
    expect(compared(at(-12), ["loudness"]).filter((_, i) => i !== loudness)).toEqual(
      plain.filter((_, i) => i !== loudness),
    );
    // The same spectrum is within every range that it made; one with a shelf is not.
    const tone = mixAspects.indexOf("tone");
    expect(compared(reference, ["tone", "width"])[tone]).toBe(100);
    expect(compared(measured(withShelf(signal, 8)), ["tone"])[tone]).toBeLessThan(70);
    // What the style has and a version lacks counts.
    const dull = changed(signal, (samples) => {
      for (let i = 0; i < 4; i++) applyBiquad(designBiquad("lowPass", signal.sampleRate, 1500, 0.7), samples);
      return samples;
    });
    const { toneCurve } = compareMixes(reference, measured(dull), { style: style(["tone"]) });
    const top = toneCurve.find(({ low, high }) => low <= 8000 && high > 8000)!;
    expect(top.weight).toBe(1);
    expect(top.gap).toBeLessThan(-30);
    // Too few tracks say nothing: the reference counts.
    const few = { yardstick: yardstickOf(tracks.slice(0, 2)), aspects: styleAspects };
    expect(compareMixes(reference, at(-12), { style: few }).aspects.map(({ score }) => score)).toEqual(plain);
  });

  it("lets another tempo alone move tempo and hardly anything else", () => {
    const scores = scoresOf(reference, measured(music(122.4), 122.4));
    expect(scores.tempo).toBeCloseTo(scoreOf(2, measureRules.tempo), -1);
    for (const other of ["loudness", "dynamics", "tone"]) expect(scores[other]).toBeGreaterThanOrEqual(97);
  });

  it("lets hard limiting move dynamics and punch", () => {
    // Peaks pressed flat, then brought to the same loudness.
    const pressed = changed(signal, (samples) => samples.map((x) => max(-0.12, min(0.12, x))));
    const scores = scoresOf(reference, measured(matchedTo(reference, pressed)));
    expect(scores.dynamics).toBeLessThan(90);
    expect(scores.punch).toBeLessThan(80);
    expect(scores.loudness).toBeGreaterThanOrEqual(97);
    expect(scores.tempo).toBeGreaterThanOrEqual(97);
  });

  it("changes signs, not sizes, when the sides are exchanged", () => {
    const version = measured(withShelf(signal, 5));
    const plans = { chordOverlap: 0.8, formOverlap: 0.75 };
    const drums = (a: number, b: number) => ({
      pattern: 0.9,
      timing: 0.012,
      accents: 3,
      swing: { reference: a, version: b },
    });
    const notes = { overlap: 0.7, expected: 0.9 };
    const there = compareMixes(reference, version, {
      semitones: 2,
      plans,
      drums: drums(57, 50),
      low: lowGaps({ notes, lengthOctaves: 1 }, { kickLengthBeats: 0.6 }),
    });
    const back = compareMixes(version, reference, {
      semitones: -2,
      plans,
      drums: drums(50, 57),
      low: lowGaps({ notes, lengthOctaves: -1, reference: { ...figures, kickLengthBeats: 0.6 } }),
    });
    // Twice as long is an octave, 0.85 more than is heard; half is lost every 0.5.
    const kick = there.aspects.find(({ name }) => name === "lowEnd")!.measures[0]!;
    expect(kick.score).toBeCloseTo(100 * 2 ** (-0.85 / 0.5), 6);
    // 12 ms are 7 more than the 5 that nobody hears; half is lost every 15.
    expect(there.aspects.find(({ name }) => name === "timing")!.score).toBeCloseTo(100 * 2 ** (-7 / 15), 6);
    expect(there.aspects.find(({ name }) => name === "pattern")!.score).toBeCloseTo(90, 6);
    expect(there.aspects.find(({ name }) => name === "form")!.score).toBe(75);
    for (const name of mixAspects) {
      const a = there.aspects.find((x) => x.name === name)!;
      const b = back.aspects.find((x) => x.name === name)!;
      expect(abs(a.score! - b.score!)).toBeLessThan(1e-6);
      a.measures.forEach((measure, i) => {
        const other = b.measures[i]!;
        // A distance and a share in common have no direction.
        const distances = ["tone", "width", "hitTiming", "accents", "bassNotes"];
        const hasSign = !distances.includes(measure.name) && !measureRules[measure.name].isShare;
        if (hasSign) expect(measure.gap).toBeCloseTo(-other.gap!, 9);
      });
    }
  });

  it("hears a stronger low end in the focus of the kick, less in that of the hats", () => {
    const boosted = measured(
      matchedTo(
        reference,
        changed(signal, (samples) => {
          applyBiquad(designBiquad("lowShelf", signal.sampleRate, 130, 0.7, 6), samples);
          return samples;
        }),
      ),
    );
    const [a, b] = [reference, boosted];
    const gap = (fromHz: number, toHz: number) =>
      compareElements(a, b, [{ fromHz, toHz }])[0]!.aspects[0]!.measures[0]!.gap!;
    expect(gap(40, 110)).toBeGreaterThan(3);
    // The mix as a whole became louder, so the hats stand lower against it, but by less.
    expect(gap(4000, 9000)).toBeLessThan(0);
    expect(abs(gap(4000, 9000))).toBeLessThan(gap(40, 110));
  });

  it("has no loudness range under a minute, and says why", () => {
    const brief = { ...reference, loudness: { ...reference.loudness, measuredSeconds: 20 } };
    const dynamics = compareMixes(reference, brief).aspects.find((x) => x.name === "dynamics")!;
    const range = dynamics.measures.find((m) => m.name === "loudnessRange")!;
    expect(range.score).toBeNull();
    expect(range.remark).toMatch(/under a minute/);
    expect(dynamics.score).toBe(100);
  });

  it("reads half the tempo as the same beat, and says so", () => {
    const half = { ...reference, bpm: reference.bpm! / 2 };
    const tempo = compareMixes(reference, half).aspects[0]!;
    expect(tempo.score).toBe(100);
    expect(tempo.measures[0]!.remark).toMatch(/half/);
  });

  it("leaves out everything that silence has no value for", async () => {
    const silent = await analysisOf(stereo(new Float32Array(22050 * 2), new Float32Array(22050 * 2), 22050));
    expect(silent.silent).toBe(true);
    expect(JSON.stringify(silent)).not.toMatch(/NaN|Infinity/);
    const compared = compareMixes(reference, measuresOfWhole(silent), {
      weights: defaultAspectWeights,
    });
    for (const aspect of compared.aspects) expect(aspect.score).toBeNull();
    expect(compared.match).toBeNull();
  });
});

describe("the whole analysis", () => {
  it("tells its stages in order, up to the whole", async () => {
    const told: [string, number][] = [];
    await analyse(stereo(whiteNoise(-20, 2), whiteNoise(-20, 2, 44100, 9)), (stage, done) =>
      told.push([stage, done]),
    );
    expect([...new Set(told.map(([stage]) => stage))]).toEqual(analysisStages.map((stage) => stage.name));
    told.slice(1).forEach(([, done], i) => expect(done).toBeGreaterThanOrEqual(told[i]![1] - 1e-9));
    expect(told.at(-1)![1]).toBe(1);
  });

  it("finds the lead-in to the sample", async () => {
    const samples = new Float32Array(44100 * 2);
    samples.fill(0.5, round(0.75 * 44100));
    expect((await analysisOf(stereo(samples, samples))).leadInSeconds).toBeCloseTo(0.75, 4);
  });

  it("folds five channels down to two (ITU-R BS.775: centre and surrounds at −3 dB)", () => {
    const one = (value: number) => new Float32Array(4).fill(value);
    const [left, right] = downmix({
      sampleRate: 48000,
      channels: [one(0.1), one(0.2), one(0.4), one(1), one(0.3), one(0.5)],
      layout: ["left", "right", "centre", "lfe", "leftSurround", "rightSurround"],
    });
    expect(left[0]).toBeCloseTo(0.1 + 0.7071 * 0.4 + 0.7071 * 0.3, 4);
    expect(right[0]).toBeCloseTo(0.2 + 0.7071 * 0.4 + 0.7071 * 0.5, 4);
  });
});
