/** Passages that differ in little, told apart by just that little. Hand-worked. */
import { relocated, spread, toldApart, type BarSimilarity } from "./relocation";

/**
 * A reference of two passages of eight bars that are the same but for one bar in two, where they
 * agree by 0.8 only, and a version whose bars agree with bars of the reference as given.
 */
function similarity(
  versionBars: number,
  agreement: (reference: number, version: number) => number,
): BarSimilarity {
  const referenceBars = 16;
  const matrix = (columns: number, value: (i: number, j: number) => number) =>
    Float32Array.from({ length: referenceBars * columns }, (_, at) =>
      value(Math.floor(at / columns), at % columns),
    );
  return {
    agreement: matrix(versionBars, agreement),
    selfSimilarity: matrix(referenceBars, (i, j) =>
      i === j ? 1 : i % 8 === j % 8 ? (i % 2 ? 1 : 0.8) : 0.2,
    ),
    referenceBars,
    versionBars,
    firstFour: 0,
  };
}

/** A version that recreates the second passage, in another mix: nothing agrees by more than 0.7. */
const secondPassage = similarity(8, (i, j) => (i % 8 !== j % 8 ? 0.1 : i >= 8 ? 0.7 : i % 2 ? 0.7 : 0.55));

describe("passages that are nearly alike", () => {
  it("are told apart by how much of what differs is there", () => {
    // Apart by 4 × 0.2; the second agrees by 4 × 0.15 more.
    expect(toldApart(secondPassage, 0, 8, 8, 0)).toBeCloseTo(0.75);
    expect(toldApart(secondPassage, 0, 8, 0, 8)).toBeCloseTo(-0.75);
  });

  it("are not told apart where they are the same", () => {
    const same = { ...secondPassage, selfSimilarity: new Float32Array(256).fill(1) };
    expect(toldApart(same, 0, 8, 8, 0)).toBe(0);
  });

  it("move to where they clearly belong", () => {
    const rows = Int32Array.from({ length: 8 }, (_, i) => i);
    expect([...relocated(rows, secondPassage)]).toEqual([8, 9, 10, 11, 12, 13, 14, 15]);
  });

  it("stay where nothing speaks for the other", () => {
    const rows = Int32Array.from({ length: 8 }, (_, i) => 8 + i);
    expect([...relocated(rows, secondPassage)]).toEqual([...rows]);
  });

  it("that answer the same bars twice are spread over what is still free, in order of time", () => {
    const twice = similarity(16, (i, j) => (i % 8 === j % 8 ? 0.7 : 0.1));
    const rows = Int32Array.from({ length: 16 }, (_, i) => 8 + (i % 8));
    expect([...spread(rows, twice)]).toEqual(Array.from({ length: 16 }, (_, i) => i));
  });

  it("stay twice where the free bars are something else", () => {
    const twice = similarity(16, (i, j) => (i >= 8 && i % 8 === j % 8 ? 0.7 : 0.1));
    const rows = Int32Array.from({ length: 16 }, (_, i) => 8 + (i % 8));
    expect([...spread(rows, twice)]).toEqual([...rows]);
  });
});
