/** Dips at the kicks from levels that are written down, so that depth and return are known to the frame. */
import { envelopeBandCount } from "./levels";
import {
  dipOf,
  framesAfter,
  framesBefore,
  measurePumping,
  pumpingGap,
  pumpingSchema,
  typicalCurve,
  type Pumping,
} from "./pumping";

const { abs, exp, max } = Math;
const framesPerSecond = 100;
const beat = 0.5;
const beatFrames = 50;
const kicks = Array.from({ length: 40 }, (_, i) => 1 + i * beat);
const frames = 2300;

/** Levels of a sound held at one level that is taken down at each kick, by band. */
function levels(gain: (framesSinceKick: number, band: number) => number, hold = -30): Float32Array {
  const own = new Float32Array(frames * envelopeBandCount).fill(hold);
  kicks.forEach((time, i) => {
    const first = Math.round(time * framesPerSecond);
    const last = i + 1 < kicks.length ? Math.round(kicks[i + 1]! * framesPerSecond) : first + beatFrames;
    for (let frame = first; frame < last; frame++)
      for (let b = 0; b < envelopeBandCount; b++)
        own[frame * envelopeBandCount + b] = hold + gain(frame - first, b);
  });
  return own;
}
const measured = (gain: (t: number, band: number) => number, hold?: number): Pumping =>
  measurePumping(levels(gain, hold), framesPerSecond, kicks, beat)!;

/** A dip of so many dB that is made up in a straight line. */
const ramp = (depth: number, length: number) => (t: number) => -depth * max(0, 1 - t / length);

describe("pumping from known levels", () => {
  it("is the mean level around all kicks, against that before them", () => {
    const { typical, kicks: counted } = measured(ramp(6, 20));
    expect(counted).toBe(kicks.length);
    expect(typical).toHaveLength(envelopeBandCount);
    for (const row of typical) {
      expect(row).toHaveLength(framesBefore + framesAfter + 1);
      // Nothing before it, all of it at the kick, half of it after half the time.
      expect(row[0]).toBe(0);
      expect(row[framesBefore]).toBe(-6);
      expect(row[framesBefore + 10]).toBe(-3);
      expect(row[framesBefore + 20]).toBe(0);
      // Nobody can say what follows the next kick.
      expect(row.at(-1)).toBeNull();
    }
  });

  it.each([
    [4, 15],
    [8, 25],
    [12, 35],
  ])("tells a dip of %d dB that is over in %d frames", (depth, length) => {
    const { ducking } = measured(ramp(depth, length));
    for (const band of ["low", "high"] as const) {
      // A kick would cover the first moment; carried back along its rise the dip is as deep as it was.
      expect(abs(ducking[band]!.depthDb - depth)).toBeLessThan(0.8);
      expect(abs(ducking[band]!.recoveryMs - 9 * length)).toBeLessThanOrEqual(15);
      expect(ducking[band]!.beats).toBeCloseTo(ducking[band]!.recoveryMs / 500, 1);
    }
  });

  it("tells the low end apart from all else", () => {
    const { ducking } = measured((t, band) => (band === 0 ? ramp(9, 20)(t) : 0));
    expect(ducking.low!.depthDb).toBeGreaterThan(8);
    expect(ducking.high).toBeNull();
  });

  it("is none where nothing moves, where only the kick is heard, and where all falls and stays", () => {
    expect(measured(() => 0).ducking).toEqual({ low: null, high: null });
    expect(measured((t) => 10 * exp(-t / 4)).ducking).toEqual({ low: null, high: null });
    expect(measured((t) => -t / 4).ducking).toEqual({ low: null, high: null });
  });

  it("takes no chord that is struck between the kicks for a release", () => {
    expect(measured((t) => (t >= 25 ? 0 : -8)).ducking.high).toBeNull();
  });

  it("does not depend on how loud the whole is", () => {
    const [loud, soft] = [measured(ramp(6, 20), -12), measured(ramp(6, 20), -50)];
    expect(soft.typical).toEqual(loud.typical);
    expect(soft.ducking).toEqual(loud.ducking);
  });

  it("needs six kicks that can be seen from before to after", () => {
    const own = levels(ramp(6, 20));
    expect(measurePumping(own, framesPerSecond, kicks.slice(0, 5), beat)).toBeNull();
    expect(measurePumping(own, framesPerSecond, kicks.slice(0, 6), beat)).not.toBeNull();
    // At the very beginning and end there is nothing to compare with.
    const beyond = [0.01, 0.02, 0.03, 0.04, 22.98, 22.99];
    expect(measurePumping(own, framesPerSecond, beyond, beat)).toBeNull();
  });

  it("leaves out kicks that follow on another's heels where others are enough", () => {
    const doubled = kicks.flatMap((time) => [time, time + 0.12]);
    const { kicks: counted, typical } = measurePumping(levels(ramp(6, 20)), framesPerSecond, doubled, beat)!;
    // Those on the beat are 0.38 s behind the others: none has rested, so all that can be seen count.
    expect(counted).toBeGreaterThan(kicks.length);
    const spread = kicks.flatMap((time, i) => (i % 4 === 3 ? [time, time + 0.25] : [time]));
    const some = measurePumping(levels(ramp(6, 20)), framesPerSecond, spread, beat)!;
    expect(some.kicks).toBeLessThanOrEqual(kicks.length);
    expect(some.typical[3]![framesBefore]).toBe(-6);
    expect(typical).toHaveLength(envelopeBandCount);
  });

  it("can be stored and read", () => {
    const own = measured(ramp(6, 20));
    expect(pumpingSchema.parse(JSON.parse(JSON.stringify(own)))).toEqual(own);
    expect(pumpingSchema.safeParse({ ...own, typical: own.typical.slice(1) }).success).toBe(false);
    expect(pumpingSchema.safeParse({ ...own, kicks: -1 }).success).toBe(false);
  });
});

