/** Typical hits out of a mix whose one-shots are known, what single hits measure, and how they rank. */
import { stroke } from "../drums/kit";
import type { DrumVoice } from "../drums/voices";
import { loadFft } from "../dsp/fft";
import { knownKick, knownMix } from "../testing/knownMix";
import { seeded, whiteNoise } from "../testing/signals";
import { adjusted, measureHit, oneShot, rankCandidates, typicalHits, type OneShot } from ".";

const { abs, exp, log2, max, min, PI, sin } = Math;
const rate = 44100;
beforeAll(loadFft);

/** Highest correlation within 15 ms. */
function likeness(a: Float32Array, b: Float32Array): number {
  const length = min(a.length, b.length) - 700;
  let [best, powerA, powerB] = [0, 0, 0];
  for (let i = 0; i < length; i++) powerA += b[i]! * b[i]!;
  for (let lag = 0; lag < 700; lag++) {
    let sum = 0;
    powerB = 0;
    for (let i = 0; i < length; i++) {
      sum += a[i + lag]! * b[i]!;
      powerB += a[i + lag]! * a[i + lag]!;
    }
    best = max(best, sum / (powerA * powerB) ** 0.5);
  }
  return best;
}

describe("typical hits of a mix", () => {
  const { samples, hits, bassStarts, sounds } = knownMix();
  const heard = () => typicalHits([samples, samples], rate, hits, bassStarts);
  let found: ReturnType<typeof typicalHits>;
  beforeAll(() => {
    found = heard();
  });
  const of = (voice: DrumVoice) => found.find((own) => own.voice === voice)!;

  it("are those of every drum, with the strokes that they are made of", () => {
    expect(found.map(({ voice }) => voice)).toEqual(["kick", "snare", "hat"]);
    for (const { voice, count, used, clean } of found) {
      expect(count).toBe(hits.filter((hit) => hit.voice === voice).length);
      expect(used.length).toBeLessThanOrEqual(40);
      expect(hits.filter(({ time }) => used.includes(time)).every((hit) => hit.voice === voice)).toBe(true);
      expect(clean).toBeGreaterThan(0);
      expect(clean).toBeLessThanOrEqual(1);
    }
  });

  it.each([
    ["kick", 0.95],
    ["snare", 0.9],
    ["hat", 0.8],
  ] as const)("the %s is the one that was struck", (voice, least) => {
    expect(likeness(of(voice).samples[0], sounds[voice]!)).toBeGreaterThan(least);
  });

  it("have its pitch and length", () => {
    const own = of("kick");
    const measured = measureHit(own.samples, rate, "kick", own.known);
    const truth = measureHit([sounds.kick!, sounds.kick!], rate, "kick");
    expect(abs(measured.fundamentalHz! - truth.fundamentalHz!)).toBeLessThan(3);
    expect(abs(measured.decay.to20! / truth.decay.to20! - 1)).toBeLessThan(0.15);
  });

  it("leave out strokes on request", () => {
    const out = new Set(of("snare").used.slice(0, 3));
    const other = typicalHits([samples, samples], rate, hits, bassStarts, out);
    expect(other.find(({ voice }) => voice === "snare")!.used.filter((time) => out.has(time))).toEqual([]);
  });

  it("are none where a drum is struck three times", () => {
    const few = hits.filter(({ voice }) => voice === "snare").slice(0, 3);
    expect(typicalHits([samples, samples], rate, few, [])).toEqual([]);
  });
});

