/** Places from left to right, from levels of either side that are written down. */
import type { DrumHit } from "../drums/hits";
import type { DrumVoice } from "../drums/voices";
import { envelopeBandCount, envelopeBandsIn, envelopeRow, levelsPerDecibel, lowestLevel } from "./levels";
import { measurePositions, positionOf, positionsSchema, sustainedRanges } from "./positions";

const { cos, log10, PI, round, sin } = Math;
const framesPerSecond = 100;
const frames = 1200;

const stored = (db: number) => round((db - lowestLevel) * levelsPerDecibel);
const hit = (time: number, voice: DrumVoice): DrumHit => ({ time, voice, velocity: 0.8, confidence: 0.9 });

/** Constant-power gains in dB of a place −1 … 1. */
const sides = (place: number) => {
  const angle = ((place + 1) * PI) / 4;
  return [20 * log10(cos(angle) + 1e-9), 20 * log10(sin(angle) + 1e-9)] as const;
};

/** A quiet bed, and sounds in a range that are loud for some frames. */
function envelopes(
  sounds: { at: number; length: number; range: readonly [number, number]; place: number; db: number }[],
): Uint8Array {
  const levels = new Uint8Array(frames * envelopeRow).fill(stored(-90));
  for (const { at, length, range, place, db } of sounds) {
    const [first, end] = envelopeBandsIn(...range);
    sides(place).forEach((gain, side) => {
      for (let frame = at; frame < Math.min(frames, at + length); frame++)
        for (let b = first; b < end; b++)
          levels[frame * envelopeRow + side * envelopeBandCount + b] = Math.max(0, stored(db + gain));
    });
  }
  return levels;
}
const times = (count: number, from = 1, step = 0.5) =>
  Array.from({ length: count }, (_, i) => from + i * step);
const places = (levels: Uint8Array, hits: readonly DrumHit[]) =>
  measurePositions({ framesPerSecond, levels }, () => true, hits);

describe("a place", () => {
  it("is that of constant-power panning", () => {
    for (const place of [-1, -0.6, -0.25, 0, 0.3, 0.75, 1]) {
      const angle = ((place + 1) * PI) / 4;
      expect(positionOf(cos(angle) ** 2, sin(angle) ** 2)).toBeCloseTo(place, 2);
    }
  });

  it("does not depend on level, and turns with the sides", () => {
    expect(positionOf(3e-7, 9e-7)).toBe(positionOf(0.3, 0.9));
    expect(positionOf(0.2, 0.7)).toBe(-positionOf(0.7, 0.2));
    expect(positionOf(1, 0)).toBe(-1);
    expect(positionOf(0, 1)).toBe(1);
  });
});

