/** Hits and their counterparts: nobody is paired twice, nobody is lost. */
import { drumsAsWritten, steadyGrid } from "../testing/drums";
import { whiteNoise } from "../testing/signals";
import type { CountedHit } from "./correction";
import { interchangeable, clearSteps, hitsInBars, pairUp, type Placed } from "./pairing";
import { placeHits, straight } from "./steps";
import { drumVoices } from "./voices";

const grid = steadyGrid(120, 8);
const near = { beatSeconds: 0.5, reach: 0.1 };
const placed = (hits: readonly CountedHit[]) => placeHits(hits, grid, straight);
const sameVoice = (a: Placed, b: Placed) => a.hit.voice === b.hit.voice;
const part = drumsAsWritten({ kick: ["X..xX...X.x.X..."], hat: ["xoxoxoxoxoxoxoxo"] }, grid).hits;

/** Moves hits at random and leaves some out. */
function shaken(seed: number): CountedHit[] {
  const noise = whiteNoise(0, 1, part.length * 2, seed);
  return part
    .filter((_, i) => noise[2 * i]! > -0.6)
    .map((hit, i) => ({ ...hit, time: hit.time + 0.03 * noise[2 * i + 1]! }))
    .sort((a, b) => a.time - b.time);
}

describe("pairs of hits", () => {
  it.each([1, 2, 3, 4])("hold each hit once, and lose none: case %i", (seed) => {
    const [a, b] = [placed(part), placed(shaken(seed))];
    const { pairs, missing, extra } = pairUp(a, b, sameVoice, near);
    expect(new Set(pairs.map(([own]) => own)).size).toBe(pairs.length);
    expect(new Set(pairs.map(([, own]) => own)).size).toBe(pairs.length);
    expect(pairs.length + missing.length).toBe(a.length);
    expect(pairs.length + extra.length).toBe(b.length);
    for (const [x, y] of pairs) {
      expect(sameVoice(x, y)).toBe(true);
      expect(Math.abs(x.beat - y.beat)).toBeLessThanOrEqual(near.reach + 1e-9);
    }
    // Whoever is left over on both sides is too far from one another.
    for (const x of missing) {
      for (const y of extra)
        expect(!sameVoice(x, y) || Math.abs(x.beat - y.beat) > near.reach - 1e-9).toBe(true);
    }
  });

  it("are the same from either side", () => {
    const [a, b] = [placed(part), placed(shaken(5))];
    const there = pairUp(a, b, sameVoice, near);
    const back = pairUp(b, a, sameVoice, near);
    expect(back.pairs.length).toBe(there.pairs.length);
    expect(back.extra).toEqual(there.missing);
  });

  it("take the nearest of two", () => {
    const [first] = part;
    const two = [-0.03, 0.01].map((by) => ({ ...first!, time: first!.time + by }));
    const { pairs, extra } = pairUp(placed([first!]), placed(two), sameVoice, near);
    expect(pairs[0]![1].hit.time).toBeCloseTo(first!.time + 0.01, 9);
    expect(extra).toHaveLength(1);
  });
});

describe("hits of bars", () => {
  it("are moved by whole bars with all that says where they are", () => {
    const own = hitsInBars(placed(part), { first: 3, last: 4 }, 5, 4);
    expect(new Set(own.map(({ bar }) => bar))).toEqual(new Set([8, 9]));
    const still = hitsInBars(placed(part), { first: 3, last: 4 }, 0, 4);
    own.forEach((hit, i) => {
      expect(hit.beat - still[i]!.beat).toBe(20);
      expect(hit.quantised - still[i]!.quantised).toBe(20);
      expect(hit.offset).toBe(still[i]!.offset);
    });
  });
});

it("voices of a kind stand in for one another, others do not", () => {
  expect(interchangeable("snare", "clap")).toBe(true);
  expect(interchangeable("hat", "cymbal")).toBe(true);
  expect(interchangeable("kick", "snare")).toBe(false);
  for (const a of drumVoices)
    for (const b of drumVoices) expect(interchangeable(a, b)).toBe(interchangeable(b, a));
});

it("a step is clear where its voice is heard surely in several bars", () => {
  const shape = { beatsPerBar: 4, stepsPerBeat: 4 as const };
  const faint = (voice: CountedHit["voice"]) =>
    placed([{ ...part[0]!, voice, confidence: 0.3, time: 0.5 + 8 }])[0]!;
  const is = clearSteps(placed(part), shape);
  expect(is(faint("kick"))).toBe(true);
  // Hats can be covered, and two bars are no habit.
  expect(is(faint("hat"))).toBe(false);
  const few = clearSteps(placed(part.filter(({ time }) => time < 4)), shape);
  expect(few(faint("kick"))).toBe(false);
});
