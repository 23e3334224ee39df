import type { DrumHit } from "../drums/hits";
import { loadFft } from "../dsp/fft";
import { whiteNoise } from "../testing/signals";
import { envelopeBandCount, envelopeBandEdge, envelopeRow, levelsOfBoth, powerOfLevel } from "./levels";
import { bandEnvelopes } from "./bandEnvelopes";
import { measureEnvelopes, pumpingGap, type EnvelopeMeasures } from ".";

const { abs, cos, exp, floor, log10, max, PI, pow, round, SQRT1_2, sin } = Math;
const rate = 44100;
/** White noise of full scale, other for each seed. */
const noise = (samples: number, seed: number) => whiteNoise(-4.77, samples / rate, rate, seed);
const beat = 0.5;
const seconds = 16;
const length = seconds * rate;
const kicks = Array.from({ length: 2 * seconds - 3 }, (_, i) => 0.5 + i * beat);

beforeAll(loadFft);

const hit = (time: number, voice: DrumHit["voice"]): DrumHit => ({
  time,
  voice,
  velocity: 0.8,
  confidence: 0.9,
});

/** A held chord of partials, or noise: what is ducked. */
const pad = Float32Array.from({ length }, (_, i) =>
  [220, 331, 442, 660, 1100, 2200, 3300, 5000, 8000].reduce(
    (x, hz) => x + 0.03 * sin((2 * PI * hz * i) / rate),
    0,
  ),
);
const kickSound = Float32Array.from({ length: floor(0.3 * rate) }, (_, i) => {
  const t = i / rate;
  return 0.7 * sin(2 * PI * (50 * t + 4 * (1 - exp(-40 * t)))) * exp(-12 * t);
});
const clicks = noise(floor(0.02 * rate), 3).map((x, i) => 0.3 * x * exp((-300 * i) / rate));

function struck(base: Float32Array, times: readonly number[], sound: Float32Array, gain = 1): Float32Array {
  const result = Float32Array.from(base);
  for (const time of times) {
    const first = round(time * rate);
    for (let i = 0; i < sound.length && first + i < length; i++) result[first + i]! += gain * sound[i]!;
  }
  return result;
}

/** Pad and kicks, the pad ducked by a shape that is 1 at the kick and 0 when it is over. */
function pumped(depthDb: number, shape: (seconds: number) => number): EnvelopeMeasures {
  const ducked = pad.map((x, i) => {
    const t = i / rate - kicks[0]!;
    const own = t < 0 || t > kicks.length * beat ? 0 : shape(t % beat);
    return x * pow(10, (-depthDb * max(0, own)) / 20);
  });
  const mix = struck(struck(ducked, kicks, kickSound), kicks, clicks);
  return measureEnvelopes(
    bandEnvelopes([mix, mix], rate),
    kicks.map((time) => hit(time, "kick")),
    beat,
  );
}

describe("band envelopes", () => {
  it("hold the power of each side in its band (Parseval)", () => {
    const tone = Float32Array.from({ length: rate }, (_, i) => 0.5 * sin((2 * PI * 1000 * i) / rate));
    const { levels } = bandEnvelopes([tone, tone.map((x) => x / 10)], rate);
    const row = 50 * envelopeRow;
    const band = Array.from({ length: envelopeBandCount }, (_, b) => b).findIndex(
      (b) => envelopeBandEdge(b + 1) > 1000,
    );
    const decibels = (at: number) => 10 * log10(powerOfLevel[levels[at]!]!);
    expect(abs(decibels(row + band) - 10 * log10(0.125))).toBeLessThan(0.5);
    expect(abs(decibels(row + envelopeBandCount + band) - 10 * log10(0.125) + 20)).toBeLessThan(0.5);
  });

  it("are summed to what both sides have together", () => {
    const tone = noise(rate, 5).map((x) => 0.1 * x);
    const envelopes = bandEnvelopes([tone, tone], rate);
    const both = levelsOfBoth(envelopes);
    for (const b of [3, 10, 18]) {
      const left = 10 * log10(powerOfLevel[envelopes.levels[40 * envelopeRow + b]!]!);
      expect(both[40 * envelopeBandCount + b]! - left).toBeCloseTo(10 * log10(2), 4);
    }
  });
});