describe("a single hit", () => {
  const decaying = (hz: number, seconds: number) =>
    Float32Array.from({ length: rate }, (_, i) => sin((2 * PI * hz * i) / rate) * exp((-i / rate) * seconds));

  it.each([48, 61.7, 110])("has the pitch of a decaying sine of %f Hz, to a quarter of a hertz", (hz) => {
    const sound = decaying(hz, 12);
    expect(abs(measureHit([sound, sound], rate, "kick").fundamentalHz! - hz)).toBeLessThan(0.25);
  });

  // An ideal round membrane also sounds at 1.593 times its lowest mode (Fletcher and Rossing, The Physics of
  // Musical Instruments, 1998), at a place off its middle about as strongly.
  it.each([
    ["kick", 54, 0.9],
    ["kick", 61, 1.1],
    ["snare", 178, 1.4],
    ["snare", 229, 0.8],
  ] as const)(
    "of a skin, a %s, has the pitch of its lowest mode, %d Hz, beside one %f as strong",
    (voice, hz, other) => {
      const skin = decaying(hz, 20).map(
        (x, i) => x + other * sin((2 * PI * 1.593 * hz * i) / rate) * exp((-i / rate) * 22),
      );
      const late = new Float32Array(rate);
      late.set(skin.subarray(0, rate - 400), 400);
      for (const sound of [skin, late]) {
        const { fundamentalHz } = measureHit([sound, sound], rate, voice);
        expect(abs(12 * log2(fundamentalHz! / hz))).toBeLessThan(0.3);
      }
    },
  );

  it.each([8000, 96000, 176400, 192000, 384000])("is the same at a sample rate of %d Hz", (own) => {
    const sound = Float32Array.from(
      { length: own },
      (_, i) => sin((2 * PI * 55 * i) / own) * exp((-i / own) * 12),
    );
    const { fundamentalHz, decay } = measureHit([sound, sound], own, "kick");
    expect(abs(fundamentalHz! - 55)).toBeLessThan(0.25);
    expect(abs(decay.to20! - 192)).toBeLessThan(8);
  });

  it.each([1, 200, rate])("has no pitch where %d samples are silent", (length) => {
    const silence = new Float32Array(length);
    for (const voice of ["kick", "snare"] as const)
      expect(measureHit([silence, silence], rate, voice).fundamentalHz).toBeNull();
  });

  it("falls by 20 and 40 dB when an exponential does", () => {
    // e^(−12 t): 20 dB in 192 ms, 40 dB in 384 ms.
    const sound = decaying(200, 12);
    const { decay, tail } = measureHit([sound, sound], rate, "snare");
    expect(abs(decay.to20! - 192)).toBeLessThan(6);
    expect(abs(decay.to40! - 384)).toBeLessThan(6);
    expect(tail).toBe("plain");
  });

  it("is told from one that is cut off, and from one in a room", () => {
    const gated = decaying(200, 4).map((x, i) => (i < 0.2 * rate ? x : 0));
    expect(measureHit([gated, gated], rate, "snare").tail).toBe("gated");
    const roomy = decaying(200, 25).map((x, i) => x + 0.05 * sin(i / 9) * exp((-i / rate) * 4));
    expect(measureHit([roomy, roomy], rate, "snare").tail).toBe("room");
  });

  it("stands where it is panned, is as bright as its noise, and has no pitch where it is noise", () => {
    const noise = whiteNoise(-12, 0.3, rate, 4).map((x, i) => x * exp((-i / rate) * 20));
    const measured = measureHit([noise.map((x) => 0.5 * x), noise], rate, "snare");
    expect(measured.position).toBeCloseTo(1 / 3, 1);
    expect(measured.brightnessHz).toBeGreaterThan(8000);
    expect(measured.noisiness).toBeGreaterThan(0.4);
    expect(measured.fundamentalHz).toBeNull();
  });
});

describe("candidates", () => {
  const shotOf = (sound: Float32Array, voice: DrumVoice = "kick") => oneShot([sound, sound], rate, voice)!;
  const variant = (pitch: number, decaySeconds: number, sweep = 3.5) =>
    stroke({ ...knownKick, tone: { ...knownKick.tone, pitch, decaySeconds, sweep } }, rate, seeded(5));
  let target: OneShot;
  beforeAll(() => {
    target = shotOf(variant(52, 0.09));
  });

  it("are the nearer the less they differ, whatever their level", () => {
    const offered: [name: string, OneShot][] = [
      ["far", shotOf(variant(85, 0.25))],
      ["same", shotOf(variant(52, 0.09).map((x) => 0.1 * x))],
      ["longer", shotOf(variant(52, 0.13))],
    ];
    const ranked = rankCandidates(
      target,
      "kick",
      offered.map(([name, shot]) => ({ name, shot })),
    );
    expect(ranked.map(({ name }) => name)).toEqual(["same", "longer", "far"]);
    expect(ranked[0]!.closeness.score).toBeGreaterThan(97);
    expect(ranked[2]!.closeness.score).toBeLessThan(50);
    expect(ranked[1]!.closeness.aspects.find(({ name }) => name === "length")!.gap).toBeGreaterThan(0.3);
  });

  it("are told by how much they are off, and what would mend it", () => {
    const tuned = shotOf(adjusted(target, { semitones: 3, decay: 1 })[0]);
    const [ranked] = rankCandidates(target, "kick", [{ shot: tuned }]);
    expect(ranked!.suggestion!.semitones).toBeCloseTo(-3, 0);
    expect(ranked!.suggestion!.score).toBeGreaterThan(ranked!.closeness.score + 5);
  });

  it("are known again at another sample rate", () => {
    const sound = stroke({ ...knownKick, noise: { ...knownKick.noise, level: 0 } }, 48000, seeded(5));
    const own = stroke({ ...knownKick, noise: { ...knownKick.noise, level: 0 } }, rate, seeded(5));
    const [ranked] = rankCandidates(shotOf(own), "kick", [{ shot: oneShot([sound, sound], 48000, "kick")! }]);
    expect(ranked!.likeness).toBeGreaterThan(0.98);
    expect(ranked!.closeness.score).toBeGreaterThan(97);
  });

  it("begin where they sound; silence is none", () => {
    const late = new Float32Array(rate);
    late.set(variant(52, 0.09).subarray(0, rate / 2), 8000);
    expect(rankCandidates(target, "kick", [{ shot: shotOf(late) }])[0]!.closeness.score).toBeGreaterThan(95);
    expect(oneShot([new Float32Array(1000), new Float32Array(1000)], rate, "kick")).toBeNull();
  });
});
