/** How loud lifted strokes are and how long they last, against strokes made so. */
import { whiteNoise } from "../testing/signals";
import { strokeLength } from "./strokeLength";
import { barStrokes, strokeLevels, strokesIn, strokesToCompare, type Stroke } from "./strokes";

const rate = 22050;
const times = Array.from({ length: 12 }, (_, i) => 0.2 + 0.75 * i);
const seconds = 9.2;
const noise = whiteNoise(-12, seconds, rate, 3);

/** Strokes of noise or a tone that fall by 10 dB in some milliseconds, over something else that sounds on. */
function struck(ms: number, { hertz = 0, beside = 0, at = times } = {}): Float32Array {
  const other = whiteNoise(-12, seconds, rate, 8);
  const samples = noise.map((_, i) => beside * other[i]!);
  for (const time of at)
    for (let i = Math.round(time * rate), from = i; i < Math.min(samples.length, from + rate); i++) {
      const t = (i - from) / rate;
      const own = hertz > 0 ? Math.sin(2 * Math.PI * hertz * t) : noise[i]!;
      samples[i]! += own * 10 ** (-t / (2 * (ms / 1000)));
    }
  return samples;
}
const lengthOf = (samples: Float32Array, part: "kick" | "snare" | "hats" = "snare", at = times) =>
  strokeLength(strokesIn(part, [samples, samples], rate, at));

const decaying = (decay: Float32Array): Stroke => ({ time: 0, power: 1, decay });

describe("the length of strokes", () => {
  it.each([40, 100, 250])("is found: %d ms of noise", (ms) => {
    expect(Math.abs(lengthOf(struck(ms))! / ms - 1)).toBeLessThan(0.12);
  });

  it("is that of a low tone, whose swings do not show", () => {
    expect(Math.abs(lengthOf(struck(150, { hertz: 50 }), "kick")! / 150 - 1)).toBeLessThan(0.1);
  });

  it("is the same over what others left in the part", () => {
    const [clean, leaking] = [lengthOf(struck(80))!, lengthOf(struck(80, { beside: 0.05 }))!];
    expect(Math.abs(leaking / clean - 1)).toBeLessThan(0.15);
  });

  it("counts what the strokes set off", () => {
    const samples = struck(60);
    for (const time of times)
      for (let i = Math.round(time * rate); i < Math.min(samples.length, (time + 0.3) * rate); i++)
        samples[i]! += 0.4 * noise[(i + 777) % noise.length]!;
    // 300 ms at −8 dB alone: the area of two thirds of that, as an even decay has it in 165 ms.
    expect(lengthOf(samples)!).toBeGreaterThan(150);
    expect(lengthOf(samples)!).toBeLessThan(200);
  });

  it("does not follow what others play after some of the strokes", () => {
    const samples = struck(60);
    times.forEach((time, k) => {
      if (k % 3 > 0) return;
      for (let i = Math.round((time + 0.3) * rate); i < (time + 0.4) * rate; i++)
        samples[i]! += 0.6 * noise[i]!;
    });
    expect(Math.abs(lengthOf(samples)! / 60 - 1)).toBeLessThan(0.15);
  });

  it("tells a faster decay whose beginning is the same", () => {
    // The first 15 ms as they were, twice as fast from there on.
    const slow = struck(100);
    const fast = slow.slice();
    for (const time of times)
      for (let i = Math.round((time + 0.015) * rate); i < Math.min(fast.length, (time + 0.7) * rate); i++)
        fast[i]! *= 10 ** -((i / rate - time - 0.015) / 0.2);
    expect(Math.log2(lengthOf(fast)! / lengthOf(slow)!)).toBeLessThan(-0.7);
  });

  it("doubles where the strokes last twice as long", () => {
    expect(Math.log2(lengthOf(struck(160))! / lengthOf(struck(80))!)).toBeCloseTo(1, 1);
  });

  it("is not told where strokes follow one another before they are down, of too few, or of silence", () => {
    const quick = Array.from({ length: 40 }, (_, i) => 0.2 + 0.12 * i);
    expect(lengthOf(struck(400, { at: quick }), "hats", quick)).toBeNull();
    expect(lengthOf(struck(120), "snare", times.slice(0, 3))).toBeNull();
    expect(lengthOf(new Float32Array(rate * 9))).toBeNull();
    expect(lengthOf(struck(120), "snare", [])).toBeNull();
  });

  it("is not told of what does not fall, wherever it is loudest", () => {
    const rising = Float32Array.from({ length: 350 }, (_, i) => (i + 1) / 350);
    expect(strokeLength(Array.from({ length: 4 }, () => decaying(rising)))).toBeNull();
    const late = Float32Array.from({ length: 350 }, (_, i) => (i === 300 ? 1 : 1e-4));
    expect(strokeLength(Array.from({ length: 4 }, () => decaying(late)))).toBeNull();
    expect(strokeLength([])).toBeNull();
  });

  it("is the same where a file is heard in passages", () => {
    const samples = struck(150);
    const heard: Stroke[] = [];
    const cut = Math.round(4.5 * rate);
    for (const [from, to] of [
      [0, cut],
      [cut, samples.length],
    ] as const) {
      const own = samples.subarray(from, to);
      const inside = times
        .map((time) => time - from / rate)
        .filter((time) => time >= 0 && time < own.length / rate);
      heard.push(...strokesIn("snare", [own, own], rate, inside));
    }
    expect(Math.abs(strokeLength(heard)! - lengthOf(samples)!)).toBeLessThan(3);
  });
});