describe("pumping", () => {
  let plain: EnvelopeMeasures;
  beforeAll(() => {
    plain = pumped(0, () => 0);
  });

  it.each([
    ["evenly", 6, 120, (t: number) => 1 - t / 0.12],
    ["evenly", 9, 200, (t: number) => 1 - t / 0.2],
    ["evenly", 12, 300, (t: number) => 1 - t / 0.3],
    ["along a cosine", 8, 250, (t: number) => (t < 0.25 ? 0.5 + 0.5 * cos((PI * t) / 0.25) : 0)],
  ] as const)("let go %s: %d dB over %d ms are found with their size", (_, depth, ms, shape) => {
    const own = pumped(depth, shape);
    const gap = pumpingGap(plain.pumping!, own.pumping!, beat);
    expect(abs(gap.gapDb - depth)).toBeLessThan(1);
    expect(abs(gap.recoveryMs! / ms - 1)).toBeLessThan(0.2);
    const alone = own.pumping!.ducking.high!;
    expect(abs(alone.depthDb - depth)).toBeLessThan(1);
    expect(abs(alone.recoveryMs / ms - 1)).toBeLessThan(0.2);
    // The other way round it is as much less.
    expect(pumpingGap(own.pumping!, plain.pumping!, beat).gapDb).toBe(-gap.gapDb);
  });

  it("is not found where nothing makes way, nor where a chord is struck between the kicks", () => {
    expect(plain.pumping!.ducking).toEqual({ low: null, high: null });
    expect(pumpingGap(plain.pumping!, plain.pumping!, beat)).toEqual({ gapDb: 0, recoveryMs: null });
    const offbeat = pad.map((x, i) => {
      const t = (i / rate) % beat;
      return t < beat / 2 ? x / 30 : x * exp(-6 * (t - beat / 2));
    });
    const mix = struck(offbeat, kicks, kickSound);
    const own = measureEnvelopes(
      bandEnvelopes([mix, mix], rate),
      kicks.map((time) => hit(time, "kick")),
      beat,
    );
    expect(own.pumping!.ducking.high).toBeNull();
  });

  it("is not told of fewer than six kicks", () => {
    const own = measureEnvelopes(
      bandEnvelopes([pad, pad], rate),
      kicks.slice(0, 5).map((time) => hit(time, "kick")),
      beat,
    );
    expect(own.pumping).toBeNull();
  });
});

describe("punch", () => {
  const quiet = pad.map((x) => 0.3 * x);
  const of = (mix: Float32Array) =>
    measureEnvelopes(
      bandEnvelopes([mix, mix], rate),
      kicks.map((time) => hit(time, "snare")),
      beat,
    ).punch!;
  const burst = (decay: number) =>
    noise(floor(0.35 * rate), 7).map((x, i) => 0.3 * x * exp((-decay * i) / rate));

  it("says how much less hits stand out when their peaks are held, and is deaf to gain", () => {
    const open = struck(quiet, kicks, burst(40));
    const before = of(open);
    expect(of(open.map((x) => 0.25 * x)).attackDb).toBeCloseTo(before.attackDb, 0.5);
    const held = of(open.map((x) => (x > 0.1 ? 0.1 : x < -0.1 ? -0.1 : x)));
    expect(held.attackDb).toBeLessThan(before.attackDb - 1);
  });

  it("tells long hits from short ones", () => {
    const short = of(struck(quiet, kicks, burst(60)));
    const long = of(struck(quiet, kicks, burst(15)));
    // By the way noise decays: exp(−2 · decay · t) in power.
    expect(long.sustainDb - short.sustainDb).toBeGreaterThan(8);
  });
});

