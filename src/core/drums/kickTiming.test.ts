import { drumBandCount, type DrumBands } from "./bands";
import type { DrumHit } from "./hits";
import { halfRise, kicksApart } from "./kickTiming";

const fps = 100;
const frames = 300;

/** Bands in which the lowest ones rise at a time, as frames of 46 ms see it, over what sounds on. */
function risingAt(time: number, floor = 0.01): DrumBands {
  const levels = new Float32Array(frames * drumBandCount);
  for (let frame = 0; frame < frames; frame++) {
    // The share of the frame, weighed by its window, that lies after the stroke.
    const x = Math.min(1, Math.max(0, 0.5 + (frame / fps - time) / 0.046));
    const share = x - Math.sin(2 * Math.PI * x) / (2 * Math.PI);
    const decay = Math.exp(-Math.max(0, frame / fps - time) / 0.15);
    for (let band = 0; band < 9; band++)
      levels[frame * drumBandCount + band] = Math.log10(1 + Math.sqrt(floor + 9 * share * decay));
  }
  return { framesPerSecond: fps, levels };
}
const hit = (voice: DrumHit["voice"], time: number, confidence = 0.9): DrumHit => ({
  voice,
  time,
  confidence,
  velocity: 0.8,
});
const kickOf = (hits: readonly DrumHit[]) => hits.find(({ voice }) => voice === "kick")!.time;

describe("the rise of the low bands", () => {
  it.each([1, 1.003, 1.006, 1.0095])("is found to 3 ms wherever it lies between frames (%f s)", (time) => {
    for (const near of [-0.012, 0, 0.012])
      expect(Math.abs(halfRise(risingAt(time), time + near) - time)).toBeLessThan(0.003);
  });

  it("is nowhere where nothing rises", () => {
    const silent: DrumBands = { framesPerSecond: fps, levels: new Float32Array(frames * drumBandCount) };
    for (const time of [0, 1.234, 2.99]) expect(halfRise(silent, time)).toBe(time);
  });
});

describe("a kick beside a back-beat", () => {
  const bands = risingAt(1);

  it("is put where the low bands rise, though it was heard nearly with the other", () => {
    // Struck at a second; heard 9 ms late, with a snare 14 ms after it.
    const found = kicksApart([hit("kick", 1.009), hit("snare", 1.014)], bands);
    expect(Math.abs(kickOf(found) - 1)).toBeLessThan(0.004);
    // The snare is put a little further off still.
    expect(found[1]!.time).toBeGreaterThan(1.014);
    expect(found[1]!.time).toBeLessThan(1.024);
    // And the other way round, where the clap stays as it was heard.
    const before = kicksApart([hit("clap", 0.98), hit("kick", 0.991)], bands);
    expect(Math.abs(kickOf(before) - 1)).toBeLessThan(0.004);
    expect(before[0]).toEqual(hit("clap", 0.98));
  });

  it.each([
    ["stands alone", [hit("kick", 1.009)]],
    ["falls on it", [hit("kick", 1.009), hit("snare", 1.01)]],
    ["is far from it", [hit("kick", 1.009), hit("snare", 1.05)]],
    ["is beside a hat", [hit("kick", 1.009), hit("hat", 1.018)]],
    ["is beside one that is too unsure to count", [hit("kick", 1.009), hit("snare", 1.018, 0.2)]],
  ])("stays where it was heard where it %s", (_case, hits) => {
    expect(kickOf(kicksApart(hits, bands))).toBe(1.009);
  });

  it("stays where the low bands rise somewhere else", () => {
    const elsewhere = [hit("kick", 1.06), hit("snare", 1.07)];
    expect(kickOf(kicksApart(elsewhere, bands))).toBe(1.06);
  });
});