describe("how loud strokes are", () => {
  const powersOf = (samples: Float32Array, at = times) =>
    [...strokeLevels(strokesIn("snare", [samples, samples], rate, at)).powers].map((p) => 10 * Math.log10(p));

  it("is about the same however fast they decay, and without what sounds beneath them", () => {
    const [long, short, over] = [struck(400), struck(60), struck(400, { beside: 0.2 })].map((own) =>
      powersOf(own),
    );
    long!.forEach((level, i) => {
      // Noise of −12 dBFS at its beginning.
      expect(Math.abs(level + 12)).toBeLessThan(1.5);
      // In energy they are 8 dB apart; over 30 ms the one falls by 5 dB.
      expect(Math.abs(short![i]! - level)).toBeLessThan(3);
      expect(Math.abs(over![i]! - level)).toBeLessThan(1.5);
    });
  });

  it("is told of strokes that follow one another closely, and at either end of the file", () => {
    const at = [0, 0.06, 0.12, 0.18, seconds - 0.005];
    const heard = strokesIn("hats", [struck(30, { at }), struck(30, { at })], rate, at);
    expect(heard.map(({ time }) => time)).toEqual(at);
    for (const { power } of heard) expect(10 * Math.log10(power)).toBeGreaterThan(-20);
    expect(strokesIn("hats", [noise, noise], rate, [seconds + 1])).toEqual([]);
  });

  it("is gathered by bar, the louder ones above all", () => {
    const strokes = {
      times: Float32Array.of(0.99, 1.5, 2, 2.5, 2.7, 9),
      powers: Float32Array.of(1, 1, 1, 1, 0.01, 5),
    };
    // Bars at 1, 2, 3 and 4 s; the first stroke is a little ahead of its own, the last beyond them.
    const [first, second, third] = barStrokes(strokes, [1, 2, 3, 4]);
    expect(first).toBe(0);
    expect(Math.abs(second!)).toBeLessThan(0.1);
    expect(third).toBe(-120);
    expect(barStrokes({ times: new Float32Array(0), powers: new Float32Array(0) }, [0, 1])).toEqual([-120]);
  });

  it("is compared by strokes with which nothing is struck that would be left in them, where there are enough", () => {
    const played = (at: number[], power: number) => ({
      times: Float32Array.from(at),
      powers: new Float32Array(at.length).fill(power),
    });
    const beats = Array.from({ length: 20 }, (_, i) => i);
    const side = (withKick: (beat: number) => boolean) => ({
      kick: played(
        beats.filter(withKick).map((beat) => beat + 0.01),
        9,
      ),
      snare: played(beats, 1),
      hats: played(beats, 0.1),
      percussion: played([], 0),
    });
    const half = side((beat) => beat % 2 === 0);
    const times = (sides: Parameters<typeof strokesToCompare>[0]) =>
      strokesToCompare(sides, "snare").map((own) => [...own.times]);
    const odd = beats.filter((beat) => beat % 2 === 1);
    expect(times([half, side(() => false)])).toEqual([odd, beats]);
    // On one side there are too few by themselves: then all count on both.
    expect(times([half, side((beat) => beat > 3)])).toEqual([beats, beats]);
  });
});
