import type { Grid } from "@/core/grid/grid";
import { steadyGrid } from "@/core/testing/drums";
import {
  beatIn,
  plainTimeline,
  referenceTimeline,
  secondsIn,
  secondsPerBeat,
  segmentAfter,
  segmentAt,
  versionTimeline,
} from "./timeline";

/** Bar 1 at 0.5 s. */
const reference = steadyGrid(120, 8);
const version = steadyGrid(100, 4, 2);

describe("a file without a grid", () => {
  it("passes a beat a second, and ends", () => {
    const own = plainTimeline(12);
    expect(segmentAt(own, 11.9)).toBe(own[0]);
    expect(segmentAt(own, 12)).toBeNull();
    expect(segmentAt(own, -0.1)).toBeNull();
    expect(secondsPerBeat(own[0]!)).toBe(1);
  });
});

describe("a reference", () => {
  it("on an exact tempo is one segment, from before bar 1 to the end of the file", () => {
    const own = referenceTimeline(reference, 20);
    expect(own).toHaveLength(1);
    expect([own[0]!.beat, own[0]!.seconds, own[0]!.secondsEnd]).toEqual([-1, 0, 20]);
    expect(secondsIn(own[0]!, 4)).toBeCloseTo(2.5, 9);
    expect(beatIn(own[0]!, 2.5)).toBeCloseTo(4, 9);
  });

  it("that follows a player has a segment for every beat, without gaps", () => {
    const played: Grid = {
      ...reference,
      steady: false,
      beats: reference.beats.map((time, i) => time + 0.01 * Math.sin(i)),
    };
    const own = referenceTimeline(played, 20);
    expect(own.length).toBeGreaterThan(32);
    own.slice(1).forEach((segment, i) => {
      expect(segment.beat).toBeCloseTo(own[i]!.beatEnd, 9);
      expect(segment.seconds).toBeCloseTo(own[i]!.secondsEnd, 9);
    });
    expect(secondsIn(segmentAt(own, 9)!, 9)).toBeCloseTo(played.beats[9]!, 9);
  });
});

describe("a version", () => {
  const aligned = {
    reference,
    version,
    spans: [
      { referenceFirst: 7, versionFirst: 3, bars: 2 },
      { referenceFirst: 1, versionFirst: 1, bars: 2 },
    ],
  };
  const own = versionTimeline(aligned, 30);

  it("is there where it answers the reference, on the reference's beats and at its own tempo", () => {
    expect(own.map(({ beat, beatEnd }) => [beat, beatEnd])).toEqual([
      [0, 8],
      [24, 32],
    ]);
    expect(secondsPerBeat(own[0]!)).toBeCloseTo(0.6, 9);
    // Bar 7 of the reference is bar 3 of the version: 8 beats of 0.6 s after 2 s.
    expect(secondsIn(segmentAt(own, 24)!, 24)).toBeCloseTo(2 + 8 * 0.6, 9);
  });

  it("is silent in between, and knows where it goes on", () => {
    expect(segmentAt(own, 12)).toBeNull();
    expect(segmentAfter(own, 12)).toBe(own[1]);
    expect(segmentAfter(own, 25)).toBeNull();
  });

  it("ends with its file", () => {
    const short = versionTimeline(aligned, 2 + 10 * 0.6);
    expect(short.at(-1)!.beatEnd).toBeCloseTo(26, 9);
    expect(
      versionTimeline({ ...aligned, spans: [{ referenceFirst: 1, versionFirst: 90, bars: 2 }] }, 30),
    ).toEqual([]);
  });
});