describe("space", () => {
  const strokes = Array.from({ length: 9 }, (_, i) => 0.5 + 1.6 * i);
  const of = (sound: Float32Array) => {
    const mix = struck(new Float32Array(length), strokes, sound);
    return measureEnvelopes(
      bandEnvelopes([mix, mix], rate),
      strokes.map((time) => hit(time, "snare")),
      0.8,
    ).space.ranges;
  };
  const decaying = (sixty: number, cutAt = Infinity) =>
    noise(floor(1.5 * rate), 11).map((x, i) =>
      i / rate > cutAt ? 0 : 0.5 * x * pow(10, (-3 * i) / rate / sixty),
    );

  it.each([0.3, 0.8, 1.6])("finds a decay of %d s by 60 dB within a fifth", (sixty) => {
    for (const { decaySeconds, gated } of of(decaying(sixty))) {
      expect(abs(decaySeconds! / sixty - 1)).toBeLessThan(0.2);
      expect(gated).toBeLessThan(0.2);
    }
  });

  it("tells a decay that is cut off from one that is not", () => {
    for (const { gated } of of(decaying(1.5, 0.35))) expect(gated).toBeGreaterThan(0.6);
  });

  it("has fuller gaps and later levels the longer the decay", () => {
    const [short, long] = [of(decaying(0.3)), of(decaying(1.6))];
    long.forEach((own, i) => {
      expect(own.lateDb!).toBeGreaterThan(short[i]!.lateDb! + 10);
      expect(own.gapDb!).toBeGreaterThan(short[i]!.gapDb! + 5);
    });
  });
});

describe("places", () => {
  it("are found for hits and for what is held between them", () => {
    const place = (samples: Float32Array, position: number): [Float32Array, Float32Array] => {
      const angle = ((position + 1) * PI) / 4;
      return [samples.map((x) => x * cos(angle)), samples.map((x) => x * sin(angle))];
    };
    const none = new Float32Array(length);
    const burst = noise(floor(0.05 * rate), 9).map((x, i) => 0.5 * x * exp((-80 * i) / rate));
    const hats = kicks.map((time) => time + beat / 2);
    const parts = [
      place(
        pad.map((x) => 0.2 * x),
        0.3,
      ),
      place(struck(none, hats, burst), -0.5),
      place(struck(none, kicks, kickSound), 0),
    ];
    const side = (s: 0 | 1) => none.map((_, i) => parts.reduce((x, part) => x + part[s][i]!, 0));
    const hits = [...kicks.map((time) => hit(time, "kick")), ...hats.map((time) => hit(time, "hat"))].sort(
      (a, b) => a.time - b.time,
    );
    const { positions } = measureEnvelopes(bandEnvelopes([side(0), side(1)], rate), hits, beat);
    const of = (voice: string) => positions.voices.find((own) => own.voice === voice)!.position;
    expect(of("kick")).toBeCloseTo(0, 1);
    expect(abs(of("hat") + 0.5)).toBeLessThan(0.05);
    expect(abs(positions.sustained[2]! - 0.3)).toBeLessThan(0.05);
  });
});

describe("texture", () => {
  const bursts = struck(
    new Float32Array(length),
    kicks,
    noise(floor(0.2 * rate), 13).map((x) => 0.3 * x),
  );
  const of = (mix: Float32Array) => measureEnvelopes(bandEnvelopes([mix, mix], rate), [], beat).texture;

  it("finds the hiss that is left in quiet moments, with its level", () => {
    const floorNoise = noise(length, 17);
    const at = (decibels: number) => of(bursts.map((x, i) => x + pow(10, decibels / 20) * floorNoise[i]!));
    const [soft, loud] = [at(-70), at(-50)];
    expect(loud.hissDb! - soft.hissDb!).toBeCloseTo(20, -0.5);
    expect(loud.floorConfidence).toBeGreaterThan(0.7);
  });

  it("hears that drive adds highs where it is louder", () => {
    const swelling = Float32Array.from({ length }, (_, i) => {
      const level = pow(10, (-20 + 20 * sin((2 * PI * i) / rate / 4)) / 20);
      return level * SQRT1_2 * (sin((2 * PI * 900 * i) / rate) + 0.003 * sin((2 * PI * 3000 * i) / rate));
    });
    const driven = swelling.map((x) => 0.5 * Math.tanh(2 * x));
    expect(abs(of(swelling).brighteningDb!)).toBeLessThan(1);
    expect(of(driven).brighteningDb!).toBeGreaterThan(6);
  });

  it("says nothing of silence", () => {
    const silent = new Float32Array(5 * rate);
    const { texture, punch, positions, space } = measureEnvelopes(
      bandEnvelopes([silent, silent], rate),
      [],
      null,
    );
    expect(texture).toMatchObject({ floorDb: null, hissDb: null, brighteningDb: null });
    expect(punch).toBeNull();
    expect(positions.sustained).toEqual([null, null, null, null]);
    expect(space.ranges.map(({ gapDb }) => gapDb)).toEqual([null, null, null]);
  });
});
