/** How hard strokes are, on bands whose levels are known. */
import { drumBandCount, type DrumBands } from "./bands";
import { withoutBassNotes } from "./bassNotes";
import { velocityLevel } from "./groove";
import type { DrumHit } from "./hits";
import { bandGroupCount, bandRises, estimateVelocities } from "./velocityEstimation";
import { steadyGrid } from "../testing/drums";

const { log10, round, sqrt } = Math;

const fps = 100;
const compressed = (power: number) => log10(1 + sqrt(power));

/** Bands in which strokes rise to a power, on every band or on some, over a floor. */
function bandsWith(
  strokes: readonly { time: number; db: number; from?: number; to?: number }[],
  seconds: number,
  floor = 1e-3,
): DrumBands {
  const frames = seconds * fps;
  const powers = new Float64Array(frames * drumBandCount).fill(floor);
  for (const { time, db, from = 0, to = drumBandCount } of strokes) {
    const frame = round(time * fps);
    for (let k = 0; k < 8 && frame + k < frames; k++) {
      for (let band = from; band < to; band++)
        powers[(frame + k) * drumBandCount + band]! += 10 ** (db / 10) * 0.7 ** k;
    }
  }
  return { framesPerSecond: fps, levels: Float32Array.from(powers, compressed) };
}
const hit = (time: number, voice: DrumHit["voice"], velocity = 0.6, confidence = 0.95): DrumHit => ({
  time,
  voice,
  velocity,
  confidence,
});
const times = Array.from({ length: 16 }, (_, i) => 0.5 + i * 0.25);
const levelsOf = (hits: readonly DrumHit[]) => hits.map(({ velocity }) => velocityLevel(velocity));
const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length;

describe("rises of bands", () => {
  it("are the power that a stroke adds, in dB, in each group alike", () => {
    const bands = bandsWith([{ time: 1, db: 12 }], 2);
    const loud = bandRises(bands, [1]);
    const soft = bandRises(bandsWith([{ time: 1, db: 4 }], 2), [1]);
    for (let g = 0; g < bandGroupCount; g++) expect(loud[g]! - soft[g]!).toBeCloseTo(8, 2);
  });

  it("leave out what sounds on, but never all of it", () => {
    const held = bandsWith([{ time: 1, db: 12 }], 2, 10);
    const alone = bandsWith([{ time: 1, db: 12 }], 2);
    for (let g = 0; g < bandGroupCount; g++) {
      expect(bandRises(held, [1])[g]!).toBeCloseTo(bandRises(alone, [1])[g]!, 1);
      // Nothing is struck at a second and a half: a tenth of what sounds.
      expect(bandRises(held, [1.5])[g]!).toBeCloseTo(0, 1);
    }
  });

  it("are numbers at both ends of a track and in silence", () => {
    const silent: DrumBands = { framesPerSecond: fps, levels: new Float32Array(50 * drumBandCount) };
    expect(bandRises(silent, [0, 0.49, 3]).every(Number.isFinite)).toBe(true);
  });
});