describe("a dip", () => {
  const curve = (depth: number, length: number) =>
    Array.from({ length: 40 }, (_, t) => ramp(depth, length)(t));

  it("is over when nine tenths of it are made up", () => {
    expect(dipOf(curve(8, 16), 100, 0.5, 1)!.recoveryMs).toBe(150);
    expect(dipOf(curve(8, 16), 200, 0.5, 1)!.recoveryMs).toBe(75);
  });

  it("is none below the least depth, nor where too little of it is known", () => {
    expect(dipOf(curve(1.5, 20), 100, 0.5, 2)).toBeNull();
    // Digital silence between the strokes of a drum by itself.
    expect(dipOf(curve(180, 20), 100, 0.5, 2)).toBeNull();
    expect(dipOf(curve(10, 20).slice(0, 6), 100, 0.5, 2)).toBeNull();
    expect(dipOf([0, -8, -6, null, 0, 0, 0, 0, 0, 0, 0, 0], 100, 0.5, 2)).toBeNull();
  });

  it("that never comes back returns with the next kick", () => {
    const stays = Array.from({ length: 30 }, () => -5);
    expect(dipOf(stays, 100, 0.5, 1)!.recoveryMs).toBe(290);
  });

  it("is carried back along its rise where the kick covers its beginning, but to twice its depth at most", () => {
    const covered = curve(10, 20).map((level, t) => (t < 6 ? 3 : level));
    expect(dipOf(covered, 100, 0.5, 1)!.depthDb).toBeCloseTo(10, 0);
    const late = curve(10, 20).map((level, t) => (t < 15 ? 3 : level));
    expect(dipOf(late, 100, 0.5, 1)!.depthDb).toBeLessThanOrEqual(5.1);
  });
});

describe("pumping of two sides", () => {
  const steady = measured(() => 0);
  const pumps = measured(ramp(6, 20));

  it("is more in the one that dips, less in the other, and none where both do the same", () => {
    const more = pumpingGap(steady, pumps, beat);
    expect(more.gapDb).toBeGreaterThan(4.5);
    expect(more.recoveryMs).toBeGreaterThan(120);
    const less = pumpingGap(pumps, steady, beat);
    expect(less.gapDb).toBeCloseTo(-more.gapDb, 5);
    expect(pumpingGap(pumps, pumps, beat)).toEqual({ gapDb: 0, recoveryMs: null });
    expect(pumpingGap(steady, steady, beat)).toEqual({ gapDb: 0, recoveryMs: null });
  });

  it("is what the one has beyond the other", () => {
    const deeper = measured(ramp(10, 20));
    const { gapDb } = pumpingGap(pumps, deeper, beat);
    expect(gapDb).toBeGreaterThan(2.5);
    expect(gapDb).toBeLessThan(5.5);
  });

  it("is seen under a kick that covers a few bands, and not told from one band alone", () => {
    const kick = (t: number, band: number) => (band < 4 ? 20 * exp(-t / 5) : 0);
    const both = pumpingGap(
      measured(kick),
      measured((t, band) => kick(t, band) + (band < 4 ? 0 : ramp(6, 20)(t))),
      beat,
    );
    expect(both.gapDb).toBeGreaterThan(4.5);
    const lonely = measured((t, band) => (band === 9 ? ramp(6, 20)(t) : 0));
    expect(pumpingGap(steady, lonely, beat).gapDb).toBe(0);
  });

  it("is none where one part plays otherwise: softer, later, or something else between the kicks", () => {
    // A hat in the upper bands that is struck with each kick, as loud as it was, softer, 25 ms late.
    const hat = (gain: number, late = 0) =>
      measured((t, band) => (band < 14 || t < late ? 0 : max(0, 12 + gain - 2 * (t - late))));
    expect(pumpingGap(hat(0), hat(-6), beat).gapDb).toBe(0);
    expect(pumpingGap(hat(0), hat(0, 2), beat).gapDb).toBe(0);
    // A chord that is missing from the middle of each beat on.
    const held = measured((t) => (t > 14 && t < 30 ? -8 : 0));
    expect(pumpingGap(steady, held, beat).gapDb).toBe(0);
  });

  it("is drawn as the lower part of the bands", () => {
    const drawn = typicalCurve(pumps, "high");
    expect(drawn).toHaveLength(framesBefore + framesAfter + 1);
    expect(drawn[framesBefore]).toBe(-6);
    expect(typicalCurve(steady, "low").filter((level) => level !== null && level !== 0)).toEqual([]);
    expect(drawn.at(-1)).toBeNull();
  });
});