describe("places of voices", () => {
  const struck = (voice: DrumVoice, range: readonly [number, number], place: number, at = times(8)) => ({
    hits: at.map((time) => hit(time, voice)),
    sounds: at.map((time) => ({ at: round(time * framesPerSecond), length: 6, range, place, db: -20 })),
  });
  const hats = struck("hat", [6000, 16000], 0.5);
  const kicks = struck("kick", [20, 150], 0, times(8, 1.25));

  it("are told by what rises with the hits, voice by voice", () => {
    const { voices } = places(
      envelopes([...hats.sounds, ...kicks.sounds]),
      [...hats.hits, ...kicks.hits].sort((a, b) => a.time - b.time),
    );
    expect(voices.map(({ voice, hits }) => [voice, hits])).toEqual([
      ["kick", 8],
      ["hat", 8],
    ]);
    expect(voices[0]!.position).toBeCloseTo(0, 1);
    expect(voices[1]!.position).toBeCloseTo(0.5, 1);
  });

  it("do not take what sounds on for the hit", () => {
    // A loud pad on the left in the same range as hats on the right.
    const pad = { at: 0, length: frames, range: [6000, 16000] as const, place: -1, db: -26 };
    const levels = envelopes([pad]);
    const [first, end] = envelopeBandsIn(6000, 16000);
    for (const { at } of hats.sounds)
      for (let frame = at; frame < at + 6; frame++)
        for (let b = first; b < end; b++) levels[frame * envelopeRow + envelopeBandCount + b] = stored(-18);
    const { voices } = places(levels, hats.hits);
    expect(voices[0]!.position).toBeGreaterThan(0.9);
  });

  it("count every hit alike, however hard it is struck", () => {
    const at = times(8);
    const sounds = at.map((time, i) => ({
      at: round(time * framesPerSecond),
      length: 6,
      range: [6000, 16000] as const,
      place: i % 2 === 0 ? -0.8 : 0.8,
      db: i % 2 === 0 ? -10 : -40,
    }));
    const { voices } = places(
      envelopes(sounds),
      at.map((time) => hit(time, "hat")),
    );
    expect(voices[0]!.position).toBeCloseTo(0, 1);
  });

  it("leave out hits that share their range with another voice, and not those that do not", () => {
    const at = times(8);
    const near = at.map((time) => hit(time + 0.01, "openHat"));
    const far = at.map((time) => hit(time + 0.01, "kick"));
    const sorted = (more: readonly DrumHit[]) => [...hats.hits, ...more].sort((a, b) => a.time - b.time);
    expect(places(envelopes(hats.sounds), sorted(near)).voices).toEqual([]);
    const apart = places(envelopes(hats.sounds), sorted(far)).voices;
    expect(apart.find(({ voice }) => voice === "hat")!.hits).toBe(8);
  });

  it("need four hits that rise above what was before", () => {
    expect(places(envelopes(hats.sounds.slice(0, 3)), hats.hits.slice(0, 3)).voices).toEqual([]);
    expect(places(envelopes(hats.sounds.slice(0, 4)), hats.hits.slice(0, 4)).voices).toHaveLength(1);
    // Hits that nothing answers are none.
    expect(places(envelopes([]), hats.hits).voices).toEqual([]);
    // Nor those that lie on the very edge of the file.
    expect(
      places(
        envelopes(hats.sounds),
        [0, 0.01, 0.02, 11.99].map((time) => hit(time, "hat")),
      ).voices,
    ).toEqual([]);
  });
});

describe("places of what is held", () => {
  const held = (place: number, [low, high]: readonly [number, number]) => ({
    at: 0,
    length: frames,
    range: [low, high] as const,
    place,
    db: -30,
  });

  it("are told range by range", () => {
    const levels = envelopes(
      sustainedRanges.map(({ low, high }, i) => held([-0.6, -0.2, 0.3, 0.8][i]!, [low, high])),
    );
    const { sustained } = places(levels, []);
    [-0.6, -0.2, 0.3, 0.8].forEach((place, i) => expect(sustained[i]).toBeCloseTo(place, 1));
  });

  it("leave out hits and what is not asked for", () => {
    const levels = envelopes([held(-0.5, [600, 2400])]);
    const [first, end] = envelopeBandsIn(600, 2400);
    // From four seconds on it stands elsewhere; in the first half a loud hit stands on the right.
    for (let frame = 400; frame < frames; frame++)
      for (let b = first; b < end; b++) {
        levels[frame * envelopeRow + b] = stored(-33);
        levels[frame * envelopeRow + envelopeBandCount + b] = stored(-33);
      }
    for (let frame = 200; frame < 210; frame++)
      for (let b = first; b < end; b++) levels[frame * envelopeRow + envelopeBandCount + b] = stored(-6);
    const early = measurePositions({ framesPerSecond, levels }, (frame) => frame < 400, [hit(2, "snare")]);
    expect(early.sustained[2]).toBeCloseTo(-0.5, 1);
    const late = measurePositions({ framesPerSecond, levels }, (frame) => frame >= 400, [hit(2, "snare")]);
    expect(late.sustained[2]).toBeCloseTo(0, 2);
  });

  it("are none in silence, and can be stored", () => {
    const silent = measurePositions(
      { framesPerSecond, levels: new Uint8Array(frames * envelopeRow) },
      () => true,
      [],
    );
    expect(silent).toEqual({ voices: [], sustained: [null, null, null, null] });
    expect(positionsSchema.parse(silent)).toEqual(silent);
    expect(positionsSchema.safeParse({ ...silent, sustained: [2, 0, 0, 0] }).success).toBe(false);
  });
});
