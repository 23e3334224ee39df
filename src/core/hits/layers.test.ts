/** Layers of known make: what a sound lacks, and how another is laid over it. */
import { loadFft } from "../dsp/fft";
import { practiceKit, stroke, type Drum } from "../drums/kit";
import { seeded } from "../testing/signals";
import { oneShot, type OneShot } from "./candidates";
import { bestLayers, layered, placed } from "./layers";
import { lacking } from "./lacks";

const rate = 44100;
beforeAll(loadFft);

const made = (drum: Drum, voice: "kick" | "hat" | "snare" = "kick", seed = 3): OneShot => {
  const sound = stroke(drum, rate, seeded(seed));
  return oneShot([sound, sound], rate, voice)!;
};
const { kick } = practiceKit;
const plain: Drum = { ...kick, noise: { ...kick.noise, level: 0 } };
const clicking: Drum = { ...kick, noise: { ...kick.noise, level: 1.2, decaySeconds: 0.012 } };

describe("what a sound lacks", () => {
  it("is its top where the drum has a click and it has none, and nothing where it is the drum", () => {
    const lacks = lacking(made(clicking).measures, made(plain).measures);
    expect(lacks.length).toBeGreaterThan(0);
    expect(lacks.every(({ fromHz }) => fromHz > 500)).toBe(true);
    expect(lacks.at(-1)!.toHz).toBeGreaterThan(5000);
    expect(lacking(made(clicking).measures, made(clicking).measures)).toEqual([]);
  });

  it("is its low end where it is a hat", () => {
    expect(lacking(made(kick).measures, made(practiceKit.hat, "hat").measures)[0]!.toHz).toBeLessThan(1000);
  });
});

describe("a layer", () => {
  it("is moved and turned so that it adds and does not cancel", () => {
    const first = made(plain).samples;
    const late = Math.round(0.003 * rate);
    const turned = first.map((channel) => {
      const result = new Float32Array(channel.length + late);
      channel.forEach((x, i) => (result[i + late] = -x));
      return result;
    }) as [Float32Array, Float32Array];
    const setting = placed(first, turned, rate);
    expect(setting.inverted).toBe(true);
    expect(setting.offsetMs).toBeCloseTo(-3, 1);
    const sum = layered(first, turned, rate, { ...setting, gainDb: 0 });
    const peak = (samples: Float32Array) => samples.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
    expect(peak(sum[0])).toBeCloseTo(2 * peak(first[0]), 2);
  });

  it("that fills what is missing is found among others, and brings the sum nearer", () => {
    const target = made(clicking);
    const first = made(plain);
    const tick: Drum = { ...clicking, tone: { ...kick.tone, level: 0 } };
    const others = [
      { name: "low", shot: made({ ...plain, tone: { ...kick.tone, pitch: 70 } }) },
      { name: "tick", shot: made(tick, "kick", 8) },
    ];
    const [best] = bestLayers(target, "kick", first, others);
    expect(best!.name).toBe("tick");
    expect(best!.score).toBeGreaterThan(85);
    expect(best!.gainDb).toBeLessThan(0);
    // There is nothing to be gained on what is right already.
    expect(bestLayers(target, "kick", target, others)).toEqual([]);
  });
});