describe("the force of strokes", () => {
  const accented = times.map((time, i) => ({ time, db: i % 2 === 0 ? 14 : 6 }));
  const even = times.map((time) => ({ time, db: 10 }));
  const hats = times.map((time) => hit(time, "hat"));

  it("is told by the bands where the network tells none", () => {
    const found = levelsOf(estimateVelocities(hats, bandsWith(accented, 6)));
    const [loud, soft] = [0, 1].map((odd) => mean(found.filter((_, i) => i % 2 === odd)));
    expect(loud! - soft!).toBeGreaterThan(3);
    expect(loud! - soft!).toBeLessThan(9);
    // On average a voice is as loud as the network has it.
    expect(mean(found)).toBeCloseTo(velocityLevel(0.6), 1);
  });

  it("of kicks is drawn to what comes again at the same place of the bar, of hats it is not", () => {
    // Four bars of quarters at 120 BPM; each second beat is soft, and one of the soft ones is heard far too loud.
    const quarters = Array.from({ length: 32 }, (_, i) => 0.5 + 0.5 * i);
    const misheard = 13;
    const bands = bandsWith(
      quarters.map((time, i) => ({ time, db: i % 2 === 0 || i === misheard ? 14 : 8 })),
      18,
    );
    const grid = steadyGrid(120, 17, 0.5);
    const off = (voice: "kick" | "hat", own: typeof grid | null) => {
      const found = levelsOf(
        estimateVelocities(
          quarters.map((time) => hit(time, voice)),
          bands,
          own,
        ),
      );
      return found[misheard]! - mean(found.filter((_, i) => i % 2 === 1 && i !== misheard));
    };
    const plain = off("kick", null);
    expect(plain).toBeGreaterThan(2);
    expect(off("kick", grid) / plain).toBeLessThan(0.75);
    expect(off("kick", grid) / plain).toBeGreaterThan(0.4);
    expect(off("hat", grid)).toBeCloseTo(off("hat", null), 6);
  });

  it("is even where the bands are", () => {
    const found = levelsOf(estimateVelocities(hats, bandsWith(even, 6)));
    for (const level of found) expect(level).toBeCloseTo(velocityLevel(0.6), 1);
  });

  it("does not change what is too unsure to count, nor a single stroke", () => {
    const unsure = hats.map((own) => ({ ...own, confidence: 0.3 }));
    expect(estimateVelocities(unsure, bandsWith(accented, 6))).toEqual(unsure);
    const single = [hit(1, "snare")];
    expect(estimateVelocities(single, bandsWith(accented, 6))).toEqual(single);
  });

  it("stays between soft and full", () => {
    const wild = times.map((time, i) => ({ time, db: i % 2 === 0 ? 40 : -20 }));
    for (const { velocity } of estimateVelocities(hats, bandsWith(wild, 6))) {
      expect(velocity).toBeGreaterThan(0.05);
      expect(velocity).toBeLessThanOrEqual(1);
    }
  });
});

describe("bass notes that were taken for kicks", () => {
  const grid = steadyGrid(120, 12, 0.5);
  const downbeats = Array.from({ length: 12 }, (_, bar) => 0.5 + bar * 2);
  /** Bands from 1.5 to 6 kHz, where the beater is heard. */
  const beater = { from: 22, to: 32 };
  const heardAs = (confidences: (bar: number) => number, clickDb: (bar: number) => number) =>
    withoutBassNotes(
      downbeats.map((time, bar) => hit(time, "kick", 0.8, confidences(bar))),
      grid,
      bandsWith(
        downbeats.flatMap((time, bar) => [
          { time, db: 20, from: 0, to: 7 },
          { time, db: clickDb(bar), ...beater },
        ]),
        26,
      ),
    ).filter(({ confidence }) => confidence >= 0.5).length;

  it("are not counted: unsure, on a step that is clear elsewhere, without a beater", () => {
    const unsure = (bar: number) => (bar === 5 ? 0.75 : 0.97);
    expect(heardAs(unsure, (bar) => (bar === 5 ? 0 : 8))).toBe(11);
    // Surer, it takes the beater to be gone altogether.
    const surer = (bar: number) => (bar === 5 ? 0.9 : 0.97);
    expect(heardAs(surer, (bar) => (bar === 5 ? 0 : 8))).toBe(12);
    expect(heardAs(surer, (bar) => (bar === 5 ? -12 : 8))).toBe(11);
  });

  it("are kicks where the beater is heard, and where no bar has one", () => {
    const unsure = (bar: number) => (bar === 5 ? 0.75 : 0.97);
    expect(heardAs(unsure, () => 8)).toBe(12);
    expect(heardAs(unsure, () => -30)).toBe(12);
  });

  it("are kicks where no bar is clear", () => {
    expect(
      heardAs(
        (bar) => (bar === 5 ? 0.6 : 0.85),
        (bar) => (bar === 5 ? -10 : 8),
      ),
    ).toBe(12);
  });
});
